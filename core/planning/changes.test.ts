import fc from 'fast-check';
import { expect, it } from 'vitest';
import { type Placed, planChanges, sayChange } from './changes';

const names = {
  person: (id: number) => ['', 'Ida', 'Tam'][id] ?? '',
  place: (id: number) => ['', 'the Harbour Store', 'Tarn Hall'][id] ?? '',
  day: (on: string) => on,
  job: (j: { tag: string }) => j.tag,
};
const at = (tag: string, personId: number, on: string, placeId = 1, learnerId: number | null = null): Placed => ({
  tag,
  kind: 'change',
  personId,
  placeId,
  on,
  learnerId,
});

it('tells each person by session what is new, where it was, and what they do not have any more', () => {
  const before = [at('A', 1, 'Mon'), at('B', 2, 'Mon'), at('C', 1, 'Tue', 2), at('D', 1, 'Wed')];
  const after = [at('A', 1, 'Mon'), at('B', 1, 'Mon'), at('N', 1, 'Mon'), at('C', 1, 'Wed', 2), at('D', 1, 'Wed')];
  const said = planChanges(before, after).map((p) => p.sessions.map((s) => sayChange(s, p.personId, names)));
  expect(said).toEqual([
    [
      'Mon at the Harbour Store, 3 tasks, two new: B (was with Tam), N',
      'Tue at Tarn Hall: nothing left; was C (now Wed)',
      'Wed at Tarn Hall, 1 task, new: C (was Tue)',
    ],
    ['Mon at the Harbour Store: nothing left; was B (now Ida)'],
  ]);
  expect(planChanges([], [at('A', 1, 'Mon', 1, 2)])[1]).toMatchObject({ personId: 2, watches: [{ tag: 'A' }] });
});

const plans = fc.uniqueArray(
  fc.record({
    tag: fc.constantFrom('A', 'B', 'C', 'D', 'E'),
    kind: fc.constant('change' as const),
    personId: fc.integer({ min: 1, max: 3 }),
    placeId: fc.integer({ min: 1, max: 2 }),
    on: fc.constantFrom('2026-03-02', '2026-03-03'),
    learnerId: fc.constant(null),
  }),
  { selector: (p) => p.tag },
);

it('says nothing of a plan that is the same, and each job that changes once as new and once as gone', () => {
  fc.assert(
    fc.property(plans, plans, (before, after) => {
      expect(planChanges(before, before)).toEqual([]);
      const changes = planChanges(before, after).flatMap((p) => p.sessions);
      const added = changes.flatMap((s) => s.added.map((j) => j.tag));
      const gone = changes.flatMap((s) => s.gone.map((j) => j.tag));
      expect(new Set(added).size).toBe(added.length);
      expect(new Set(gone).size).toBe(gone.length);
      // What was, without what is gone and with what is new, is what will be.
      const tags = (plan: readonly Placed[]) => plan.map((p) => p.tag);
      expect([...tags(before).filter((t) => !gone.includes(t)), ...added].sort()).toEqual(tags(after).sort());
    }),
  );
});
