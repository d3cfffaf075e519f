import { type SmallPart, saySmallParts } from '../parts/smallParts';
import type { JobKind } from '../procedures/types';
import { capital } from '../sentence';
import { conditionOf, type InspectionAnswers } from '../wear/condition';

/** What a record says was done, as values; what a set or a string was called then is kept with it. */
export type Done = {
  /** Half strings went on. */
  half?: boolean;
  /** What was put in, or saved, beside strings. */
  small?: readonly { part: SmallPart; used: number; saved: number }[];
  /** Recorded in one press, without its steps. */
  asUsual?: boolean;
} & (
  | { did: 'set'; set: string }
  | { did: 'mixed' }
  /** @property strings what the positions were tuned to */
  | { did: 'some'; strings: readonly string[] }
  | { did: 'off'; numbers: readonly number[] }
  | { did: 'refit' }
  /** Entered later, of work whose day alone is known, or not even that. */
  | { did: 'past'; all: boolean; about: boolean }
  | { did: 'looked'; answers: InspectionAnswers; score: number }
  | { did: 'visited'; kind: JobKind }
  /** @property to whom; empty where nobody was named */
  | { did: 'referred'; to: string }
  /** As it was written before such things were kept as values. */
  | { did: 'words'; text: string }
);

/** Who is asked where nobody is named. */
export const REPAIRER = 'a qualified repairer';

const VISITED: Partial<Record<JobKind, string>> = {
  emergency: 'found slack, back at pitch',
  retune: 'retuned',
  'bridge-check': 'bridge checked',
};

function sayDid(done: Done): string {
  switch (done.did) {
    case 'set':
      return done.set;
    case 'mixed':
      return 'full set, mixed strings';
    case 'some':
      return `${done.strings.join(', ')} only`;
    case 'off':
      return `strings taken off: ${done.numbers.join(', ')}`;
    case 'refit':
      return 'same strings, off and back on';
    case 'past':
      return `${done.about ? 'around that date: ' : ''}${done.all ? 'new strings' : 'some new strings'}, entered later`;
    case 'looked':
      return `inspected: ${conditionOf(done.answers).because}; condition ${done.score} out of 100`;
    case 'visited':
      return VISITED[done.kind] ?? 'inspected';
    case 'referred':
      return `stopped and referred to ${done.to || REPAIRER}`;
    case 'words':
      return done.text;
  }
}

/** What was done, as the history says it; in lower case, to go on a sentence. */
export const sayDone = (done: Done): string => `${sayDid(done)}${done.half ? ', half-length strings' : ''}`;

/** A correction says what it took back. */
export const sayRecord = (kind: string, done: Done): string =>
  kind === 'correction' ? `undone: ${sayDone(done)}` : sayDone(done);

/** What is said beside it, a sentence each: parts that nobody could account for, small parts, how it was recorded. */
export function sayBeside(
  done: Done,
  parts: readonly { part: string; expected: number; counted: number }[] | null,
): string[] {
  const missing = (parts ?? []).filter((p) => p.counted !== p.expected);
  const small = saySmallParts(done.small ?? []);
  return [
    ...(missing.length
      ? [`Not accounted for: ${missing.map((p) => `${p.part} (${p.counted} of ${p.expected})`).join('; ')}.`]
      : []),
    ...(small ? [`${capital(small)}.`] : []),
    ...(done.asUsual ? ['Done the usual way; its steps were not recorded.'] : []),
  ];
}
