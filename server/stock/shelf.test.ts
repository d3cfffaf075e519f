import fc from 'fast-check';
import type { Knex } from 'knex';
import { expect, it } from 'vitest';
import { acting, houseEntries, NOW, replayed, shelf, smallProgramme } from '../../tests/support/small';
import { finishJob } from '../bench/finish';
import { cancelJob, loadJob, openJob, saveAnswer } from '../bench/jobs';
import { undoFinish } from '../bench/undo';
import type { Acting } from '../db/change';
import { must } from '../db/must';
import { UserError } from '../errors';
import { countPlace, toCount } from './counts';
import { backToShelf, halveStrings, openSets, receive, scrap, takeBack, transfer } from './moves';
import { setContents } from './shelf';

const KINDS = [
  'receive',
  'transfer',
  'scrap',
  'open',
  'halve',
  'back',
  'count',
  'take-back',
  'job',
  'cancel',
  'finish',
  'undo',
  'lose',
] as const;
interface Step {
  do: (typeof KINDS)[number];
  which: number;
  many: number;
  person: 1 | 2;
  /** Sent twice at the same time, as a retry is. */
  twice: boolean;
  broken: boolean;
}
const steps = fc.array(
  fc.record<Step>({
    do: fc.constantFrom(...KINDS),
    which: fc.nat(50),
    many: fc.integer({ min: 1, max: 3 }),
    person: fc.constantFrom(1, 2),
    twice: fc.boolean(),
    broken: fc.boolean(),
  }),
  { minLength: 6, maxLength: 22 },
);
const TAGS = ['AC-1', 'UK-1', 'UK-2', 'VN-1'];
const SETS = ['FUL-1253', 'KIT-F', 'GAN-V-44'];

/** What one user's press does; what is refused in words is a fair answer. */
function press(db: Knex, setIds: ReadonlyMap<string, number>, s: Step, key: string): Promise<unknown> {
  const by: Acting = acting(s.person, key);
  const pick = <T>(list: readonly T[]): T | undefined => list[s.which % Math.max(1, list.length)];
  const lots = (form: string) =>
    db('lot_balance as b')
      .join('lot as l', 'l.id', 'b.lot_id')
      .where({ form })
      .orderBy(['b.lot_id', 'b.place_id'])
      .select('b.*');
  const tag = pick(TAGS) as string;
  const job = async (status: string) =>
    db('job as j').join('instrument as i', 'i.id', 'j.instrument_id').where({ status, tag }).first('j.*');
  const take = async (form: string) => {
    const lot = pick(await lots(form));
    return lot ? { lotId: lot.lot_id, placeId: lot.place_id, quantity: s.many } : null;
  };
  const run: Record<Step['do'], () => Promise<unknown>> = {
    receive: () =>
      receive(db, by, {
        productId: setIds.get(pick(SETS) as string) as number,
        quantity: s.many,
        placeId: 1,
        unitCostCents: 100 + 7 * s.which,
      }),
    transfer: async () => {
      const t = await take(s.broken ? 'set' : 'single');
      return t && transfer(db, by, { takes: [t], toPlaceId: t.placeId === 1 ? 2 : 1, reason: 'kit' });
    },
    scrap: async () => {
      const t = await take(s.broken ? 'half' : 'single');
      return t && scrap(db, by, { ...t, reason: 'kinked' });
    },
    open: async () => {
      const t = await take('set');
      return t && openSets(db, by, t);
    },
    halve: async () => {
      const t = await take('single');
      return t && halveStrings(db, by, t);
    },
    back: async () => {
      const product = must(pick(await db('product').where({ kind: 'single' }).limit(8)));
      return backToShelf(db, by, {
        productId: product.id,
        form: 'single',
        quantity: s.many,
        placeId: 1,
        reason: 'found',
      });
    },
    count: async () => {
      const lot = pick(await lots('single'));
      if (!lot) return null;
      const { product_id } = must(await db('lot').where({ id: lot.lot_id }).first());
      const [sum] = await db('lot_balance as b')
        .join('lot as l', 'l.id', 'b.lot_id')
        .where({ product_id, form: 'single', place_id: lot.place_id })
        .sum({ n: 'on_hand' });
      const line = { productId: product_id, form: 'single' as const, expected: Number(sum?.n), counted: s.which % 5 };
      return countPlace(db, by, { placeId: lot.place_id, lines: [line], reason: 'lost' });
    },
    'take-back': async () => {
      const move = pick(await db('stock_move').orderBy('id'));
      return move && takeBack(db, by, { moveId: move.id, reason: 'wrong' });
    },
    job: () => openJob(db, by, { tag }),
    cancel: async () => {
      const open = await job('open');
      return open && cancelJob(db, by, { jobId: open.id, expectedVersion: open.version });
    },
    finish: async () => {
      const open = await job('open');
      if (!open) return null;
      const entries = (await houseEntries(db, tag)).map((e, i) => ({
        ...e,
        broken: i === 0 && s.broken ? 1 : 0,
        found: s.which % 2 === 0,
      }));
      return finishJob(db, by, {
        jobId: open.id,
        expectedVersion: open.version,
        entries,
        discard: [],
        notes: '',
        minutes: null,
      });
    },
    undo: async () => {
      const record = pick(await db('change_record').where({ kind: 'change' }).orderBy('id'));
      return record && undoFinish(db, by, { recordId: record.id, reason: '' });
    },
    lose: async () => {
      const open = await job('open');
      if (!open) return null;
      const step = (await loadJob(db, open.id)).procedure?.steps.find((x) => x.mistakes?.includes('snaps'));
      return (
        step &&
        saveAnswer(db, by, {
          jobId: open.id,
          step: step.key,
          outcome: 'trouble',
          mistake: 'snaps',
          number: 1,
          cursor: step.key,
        })
      );
    },
  };
  return run[s.do]().catch((error: unknown) => {
    if (error instanceof UserError) return 'refused';
    throw error;
  });
}

