import fc from 'fast-check';
import { expect, it } from 'vitest';
import { everyBuild, stringsFor } from '../../tests/support/builds';
import type { Build } from '../instruments/build';
import { defaultBuild } from '../instruments/defaults';
import { composeProcedure } from './compose';
import { gateProblems } from './gate';
import { HOUSE_METHODS } from './method';

const steel = defaultBuild('steel-acoustic', '4/4');
const facts = (build: Build, method = HOUSE_METHODS[build.family]) => {
  const strings = stringsFor(build);
  const composed = composeProcedure(build, method, strings);
  if (!('procedure' in composed)) throw new Error('no procedure');
  const { steps } = composed.procedure;
  return { steps, strings, answers: [], drops: new Map<number, number[]>(), rounds: method.stretchRounds };
};
const done = (step: string) => ({ step, outcome: 'done' as const });

it('opens every gate of every build when what comes before is done, and none before that', () => {
  const builds = [...everyBuild(['right'])];
  fc.assert(
    fc.property(
      fc.nat(builds.length - 1),
      fc.constantFrom('before-winding', 'after-first-tension', 'when-settled'),
      (index, when) => {
        const build = builds[index] as Build;
        const f = facts(build, { ...HOUSE_METHODS[build.family], trim: { when, leaveMm: 5 } });
        for (const [i, step] of f.steps.entries()) {
          if (!step.gate) continue;
          expect(gateProblems(step.key, f), step.key).not.toEqual([]);
          expect(gateProblems(step.key, { ...f, answers: f.steps.slice(0, i).map((s) => done(s.key)) })).toEqual([]);
        }
      },
    ),
    { numRuns: 40 },
  );
});

it('is not opened by a skip, nor while a string still gives', () => {
  const f = facts(steel);
  const upTo = f.steps.filter((s) => s.phase !== 'trim').map((s) => done(s.key));
  const skipped = [
    ...upTo.filter((a) => a.step !== 'stretch.rounds'),
    { step: 'stretch.rounds', outcome: 'skipped' as const, because: 'Two days to settle before use' },
  ];
  expect(gateProblems('trim.ends', { ...f, answers: skipped })).toEqual([
    'Skipped (two days to settle before use), so not stretched and settled yet.',
  ]);
  const giving = new Map([[2, [120]]]);
  expect(gateProblems('trim.ends', { ...f, answers: upTo, drops: giving })).toEqual([
    expect.stringMatching(/^String 2: 120 cents/),
  ]);
  const settled = new Map([[2, [120, 40, 6]]]);
  expect(gateProblems('trim.ends', { ...f, answers: upTo, drops: settled })).toEqual([]);
});
