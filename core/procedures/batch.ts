import type { Build } from '../instruments/build';
import { batchKey } from './together';
import type { Method } from './types';

/** An instrument in a day's work, as far as its place in the order needs it. */
export interface Workpiece {
  tag: string;
  build: Pick<Build, 'family' | 'bridge' | 'tailEnd' | 'tuner' | 'extras'>;
  method: Pick<Method, 'atATime'>;
  dueOn: string;
  urgent: boolean;
  minutes: number;
  /** It is looked at, and nothing of it changed. */
  look?: boolean;
}

export interface Batch<T extends Workpiece> {
  /** Pieces that can go through the phases together; a floating bridge stands alone. */
  pieces: T[];
  way: 'look' | 'phase-by-phase' | 'string-by-string' | 'alone';
  minutes: number;
}

/**
 * The day's instruments in working order: those with the same parts and method together, so that a phase can be done on
 * all of them before the next; the batch with the most urgent piece first, within a batch the most urgent first.
 */
export function batchesOf<T extends Workpiece>(pieces: readonly T[]): Batch<T>[] {
  const groups = new Map<string, T[]>();
  for (const piece of pieces) {
    const key = piece.look ? 'look' : batchKey(piece.build, piece.method, piece.tag);
    groups.set(key, [...(groups.get(key) ?? []), piece]);
  }
  const byNeed = (a: T, b: T) =>
    Number(b.urgent) - Number(a.urgent) || (a.dueOn < b.dueOn ? -1 : a.dueOn > b.dueOn ? 1 : a.tag < b.tag ? -1 : 1);
  const batches = [...groups.values()].map((group): Batch<T> => {
    const sorted = [...group].sort(byNeed);
    const [first] = sorted as [T];
    const way = first.look
      ? 'look'
      : first.build.bridge === 'floating'
        ? 'alone'
        : first.method.atATime === 1
          ? 'string-by-string'
          : 'phase-by-phase';
    return { pieces: sorted, way, minutes: sorted.reduce((sum, p) => sum + p.minutes, 0) };
  });
  return batches.sort((a, b) => byNeed(a.pieces[0] as T, b.pieces[0] as T));
}

/**
 * Minutes for a string change where no procedure gives them: removing, fitting and tuning of each string and the
 * set-up. Common practice, no source.
 */
export function usualMinutes(p: { positions: number; bridge: Build['bridge'] }): number {
  return p.positions * (p.bridge === 'floating' ? 6 : 3.5) + 8;
}
