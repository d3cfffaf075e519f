import type { Build } from '../instruments/build';
import type { JobKind, LastTime } from '../procedures/types';
import type { SafetyTopicId } from '../safety/topics';
import type { CoreMaterial } from '../strings/materials';

/** The string that is complained about, as far as it is known. */
export interface FaultString {
  number: number;
  core: CoreMaterial;
  wound: boolean;
  gaugeMm: number;
  /** Hours since it went on; null when nobody knows. */
  hoursOn: number | null;
  /** Another gauge or make than the one before it; null when that is not known. */
  changedKind: boolean | null;
  /** Times a string broke or slipped at this position before. */
  timesBefore: number;
}

/** What is known when somebody comes to the fault desk. */
export interface FaultFacts {
  build: Build;
  strings: readonly FaultString[];
  /** The string that is meant; null for the whole instrument. */
  number: number | null;
  lastMethod: (LastTime & { stretchRounds: number; atATime: 'all' | 1 | 2 | 3 }) | null;
  /** Whether the room is known to go dry; null when there is no log. */
  dryRoom: boolean | null;
  /** Predicted turns of the string meant, under the method last used; null when not known. */
  turns: number | null;
  /** Life used by the strings, 0 new to 1 spent; null when their age is not known. */
  lifeUsed: number | null;
}

/** What follows from a cause. */
export type NextStep =
  | { kind: 'job'; job: JobKind; why: string }
  | { kind: 'follow-up'; visit: 'retune' | 'bridge-check'; afterHours: number; why: string }
  /** `topic` decides what is said of the strings until it has been looked at; older ones have none. */
  | { kind: 'referral'; to: string; why: string; topic?: SafetyTopicId }
  | { kind: 'nothing'; why: string };

export interface Cause {
  id: string;
  /** What is wrong, or what is only normal. */
  name: string;
  /** The first thing to look at or do, in a sentence; on this build, where it depends on that. */
  look: string | ((build: Build) => string);
  /** What a good or a normal result of that look is. */
  normal: string;
  /** If the look confirms it. */
  next: (f: FaultFacts) => NextStep;
  /**
   * How likely it is beforehand, and how much each thing that is known speaks for it (above 1) or against it, with the
   * words for it. A factor of 0 rules it out.
   */
  weigh: (f: FaultFacts) => { factor: number; because?: string }[];
}

export interface Symptom {
  id: string;
  name: string;
  /** Whether it is about one string. */
  ofString: boolean;
  /** Builds it can happen on. */
  when?: (build: Build) => boolean;
  /** What is said first, before any cause. */
  first?: string;
  causes: readonly Cause[];
}
