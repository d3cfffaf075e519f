import type { Knex } from 'knex';
import type { SaveInterval, WithdrawInterval } from '../../contract/methods';
import { FAMILIES, FAMILY_NAMES } from '../../core/instruments/build';
import type { CareRule } from '../../core/wear/due';
import { type IntervalScope, intervalProblems, sayCareRule } from '../../core/wear/intervals';
import { among } from '../db/among';
import { type Acting, change, insertId } from '../db/change';
import { must } from '../db/must';
import { conflict, notFound, refused } from '../errors';
import { findByTag } from '../fleet/instruments';
import { type IntervalRow, intervalColumns, intervalsSet, newestIntervals, ruleOf } from '../fleet/intervals';
import { dueStateOf, refreshStates, stateInputs } from '../fleet/state';
import { programmeRow } from '../programme/programme';

export interface IntervalLine {
  scope: IntervalScope;
  /** The family, the set's number, or the instrument's tag. */
  of: string;
  name: string;
  version: number;
  rule: CareRule;
  /** Instruments it holds for. */
  instruments: number;
  why: string;
  by: string | null;
  at: number | null;
}

/** What is meant by what a screen sends. @throws UserError not-found */
async function meant(
  db: Knex,
  p: { scope: IntervalScope; of: string },
): Promise<{ key: string; of: string | number; name: string; ids: () => Promise<number[]> }> {
  if (p.scope === 'family') {
    const family = FAMILIES.find((f) => f === p.of);
    if (!family) throw notFound('This family');
    const ids = () => db('instrument').where({ family }).whereNull('retired_on').orderBy('tag').pluck('id');
    return { key: `family:${family}`, of: family, name: FAMILY_NAMES[family], ids };
  }
  if (p.scope === 'product') {
    const set = await db('product')
      .where({ id: Number(p.of) || -1 })
      .whereIn('kind', ['set', 'hybrid'])
      .first();
    if (!set) throw notFound('This set of strings');
    const ids = () =>
      db('instrument').where({ house_set_id: set.id }).whereNull('retired_on').orderBy('tag').pluck('id');
    return { key: `product:${set.id}`, of: set.id, name: set.name, ids };
  }
  const instrument = await findByTag(db, p.of);
  if (!instrument) throw notFound(`“${p.of}”`);
  return {
    key: `instrument:${instrument.id}`,
    of: instrument.id,
    name: instrument.tag,
    ids: async () => [instrument.id],
  };
}

/** Every interval that is set: of all families, and where sets or instruments have their own. */
export async function intervalLines(db: Knex): Promise<IntervalLine[]> {
  const rows = [...(await newestIntervals(db)).values()].filter((r) => !r.withdrawn);
  const people = new Map((await db('person').select('id', 'name')).map((p) => [p.id, p.name]));
  const sets = new Map(
    (await db('product').whereIn('kind', ['set', 'hybrid']).select('id', 'name')).map((p) => [p.id, p.name]),
  );
  const own = rows.filter((r) => r.instrument_id !== null).map((r) => r.instrument_id);
  const tags = new Map(
    (await db('instrument').whereIn('id', among(db, own)).select('id', 'tag')).map((i) => [i.id, i.tag]),
  );
  // Whichever is narrower holds, so each instrument counts where its interval comes from.
  const counts = new Map<string, number>();
  for (const i of await db('instrument').whereNull('retired_on').select('id', 'family', 'house_set_id')) {
    const key = [`instrument:${i.id}`, `product:${i.house_set_id}`].find((k) => rows.some((r) => r.of_key === k));
    const held = key ?? `family:${i.family}`;
    counts.set(held, (counts.get(held) ?? 0) + 1);
  }
  return rows.map((r) => ({
    scope: r.scope,
    of: r.family ?? (r.product_id === null ? (tags.get(r.instrument_id ?? -1) ?? '') : String(r.product_id)),
    name: r.family
      ? FAMILY_NAMES[r.family]
      : r.product_id === null
        ? (tags.get(r.instrument_id ?? -1) ?? '')
        : (sets.get(r.product_id) ?? ''),
    version: r.version,
    rule: ruleOf(r),
    instruments: counts.get(r.of_key) ?? 0,
    why: r.why,
    by: r.person_id === null ? null : (people.get(r.person_id) ?? null),
    at: r.at,
  }));
}

/** Sets of strings that may have an interval of their own. */
export const setsToChoose = (db: Knex): Promise<{ id: number; name: string; family: string }[]> =>
  db('product').whereIn('kind', ['set', 'hybrid']).orderBy('name').select('id', 'name', 'family');

export interface IntervalHistory {
  version: number;
  says: string;
  withdrawn: boolean;
  why: string;
  by: string | null;
  at: number | null;
}

/** All versions of one interval, the newest first. */
export async function intervalHistory(db: Knex, p: { scope: IntervalScope; of: string }): Promise<IntervalHistory[]> {
  const { key } = await meant(db, p);
  const rows = await db('interval_version as v')
    .leftJoin('person as p', 'p.id', 'v.person_id')
    .where('v.of_key', key)
    .orderBy('v.version', 'desc')
    .select('v.*', 'p.name');
  return rows.map((r) => ({
    version: r.version,
    says: sayCareRule(ruleOf(r)),
    withdrawn: Boolean(r.withdrawn),
    why: r.why,
    by: r.name,
    at: r.at,
  }));
}

