import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { stringsFor } from '../../tests/support/builds';
import { defaultBuild } from '../instruments/defaults';
import { depart, NoReasonError } from './choices';
import { composeProcedure } from './compose';
import { applyHouse, type House, newHouse, problemsOf } from './houseMethod';
import { HOUSE_METHODS } from './method';
import { fillText } from './quantities';
import { compareLoads, compareWinds } from './schools';
import { sectionsOf } from './sections';
import { compareSlack, endPullN } from './slackSchools';
import type { StringToFit } from './types';

const steel = defaultBuild('steel-acoustic', '4/4');
const violin = defaultBuild('violin', '4/4');
const strings = stringsFor(steel);
const composed = (build = steel) => {
  const result = composeProcedure(build, HOUSE_METHODS[build.family], stringsFor(build));
  if (!('procedure' in result)) throw new Error('no procedure');
  return result.procedure;
};
const house = (more: Partial<House>): House => ({ ...newHouse('steel-acoustic'), ...more });

describe('house words and steps', () => {
  const wording = { 'fit-post.thread': { title: 'Take {string} back by {slack}.', detail: 'Our way.' } };
  it('replace the usual ones with this instrument’s numbers, and never its cautions or checks', () => {
    const before = composed();
    const after = applyHouse(steel, before, { wording, steps: [] });
    const step = after.steps.find((s) => s.id === 'fit-post.thread');
    expect(
      fillText(step?.title ?? '', step?.numbers)
        .map((p) => p.text)
        .join(''),
    ).toBe('Take E2 (string 6, bass side) back by 36 mm.');
    expect(after.steps.map((s) => [s.cautions, s.check, s.gate])).toEqual(
      before.steps.map((s) => [s.cautions, s.check, s.gate]),
    );
  });

  it('fall back to the usual words where a number is not there', () => {
    const odd = applyHouse(steel, composed(), {
      wording: { 'fit-post.thread': { title: 'Take {string} {nothing}.' } },
      steps: [],
    });
    expect(odd.steps.find((s) => s.id === 'fit-post.thread')?.title).toContain('Pull E2');
  });

  it('add own steps at the end of their phase, and their minutes', () => {
    const own = {
      id: 'tick',
      phase: 'clean' as const,
      title: 'Tick the list.',
      detail: '',
      reason: 'The list is audited.',
      minutes: 2,
      question: '',
    };
    const before = composed();
    const after = applyHouse(steel, before, { wording: {}, steps: [own] });
    const at = after.steps.findIndex((s) => s.id === 'house.tick');
    expect(after.steps[at - 1]?.phase).toBe('clean');
    expect(after.steps[at + 1]?.phase).not.toBe('clean');
    expect(after.minutes).toBeCloseTo(before.minutes + 2, 9);
  });

  it('are refused with what to do: unknown numbers, no string named, unsafe ways of working', () => {
    const problems = (h: Partial<House>) => problemsOf(steel, house(h), strings).join('\n');
    expect(problems({})).toBe('');
    expect(problems({ wording })).toBe('');
    expect(problems({ wording: { 'fit-post.thread': { title: 'Take {string} {turns}.' } } })).toContain(
      '{slack}, {winds}',
    );
    expect(problems({ wording: { 'fit-post.thread': { title: 'Take it back.' } } })).toContain('put {string} in it');
    expect(problems({ wording: { 'no.step': { title: 'x' } } })).toContain('no.step');
    const all = { ...newHouse('violin'), method: { ...HOUSE_METHODS.violin, atATime: 'all' as const } };
    expect(problemsOf(violin, all, stringsFor(violin)).join()).toMatch(
      /All off at once: .*0 %.*Change one string at a time/,
    );
  });
});

describe('sections for a card', () => {
  it('keep the working order, and never gather what would slacken a floating bridge', () => {
    for (const build of [steel, violin, defaultBuild('ukulele', 'concert'), defaultBuild('mandolin', '4/4')]) {
      const procedure = composed(build);
      const sections = sectionsOf(procedure);
      expect(sections.flatMap((s) => s.steps)).toEqual(procedure.steps);
      const groups = sections.filter((s) => s.phase === null);
      expect(groups.length).toBe(procedure.method.atATime === 'all' ? 0 : build.positions.length);
      for (const s of groups) {
        expect(new Set(s.steps.flatMap((x) => x.positions)).size).toBe(1);
        expect(s.steps.some((x) => x.id === 'near-pitch.string')).toBe(true);
      }
    }
  });
});

describe('the schools side by side', () => {
  it('turn each rule into mm, turns and a verdict, and mark the house’s', () => {
    const rows = compareSlack(steel, HOUSE_METHODS['steel-acoustic'], strings[0] as StringToFit);
    expect(rows.filter((r) => r.isHouse).map((r) => r.id)).toEqual(['fret']);
    expect(rows.find((r) => r.id === 'fret')).toMatchObject({ verdict: 'good', coils: 2 });
    for (const r of rows) if (r.verdict !== 'good') expect(r.advice.length).toBeGreaterThan(10);
  });

  it('a locked end takes longer to take off next time, and is not offered where a lock holds already', () => {
    const rows = compareWinds(steel, HOUSE_METHODS['steel-acoustic'], strings);
    const minutes = (v: string) => rows.find((r) => r.value === v)?.removalMinutes as number;
    expect(minutes('self-lock')).toBeGreaterThan(minutes('one-over'));
    const locking = { ...steel, tuner: 'locking-thumbwheel' as const };
    expect(compareWinds(locking, HOUSE_METHODS['steel-acoustic'], strings).map((r) => r.value)).toEqual([
      'spiral-down',
    ]);
  });

  it('refuse to leave a floating bridge without pull, and say so', () => {
    const rows = compareLoads(violin, HOUSE_METHODS.violin, stringsFor(violin));
    expect(rows.map((r) => r.refused !== null)).toEqual([true, true, true, false]);
    expect(compareLoads(steel, HOUSE_METHODS['steel-acoustic'], strings).every((r) => r.refused === null)).toBe(true);
  });

  it('each turn leaves e^(−0.3π) of the pull to hold (capstan equation)', () => {
    fc.assert(
      fc.property(fc.double({ min: 1, max: 300, noNaN: true }), fc.double({ min: 0, max: 6, noNaN: true }), (t, n) => {
        expect(endPullN(t, n + 1) / endPullN(t, n)).toBeCloseTo(0.38966, 4);
      }),
    );
  });

  it('a departure wants a reason', () => {
    const method = HOUSE_METHODS['steel-acoustic'];
    expect(() => depart(method, { winds: 'self-lock' }, ' ')).toThrow(NoReasonError);
    expect(depart(method, { winds: 'self-lock' }, 'stage guitar').differs).toEqual(['the winds']);
    expect(depart(method, {}, '').differs).toEqual([]);
  });
});
