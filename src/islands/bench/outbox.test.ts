import fc from 'fast-check';
import { expect, it } from 'vitest';
import { type Delivery, Outbox, type Parcel } from './outbox';

function memory(): Pick<Storage, 'getItem' | 'setItem' | 'removeItem'> {
  const kept = new Map<string, string>();
  return {
    getItem: (name) => kept.get(name) ?? null,
    setItem: (name, value) => void kept.set(name, value),
    removeItem: (name) => void kept.delete(name),
  };
}
const parcel = (n: number): Parcel => ({
  key: `k${n}`,
  body: { step: `s${n}`, outcome: 'done', note: '', cursor: `s${n + 1}` },
});
const noWait = () => Promise.resolve();

it('delivers each answer once and in order, through lost answers and a reload in between', async () => {
  await fc.assert(
    fc.asyncProperty(
      fc.array(fc.constantFrom('taken', 'lost', 'silent'), { maxLength: 30 }),
      fc.integer({ min: 1, max: 8 }),
      async (fates, count) => {
        const store = memory();
        const server: string[] = [];
        let calls = 0;
        const deliver = async (p: Parcel): Promise<Delivery> => {
          const fate = fates[calls++] ?? 'taken';
          if (fate === 'silent') return 'no-answer';
          // The server keeps a key once, whatever becomes of its answer.
          if (!server.includes(p.key)) server.push(p.key);
          return fate === 'lost' ? 'no-answer' : 'taken';
        };
        const before = new Outbox(store, 'box', deliver, () => {}, noWait);
        for (let n = 0; n < count; n++) before.add(parcel(n));
        const after = new Outbox(store, 'box', deliver, () => {}, noWait);
        await Promise.all([before.flush(), after.flush()]);
        expect(server).toEqual(Array.from({ length: count }, (_, n) => `k${n}`));
        expect(store.getItem('box')).toBeNull();
      },
    ),
    { numRuns: 50 },
  );
});

it('drops what the server refuses for good and goes on with the rest', async () => {
  const taken: string[] = [];
  const box = new Outbox(
    memory(),
    'box',
    async (p) => {
      if (p.key === 'k0') return 'refused';
      taken.push(p.key);
      return 'taken';
    },
    () => {},
    noWait,
  );
  box.add(parcel(0));
  box.add(parcel(1));
  await box.flush();
  expect(taken).toEqual(['k1']);
  expect(box.waiting).toEqual([]);
});

it('sends on when the browser keeps nothing, or kept something else', async () => {
  const taken: string[] = [];
  const forbidden = {
    getItem: () => '{"not": "a list"}',
    setItem: () => {
      throw new DOMException('full', 'QuotaExceededError');
    },
    removeItem: () => undefined,
  };
  const box = new Outbox(
    forbidden,
    'box',
    async (p) => {
      taken.push(p.key);
      return 'taken';
    },
    () => {},
    noWait,
  );
  box.add(parcel(0));
  await box.flush();
  expect(taken).toEqual(['k0']);
});
