import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { type Build, FAMILIES, SIZES } from '../instruments/build';
import { defaultBuild } from '../instruments/defaults';
import { composeProcedure, workingOrder } from './compose';
import { HOUSE_METHODS } from './method';
import { MISTAKES } from './reference';
import { type Method, PHASES, type Procedure, type StringToFit } from './types';
import { fillText } from './words';

/** Strings with plausible gauges for a build: wound below, plain above. */
function stringsFor(build: Build, half = false): StringToFit[] {
  const nylon = build.family === 'ukulele' || build.family === 'classical';
  return build.positions.map((p, i) => {
    const gaugeMm = 1.3 - i * 0.18;
    const wound = !nylon && i < build.positions.length - 2;
    return {
      number: p.number,
      name: `a string ${p.note}`,
      gaugeMm,
      coreMm: wound ? gaugeMm * 0.4 : gaugeMm,
      core: nylon ? 'nylon' : 'steel',
      wound,
      massKgPerM: 0.002,
      lengthMm: 1300,
      half,
    };
  });
}

const steel = defaultBuild('steel-acoustic', '4/4');
const uke = defaultBuild('ukulele', 'concert');

function composed(build: Build, method: Method, strings = stringsFor(build)): Procedure {
  const result = composeProcedure(build, method, strings);
  if (!('procedure' in result)) throw new Error(result.gaps.map((g) => g.needs).join());
  return result.procedure;
}

const methods: fc.Arbitrary<Method> = fc.record({
  atATime: fc.constantFrom(...(['all', 1, 2, 3] as const)),
  order: fc.constantFrom('thick-to-thin', 'thin-to-thick', 'outer-inward', 'number-down'),
  slack: fc.oneof(
    fc.record({ kind: fc.constant('first-fret' as const), times: fc.double({ min: 0.5, max: 2, noNaN: true }) }),
    fc.record({ kind: fc.constant('post-spacings' as const), spacings: fc.double({ min: 0.5, max: 2, noNaN: true }) }),
    fc.record({ kind: fc.constant('length' as const), mm: fc.double({ min: 10, max: 80, noNaN: true }) }),
  ),
  slackPlain: fc.constant(null),
  winds: fc.constantFrom('one-over', 'spiral-down', 'self-lock'),
  hole: fc.constantFrom('across', 'along', 'angled'),
  trim: fc.record({ when: fc.constantFrom('after-first-tension', 'when-settled'), leaveMm: fc.constantFrom(0, 5, 10) }),
  stretchRounds: fc.integer({ min: 1, max: 4 }),
});

