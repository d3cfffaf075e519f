import type { Knex } from 'knex';
import { z } from 'zod';
import type { ManyInstruments } from '../../contract/fleet';
import { count } from '../../core/count';
import { tagKey } from '../../core/instruments/tag';
import { intervalProblems } from '../../core/wear/intervals';
import { sayInterval } from '../../core/wear/words';
import { ERASED } from '../audit/entries';
import { localDate } from '../clock';
import { among } from '../db/among';
import { type Acting, change, insertId } from '../db/change';
import * as columns from '../db/columns';
import { must } from '../db/must';
import { conflict, notFound, refused } from '../errors';
import { insertRequest } from '../plan/requests';
import { programmeRow } from '../programme/programme';
import { putHouseStrings } from '../stock/catalogue';
import { requireSetFor } from '../stock/products';
import { type Instrument, loadMany } from './instruments';
import { intervalColumns, intervalsSet, newestIntervals, ruleOf } from './intervals';
import { refreshInstrument, refreshStates } from './state';

/** What was there before several instruments were changed at once, for an undo. */
const beforeColumn = columns.columnOf<{ before: Before[] }>(
  'what was before a change of several instruments',
  z.looseObject({ before: z.array(z.looseObject({ id: z.int(), version: z.int() })) }),
);
interface Before {
  id: number;
  tag: string;
  /** Its version after the change. */
  version: number;
  placeId: number;
  holder: string;
  houseSetId: number | null;
  strings: [number, number | null][];
  retiredOn: string | null;
  retiredWhy: string;
  /** What was made for it: a request, a loan, a version of its interval and whether one was there before. */
  requestId?: number;
  loanId?: number;
  interval?: { id: number; before: number | null };
}

const few = (tags: readonly string[]): string =>
  tags.slice(0, 8).join(', ') + (tags.length > 8 ? ` and ${tags.length - 8} more` : '');

/**
 * Moves several instruments, gives them to somebody, gives them another usual set, or retires them or brings them back: all
 * of them or none.
 * @throws UserError `no-such-tag`, `on-the-bench` with those that are, not-found
 */
export async function changeMany(
  db: Knex,
  acting: Acting,
  p: ManyInstruments,
): Promise<{ changed: number; says: string; undo: string }> {
  return change(db, acting, 'instrument.many', p, async (trx) => {
    const { time_zone: timeZone } = await programmeRow(trx);
    const at = { now: acting.now, timeZone };
    const keys = [...new Set(p.tags.map(tagKey))];
    const rows = await trx('instrument').whereIn('tag_key', among(trx, keys));
    const missing = p.tags.filter((t) => !rows.some((r) => r.tag_key === tagKey(t)));
    if (missing.length > 0)
      throw refused('no-such-tag', 'No such tags', `Tags not found: ${few(missing)}. Nothing was changed.`);
    const ids = rows.map((r) => r.id);
    const instruments = await loadMany(trx, ids);
    const before = rows.map(
      (r): Before => ({
        id: r.id,
        tag: r.tag,
        version: r.version + 1,
        placeId: r.place_id,
        holder: r.holder,
        houseSetId: r.house_set_id,
        strings: (instruments.find((i) => i.id === r.id)?.positions ?? []).map((x) => [x.number, x.houseProductId]),
        retiredOn: r.retired_on,
        retiredWhy: r.retired_why,
      }),
    );
    const said: string[] = [];
    const values: Record<string, unknown> = {};
    if (p.placeId !== undefined) {
      const place = await trx('place').where({ id: p.placeId }).whereNull('retired_on').first();
      if (!place) throw notFound('This place');
      values.place_id = p.placeId;
      said.push(`at ${place.name}`);
    }
    if (p.holder !== undefined) {
      values.holder = p.holder;
      said.push(p.holder ? `with ${p.holder}` : 'with nobody');
    }
    if (p.retire !== undefined) {
      if (p.retire) {
        const open = await trx('job')
          .whereIn('instrument_id', among(trx, ids))
          .where({ status: 'open' })
          .pluck('instrument_id');
        if (open.length > 0)
          throw refused(
            'on-the-bench',
            'On the bench',
            `On the bench now: ${few(rows.filter((r) => open.includes(r.id)).map((r) => r.tag))}. Finish or close that work first. Nothing was changed.`,
          );
        values.retired_on = localDate(acting.now, timeZone);
        values.retired_why = p.retire;
        // Nobody looks in again on what is gone, and no plan has to find room for it.
        await trx('follow_up')
          .whereIn('instrument_id', among(trx, ids))
          .where({ status: 'open' })
          .update({ status: 'cancelled', note: p.retire });
        await trx('plan_request')
          .whereIn('instrument_id', among(trx, ids))
          .where({ status: 'open' })
          .update({ status: 'withdrawn' });
        said.push(p.retire);
      } else {
        values.retired_on = null;
        values.retired_why = '';
        said.push('back in the programme');
      }
    }
    if (Object.keys(values).length > 0) await trx('instrument').whereIn('id', among(trx, ids)).update(values);
    if (p.interval) said.push(await setIntervals(trx, acting, instruments, p.interval, before));
    if (p.request) said.push(await askForAll(trx, acting, p.request, before));
    if (p.lend) said.push(await lendAll(trx, p.lend, before));
    if (p.houseSetId !== undefined) {
      for (const i of instruments) {
        await requireSetFor(trx, p.houseSetId, i.build.family);
        await putHouseStrings(trx, i, p.houseSetId);
      }
      said.push('with another usual set');
      for (const id of ids) await refreshInstrument(trx, id, at);
    } else {
      await trx('instrument').whereIn('id', among(trx, ids)).increment('version', 1);
      await refreshStates(trx, ids, at);
    }
    return {
      result: { changed: ids.length, says: `${count(ids.length, 'instrument')} ${said.join(', ')}`, undo: acting.key },
      entity: 'instrument',
      entityId: ids[0] ?? 0,
      detail: { ...p, tags: rows.map((r) => r.tag), before },
    };
  });
}

