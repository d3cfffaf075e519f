import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { defaultBuild } from '../instruments/defaults';
import { usualSet } from '../strings/usual';
import { composeProcedure } from './compose';
import { newHouse } from './houseMethod';
import { sectionsOf } from './sections';
import { HANDLING_MINUTES, PHASE_MINUTES, type Piece, TOOL_MINUTES, workOrder } from './together';
import type { StringToFit } from './types';

const piece = (id: number, family: Parameters<typeof defaultBuild>[0], size: string, take = 99): Piece => {
  const build = defaultBuild(family, size);
  const strings = usualSet(build)
    .slice(0, take)
    .map(({ wrap, ...s }): StringToFit => ({ ...s, name: 'usual', wound: wrap !== null, half: false }));
  const composed = composeProcedure(build, newHouse(family).method, strings);
  if (!('procedure' in composed)) throw new Error(composed.gaps.map((g) => g.needs).join());
  return { id, build, procedure: composed.procedure };
};
const guitar = (id: number) => piece(id, 'steel-acoustic', '4/4');

/** What an order costs, counted step by step: hand-overs, and tools taken up whenever the phase in hand changes. */
function costOf(pieces: readonly Piece[], order: ReturnType<typeof workOrder>): number {
  const sections = sectionsOf((pieces[0] as Piece).procedure);
  const inUse = (i: number) =>
    new Set(sections[i]?.steps.flatMap((x) => (x.phase === 'prepare' ? [] : (x.tools ?? []))) ?? []);
  const phases = (i: number) => [...new Set(sections[i]?.steps.map((x) => x.phase) ?? [])];
  const setUp = (i: number) => {
    const before = inUse(i - 1);
    if (i > 0 && phases(i).every((p) => phases(i - 1).includes(p))) return 0;
    return PHASE_MINUTES + TOOL_MINUTES * [...inUse(i)].filter((t) => !before.has(t)).length;
  };
  const of = (key: string) => sections.findIndex((s) => s.steps.some((x) => x.key === key));
  let total = order.stints.length * HANDLING_MINUTES;
  let laidOut: number | null = null;
  for (const stretch of order.stints) {
    const inIt = [...new Set(stretch.steps.map(of))];
    for (const section of inIt) {
      const once = inIt.length === 1 && phases(section).length === 1;
      if (once && laidOut === section) continue;
      total += setUp(section);
      laidOut = once ? section : null;
    }
  }
  return total;
}

describe('working several instruments together', () => {
  it('keeps every step once and in order on each instrument, and a floating bridge in one piece', () => {
    const kinds = [
      (id: number) => guitar(id),
      (id: number) => piece(id, 'violin', '4/4'),
      (id: number) => piece(id, 'ukulele', 'soprano'),
      (id: number) => piece(id, 'electric', '4/4'),
    ];
    fc.assert(
      fc.property(fc.array(fc.constantFrom(...kinds), { minLength: 1, maxLength: 7 }), (made) => {
        const pieces = made.map((make, i) => make(i));
        const { stints } = workOrder(pieces);
        for (const p of pieces) {
          const own = stints.filter((s) => s.pieceId === p.id);
          expect(own.flatMap((s) => s.steps)).toEqual(p.procedure.steps.map((s) => s.key));
          if (p.build.bridge === 'floating') expect(own).toHaveLength(1);
        }
      }),
      { numRuns: 25 },
    );
  });

  it('goes phase by phase on guitars of one kind, and saves what it says', () => {
    const pieces = [1, 2, 3, 4].map(guitar);
    const order = workOrder(pieces);
    const first = order.stints.slice(0, 4);
    expect(first.map((s) => s.pieceId)).toEqual([1, 2, 3, 4]);
    expect(new Set(first.map((s) => s.phases.join())).size).toBe(1);
    expect(order.stints.length).toBeGreaterThan(8);
    const alone = { savedMinutes: 0, stints: pieces.flatMap((p) => workOrder([p]).stints) };
    expect(order.savedMinutes).toBeGreaterThan(1);
    expect(order.savedMinutes).toBeCloseTo(costOf(pieces, alone) - costOf(pieces, order), 6);
  });

  it('does not leave a tailpiece hanging loose for another instrument', () => {
    const pieces = [1, 2, 3].map((id) => {
      const p = piece(id, 'electric', '4/4');
      return { ...p, build: { ...p.build, tailEnd: 'stop-tailpiece' as const } };
    });
    for (const s of workOrder(pieces).stints)
      if (s.phases.includes('slacken') || s.phases.includes('remove'))
        expect(s.phases).toEqual(expect.arrayContaining(['slacken', 'near-pitch']));
  });

  it('does a ukulele string by string without handing it over between its strings', () => {
    const { stints } = workOrder([1, 2, 3].map((id) => piece(id, 'ukulele', 'soprano')));
    expect(stints.filter((s) => s.phases.includes('slacken'))).toHaveLength(3);
  });

  it('works instruments one after the other where their cards differ', () => {
    const { stints } = workOrder([guitar(1), piece(2, 'steel-acoustic', '4/4', 1)]);
    expect(stints.map((s) => s.pieceId)).toEqual([1, 2]);
  });
});
