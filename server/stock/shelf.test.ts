import fc from 'fast-check';
import { expect, it } from 'vitest';
import { acting, houseEntries, replayed, shelf, smallProgramme } from '../../tests/support/small';
import { finishJob, undoFinish } from '../bench/finish';
import { openJob } from '../bench/jobs';
import { UserError } from '../errors';
import { receive, shelfLines } from './products';

type Step = { do: 'receive' | 'change' | 'undo' | 'retry'; which: number; broken: boolean; discard: boolean };
const steps = fc.array(
  fc.record<Step>({
    do: fc.constantFrom('receive', 'change', 'change', 'undo', 'retry'),
    which: fc.nat(20),
    broken: fc.boolean(),
    discard: fc.boolean(),
  }),
  { minLength: 4, maxLength: 14 },
);
const TAGS = ['AC-1', 'UK-1', 'UK-2', 'VN-1'];
const SETS = ['FUL-1253', 'KIT-F', 'GAN-V-44'];

/** Half strings in a shelf, a set counted by its strings. */
const halves = (on: Record<string, number>, perSet: Record<string, number>): number =>
  Object.entries(on).reduce((sum, [key, n]) => {
    const [sku = '', form] = key.split(' ');
    return sum + n * (form === 'half' ? 1 : form === 'single' ? 2 : 2 * (perSet[sku] ?? 0));
  }, 0);

it('whatever is received, used, taken back or sent twice: the ledger replays to the shelf and no string appears or is lost', async () => {
  await fc.assert(
    fc.asyncProperty(steps, async (list) => {
      const { db, setIds } = await smallProgramme();
      try {
        const counts = await db('set_item as s')
          .join('product as p', 'p.id', 's.set_id')
          .groupBy('p.sku')
          .select('p.sku')
          .count<{ sku: string; n: number }[]>({ n: '*' });
        const perSet = Object.fromEntries(counts.map((c) => [c.sku, Number(c.n)]));
        let brought = halves(await shelf(db), perSet);
        let last: (() => Promise<unknown>) | null = null;
        for (const step of list) {
          const tag = TAGS[step.which % TAGS.length] as string;
          if (step.do === 'receive') {
            const sku = SETS[step.which % SETS.length] as string;
            await receive(db, acting(), {
              productId: setIds.get(sku) as number,
              quantity: 2,
              placeId: 1,
              unitCostCents: null,
            });
            brought += 4 * (perSet[sku] ?? 0);
          } else if (step.do === 'change') {
            const { jobId } = await openJob(db, acting(), { tag: tag });
            const { version } = await db('job').where({ id: jobId }).first();
            const entries = (await houseEntries(db, tag)).map((e, i) => ({
              ...e,
              broken: step.broken && i === 0 ? 1 : 0,
            }));
            const product = entries.at(-1)?.productId;
            const discard = step.discard ? [`${product}:half`, `${product}:single`] : [];
            const who = acting();
            const send = () =>
              finishJob(db, who, { jobId, expectedVersion: version, entries, discard, notes: '', minutes: null });
            const before = await shelf(db);
            const done = await send().catch((error: unknown) => {
              if (!(error instanceof UserError) || error.type !== 'stock-short') throw error;
              return null;
            });
            if (done) last = send;
            else expect(await shelf(db)).toEqual(before);
          } else if (step.do === 'undo') {
            const record = await db('change_record').where({ kind: 'change' }).orderBy('id', 'desc').first();
            if (record)
              await undoFinish(db, acting(), { recordId: record.id, reason: '' }).catch((error: unknown) =>
                expect(error).toBeInstanceOf(UserError),
              );
          } else if (last) {
            const before = await shelf(db);
            await last();
            expect(await shelf(db)).toEqual(before);
          }
          const now = await shelf(db);
          expect(await replayed(db)).toEqual(now);
          expect(Math.min(0, ...Object.values(now))).toBe(0);
          // What was brought is on the shelf, used or binned.
          const gone = await db('stock_move as m')
            .join('lot as l', 'l.id', 'm.lot_id')
            .leftJoin('stock_move as r', 'r.id', 'm.reverses_id')
            .select('m.quantity', 'l.form', 'm.kind', 'r.kind as reversed');
          const away = gone
            .filter((m) => ['use', 'scrap'].includes(m.kind) || ['use', 'scrap'].includes(m.reversed))
            .reduce((sum, m) => sum - m.quantity * (m.form === 'half' ? 1 : 2), 0);
          expect(halves(now, perSet) + away).toBe(brought);
        }
      } finally {
        await db.destroy();
      }
    }),
    { numRuns: 12 },
  );
}, 120_000);

it('the shelf list says what lies there by form, of one place or of all', async () => {
  const { db, setIds } = await smallProgramme();
  const line = async (place: number | null) =>
    (await shelfLines(db, place)).find((l) => l.productId === setIds.get('KIT-F'));
  expect(await line(null)).toMatchObject({ kind: 'set', sets: 1, opened: 0 });
  await db('place').insert({ name: 'Annex', is_store: false });
  expect(await line(2)).toMatchObject({ sets: 0 });
  await db.destroy();
});
