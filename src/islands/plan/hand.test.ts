import fc from 'fast-check';
import { expect, it } from 'vitest';
import { type Hand, type HandEvent, handOf, heldProblem, inHand, triedProblem } from './hand';

const JOBS = 4;
const plan = (...shifts: number[]) => Int32Array.from(shifts);
const start = (): Hand =>
  handOf({
    plan: plan(0, 0, 1, -1),
    locked: new Set([0]),
    learners: new Map([[1, 0]]),
    weights: { version: 1 } as Hand['weights'],
    basedOn: 7,
  });
const help = { what: { shift: 1, minutes: 30 }, points: 5 } as unknown as Extract<HandEvent, { does: 'tried' }>['help'];
const notice = { text: 'so', bad: false };

const aPlan = fc.array(fc.integer({ min: -1, max: 2 }), { minLength: JOBS, maxLength: JOBS }).map((a) => plan(...a));
const anEvent: fc.Arbitrary<HandEvent> = fc.oneof(
  fc.record({ does: fc.constant('changed' as const), plan: aPlan }),
  fc.record({
    does: fc.constant('changed' as const),
    plan: aPlan,
    absence: fc
      .record({ person: fc.nat(1), day: fc.nat(2), more: fc.nat(2) })
      .map(({ person, day, more }) => ({ person, day, to: day + more })),
  }),
  fc.constantFrom<HandEvent>(
    { does: 'undone', notice },
    { does: 'searched' },
    { does: 'bounded', bound: 3 },
    { does: 'stopped' },
    { does: 'locked', jobs: [1, 2] },
    { does: 'taught', job: 2, who: 1 },
    { does: 'taught', job: 1, who: null },
    { does: 'kept' },
    { does: 'tried', help, notice },
    { does: 'published', planId: 8, told: { told: [], done: [] } },
  ),
  fc.record({
    does: fc.constant('bettered' as const),
    plan: aPlan,
    progress: fc.constant(0.5),
    done: fc.boolean(),
  }),
);

it('changes nothing it was given, whatever is done with the plan', () => {
  fc.assert(
    fc.property(fc.array(anEvent, { maxLength: 30 }), (events) => {
      let hand = start();
      for (const event of events) {
        const before = structuredClone(hand);
        const after = inHand(hand, event);
        expect(hand).toEqual(before);
        hand = after;
      }
    }),
  );
});

it('goes back step by step to where it began, absences with it', () => {
  fc.assert(
    fc.property(fc.array(anEvent, { maxLength: 40 }), (events) => {
      const first = start();
      let hand = events.reduce(inHand, first);
      for (let i = hand.past.length; i > 0; i--) hand = inHand(hand, { does: 'undone', notice });
      expect(hand.plan).toEqual(first.plan);
      expect([...hand.away]).toEqual([]);
    }),
    {
      numRuns: 500,
      examples: [
        [
          [
            { does: 'searched' },
            { does: 'undone', notice },
            { does: 'bettered', plan: plan(1, 1, 1, 1), progress: 0.5, done: false },
          ],
        ],
      ],
    },
  );
});

it('says nothing of another plan that was proven of this one', () => {
  let hand = inHand(start(), { does: 'searched' });
  hand = inHand(hand, { does: 'bounded', bound: 12 });
  expect(hand.bound).toBe(12);
  for (const event of [
    { does: 'changed', plan: plan(1, 1, 1, 1) },
    { does: 'undone', notice },
    { does: 'searched' },
    { does: 'tried', help, notice },
    { does: 'looked', plan: plan(1, 0, 1, 0) },
  ] satisfies HandEvent[])
    expect(inHand(hand, event), event.does).toMatchObject({ bound: null, helps: null });
});

it('hears no more of a search that was stopped', () => {
  const stopped = inHand(inHand(start(), { does: 'searched' }), { does: 'stopped' });
  expect(inHand(stopped, { does: 'bettered', plan: plan(2, 2, 2, 2), progress: 1, done: true })).toBe(stopped);
  expect(inHand(stopped, { does: 'bounded', bound: 1 })).toBe(stopped);
});

it('a plan kept beside is taken back whole: locks, learners and what was tried', () => {
  const tried = inHand(start(), { does: 'tried', help, notice });
  expect(tried.extras.minutes.get(1)).toBe(30);
  const [variant] = tried.kept;
  const changed = [
    { does: 'changed', plan: plan(2, 2, 2, 2) },
    { does: 'locked', jobs: [0] },
    { does: 'taught', job: 1, who: null },
  ].reduce((hand, event) => inHand(hand, event as HandEvent), tried);
  const taken = inHand(changed, { does: 'took', variant: variant as NonNullable<typeof variant> });
  expect(taken).toMatchObject({ plan: plan(0, 0, 1, -1), locked: new Set([0]), learners: new Map([[1, 0]]) });
  expect(taken.extras.minutes.size).toBe(0);
  expect(inHand(taken, { does: 'undone', notice }).plan).toEqual(plan(2, 2, 2, 2));
});

it('a day somebody is away has no minutes, and what is locked stands where it stands now', () => {
  const shifts = [
    { person: 0, day: 0, minutes: 60 },
    { person: 1, day: 0, minutes: 60 },
    { person: 0, day: 1, minutes: 60 },
    { person: 0, day: 2, minutes: 60 },
  ];
  const given = { shifts, stock: [], jobs: Array.from({ length: JOBS }, () => ({ published: null })) };
  const hand = inHand(start(), { does: 'changed', plan: plan(1, 0, 1, 0), absence: { person: 0, day: 0, to: 1 } });
  const tried = triedProblem(given as unknown as Parameters<typeof triedProblem>[0], hand);
  expect(tried.shifts.map((s) => s.minutes)).toEqual([0, 60, 0, 60]);
  expect(heldProblem(tried, hand).jobs.map((j) => [j.locked, j.published])).toEqual([
    [true, 1],
    [false, null],
    [false, null],
    [false, null],
  ]);
});