/** Half strings in so many of a lot. */
async function halvesOf(db: Knex): Promise<(productId: number, form: string) => number> {
  const contents = await setContents(db);
  return (productId, form) =>
    form === 'half'
      ? 1
      : form === 'single'
        ? 2
        : 2 * (contents.get(String(productId)) ?? []).reduce((sum, i) => sum + i.count, 0);
}

/** Four more of each set for an amount that four do not divide, as an invoice with a discount has. */
async function oddLots(db: Knex, setIds: ReadonlyMap<string, number>): Promise<void> {
  for (const sku of SETS)
    await receive(db, acting(), {
      productId: setIds.get(sku) as number,
      quantity: 4,
      placeId: 1,
      unitCostCents: 250,
    });
  for (const table of ['lot_balance', 'stock_move'])
    await db(table).where({ value_cents: 1000 }).update({ value_cents: 1001 });
}

it('opening a lot of which others set a part aside makes no money, when its value does not divide', async () => {
  const { db, setIds } = await smallProgramme();
  await db('lot_balance').del();
  await db('stock_move').del();
  await oddLots(db, setIds);
  // One set is claimed for the first; the second takes from what is left, and loses a string on the way.
  await openJob(db, acting(), { tag: 'UK-2' });
  const { jobId } = await openJob(db, acting(2), { tag: 'UK-1' });
  const step = (await loadJob(db, jobId)).procedure?.steps.find((x) => x.mistakes?.includes('snaps'));
  await saveAnswer(db, acting(2), {
    jobId,
    step: step?.key ?? '',
    outcome: 'trouble',
    mistake: 'snaps',
    number: 1,
    cursor: step?.key ?? '',
  });
  const entries = (await houseEntries(db, 'UK-1')).map((e) => ({ ...e, broken: 0 }));
  await finishJob(db, acting(2), { jobId, expectedVersion: 1, entries, discard: [], notes: '', minutes: 9 });
  const moves = await db('stock_move as m')
    .leftJoin('stock_move as r', 'r.id', 'm.reverses_id')
    .select('m.*', 'r.kind as of');
  const sum = (kinds: string[]) =>
    moves.filter((m) => kinds.includes(m.of ?? m.kind)).reduce((cents, m) => cents + m.value_cents, 0);
  expect(sum(['open-set', 'from-set', 'halve', 'from-whole'])).toBe(0);
  // What the record says the strings cost is what the ledger says went out for them.
  const cost = Number((await db('string_entry').sum({ n: 'cost_cents' }).first())?.n);
  expect(cost).toBe(-sum(['use', 'return']));
});

