import type { ChangeName } from '../../contract/permissions';
import { count } from '../../core/count';

/** What each change is, in words: who … and then this. */
export const CHANGE_WORDS: Record<ChangeName, string> = {
  'person.desk': 'chose where they work',
  'person.horizon': 'changed how far to look ahead',
  'person.lead': 'chose how the bench shows steps',
  'account.password': 'set a password',
  'account.pin': 'set a PIN',
  'account.session-end': 'signed out of a session',
  'session.begin': 'signed in',
  'report.add': 'reported a problem with strings',
  'wrong.said': 'reported a fault',
  'label.said': 'reported a fault from a label',
  'audit.ended': 'removed log entries older than five years',
  'job.open': 'started work',
  'job.answer': 'answered a step',
  'job.cancel': 'closed work unchanged',
  'job.depart': 'changed the method, once',
  'job.finish': 'finished work',
  'job.look': 'recorded an inspection or check',
  'job.as-usual': 'recorded a string change without its steps',
  'batch.open': 'started a batch',
  'record.note': 'added a note',
  'record.supervised': 'confirmed that they supervised',
  'visit.done': 'did a follow-up',
  'photo.add': 'added a photo',
  'practice.record': 'practised',
  'instrument.fact': 'recorded a fact',
  'fault.record': 'recorded the cause of a fault',
  'stock.transfer': 'moved strings',
  'stock.open': 'opened a set',
  'stock.halve': 'cut strings in half',
  'label.taken': 'accepted a report from a label',
  'label.nothing': 'found no fault after a report from a label',
  'label.end': 'cancelled a label’s code',
  'job.undo': 'undid a record',
  'record.past': 'recorded a past string change',
  'photo.remove': 'removed a photo',
  'fault.away': 'sent an instrument to a repairer',
  'fault.close': 'closed a case',
  'fault.room': 'requested inspections for a room',
  'instrument.add': 'added an instrument',
  'instrument.build': 'corrected a build',
  'instrument.busy': 'lent an instrument',
  'instrument.back': 'marked an instrument as back',
  'instrument.not-busy': 'ended a loan',
  'instrument.details': 'changed an instrument’s details',
  'instrument.house-strings': 'chose usual strings',
  'instrument.many': 'changed several instruments at once',
  'instrument.many-undone': 'undid a change to several instruments',
  'instrument.player': 'set how hard it is played',
  'interval.save': 'set an interval',
  'interval.withdraw': 'removed an interval',
  'method.save': 'changed a method',
  'place.climate': 'set a place’s humidity',
  'place.bench-space': 'set bench space',
  'place.last-way': 'set the last ferry or bus',
  'plan.aside': 'set a planned task aside',
  'plan.publish': 'published the plan',
  'plan.propose': 'proposed a plan',
  'plan.dismiss': 'dismissed a proposal',
  'plan.request': 'requested work',
  'plan.request-withdrawn': 'withdrew a request',
  'class.add': 'added a class',
  'class.remove': 'removed a class',
  'stock.back': 'returned strings to stock',
  'stock.count': 'counted the shelf',
  'stock.opening': 'entered opening stock',
  'stock.receive': 'received strings',
  'stock.scrap': 'wrote strings off',
  'stock.take-back': 'undid a stock movement',
  'order.add': 'added to an order',
  'order.cancel': 'cancelled an order',
  'order.close': 'closed an order',
  'order.confirm': 'confirmed an order',
  'order.draft': 'drafted an order',
  'order.edit': 'changed an order',
  'order.postpone': 'postponed an order',
  'order.receive': 'received an order',
  'order.send': 'sent an order',
  'product.add-consumable': 'added a consumable',
  'product.add-hybrid': 'added a hybrid set',
  'product.add-set': 'added a set',
  'product.add-single': 'added a string',
  'product.add-whole-set': 'added a set with its strings',
  'product.edit': 'changed a product',
  'product.source': 'set a product’s supplier',
  'product.substitutes': 'set substitutes',
  'product.usual-set': 'set usual sets',
  'supplier.add': 'added a supplier',
  'supplier.edit': 'changed a supplier',
  'feed.make': 'created a calendar address',
  'feed.end': 'removed a calendar address',
  'availability.add': 'added hours',
  'availability.once': 'added hours for one day',
  'availability.swap': 'swapped two people’s hours',
  'availability.away': 'added an absence',
  'availability.remove': 'removed hours',
  'account.code': 'created a sign-in code',
  'account.district': 'set a district sign-in name',
  'account.close': 'locked someone out',
  'device.enrol': 'set up a shared bench',
  'device.end': 'removed a shared bench',
  'calendar.import': 'imported a calendar',
  'calendar.remove': 'removed a calendar',
  'concert.add': 'added a concert',
  'concert.remove': 'removed a concert',
  'holiday.add': 'added a holiday',
  'holiday.remove': 'removed a holiday',
  'intake.add': 'chose a list to import',
  'intake.apply': 'imported a list',
  'intake.decide': 'answered questions about a list',
  'intake.drop': 'discarded a list',
  'intake.undo': 'undid an import',
  'person.add': 'added a person',
  'person.edit': 'changed a person',
  'person.retire': 'marked someone as left or back',
  'place.add': 'added a place',
  'place.edit': 'changed a place',
  'place.retire': 'closed or reopened a place',
  'plan.weights': 'changed what matters most in the plan',
  'programme.edit': 'changed the settings',
  'programme.trust': 'changed labels and privacy',
  'subject.erase': 'erased a name',
  'backup.take': 'took a backup',
  'sign-off.set': 'signed off',
  'travel.set': 'set travel time',
};

