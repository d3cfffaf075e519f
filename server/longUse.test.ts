import fc from 'fast-check';
import type { Knex } from 'knex';
import { expect, it } from 'vitest';
import { addDays } from '../core/dates';
import { PLAYERS } from '../core/wear/exposure';
import { acting, houseEntries, NOW, replayed, shelf, smallProgramme } from '../tests/support/small';
import { readChain } from './audit/entries';
import { finishJob } from './bench/finish';
import { cancelJob, openJob } from './bench/jobs';
import { undoFinish } from './bench/undo';
import { folderOf, openReader } from './db/connection';
import { must } from './db/must';
import { UserError } from './errors';
import { setPlayer } from './fleet/exposure';
import { listFleet } from './fleet/list';
import { reportTrouble } from './fleet/report';
import { refreshInstrument } from './fleet/state';
import { addAvailability, removeAvailability, setAway } from './plan/availability';
import { endBusy, setBusy } from './plan/busy';
import { addConcert, removeConcert } from './plan/concerts';
import { planInput } from './plan/problem';
import { requestJob, withdrawRequest } from './plan/requests';
import { stockAhead } from './stock/ahead';
import { toCount } from './stock/counts';
import { openSets, receive, scrap, takeBack, transfer } from './stock/moves';
import { completeVisit, todayAt } from './today/today';

// Long use by people who do everything in any order. Whatever stays in memory, or is kept beside the history to be quick,
// must say what the history says when it is read anew; the ledger adds up, and the chain of who did what holds.

const TODAY = '2026-03-10';
const TAGS = ['AC-1', 'UK-1', 'UK-2', 'VN-1'] as const;

/** What is done, by name; `n` chooses among what there is. A refusal in words is an answer as well. */
const DEEDS: Record<string, (db: Knex, tag: string, n: number) => Promise<unknown>> = {
  async finish(db, tag, n) {
    const by = () => acting(1 + (n % 2), undefined, NOW - (n % 90) * 86_400_000);
    const { jobId } = await openJob(db, by(), { tag });
    const { version } = must(await db('job').where({ id: jobId }).first());
    const entries = (await houseEntries(db, tag)).map((e) => ({
      ...e,
      found: true,
      ...(n % 5 === 0 && e.number > 1 ? { action: 'kept' as const, productId: null } : {}),
    }));
    await finishJob(db, by(), {
      jobId,
      expectedVersion: version,
      entries,
      discard: [],
      notes: '',
      minutes: 5 + (n % 60),
    });
  },
  async open(db, tag) {
    await openJob(db, acting(), { tag });
  },
  async putAway(db, tag) {
    const job = await db('job')
      .join('instrument as i', 'i.id', 'job.instrument_id')
      .where({ 'i.tag': tag, 'job.status': 'open' })
      .first('job.id', 'job.version');
    if (job) await cancelJob(db, acting(), { jobId: job.id, expectedVersion: job.version });
  },
  async undo(db, _tag, n) {
    const records = await db('standing_record').where({ kind: 'change' }).orderBy('id');
    const record = records[n % Math.max(1, records.length)];
    if (record) await undoFinish(db, acting(), { recordId: record.id, reason: 'another instrument' });
  },
  async visit(db, _tag, n) {
    const open = await db('follow_up').where({ status: 'open' }).orderBy('id');
    const visit = open[n % Math.max(1, open.length)];
    if (visit) await completeVisit(db, acting(), { visitId: visit.id, expectedVersion: visit.version, note: '' });
  },
  report: (db, tag, n) =>
    reportTrouble(db, acting(), {
      tag,
      kind: n % 2 ? 'broken' : 'dull',
      numbers: n % 2 ? [1 + (n % 4)] : [],
      text: 'said so',
    }),
  request: (db, tag, n) =>
    requestJob(db, acting(), { tag, kind: 'service', dueOn: addDays(TODAY, n % 30), why: 'dry board' }),
  async withdraw(db, _tag, n) {
    const open = await db('plan_request').where({ status: 'open' }).orderBy('id');
    const request = open[n % Math.max(1, open.length)];
    if (request) await withdrawRequest(db, acting(), { id: request.id });
  },
  concert: (db, tag, n) =>
    addConcert(
      db,
      acting(),
      { name: `Concert ${n}`, on: addDays(TODAY, 1 + (n % 40)), placeId: null, who: tag },
      'UTC',
    ),
  async noConcert(db, _tag, n) {
    const all = await db('concert').orderBy('id');
    const concert = all[n % Math.max(1, all.length)];
    if (concert) await removeConcert(db, acting(), { id: concert.id }, 'UTC');
  },
  player: (db, tag, n) => setPlayer(db, acting(), { tag, player: must(PLAYERS[n % PLAYERS.length]) }),
  lent: (db, tag, n) =>
    setBusy(db, acting(), { tag, from: addDays(TODAY, n % 10), to: addDays(TODAY, 5 + (n % 30)), why: 'a tour' }),
  async back(db, _tag, n) {
    const all = await db('instrument_busy').orderBy('id');
    const busy = all[n % Math.max(1, all.length)];
    if (busy) await endBusy(db, acting(), { id: busy.id });
  },
  hours: (db, _tag, n) =>
    addAvailability(db, acting(), {
      personId: 1 + (n % 2),
      placeId: 1,
      weekday: 1 + (n % 7),
      minutes: 30 + (n % 300),
      starts: '09:00',
    }),
  async fewerHours(db, _tag, n) {
    const all = await db('availability').orderBy('id');
    const hours = all[n % Math.max(1, all.length)];
    if (hours) await removeAvailability(db, acting(), { id: hours.id });
  },
  away: (db, _tag, n) =>
    setAway(db, acting(), {
      personId: 1 + (n % 2),
      on: addDays(TODAY, n % 20),
      fromTime: '',
      toTime: '',
      why: n % 3 ? 'a course' : '',
    }),
  async receive(db, _tag, n) {
    const sets = await db('product').where({ kind: 'set' }).orderBy('id');
    await receive(db, acting(), {
      productId: must(sets[n % sets.length]).id,
      quantity: 1 + (n % 3),
      placeId: 1,
      unitCostCents: 100 + n,
    });
  },
  async openSet(db, _tag, n) {
    const lots = await db('lot_balance as b')
      .join('lot as l', 'l.id', 'b.lot_id')
      .where({ 'l.form': 'set' })
      .orderBy('b.lot_id')
      .select('b.lot_id', 'b.place_id');
    const lot = lots[n % Math.max(1, lots.length)];
    if (lot) await openSets(db, acting(), { lotId: lot.lot_id, placeId: lot.place_id, quantity: 1 });
  },
  async scrap(db, _tag, n) {
    const lots = await db('lot_balance').orderBy('lot_id');
    const lot = lots[n % Math.max(1, lots.length)];
    if (lot)
      await scrap(db, acting(), { lotId: lot.lot_id, placeId: lot.place_id, quantity: 1, reason: 'fell in the tea' });
  },
  async carry(db, _tag, n) {
    const lots = await db('lot_balance').orderBy('lot_id');
    const lot = lots[n % Math.max(1, lots.length)];
    const places = await db('place').orderBy('id');
    if (lot)
      await transfer(db, acting(), {
        takes: [{ lotId: lot.lot_id, placeId: lot.place_id, quantity: 1 }],
        toPlaceId: must(places[n % places.length]).id,
        reason: '',
      });
  },
  async takeBack(db, _tag, n) {
    const moves = await db('stock_move').orderBy('id');
    const move = moves[n % Math.max(1, moves.length)];
    if (move) await takeBack(db, acting(), { moveId: move.id, reason: 'by mistake' });
  },
};