/** Gives each instrument an interval of its own, or takes its own back. @throws UserError `unsound` */
async function setIntervals(
  trx: Knex,
  acting: Acting,
  instruments: readonly Instrument[],
  p: { days: number | null; why: string },
  before: Before[],
): Promise<string> {
  const held = await intervalsSet(trx, instruments);
  const newest = await newestIntervals(
    trx,
    instruments.map((i) => `instrument:${i.id}`),
  );
  for (const i of instruments) {
    const own = newest.get(`instrument:${i.id}`);
    if (p.days === null && (!own || own.withdrawn)) continue;
    const inForce = must(held.get(i.id)).rule;
    const rule =
      p.days === null
        ? inForce
        : {
            ...inForce,
            // Hours alone would not know of the days.
            school: inForce.school === 'use' ? ('whichever-first' as const) : inForce.school,
            calendarDays: p.days,
            neverOverDays: Math.max(inForce.neverOverDays, p.days),
          };
    const problems = intervalProblems(rule);
    if (problems.length > 0) throw refused('unsound', 'This interval does not work', `${i.tag}: ${problems.join(' ')}`);
    const id = await insertId(trx, 'interval_version', {
      ...intervalColumns('instrument', i.id, rule),
      version: (own?.version ?? 0) + 1,
      withdrawn: p.days === null,
      why: p.why,
      person_id: acting.personId,
      at: acting.now,
    });
    const b = before.find((x) => x.id === i.id);
    if (b) b.interval = { id, before: own?.id ?? null };
  }
  return p.days === null ? 'with the interval of their set or family' : `with an interval of ${sayInterval(p.days)}`;
}

/** The interval as it stood before, as a version of its own: the history keeps both. */
async function backToInterval(trx: Knex, acting: Acting, made: { id: number; before: number | null }): Promise<void> {
  const row = must(await trx('interval_version').where({ id: made.id }).first());
  const old = made.before === null ? null : await trx('interval_version').where({ id: made.before }).first();
  await trx('interval_version').insert({
    ...intervalColumns('instrument', row.instrument_id ?? 0, ruleOf(old ?? row)),
    version: row.version + 1,
    withdrawn: old ? old.withdrawn : true,
    why: 'undone',
    person_id: acting.personId,
    at: acting.now,
  });
}

