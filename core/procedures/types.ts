import type { Build, Position } from '../instruments/build';
import type { CoreMaterial } from '../strings/materials';
import type { SlackRule } from '../winding/slack';
import type { CautionId, MistakeId } from './reference';

export const PHASES = [
  'prepare',
  'slacken',
  'remove',
  'clean',
  'fit-tail',
  'fit-post',
  'near-pitch',
  'tune',
  'stretch',
  'trim',
  'last-checks',
] as const;
export type Phase = (typeof PHASES)[number];

export const PHASE_NAMES: Record<Phase, string> = {
  prepare: 'Prepare',
  slacken: 'Slacken',
  remove: 'Take off',
  clean: 'Clean and look',
  'fit-tail': 'Tail end',
  'fit-post': 'Post',
  'near-pitch': 'Near pitch',
  tune: 'Up to pitch',
  stretch: 'Stretch',
  trim: 'Trim',
  'last-checks': 'Last checks',
};

/** The schools, as parameters of a method. A programme picks one set of them for each family. */
export interface Method {
  /** How many strings are off at once. */
  atATime: 'all' | 1 | 2 | 3;
  order: 'thick-to-thin' | 'thin-to-thick' | 'outer-inward' | 'number-down';
  slack: SlackRule;
  /** For plain strings, which slip more; null: as the others. */
  slackPlain: SlackRule | null;
  winds: 'one-over' | 'spiral-down' | 'self-lock';
  hole: 'across' | 'along' | 'angled';
  trim: { when: 'after-first-tension' | 'when-settled'; leaveMm: 0 | 5 | 10 };
  stretchRounds: number;
}

/** A string about to go on at a position, as far as the procedure needs it. */
export interface StringToFit {
  number: number;
  name: string;
  gaugeMm: number;
  coreMm: number;
  core: CoreMaterial;
  wound: boolean;
  massKgPerM: number;
  /** Full length as sold, in mm. */
  lengthMm: number;
  /** Half of a double-length string goes on. */
  half: boolean;
}

/** A number with its unit, its name on the screen and the reason for it. */
export interface Quantity {
  label: string;
  value: number;
  /** Upper end, where the number is a range. */
  to?: number;
  unit: 'mm' | 'turns' | 'coils' | 'cents' | 'N' | 'count';
  digits: number;
  why: string;
}

export interface Check {
  question: string;
  /** What a good answer looks like. */
  good: string;
  /** The mistake whose recovery follows a no. */
  ifNot: MistakeId;
}

export type Capability =
  | 'protect'
  | 'slacken'
  | 'release-post'
  | 'release-tail'
  | 'hold-bridge'
  | 'clean'
  | 'seat-tail'
  | 'wind-post'
  | 'bring-to-pitch'
  | 'stretch'
  | 'trim'
  | 'open-cover'
  | 'move-fine-tuners'
  | 'check';

/** What a step says. Text carries named quantities in braces; the screen fills them in. */
export interface StepBody {
  title: string;
  detail?: string;
  numbers?: Record<string, Quantity>;
  check?: Check;
  cautions?: CautionId[];
  mistakes?: MistakeId[];
  tools?: string[];
  consumables?: string[];
  minutes: number;
  /** What must not be done yet. */
  notYet?: string;
  /** Answers that let the step be passed over; absent: it has to be done. */
  skipBecause?: string[];
  drawing?: 'post' | 'tail';
}

export interface Step extends StepBody {
  /** Unique within the procedure and stable for one instrument and method. */
  key: string;
  id: string;
  phase: Phase;
  /** Positions the step works on; empty for the whole instrument. */
  positions: number[];
  /** False for a step that cannot be taken back. */
  undoable: boolean;
}

/** Everything a step may ask about. */
export interface Situation {
  build: Build;
  method: Method;
  strings: StringToFit[];
  /** Strings that are off at the same time. */
  group: Position[];
}

export interface StepDefinition {
  id: string;
  phase: Phase;
  /** `instrument`: once; `group`: once for the strings that are off together; `string`: once for each. */
  scope: 'instrument' | 'group' | 'string';
  provides?: Capability;
  undoable?: false;
  /** The builds it is for; absent: all. */
  when?: (build: Build, method: Method) => boolean;
  /** Null where there is nothing to do for this string or instrument. */
  compose: (s: Situation, position: Position, string: StringToFit) => StepBody | null;
}

export interface Procedure {
  title: string;
  method: Method;
  steps: Step[];
  minutes: number;
  tools: string[];
  consumables: string[];
}

/** What the library has no step for yet. */
export interface Gap {
  capability: Capability;
  needs: string;
}
