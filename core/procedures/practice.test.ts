import fc from 'fast-check';
import { expect, it } from 'vitest';
import { everyBuild, stringsFor } from '../../tests/support/builds';
import type { Build } from '../instruments/build';
import { tightens } from '../winding/post';
import { composeProcedure } from './compose';
import { HOUSE_METHODS, workingOrder } from './method';
import { isPractised, practiceOf } from './practice';

const builds = [...everyBuild()];
function practised(build: Build, seed: number) {
  const made = composeProcedure(build, HOUSE_METHODS[build.family], stringsFor(build), { led: true });
  if ('gaps' in made) throw new Error(made.gaps.map((g) => g.needs).join(' '));
  const order = workingOrder(build, build.positions, made.procedure.method.order);
  return { procedure: made.procedure, screens: practiceOf(build, made.procedure, order, seed) };
}

it('asks of every build what has one right answer, among others that differ, and never says it in the question', () => {
  fc.assert(
    fc.property(fc.nat(builds.length - 1), fc.nat(), (i, seed) => {
      const build = builds[i] as Build;
      const { procedure, screens } = practised(build, seed);
      const questions = screens.flatMap((s) => s.question ?? []);
      expect(questions.length).toBeGreaterThanOrEqual(5);
      expect(new Set(questions.map((q) => q.asks)).size).toBe(questions.length);
      // All of the card is gone through, each step once.
      const keys = screens.flatMap((s) => s.screen.steps.map((x) => x.key));
      expect([...keys].sort()).toEqual(procedure.steps.map((s) => s.key).sort());
      for (const q of questions) {
        expect(q.options.length).toBeGreaterThan(1);
        expect(new Set(q.options).size).toBe(q.options.length);
        const right = q.options[q.right] as string;
        expect(q.asks).not.toContain(right);
        // No place of an unfilled number.
        expect(`${q.asks} ${q.options.join(' ')}`).not.toMatch(/\{|\}/);
      }
    }),
    { numRuns: 60 },
  );
});

it('takes the way a post turns from where that is computed, on the left hand too', () => {
  for (const build of builds.filter((b) => b.head === 'split-sides' && b.tuner === 'plain-post').slice(0, 40)) {
    const asked = practised(build, 7).screens.flatMap(({ screen, question }) =>
      question?.asks.startsWith('Seen from the front') ? [{ screen, question }] : [],
    );
    expect(asked.length).toBeGreaterThan(0);
    for (const { screen, question } of asked) {
      const last = screen.steps.filter((s) => s.id === 'fit-post.wind').at(-1);
      const side = build.positions.find((p) => p.number === last?.positions[0])?.side ?? 'bass';
      expect(question.options[question.right]).toContain(tightens(build.head, side, build.handedness));
    }
  }
});

it('puts the right answer anywhere, and counts a card when most was right (common practice, no source)', () => {
  const build = builds[0] as Build;
  const places = Array.from(
    { length: 30 },
    (_, seed) => practised(build, seed).screens.find((s) => s.question)?.question?.right,
  );
  expect(new Set(places).size).toBeGreaterThan(1);
  expect(practised(build, 3).screens).toEqual(practised(build, 3).screens);
  expect([
    isPractised({ asked: 10, right: 8 }),
    isPractised({ asked: 10, right: 7 }),
    isPractised({ asked: 2, right: 2 }),
  ]).toEqual([true, false, false]);
});