export interface IntervalEffect {
  instruments: number;
  /** Due by the day asked for: as it stands, and as it would. */
  dueNow: number;
  dueThen: number;
  sooner: number;
  later: number;
  /** Those that would become due by that day, and those that would not be any more; the first of each. */
  become: string[];
  leave: string[];
}

const MOST_NAMED = 24;
const AT_ONCE = 500;

/**
 * What an interval would do to the list of what is due, before it is kept; null takes it back. Only instruments for which
 * it would hold: one that has an interval of its own keeps it.
 * @throws UserError not-found, `unsound` with what is wrong in words
 */
export async function previewInterval(
  db: Knex,
  p: { scope: IntervalScope; of: string; rule: CareRule | null; by: string },
  at: { now: number; timeZone: string },
): Promise<IntervalEffect> {
  requireSound(p.rule);
  const target = await meant(db, p);
  const ids = await target.ids();
  const effect: IntervalEffect = { instruments: 0, dueNow: 0, dueThen: 0, sooner: 0, later: 0, become: [], leave: [] };
  const widths: readonly IntervalScope[] = ['family', 'product', 'instrument'];
  for (let i = 0; i < ids.length; i += AT_ONCE) {
    const inputs = await stateInputs(db, ids.slice(i, i + AT_ONCE), at);
    const now = await intervalsSet(
      db,
      inputs.map((x) => x.instrument),
    );
    // Taken back, the next wider one holds.
    const wider = p.rule
      ? null
      : await intervalsSet(
          db,
          inputs.map(({ instrument }) => ({
            ...instrument,
            id: p.scope === 'instrument' ? -1 - instrument.id : instrument.id,
            houseSetId: p.scope === 'product' ? -1 : instrument.houseSetId,
          })),
        );
    for (const input of inputs) {
      const { id, tag } = input.instrument;
      const from = must(now.get(id)).from;
      if (widths.indexOf(from) > widths.indexOf(p.scope)) continue;
      const rule = p.rule ?? must(wider?.get(p.scope === 'instrument' ? -1 - id : id)).rule;
      const before = dueStateOf(input).due.on;
      const then = dueStateOf({ ...input, rule }).due.on;
      effect.instruments++;
      if (then < before) effect.sooner++;
      if (then > before) effect.later++;
      if (before <= p.by) effect.dueNow++;
      if (then <= p.by) effect.dueThen++;
      if (before > p.by && then <= p.by && effect.become.length < MOST_NAMED) effect.become.push(tag);
      if (before <= p.by && then > p.by && effect.leave.length < MOST_NAMED) effect.leave.push(tag);
    }
  }
  return effect;
}

function requireSound(rule: CareRule | null): void {
  const problems = rule ? intervalProblems(rule) : [];
  if (problems.length > 0) throw refused('unsound', 'This interval does not work', problems.join(' '));
}

/** Writes the next version of an interval, and every due date that hangs on it anew. */
async function keep(
  db: Knex,
  acting: Acting,
  action: 'interval.save' | 'interval.withdraw',
  p: { scope: IntervalScope; of: string; expectedVersion: number; why: string },
  next: (current: IntervalRow | undefined) => { rule: CareRule; withdrawn: boolean },
): Promise<{ version: number; instruments: number }> {
  return change(db, acting, action, p, async (trx) => {
    const { key, of, ids } = await meant(trx, p);
    const current = (await newestIntervals(trx, [key])).get(key);
    const version = current?.version ?? 0;
    if (version !== p.expectedVersion)
      throw conflict('Someone else has changed this interval. Reload to see theirs, then change it again.', {
        currentVersion: version,
        current: current && { ...ruleOf(current), withdrawn: Boolean(current.withdrawn) },
      });
    const { rule, withdrawn } = next(current);
    const id = await insertId(trx, 'interval_version', {
      ...intervalColumns(p.scope, of, rule),
      version: version + 1,
      withdrawn,
      why: p.why.trim(),
      person_id: acting.personId,
      at: acting.now,
    });
    const touched = await ids();
    const programme = await programmeRow(trx);
    await refreshStates(trx, touched, { now: acting.now, timeZone: programme.time_zone });
    return {
      result: { version: version + 1, instruments: touched.length },
      entity: 'interval_version',
      entityId: id,
    };
  });
}

/**
 * Keeps an interval as a new version with its reason; due dates follow at once.
 * @throws UserError not-found, `conflict`, `unsound`, `no-change`, `no-reason`
 */
export async function saveInterval(db: Knex, acting: Acting, p: SaveInterval) {
  requireSound(p.rule);
  if (p.why.trim().length < 3)
    throw refused('no-reason', 'Reason missing', 'Give a short reason; it is kept with the version.');
  return keep(db, acting, 'interval.save', p, (current) => {
    if (current && !current.withdrawn && JSON.stringify(ruleOf(current)) === JSON.stringify(p.rule))
      throw refused('no-change', 'Nothing was changed', 'Nothing is different from the current interval.');
    return { rule: p.rule, withdrawn: false };
  });
}

/**
 * Takes the interval of a set or of an instrument back: what is set for the family holds again.
 * @throws UserError not-found, `conflict`, `refused` for a family's, which always has one
 */
export async function withdrawInterval(db: Knex, acting: Acting, p: WithdrawInterval) {
  return keep(db, acting, 'interval.withdraw', p, (current) => {
    if (!current || current.withdrawn) throw notFound('This interval');
    return { rule: ruleOf(current), withdrawn: true };
  });
}
