import type { Build } from '../instruments/build';
import { comesLoose } from '../parts/tailEnds';
import { sectionsOf } from './sections';
import type { Method, Phase, Procedure, Step } from './types';

/** An instrument of a batch with its card. */
export interface Piece {
  id: number;
  build: Pick<Build, 'family' | 'bridge' | 'tailEnd' | 'tuner' | 'extras'>;
  procedure: Pick<Procedure, 'method' | 'steps' | 'kind'>;
}

/** Work on one instrument that is done before the next is taken in hand. */
export interface Stint {
  pieceId: number;
  /** Phases it covers, in order, each once. */
  phases: Phase[];
  /** Keys of its steps, in order. */
  steps: string[];
}

/** Minutes to put one instrument aside and have the next before one. Common practice, no source. */
export const HANDLING_MINUTES = 0.25;
/** Minutes to get from one kind of work into another: clear the place, find the way of it. Common practice, no source. */
export const PHASE_MINUTES = 0.4;
/** Minutes to lay a tool down and take up another. Common practice, no source. */
export const TOOL_MINUTES = 0.2;

/** Pieces that can share phases have the same parts and way of working; a floating bridge shares with none. */
export function batchKey(
  build: Omit<Piece['build'], 'extras'>,
  method: Pick<Method, 'atATime'>,
  alone: string,
): string {
  return build.bridge === 'floating'
    ? `alone/${alone}`
    : [build.family, build.tailEnd, build.tuner, method.atATime].join('/');
}

interface Block {
  phases: Phase[];
  steps: Step[];
  /** Whether the instrument must not be put aside after it. */
  holds: boolean;
}

/** The sections of a card as blocks; those in which a bridge or tailpiece hangs loose cannot be left for another. */
function blocksOf(piece: Piece): Block[] {
  let loose = false;
  return sectionsOf(piece.procedure).map(({ steps }) => {
    const phases = [...new Set(steps.map((s) => s.phase))];
    if (comesLoose(piece.build) && phases.includes('slacken')) loose = true;
    if (phases.includes('near-pitch')) loose = false;
    return { phases, steps, holds: loose };
  });
}

/** Tools in use in a block; what is only laid out beforehand is not in the hand. */
const toolsOf = (block: Block | undefined): Set<string> =>
  new Set(block?.steps.flatMap((s) => (s.phase === 'prepare' ? [] : (s.tools ?? []))) ?? []);

/** Minutes to get into a block after another: none where the same work goes on with the next strings. */
function setUp(from: Block | undefined, to: Block): number {
  if (from && to.phases.every((phase) => from.phases.includes(phase))) return 0;
  const known = toolsOf(from);
  return PHASE_MINUTES + TOOL_MINUTES * [...toolsOf(to)].filter((t) => !known.has(t)).length;
}

export interface WorkOrder {
  stints: Stint[];
  /** Minutes saved against doing one instrument after the other. */
  savedMinutes: number;
}

/**
 * The order in which a batch is worked that costs least in getting into each kind of work and in putting instruments aside. Pieces of
 * the same parts and method go through blocks of phases together. Where one block ends and the next begins is the
 * cheapest cut by dynamic programming: a block of one phase is got into once for all, a longer block again for
 * each instrument, but each block hands every instrument over once. A floating bridge is never left in between, nor a
 * tailpiece that hangs loose before its first string holds.
 */
export function workOrder(pieces: readonly Piece[]): WorkOrder {
  const groups = new Map<string, Piece[]>();
  for (const piece of pieces) {
    const key = `${batchKey(piece.build, piece.procedure.method, String(piece.id))}/${piece.procedure.kind}`;
    groups.set(key, [...(groups.get(key) ?? []), piece]);
  }
  const stints: Stint[] = [];
  let savedMinutes = 0;
  for (const group of groups.values()) {
    const cards = group.map(blocksOf);
    const first = cards[0] as Block[];
    const alike = cards.every(
      (c) => c.length === first.length && c.every((b, i) => b.phases.join() === first[i]?.phases.join()),
    );
    const cut = group.length > 1 && alike ? cheapestCut(first, group.length) : { ends: [first.length], saved: 0 };
    if (!alike) {
      // Cards that differ in their phases are worked one after the other.
      for (const [i, piece] of group.entries()) stints.push(stintOf(piece, cards[i] as Block[]));
      continue;
    }
    savedMinutes += cut.saved;
    let from = 0;
    for (const end of cut.ends) {
      for (const [i, piece] of group.entries()) stints.push(stintOf(piece, (cards[i] as Block[]).slice(from, end)));
      from = end;
    }
  }
  return { stints, savedMinutes };
}

const stintOf = (piece: Piece, blocks: readonly Block[]): Stint => ({
  pieceId: piece.id,
  phases: [...new Set(blocks.flatMap((b) => b.phases))],
  steps: blocks.flatMap((b) => b.steps.map((s) => s.key)),
});

/** Ends of the blocks that cost least over n pieces, and the minutes saved against one block for all. */
function cheapestCut(sections: readonly Block[], n: number): { ends: number[]; saved: number } {
  const setUps = sections.map((s, i) => setUp(sections[i - 1], s));
  const cost = (from: number, end: number): number =>
    n * HANDLING_MINUTES +
    // Strings that go through all phases before the next are touched are several kinds of work by themselves.
    (end - from === 1 && sections[from]?.phases.length === 1
      ? (setUps[from] as number)
      : n * setUps.slice(from, end).reduce((a, b) => a + b, 0));
  const best: { cost: number; from: number }[] = [{ cost: 0, from: 0 }];
  for (let end = 1; end <= sections.length; end++) {
    let found = { cost: Number.POSITIVE_INFINITY, from: 0 };
    for (let from = 0; from < end; from++) {
      if (from > 0 && sections[from - 1]?.holds) continue;
      const total = (best[from]?.cost ?? Number.POSITIVE_INFINITY) + cost(from, end);
      // Of equals the one with fewer hand-overs.
      if (total < found.cost - 1e-9) found = { cost: total, from };
    }
    best.push(found);
  }
  const ends: number[] = [];
  for (let at = sections.length; at > 0; at = best[at]?.from ?? 0) ends.unshift(at);
  return { ends, saved: cost(0, sections.length) - (best[sections.length]?.cost ?? 0) };
}
