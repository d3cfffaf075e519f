import type { Knex } from 'knex';
import Papa from 'papaparse';
import { FAMILY_NAMES } from '../../core/instruments/build';
import { FIELDS, type Subject } from '../../core/intake/columns';
import { MATERIAL_NAMES } from '../../core/strings/materials';
import { thouOf } from '../../core/strings/tension';
import { besideOf } from '../bench/finishWords';
import { among } from '../db/among';
import { firstLesson } from '../plan/classes';

/** A table as it is taken along: the headings are those by which a list is read again. */
export interface Table {
  heads: string[];
  rows: (string | number)[][];
}

const gauge = (mm: number | null, wrap: string | null): string =>
  `${Math.round(thouOf(mm ?? 0) * 10) / 10}${wrap ? 'w' : 'p'}`;

const READ: Record<Subject, (db: Knex, only: readonly number[] | null) => Promise<(string | number)[][]>> = {
  async instruments(db, only) {
    const hours = new Map<number, number>();
    for (const u of await db('use_period').whereNull('to_on').select('instrument_id', 'hours_per_week'))
      hours.set(u.instrument_id, (hours.get(u.instrument_id) ?? 0) + u.hours_per_week);
    const query = db('instrument as i')
      .join('place as l', 'l.id', 'i.place_id')
      .leftJoin('product as p', 'p.id', 'i.house_set_id')
      .leftJoin('instrument_state as s', 's.instrument_id', 'i.id')
      .whereNull('i.retired_on')
      .orderBy('i.tag')
      .select('i.*', 'l.name as place_name', 'p.sku', 's.changed_on');
    if (only) query.whereIn('i.id', among(db, only));
    return (await query).map((i) => [
      i.tag,
      `${FAMILY_NAMES[i.family as keyof typeof FAMILY_NAMES]}${i.handedness === 'left' ? ', left-handed' : ''}`,
      i.size,
      i.place_name,
      i.holder,
      i.changed_on ?? '',
      i.sku ?? '',
      hours.get(i.id) ?? '',
      i.maker,
      i.model,
      i.serial,
      i.note,
    ]);
  },
  async people(db) {
    const rows = await db('person as p')
      .join('place as l', 'l.id', 'p.place_id')
      .whereNull('p.retired_on')
      .orderBy('p.id')
      .select('p.name', 'p.initials', 'p.role', 'l.name as place_name');
    return rows.map((p) => [p.name, p.initials, p.role, p.place_name]);
  },
  async places(db) {
    const rows = await db('place').whereNull('retired_on').orderBy('id');
    return rows.map((p) => [p.name, p.is_store ? 'yes' : 'no']);
  },
  async changes(db, only) {
    const query = db('standing_record as r')
      .join('instrument as i', 'i.id', 'r.instrument_id')
      .join('person as p', 'p.id', 'r.person_id')
      .where({ 'r.kind': 'change' })
      .orderBy(['r.at', 'r.id'])
      .select('i.tag', 'r.on_day', 'p.name', 'r.notes', 'r.done', 'r.parts', 'r.id');
    if (only) query.whereIn('r.instrument_id', among(db, only));
    const records = await query;
    const fitted = new Map<number, number[]>();
    for (const e of await db('string_entry')
      .where({ action: 'fit' })
      .orderBy('number', 'desc')
      .select('record_id', 'number')) {
      const own = fitted.get(e.record_id);
      if (own) own.push(e.number);
      else fitted.set(e.record_id, [e.number]);
    }
    return records.map((r) => [
      r.tag,
      r.on_day,
      r.name,
      (fitted.get(r.id) ?? []).join(' '),
      [r.notes, ...besideOf(r)].filter(Boolean).join(' '),
    ]);
  },
  async strings(db) {
    const items = new Map<number, string[]>();
    for (const s of await db('set_item as s')
      .join('product as p', 'p.id', 's.product_id')
      .orderBy(['s.set_id', 's.number'])
      .select('s.set_id', 'p.gauge_mm', 'p.wrap')) {
      const own = items.get(s.set_id) ?? [];
      own.push(gauge(s.gauge_mm, s.wrap));
      items.set(s.set_id, own);
    }
    const rows = await db('product').whereIn('kind', ['single', 'set']).whereNull('retired_on').orderBy('id');
    return rows.map((p) => [
      p.sku,
      p.name,
      p.family ? `${FAMILY_NAMES[p.family]}${p.size ? `, ${p.size}` : ''}` : '',
      p.kind === 'set' ? (items.get(p.id) ?? []).join(' ') : gauge(p.gauge_mm, p.wrap),
      p.core ? MATERIAL_NAMES[p.core as keyof typeof MATERIAL_NAMES] : '',
      p.string_end ?? '',
      p.length_mm ?? '',
      (p.price_cents / 100).toFixed(2),
    ]);
  },
  async shelf(db) {
    const rows: { sku: string; name: string; form: string; n: number; worth: number }[] = await db('lot_balance as b')
      .join('lot as l', 'l.id', 'b.lot_id')
      .join('product as p', 'p.id', 'l.product_id')
      .join('place as w', 'w.id', 'b.place_id')
      .groupBy(['p.sku', 'w.name', 'l.form'])
      .orderBy(['w.name', 'p.sku', 'l.form'])
      .select('p.sku', 'w.name', 'l.form')
      .sum({ n: 'b.on_hand', worth: 'b.value_cents' });
    return rows.map((r) => [
      r.sku,
      r.name,
      Number(r.n),
      r.form,
      (Number(r.worth) / 100 / Math.max(1, Number(r.n))).toFixed(2),
    ]);
  },
  async loans(db, only) {
    const query = db('instrument_busy as b')
      .join('instrument as i', 'i.id', 'b.instrument_id')
      .orderBy(['b.from_on', 'b.id'])
      .select('i.tag', 'b.from_on', 'b.to_on', 'b.why', 'b.from_time', 'b.to_time');
    const weekly = db('class_instrument as x')
      .join('class as c', 'c.id', 'x.class_id')
      .join('instrument as i', 'i.id', 'x.instrument_id')
      .orderBy(['c.from_on', 'c.id', 'i.tag_key'])
      .select('i.tag', 'c.from_on', 'c.weekday', 'c.to_on', 'c.name', 'c.from_time', 'c.to_time');
    if (only) {
      query.whereIn('b.instrument_id', among(db, only));
      weekly.whereIn('x.instrument_id', among(db, only));
    }
    const to = (b: { to_on: string }) => (b.to_on === '2199-12-31' ? '' : b.to_on);
    return [
      ...(await query).map((b) => [b.tag, b.from_on, to(b), b.why, b.from_time ?? '', b.to_time ?? '', '']),
      ...(await weekly).map((c) => [c.tag, firstLesson(c), c.to_on, c.name, c.from_time, c.to_time, 'yes']),
    ];
  },
};

/**
 * A table of the programme as a list that can be read again: bringing it back changes nothing.
 * @param only of these instruments alone, as a filter chose them
 */
export async function exportTable(db: Knex, subject: Subject, only: readonly number[] | null = null): Promise<Table> {
  return { heads: FIELDS[subject].map((f) => f.name), rows: await READ[subject](db, only) };
}

/** What a spreadsheet would run as a formula gets an apostrophe before it, which bringing the list back takes off. */
const harmless = (cell: string | number): string | number =>
  typeof cell === 'string' && /^[=+\-@\t\r']/.test(cell) ? `'${cell}` : cell;

/** As CSV (RFC 4180), with the mark by which spreadsheets know UTF-8. */
export const toCsv = (table: Table): string =>
  `\ufeff${Papa.unparse([table.heads, ...table.rows.map((r) => r.map(harmless))], { newline: '\r\n' })}\r\n`;