/** What people look at, as plain data. */
async function seen(db: Knex): Promise<Record<string, unknown>> {
  const at = { today: TODAY, now: NOW };
  const horizon = addDays(TODAY, 60);
  const { packs, demand } = await stockAhead(db, { today: TODAY, service: 0.95 });
  const pages = {
    plan: await planInput(db, at),
    // How often strings break is learned once a day, and what follows from it stays for the day.
    shelf: { demand, packs: packs.map(({ outlook: _, rule: __, wanted: ___, ...pack }) => pack) },
    today: await todayAt(db, 1, { ...at, horizon, personId: 1 }),
    count: await toCount(db, 1),
    fleet: await listFleet(
      db,
      { q: '', place: null, family: null, due: 'all', sort: 'due', descending: false, offset: 0, limit: 50 },
      { ...at, horizon },
    ),
  };
  // Sums that were added to are off in their last digits from those added up anew.
  return JSON.parse(
    JSON.stringify(pages, (_, value) => (typeof value === 'number' ? Math.round(value * 1e9) / 1e9 : value)),
  );
}

it('after anything in any order, what is remembered and kept says what the history says', async () => {
  const deed = fc.record({
    what: fc.oneof(fc.constantFrom('finish', 'undo'), fc.constantFrom(...Object.keys(DEEDS))),
    tag: fc.constantFrom(...TAGS),
    n: fc.nat(5000),
    look: fc.boolean(),
  });
  await fc.assert(
    fc.asyncProperty(fc.array(deed, { minLength: 8, maxLength: 30 }), async (deeds) => {
      const { db } = await smallProgramme();
      try {
        await db('place').insert({ name: 'Annex', is_store: false });
        for (const { what, tag, n, look } of deeds) {
          await must(DEEDS[what])(db, tag, n).catch((error) => {
            if (!(error instanceof UserError)) throw error;
          });
          // What is looked at in between stays in memory.
          if (look) await seen(db);
        }
        const fresh = openReader(folderOf(db));
        expect(await seen(db)).toEqual(await seen(fresh));
        await fresh.destroy();
        expect(await replayed(db)).toEqual(await shelf(db));
        const kept = () =>
          Promise.all([
            db('instrument_state').orderBy('instrument_id'),
            db('instrument_position').orderBy(['instrument_id', 'number']),
          ]);
        const before = await kept();
        for (const id of await db('instrument').pluck('id'))
          await refreshInstrument(db, id, { now: NOW, timeZone: 'UTC' });
        expect(await kept()).toEqual(before);
        expect((await readChain(db)).brokenAt).toBeNull();
      } finally {
        await db.destroy();
      }
    }),
    { numRuns: 25 },
  );
});