describe('the composer', () => {
  it('keeps the rules of the trade for every method of both builds', () => {
    fc.assert(
      fc.property(
        methods,
        fc.constantFrom(steel, uke, { ...steel, handedness: 'left' as const }),
        fc.boolean(),
        (method, build, half) => {
          const { steps } = composed(build, method, stringsFor(build, half));
          const at = (id: string, n: number) => steps.findIndex((s) => s.id === id && s.positions.includes(n));
          const first = (phase: string) => steps.findIndex((s) => s.phase === phase);
          const tail = build === uke ? 'fit-tail.uke-tie' : 'fit-tail.pin';
          for (const { number } of build.positions) {
            const order = [
              at('slacken.posts', number),
              at('remove.post', number),
              at(tail, number),
              at('fit-post.thread', number),
              at('fit-post.wind', number),
              at('near-pitch.string', number),
            ];
            expect(Math.min(...order)).toBeGreaterThanOrEqual(0);
            expect([...order].sort((a, b) => a - b)).toEqual(order);
          }
          // Trimming comes after every stretch, is gated, and is known as final.
          const trim = steps.find((s) => s.phase === 'trim');
          expect(first('trim')).toBeGreaterThan(first('stretch'));
          expect(trim).toMatchObject({ undoable: false });
          expect(trim?.check).toBeDefined();
          // No more strings are off at once than the method allows.
          let off = new Set<number>();
          for (const step of steps) {
            if (step.phase === 'remove') off = new Set([...off, ...step.positions]);
            if (step.phase === 'near-pitch') for (const n of step.positions) off.delete(n);
            if (method.atATime !== 'all') expect(off.size).toBeLessThanOrEqual(method.atATime);
          }
          expect(new Set(steps.map((s) => s.key)).size).toBe(steps.length);
        },
      ),
      { numRuns: 60 },
    );
  });

  it('fills every number its sentences name and gives a recovery to every check', () => {
    for (const build of [steel, uke]) {
      for (const step of composed(build, HOUSE_METHODS[build.family], stringsFor(build, true)).steps) {
        const text = [step.title, step.detail ?? ''].map((t) =>
          fillText(t, step.numbers)
            .map((p) => p.text)
            .join(''),
        );
        expect(text.join()).not.toMatch(/[{}]|NaN|undefined/);
        if (step.check) expect(MISTAKES[step.check.ifNot].recovery.length).toBeGreaterThan(0);
        expect(PHASES).toContain(step.phase);
      }
    }
  });

  it('names cautions with the tools and materials that call for them', () => {
    for (const build of [steel, uke]) {
      for (const step of composed(build, HOUSE_METHODS[build.family], stringsFor(build, true)).steps) {
        if (step.tools?.includes('cutters') && step.phase !== 'prepare') expect(step.cautions).toContain('cutters');
        if (step.consumables?.includes('board conditioner')) expect(step.cautions).toContain('oil-rags');
        if (step.phase === 'slacken') expect(step.cautions).toContain('hand-over');
      }
    }
  });

  it('mentions only parts the instrument has', () => {
    const words = (build: Build) =>
      JSON.stringify(composed(build, HOUSE_METHODS[build.family]).steps.map((s) => [s.title, s.detail, s.check]));
    const says = (build: Build, what: RegExp) => what.exec(words(build))?.[0];
    expect(says(uke, /\bpins?\b|\bball\b/)).toBeUndefined();
    expect(says(steel, /\btuck|\btie\b/)).toBeUndefined();
    expect(says({ ...steel, fingerboard: 'gloss' }, /Clean the board/)).toBeUndefined();
    expect(says(steel, /Clean the board/)).toBeDefined();
  });

  it('turns posts the other way on a left-handed instrument', () => {
    const turns = (build: Build) =>
      composed(build, HOUSE_METHODS['steel-acoustic'])
        .steps.filter((s) => s.id === 'fit-post.wind')
        .map((s) => /counter-clockwise/.test(s.title));
    expect(turns({ ...steel, handedness: 'left' })).toEqual(turns(steel).map((t) => !t));
  });

  it('says what is missing for a build it has no steps for, and never composes half a procedure', () => {
    let withMethod = 0;
    for (const family of FAMILIES)
      for (const size of SIZES[family]) {
        const build = defaultBuild(family, size);
        const result = composeProcedure(build, HOUSE_METHODS[family], stringsFor(build));
        if ('gaps' in result) expect(result.gaps.every((g) => g.needs.length > 3)).toBe(true);
        else withMethod += 1;
        if (build.bridge === 'floating') expect(result).toHaveProperty('gaps');
      }
    expect(withMethod).toBeGreaterThanOrEqual(7);
    const noTie = composeProcedure({ ...uke, tailEnd: 'uke-slot' }, HOUSE_METHODS.ukulele, stringsFor(uke));
    expect(noTie).toMatchObject({ gaps: [{ capability: 'release-tail' }, { capability: 'seat-tail' }] });
  });

  it('does part of a set and refuses positions that are not there', () => {
    const two = stringsFor(steel).filter((s) => s.number <= 2);
    const { steps } = composed(steel, HOUSE_METHODS['steel-acoustic'], two);
    expect(steps.filter((s) => s.id === 'remove.pin').map((s) => s.positions[0])).toEqual([2, 1]);
    expect(() => composeProcedure(steel, HOUSE_METHODS['steel-acoustic'], [])).toThrow(RangeError);
    expect(() =>
      composeProcedure(steel, HOUSE_METHODS['steel-acoustic'], [{ ...(two[0] as StringToFit), number: 9 }]),
    ).toThrow(RangeError);
  });

  it('orders from outside inwards so that no finished string is in the way', () => {
    expect(workingOrder(steel.positions, 'outer-inward').map((p) => p.number)).toEqual([6, 1, 5, 2, 4, 3]);
  });
});
