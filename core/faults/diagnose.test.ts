import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { everyBuild, stringsFor } from '../../tests/support/builds';
import { defaultBuild } from '../instruments/defaults';
import { composeProcedure } from '../procedures/compose';
import { HOUSE_METHODS } from '../procedures/method';
import { diagnose, symptomsFor } from './diagnose';
import type { FaultFacts } from './types';

const facts = (
  build: FaultFacts['build'],
  more: Partial<FaultFacts> & { hoursOn?: number | null } = {},
): FaultFacts => ({
  build,
  strings: stringsFor(build).map((s) => ({
    ...s,
    hoursOn: more.hoursOn === undefined ? 1000 : more.hoursOn,
    changedKind: null,
    timesBefore: 0,
  })),
  number: null,
  lastMethod: null,
  dryRoom: null,
  turns: null,
  lifeUsed: null,
  ...more,
});
const first = (symptom: string, f: FaultFacts) => diagnose(symptom, f)[0]?.id;

describe('the fault desk', () => {
  it('ranks at least one cause for every symptom of every build, in proportion, and each leads somewhere that exists', () => {
    const builds = [...everyBuild(['right'])];
    fc.assert(
      fc.property(
        fc.nat(builds.length - 1),
        fc.option(fc.double({ min: 0, max: 5000, noNaN: true })),
        fc.option(fc.double({ min: 0, max: 1.5, noNaN: true })),
        fc.option(fc.boolean()),
        (index, hoursOn, lifeUsed, dryRoom) => {
          const build = builds[index] as FaultFacts['build'];
          for (const symptom of symptomsFor(build)) {
            const ranked = diagnose(symptom.id, facts(build, { hoursOn, lifeUsed, dryRoom }));
            expect(ranked.length, symptom.id).toBeGreaterThan(0);
            expect(ranked.reduce((sum, c) => sum + c.share, 0)).toBeGreaterThan(0.85);
            for (const [i, c] of ranked.entries()) {
              if (i > 0) expect(c.share).toBeLessThanOrEqual(ranked[i - 1]?.share as number);
              if (c.next.kind !== 'job') continue;
              const strings = stringsFor(build);
              const some = c.next.job === 'one-string' ? strings.slice(0, 1) : strings;
              expect(composeProcedure(build, HOUSE_METHODS[build.family], some, { kind: c.next.job })).toHaveProperty(
                'procedure',
              );
            }
          }
        },
      ),
      { numRuns: 60 },
    );
  });

  it('says as common practice does (no source)', () => {
    const uke = defaultBuild('ukulele', 'concert');
    const steel = defaultBuild('steel-acoustic', '4/4');
    const violin = defaultBuild('violin', '4/4');
    // New nylon goes flat and it is no fault; after a month it is.
    expect(first('flat-for-days', facts(uke, { hoursOn: 20 }))).toBe('settling');
    expect(first('flat-for-days', facts(uke, { hoursOn: 800 }))).not.toBe('settling');
    expect(first('flat-for-days', facts(steel, { hoursOn: 900, lifeUsed: 1.2 }))).toBe('worn-out');
    expect(first('one-out', facts(uke))).toBe('tail-slips');
    expect(first('open-buzz', facts(defaultBuild('bass-guitar', '4/4'), { turns: 1.4 }))).toBe('little-down-force');
    expect(first('all-slack', facts(violin, { dryRoom: true }))).toBe('dry-air');
    expect(diagnose('all-slack', facts(violin, { dryRoom: true }))[0]?.next).toMatchObject({
      kind: 'job',
      job: 'emergency',
    });
    expect(first('bridge-leans', facts(violin, { hoursOn: 10 }))).toBe('dragged');
  });

  it('knows that one string alone is out of something else, and that no tree holds a bass guitar’s A (no source)', () => {
    const steel = defaultBuild('steel-acoustic', '4/4');
    // The whole set went on yesterday: they would all be settling.
    const alone = diagnose('one-out', facts(steel, { hoursOn: 15, number: 3 }));
    expect(alone[0]?.id).not.toBe('settling');
    expect(alone.find((c) => c.id === 'settling')?.share ?? 0).toBeLessThan(0.2);
    // A single that went on yesterday beside an old set may well be settling.
    const f = facts(steel, { hoursOn: 2000, number: 3 });
    const single = { ...f, strings: f.strings.map((s) => (s.number === 3 ? { ...s, hoursOn: 6 } : s)) };
    expect(diagnose('one-out', single)[0]?.id).toBe('settling');

    const bass = defaultBuild('bass-guitar', '4/4', { extras: ['string-tree'] });
    const a = diagnose('open-buzz', facts(bass, { number: 3 }))[0];
    expect(a?.id).toBe('little-down-force');
    expect(a?.because.join()).not.toContain('tree');
    expect(a?.next.why).toContain('no string tree holds it');
    expect(diagnose('open-buzz', facts(bass, { number: 1 }))[0]?.next.why).toContain('under the string tree');

    // A tree holds the treble side of an electric too.
    const electric = defaultBuild('electric', '4/4', { extras: ['string-tree'] });
    const lowE = diagnose('open-buzz', facts(electric, { number: 6 }));
    expect(lowE.flatMap((c) => c.because).join()).not.toContain('tree');

    // What was found slack: pegs shrink only where there are pegs, and a standing bridge can fall.
    const slack = (family: 'double-bass' | 'violin' | 'steel-acoustic') =>
      diagnose('all-slack', facts(defaultBuild(family, family === 'double-bass' ? '3/4' : '4/4'))).map((c) => c.id);
    expect(slack('double-bass')).not.toContain('dry-air');
    expect(slack('double-bass')).toContain('bridge-fell');
    expect(slack('violin')).toEqual(expect.arrayContaining(['dry-air', 'bridge-fell']));
    expect(slack('steel-acoustic')).not.toContain('bridge-fell');

    const ping = diagnose('ping-bridge', facts(steel, { number: 1, hoursOn: 2 })).find((c) => c.id === 'wrap-slips');
    expect(ping?.next).toMatchObject({ kind: 'nothing', why: expect.stringContaining('Hold the pin down') });
    const leans = diagnose('bridge-leans', facts(defaultBuild('violin', '4/4')));
    expect(leans.map((c) => c.look).join(' ')).toContain('Straighten it first');
  });

  it('sends a string that breaks again and again to a specialist, not to the shelf', () => {
    const steel = defaultBuild('steel-acoustic', '4/4');
    const f = facts(steel, { number: 1 });
    const again = { ...f, strings: f.strings.map((s) => ({ ...s, timesBefore: 2 })) };
    expect(diagnose('breaks-again', again)[0]).toMatchObject({ id: 'sharp-edge', next: { kind: 'referral' } });
    expect(diagnose('breaks-again', f)[0]?.next.kind).toBe('job');
  });

  it('names no part the instrument lacks, and refuses a symptom it cannot have', () => {
    const violin = defaultBuild('violin', '4/4');
    expect(symptomsFor(violin).map((s) => s.id)).not.toContain('pin-rises');
    expect(() => diagnose('pin-rises', facts(violin))).toThrow(RangeError);
    expect(diagnose('ping-bridge', facts(violin)).map((c) => c.id)).not.toContain('slips-at-pin');
  });
});
