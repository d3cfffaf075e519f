import fc from 'fast-check';
import { expect, it } from 'vitest';
import { generatedProgramme } from '../../tests/reference/plan/generate';
import { brokenRules } from './check';
import { movedTogether } from './move';
import { quickPlan } from './quick';

it('several jobs go all or none: what is moved breaks no rule, what is refused says why and moves nothing', () => {
  let moved = 0;
  let refused = 0;
  fc.assert(
    fc.property(
      fc.integer({ min: 1, max: 40 }),
      fc.nat(9999),
      fc.array(fc.nat(59), { minLength: 1, maxLength: 5 }),
      (seed, at, picked) => {
        const p = generatedProgramme(60, seed);
        const plan = quickPlan(p);
        const which = [...new Set(picked)];
        // Where one of them could be, for a third of the tries: else hardly anything may go anywhere.
        const own = p.shifts.flatMap((s, i) => (s.site === p.jobs[which[0] ?? 0]?.site ? [i] : []));
        const shift = at % 3 === 0 ? (at % (p.shifts.length + 1)) - 1 : (own[at % Math.max(1, own.length)] ?? -1);
        const before = plan.slice();
        const next = movedTogether(p, plan, which, shift);
        expect(plan).toEqual(before);
        if (next.broken.length > 0) {
          refused += 1;
          expect(next.plan).toEqual(before);
          expect(next.broken.every((b) => b.says.length > 0)).toBe(true);
          return;
        }
        moved += 1;
        expect(brokenRules(p, next.plan)).toEqual([]);
        next.plan.forEach((s, i) => {
          expect(s).toBe(which.includes(i) ? shift : before[i]);
        });
      },
    ),
    { numRuns: 300 },
  );
  expect(Math.min(moved, refused)).toBeGreaterThan(20);
});