export const sayChange = (action: string): string => (CHANGE_WORDS as Record<string, string>)[action] ?? action;

/** What screens call a column of the database, where that is not its own name. */
const COLUMNS: Record<string, string> = {
  a4_hz: 'A4, Hz',
  cost_cents: 'price, hundredths',
  holder: 'held by',
  house_set_id: 'usual set',
  hours_per_week: 'hours a week',
  lead_days: 'delivery time, days',
  least_cents: 'minimum order, hundredths',
  marks: 'markings',
  note: 'notes',
  noted_length_mm: 'nut to bridge, mm',
  player: 'how hard it is played',
  retired_on: 'retired',
  scale_mm: 'scale length, mm',
  sku: 'code',
  takes_two: 'people needed',
};

/** A column as screens call it. @example `columnName('house_set_id')` is "usual set" */
export const columnName = (column: string): string =>
  COLUMNS[column] ?? column.replace(/_id$/, '').replaceAll('_', ' ');

/** Fields that say nothing to a reader, or are secret. */
const NOT_SHOWN = /^(token|key|was|expectedVersion|version|hash|pin|password|agent)$/;

/**
 * What was sent with a change, as lines of a name and a value; several values of one kind are counted.
 * @param sent as it was kept with the entry
 */
export function sayDetails(sent: unknown): string[] {
  if (typeof sent !== 'object' || sent === null) return [];
  return Object.entries(sent).flatMap(([name, value]): string[] => {
    if (NOT_SHOWN.test(name) || value === null || value === '' || (Array.isArray(value) && value.length === 0))
      return [];
    const spoken = columnName(name.replace(/([a-z])([A-Z])/g, '$1_$2').toLowerCase());
    if (Array.isArray(value))
      return [
        `${spoken}: ${value.every((v) => typeof v !== 'object') ? value.join(', ') : count(value.length, 'entry', 'entries')}`,
      ];
    if (typeof value === 'object') return [`${spoken}: ${count(Object.keys(value).length, 'value')}`];
    return [`${spoken}: ${typeof value === 'boolean' ? (value ? 'yes' : 'no') : value}`];
  });
}