it('whatever two people do to the shelf, in any order and sent twice, strings and money are conserved', async () => {
  await fc.assert(
    fc.asyncProperty(steps, async (list) => {
      const { db, setIds } = await smallProgramme();
      await db('place').insert({ name: 'School', is_store: false, climate: 'even' });
      await oddLots(db, setIds);
      for (const [i, s] of list.entries()) {
        const one = press(db, setIds, s, `step-${i}`);
        // The other person presses something at the same moment.
        const other = list[i + 1];
        await Promise.all([
          one,
          ...(s.twice ? [press(db, setIds, s, `step-${i}`)] : []),
          ...(other && other.person !== s.person ? [press(db, setIds, { ...other, twice: false }, `beside-${i}`)] : []),
        ]);
      }
      // The shelf is what its moves say; nothing is below nothing.
      expect(await replayed(db)).toEqual(await shelf(db));
      const balances = await db('lot_balance as b')
        .join('lot as l', 'l.id', 'b.lot_id')
        .select('b.*', 'l.product_id', 'l.form');
      expect(balances.every((b) => b.on_hand > 0 && b.value_cents >= 0)).toBe(true);
      // Opening, halving and carrying make no string and no money, and lose none.
      const halves = await halvesOf(db);
      const moves = await db('stock_move as m')
        .join('lot as l', 'l.id', 'm.lot_id')
        .leftJoin('stock_move as r', 'r.id', 'm.reverses_id')
        .select('m.*', 'l.product_id', 'l.form', 'r.kind as reversed');
      const inner = ['open-set', 'from-set', 'halve', 'from-whole', 'transfer'];
      let strings = 0;
      let money = 0;
      let innerStrings = 0;
      let innerMoney = 0;
      for (const m of moves) {
        const n = m.quantity * halves(m.product_id, m.form);
        if (inner.includes(m.reversed ?? m.kind)) {
          innerStrings += n;
          innerMoney += m.value_cents;
        } else {
          strings += n;
          money += m.value_cents;
        }
      }
      expect([innerStrings, innerMoney]).toEqual([0, 0]);
      expect(balances.reduce((sum, b) => sum + b.on_hand * halves(b.product_id, b.form), 0)).toBe(strings);
      expect(balances.reduce((sum, b) => sum + b.value_cents, 0)).toBe(money);
      // What is set aside is there, and only for open jobs.
      const claims = await db('reserved as r').join('job as j', 'j.id', 'r.job_id').select('r.*', 'j.status');
      expect(claims.every((c) => c.status === 'open')).toBe(true);
      for (const c of claims) {
        const same = (x: { lot_id: number; place_id: number }) => x.lot_id === c.lot_id && x.place_id === c.place_id;
        const aside = claims.filter(same).reduce((sum, x) => sum + x.quantity, 0);
        expect(aside).toBeLessThanOrEqual(balances.find(same)?.on_hand ?? 0);
      }
      const reserved = await db('reservation').sum({ n: 'quantity' }).first();
      expect(Number(reserved?.n ?? 0)).toBe(claims.reduce((sum, c) => sum + c.quantity, 0));
      await db.destroy();
    }),
    { numRuns: 25 },
  );
});

it('a kit is set aside with a spare, used, and its spare comes back; a job put away gives all back', async () => {
  const { db } = await smallProgramme();
  const aside = async () => Number((await db('reserved').sum({ n: 'quantity' }).first())?.n ?? 0);
  const first = await openJob(db, acting(1), { tag: 'VN-1' });
  expect(await aside()).toBe(1);
  expect(await db('reserved').first()).toMatchObject({ spare: 0, quantity: 1 });
  await receive(db, acting(), { productId: 1, quantity: 1, placeId: 1, unitCostCents: 10 });
  await cancelJob(db, acting(1), { jobId: first.jobId, expectedVersion: 1 });
  expect(await aside()).toBe(0);
  const second = await openJob(db, acting(1), { tag: 'UK-1' });
  // One double-length set serves it twice: halves for the job, and no second set for a spare.
  expect(await aside()).toBeGreaterThan(0);
  const record = await finishJob(db, acting(1), {
    jobId: second.jobId,
    expectedVersion: 1,
    entries: await houseEntries(db, 'UK-1'),
    discard: [],
    notes: '',
    minutes: null,
  });
  expect(await aside()).toBe(0);
  await undoFinish(db, acting(1), { recordId: record.recordId, reason: '' });
  expect(await aside()).toBeGreaterThan(0);
  await db.destroy();
});

it('what to count first: by what moved since it was last counted, in one question however many products there are', async () => {
  const { db } = await smallProgramme();
  const sets = await toCount(db, 1);
  expect(sets.map((c) => c.moves)).toEqual([1, 1, 1]);
  const [first] = sets;
  const { productId, form } = first as NonNullable<typeof first>;
  const count = { placeId: 1, lines: [{ productId, form, expected: 1, counted: 1 }], reason: '' };
  await countPlace(db, acting(1, undefined, NOW + 1000), count);
  const movesOf = async () => (await toCount(db, 1)).find((c) => c.productId === productId)?.moves;
  expect(await movesOf()).toBe(0);
  await receive(db, acting(1, undefined, NOW + 2000), { productId, quantity: 2, placeId: 1, unitCostCents: 500 });
  expect(await movesOf()).toBe(1);
  let asked = 0;
  db.on('query', () => {
    asked += 1;
  });
  await toCount(db, 1);
  expect(asked).toBeLessThan(8);
});