/** Asks for the same work on each; where it is asked for already nothing is asked twice. */
async function askForAll(
  trx: Knex,
  acting: Acting,
  p: NonNullable<ManyInstruments['request']>,
  before: Before[],
): Promise<string> {
  const asked: number[] = await trx('plan_request')
    .whereIn(
      'instrument_id',
      among(
        trx,
        before.map((b) => b.id),
      ),
    )
    .where({ kind: p.kind, status: 'open' })
    .pluck('instrument_id');
  const rest = before.filter((b) => !asked.includes(b.id));
  if (rest.length === 0)
    throw refused('asked-already', 'Already requested', 'This work is already requested for all of them.');
  for (const b of rest) b.requestId = (await insertRequest(trx, acting, b.id, p)).id;
  return `with work requested${asked.length > 0 ? `, for ${asked.length} of them before` : ''}`;
}

/** Lends all for the same days. @throws UserError `away-already` with those that are lent then, `days` */
async function lendAll(trx: Knex, p: NonNullable<ManyInstruments['lend']>, before: Before[]): Promise<string> {
  if (p.to < p.from) throw refused('days', 'Check the dates', 'The last day is before the first. Check the dates.');
  const ids = before.map((b) => b.id);
  const away: number[] = await trx('instrument_busy')
    .whereIn('instrument_id', among(trx, ids))
    .where({ kind: 'loan' })
    .where('from_on', '<=', p.to)
    .where('to_on', '>=', p.from)
    .pluck('instrument_id');
  if (away.length > 0)
    throw refused(
      'away-already',
      'Already lent then',
      `Already lent on those days: ${few(before.filter((b) => away.includes(b.id)).map((b) => b.tag))}. Nothing was changed.`,
    );
  for (const b of before)
    b.loanId = await insertId(trx, 'instrument_busy', {
      instrument_id: b.id,
      from_on: p.from,
      to_on: p.to,
      why: p.why,
      kind: 'loan',
    });
  return `lent to ${p.why}`;
}

/**
 * Puts several instruments back as they were before they were changed at once, as long as nobody changed one since.
 * @throws UserError not-found, conflict with those that were changed since
 */
export async function undoMany(db: Knex, acting: Acting, p: { undo: string }): Promise<{ changed: number }> {
  return change(db, acting, 'instrument.many-undone', p, async (trx) => {
    const entry = await trx('audit').where({ idempotency_key: p.undo, action: 'instrument.many' }).first();
    if (!entry || entry.detail === ERASED) throw notFound('This change');
    const { before } = beforeColumn.read(entry.detail);
    const { time_zone: timeZone } = await programmeRow(trx);
    const now = new Map(
      (
        await trx('instrument')
          .whereIn(
            'id',
            among(
              trx,
              before.map((b) => b.id),
            ),
          )
          .select('id', 'tag', 'version')
      ).map((r) => [r.id, r]),
    );
    const since = before.filter((b) => now.get(b.id)?.version !== b.version);
    if (since.length > 0) throw conflict(`Changed since: ${few(since.map((b) => b.tag))}. Nothing was undone.`, {});
    for (const b of before) {
      await trx('instrument')
        .where({ id: b.id })
        .update({
          place_id: b.placeId,
          holder: b.holder,
          house_set_id: b.houseSetId,
          retired_on: b.retiredOn,
          retired_why: b.retiredWhy,
          version: b.version + 1,
        });
      if (b.requestId !== undefined)
        await trx('plan_request').where({ id: b.requestId, status: 'open' }).update({ status: 'withdrawn' });
      if (b.loanId !== undefined) await trx('instrument_busy').where({ id: b.loanId }).del();
      if (b.interval) await backToInterval(trx, acting, b.interval);
      for (const [number, product] of b.strings)
        await trx('instrument_position').where({ instrument_id: b.id, number }).update({ house_product_id: product });
      await refreshInstrument(trx, b.id, { now: acting.now, timeZone });
    }
    return { result: { changed: before.length }, entity: 'instrument', entityId: before[0]?.id ?? 0 };
  });
}
