import type { Knex } from 'knex';
import { daysBetween, type LocalDate } from '../../core/dates';
import { settlingDays } from '../../core/settling/readyBy';
import type { Due } from '../../core/wear/due';
import { lifeUsed } from '../../core/wear/exposure';
import { type OneOrSet, oneOrSet } from '../../core/wear/oneOrSet';
import { type DueKind, type DueWork, dueWork } from '../../core/work/due';
import { among } from '../db/among';
import * as columns from '../db/columns';
import { loadMany, loadProducts } from '../fleet/instruments';
import { type StateFacts, stateFacts } from '../fleet/state';

export interface DueWorkHere extends DueWork {
  due: Due;
  /** Where one string broke: whether only that one or the set, and why. */
  advice: (OneOrSet & { number: number }) | null;
}

/**
 * What is to be done on instruments when they are due: as their state keeps it, and where one string broke by what is
 * known today of the rest, the shelf and the days ahead.
 */
export async function dueWorkOf(db: Knex, ids: readonly number[], today: LocalDate): Promise<Map<number, DueWorkHere>> {
  const rows = await db('instrument_state')
    .whereIn('instrument_id', among(db, ids))
    .select('instrument_id', 'due', 'due_work', 'to_change', 'change_whole', 'facts');
  const found = new Map<number, DueWorkHere>();
  const broken: { id: number; number: number; facts: StateFacts }[] = [];
  for (const r of rows) {
    const numbers = columns.numbers.read(r.to_change);
    const facts = stateFacts.read(r.facts);
    const work: DueWorkHere = {
      kind: r.due_work as DueKind,
      numbers,
      whole: Boolean(r.change_whole),
      due: columns.due.read(r.due),
      advice: null,
    };
    found.set(r.instrument_id, work);
    const [number] = numbers;
    if (work.due.by === 'broken' && !work.whole && numbers.length === 1 && number !== undefined)
      broken.push({ id: r.instrument_id, number, facts });
  }
  for (const [id, advice] of await adviceOn(db, broken, found, today)) {
    const work = found.get(id);
    if (!work) continue;
    // The rest of the set is looked at as if nothing had broken.
    const whole =
      advice.change === 'set'
        ? dueWork({
            due: { ...work.due, by: 'broken', numbers: [] },
            strings: wholeOf(broken.find((b) => b.id === id)?.facts),
          })
        : work;
    found.set(id, { ...work, ...whole, due: work.due, advice });
  }
  return found;
}

const wholeOf = (facts: StateFacts | undefined) =>
  Object.keys(facts?.notes ?? {}).map((n) => ({ number: Number(n), state: 'on' as const }));

/** Whether to change a broken string alone, for each instrument on which one broke. */
async function adviceOn(
  db: Knex,
  broken: readonly { id: number; number: number; facts: StateFacts }[],
  works: ReadonlyMap<number, DueWorkHere>,
  today: LocalDate,
): Promise<[number, OneOrSet & { number: number }][]> {
  if (broken.length === 0) return [];
  const ids = broken.map((b) => b.id);
  const instruments = new Map((await loadMany(db, ids)).map((i) => [i.id, i]));
  const houseOf = (b: { id: number; number: number }) =>
    instruments.get(b.id)?.positions.find((p) => p.number === b.number)?.houseProductId ?? null;
  const products = await loadProducts(
    db,
    [...instruments.values()].flatMap((i) => i.positions.map((p) => p.houseProductId)),
  );
  const concertRows: { instrument_id: number; on: LocalDate }[] = await db('concert_instrument as x')
    .join('concert as c', 'c.id', 'x.concert_id')
    .whereIn('x.instrument_id', among(db, ids))
    .where('c.on_day', '>=', today)
    .groupBy('x.instrument_id')
    .select('x.instrument_id')
    .min({ on: 'c.on_day' });
  const concerts = new Map(concertRows.map((c) => [c.instrument_id, c.on]));
  // Loose strings that nobody has set aside, by where they lie; those of a store can be had anywhere.
  const loose: { product_id: number; place_id: number; is_store: number; n: number; aside: number | null }[] = await db(
    'lot_balance as b',
  )
    .join('lot as l', 'l.id', 'b.lot_id')
    .join('place as p', 'p.id', 'b.place_id')
    .whereIn(
      'l.product_id',
      among(
        db,
        broken.flatMap((b) => houseOf(b) ?? []),
      ),
    )
    .groupBy('l.product_id', 'b.place_id', 'p.is_store')
    .select('l.product_id', 'b.place_id', 'p.is_store', {
      aside: db('reserved as r')
        .join('lot as m', 'm.id', 'r.lot_id')
        .whereRaw('m.product_id = l.product_id and r.place_id = b.place_id')
        .sum('r.quantity'),
    })
    .sum({ n: 'b.on_hand' });
  return broken.map((b) => {
    const instrument = instruments.get(b.id);
    const due = works.get(b.id)?.due as Due;
    const concert = concerts.get(b.id);
    const whole = [due.calendarOn, due.useOn, due.limitOn].filter((d): d is LocalDate => d !== null).sort()[0] ?? null;
    return [
      b.id,
      {
        number: b.number,
        ...oneOrSet({
          // Strings of unknown age count as old.
          restUsed: due.since ? lifeUsed({ rule: b.facts.rule, use: b.facts.use, fittedOn: due.since, today }).used : 1,
          matchingSingle: loose.some(
            (l) =>
              l.product_id === houseOf(b) &&
              (l.is_store || l.place_id === instrument?.placeId) &&
              Number(l.n) > Number(l.aside ?? 0),
          ),
          mismatchMatters: concert !== undefined,
          dueInDays: whole ? daysBetween(today, whole) : null,
          concertInDays: concert ? daysBetween(today, concert) : null,
          settlingDays: settlingDays(
            (instrument?.positions ?? []).flatMap((p) => products.get(p.houseProductId ?? -1)?.core ?? []),
          ),
        }),
      },
    ];
  });
}
