import 'fake-indexeddb/auto';
import fc from 'fast-check';
import { expect, it } from 'vitest';
import { inMemory, type Keep, openKeep, type Parcel } from './keep';
import { type Delivery, Outbox } from './outbox';

const parcel = (n: number, jobId = 1): Parcel => ({
  key: `k${n}`,
  jobId,
  tag: 'SK-1',
  kind: 'answer',
  url: '/api',
  body: { step: `s${n}` },
  personId: 1,
  state: 'waiting',
});
const noWait = () => Promise.resolve();
const sent: Delivery = { state: 'sent', answer: null };

/** As a browser's lock does it: one run after the other, over all its pages. */
function oneAtATime() {
  let last: Promise<void> = Promise.resolve();
  return (run: () => Promise<void>) => {
    last = last.then(run);
    return last;
  };
}

it('delivers each answer once and in order, through lost answers, a reload and a second page', async () => {
  await fc.assert(
    fc.asyncProperty(
      fc.array(fc.constantFrom('taken', 'lost', 'silent'), { maxLength: 30 }),
      fc.integer({ min: 1, max: 8 }),
      async (fates, count) => {
        const keep = inMemory();
        const server: string[] = [];
        let calls = 0;
        const deliver = async (p: Parcel): Promise<Delivery> => {
          const fate = fates[calls++] ?? 'taken';
          if (fate === 'silent') return 'no-answer';
          // The server keeps a key once, whatever becomes of its answer.
          if (!server.includes(p.key)) server.push(p.key);
          return fate === 'lost' ? 'no-answer' : sent;
        };
        const arrived: string[] = [];
        const options = {
          keep,
          deliver,
          changed: () => {},
          arrived: (p: Parcel) => arrived.push(p.key),
          wait: noWait,
          alone: oneAtATime(),
        };
        const before = new Outbox(options);
        await Promise.all(Array.from({ length: count }, (_, n) => before.add(parcel(n))));
        const after = new Outbox(options);
        for (const p of await keep.waiting()) after.adopt(p);
        await Promise.all([before.flush(), after.flush()]);
        const keys = Array.from({ length: count }, (_, n) => `k${n}`);
        expect(server).toEqual(keys);
        expect(await keep.waiting()).toEqual([]);
        // Each page hears of what it gave or took over.
        expect(new Set(arrived)).toEqual(new Set(keys));
      },
    ),
  );
});

it('keeps what the server refuses with its reason, and goes on', async () => {
  const keep = inMemory();
  const box = new Outbox({
    keep,
    deliver: async (p) => (p.key === 'k0' ? { state: 'refused', answer: { detail: 'no such step' } } : sent),
    changed: () => {},
    arrived: () => {},
    wait: noWait,
  });
  await Promise.all([box.add(parcel(0)), box.add(parcel(1))]);
  await box.flush();
  await box.flush();
  expect((await keep.all()).map((p) => p.state)).toEqual(['refused', 'sent']);
});

it('puts aside what the server fails on again and again, shows it, and goes on with the rest', async () => {
  const keep = inMemory();
  const asked: string[] = [];
  const arrived: string[] = [];
  const box = new Outbox({
    keep,
    deliver: async (p) => {
      asked.push(p.key);
      return p.key === 'k0' ? { state: 'failed', answer: { status: 500 } } : sent;
    },
    changed: () => {},
    arrived: (p) => arrived.push(`${p.key} ${p.state}`),
    wait: noWait,
  });
  await Promise.all([box.add(parcel(0)), box.add(parcel(1))]);
  await box.flush();
  await box.flush();
  expect(asked).toEqual(['k0', 'k0', 'k0', 'k0', 'k1']);
  expect((await keep.all()).map((p) => p.state)).toEqual(['aside', 'sent']);
  expect(arrived).toEqual(['k0 aside', 'k1 sent']);
  await keep.forget(1);
  // A job that is recorded does not take it along.
  expect((await keep.all()).map((p) => p.key)).toEqual(['k0']);
});

it('tries again at once when the network is back, not after the pause', async () => {
  const keep = inMemory();
  let there = false;
  const box = new Outbox({
    keep,
    deliver: async () => (there ? sent : 'no-answer'),
    changed: () => {},
    arrived: () => {},
    wait: () => new Promise(() => {}),
  });
  await box.add(parcel(0));
  await new Promise((done) => setTimeout(done));
  there = true;
  await box.flush();
  expect(await keep.waiting()).toEqual([]);
});

it.each<[string, () => Promise<Keep>]>([
  ['the database of a browser', openKeep],
  ['memory', async () => inMemory()],
])('%s keeps parcels in order and forgets a job but for what waits, photographs too', async (_, open) => {
  const keep = await open();
  const first = await keep.add(parcel(1, 7));
  await keep.add(parcel(2, 7));
  await keep.add(parcel(3, 8));
  await keep.write(7, 'cursor', 'x');
  const picture = { jobId: 7, step: 's', blob: new Blob(['x']), personId: 1 };
  const arrived = await keep.addPhoto({ ...picture, key: 'p1' });
  await keep.addPhoto({ ...picture, key: 'p2' });
  await keep.sentPhoto(arrived.id as number, 40);
  expect((await keep.photosWaiting()).map((p) => p.key)).toEqual(['p2']);
  expect((await keep.waiting()).map((p) => p.key)).toEqual(['k1', 'k2', 'k3']);
  await keep.mark(first.seq as number, 'sent', { closed: null });
  await keep.forget(7);
  expect((await keep.all()).map((p) => p.key)).toEqual(['k2', 'k3']);
  expect((await keep.read(7)).size).toBe(0);
  // What is on the server goes; what is only here stays.
  expect((await keep.photos(7)).map((p) => p.key)).toEqual(['p2']);
});
