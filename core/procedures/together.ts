import type { Build } from '../instruments/build';
import { sectionsOf } from './house';
import type { Method, Phase, Procedure, Step } from './types';

/** An instrument of a batch with its card. */
export interface Piece {
  id: number;
  build: Pick<Build, 'family' | 'bridge' | 'tailEnd' | 'tuner'>;
  procedure: Pick<Procedure, 'method' | 'steps' | 'kind'>;
}

/** Work on one instrument that is done before the next is taken in hand. */
export interface Stretch {
  pieceId: number;
  /** Phases it covers, in order, each once. */
  phases: Phase[];
  /** Keys of its steps, in order. */
  steps: string[];
}

/** Minutes to put one instrument aside and have the next before one. Common practice, no source. */
export const HANDLING_MINUTES = 0.4;
/** Minutes to lay a tool down and take up the one of the next phase. Common practice, no source. */
export const TOOL_MINUTES = 0.3;

/** Pieces that can share phases have the same parts and way of working; a floating bridge shares with none. */
export function batchKey(build: Piece['build'], method: Pick<Method, 'atATime'>, alone: string): string {
  return build.bridge === 'floating'
    ? `alone/${alone}`
    : [build.family, build.tailEnd, build.tuner, method.atATime].join('/');
}

const HANGS: readonly string[] = ['stop-tailpiece', 'stop-tailpiece-wrapped', 'wrap-around'];

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
    if (HANGS.includes(piece.build.tailEnd) && phases.includes('slacken')) loose = true;
    if (phases.includes('near-pitch')) loose = false;
    return { phases, steps, holds: loose };
  });
}

const toolsOf = (steps: readonly Step[]): Set<string> => new Set(steps.flatMap((s) => s.tools ?? []));

/** Tools to take up for a section after another. */
const changes = (from: Block | undefined, to: Block): number => {
  const known = toolsOf(from?.steps ?? []);
  return [...toolsOf(to.steps)].filter((t) => !known.has(t)).length;
};

export interface WorkOrder {
  stretches: Stretch[];
  /** Minutes saved against doing one instrument after the other. */
  savedMinutes: number;
}

/**
 * The order in which a batch is worked that costs least in taking up tools and in putting instruments aside. Pieces of
 * the same parts and method go through blocks of phases together. Where one block ends and the next begins is the
 * cheapest cut by dynamic programming: a block of one phase takes its tools up once for all, a longer block again for
 * each instrument, but each block hands every instrument over once. A floating bridge is never left in between, nor a
 * tailpiece that hangs loose before its first string holds.
 */
export function workOrder(pieces: readonly Piece[]): WorkOrder {
  const groups = new Map<string, Piece[]>();
  for (const piece of pieces) {
    const key = `${batchKey(piece.build, piece.procedure.method, String(piece.id))}/${piece.procedure.kind}`;
    groups.set(key, [...(groups.get(key) ?? []), piece]);
  }
  const stretches: Stretch[] = [];
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
      for (const [i, piece] of group.entries()) stretches.push(stretchOf(piece, cards[i] as Block[]));
      continue;
    }
    savedMinutes += cut.saved;
    let from = 0;
    for (const end of cut.ends) {
      for (const [i, piece] of group.entries())
        stretches.push(stretchOf(piece, (cards[i] as Block[]).slice(from, end)));
      from = end;
    }
  }
  return { stretches, savedMinutes };
}

const stretchOf = (piece: Piece, blocks: readonly Block[]): Stretch => ({
  pieceId: piece.id,
  phases: [...new Set(blocks.flatMap((b) => b.phases))],
  steps: blocks.flatMap((b) => b.steps.map((s) => s.key)),
});

/** Ends of the blocks that cost least over n pieces, and the minutes saved against one block for all. */
function cheapestCut(sections: readonly Block[], n: number): { ends: number[]; saved: number } {
  const tools = sections.map((s, i) => TOOL_MINUTES * changes(sections[i - 1], s));
  const cost = (from: number, end: number): number =>
    n * HANDLING_MINUTES +
    (end - from === 1 ? (tools[from] as number) : n * tools.slice(from, end).reduce((a, b) => a + b, 0));
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
