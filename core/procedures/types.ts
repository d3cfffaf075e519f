import type { Build, Position } from '../instruments/build';
import type { CoreMaterial } from '../strings/materials';
import type { SetChange } from '../strings/set';
import type { SlackRule } from '../winding/slack';
import type { CautionId } from './cautions';
import type { FactId } from './facts';
import type { MistakeId } from './mistakes';
import type { StringNumbers } from './numbers';
import type { Names } from './words';

/** What a job sets out to do. */
export const JOB_KINDS = [
  'full-set',
  'part-set',
  'one-string',
  'refit',
  'fast-path',
  'yearly-service',
  'emergency',
  'inspection',
  'retune',
  'bridge-check',
] as const;
export type JobKind = (typeof JOB_KINDS)[number];

export const JOB_KIND_NAMES: Record<JobKind, string> = {
  'full-set': 'Full set',
  'part-set': 'Part of a set',
  'one-string': 'One string',
  refit: 'Strings off and back on',
  'fast-path': 'Quick change, one string before a lesson',
  'yearly-service': 'Yearly service with fingerboard care',
  emergency: 'Found with all strings slack',
  inspection: 'Inspection of an unknown instrument',
  retune: 'Retune follow-up',
  'bridge-check': 'Bridge check',
};

/** Kinds in which strings come off and go on. */
export const CHANGE_KINDS: readonly JobKind[] = [
  'full-set',
  'part-set',
  'one-string',
  'refit',
  'fast-path',
  'yearly-service',
];

/** Whether strings come off and go on in a job of this kind. */
export const isChange = (kind: JobKind): boolean => CHANGE_KINDS.includes(kind);

/** Changes in which strings are cut to length: not those that go back as they are or wait for a proper look. */
export const CUTTING_KINDS: readonly JobKind[] = CHANGE_KINDS.filter((k) => k !== 'refit' && k !== 'fast-path');

export const PHASES = [
  'look',
  'prepare',
  'slacken',
  'remove',
  'clean',
  'fit-tail',
  'fit-post',
  'near-pitch',
  'stretch',
  'tune',
  'trim',
  'last-checks',
] as const;
export type Phase = (typeof PHASES)[number];

export const PHASE_NAMES: Record<Phase, string> = {
  look: 'Inspect first',
  prepare: 'Prepare',
  slacken: 'Slacken',
  remove: 'Take off',
  clean: 'Clean and inspect',
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
  order: 'thick-to-thin' | 'thin-to-thick' | 'outer-inward' | 'number-down' | 'pairs-from-nut';
  /** What is finished first: all tails, then all posts; or each string from its tail to near pitch. */
  finish: 'by-phase' | 'by-string';
  slack: SlackRule;
  /** For plain strings, which slip more; null: as the others. */
  slackPlain: SlackRule | null;
  /** For the thinnest of the wound strings, which slips more than its thicker neighbours; null: as the others. */
  slackThinWound: SlackRule | null;
  winds: 'one-over' | 'spiral-down' | 'self-lock';
  /** For plain strings: over twice or once, then under, while wound ones may only spiral down; null: as the others. */
  windsPlain: 'two-over' | 'one-over' | null;
  hole: 'across' | 'along' | 'angled';
  trim: { when: 'before-winding' | 'after-first-tension' | 'when-settled'; leaveMm: 0 | 5 | 10 };
  /** 0 to 4: none, just play and retune; 1: a slight tug to seat it; 2 to 4: stretch and retune. */
  stretchRounds: number;
  /** A tailpiece or bridge that hangs on its studs: taped in its place, or lifted off and threaded outside. */
  hanging: 'taped' | 'lifted';
  ties: Ties;
}

/** How often tied strings go round themselves at a tie block or tie bridge. */
export interface Ties {
  wound: 1 | 2;
  plain: 2 | 3;
  thinnest: 2 | 3 | 4;
  /** A small knot at the very end of the thinnest string, so that a tail that creeps is caught. */
  safetyKnot: boolean;
}

/** A string about to go on at a position, as far as the procedure needs it. */
export interface StringToFit {
  number: number;
  name: string;
  gaugeMm: number;
  coreMm: number;
  core: CoreMaterial;
  wound: boolean;
  /** Outside of a wound string is ribbon. */
  flatWound?: boolean;
  /** Core of a wound string; round when unknown, as a round core must be bent before it is cut. */
  hexCore?: boolean;
  coated?: boolean;
  /** From the ball to where the full winding ends; absent: to the tip. */
  windingMm?: number;
  massKgPerM: number;
  /** Full length as sold, in mm. */
  lengthMm: number;
  /** Half of a double-length string goes on. */
  half: boolean;
  /** It is the thinnest of the wound strings that go on together. */
  thinnestWound?: boolean;
}

/** A number with its unit, its name on the screen and the reason for it. */
export interface Quantity {
  label: string;
  value: number;
  /** Upper end, where the number is a range. */
  to?: number;
  unit: 'mm' | 'winds' | 'cents' | 'rounds' | 'offcuts' | 'N' | 'count';
  digits: number;
  why: string;
  /** A hand measures it off before it winds. */
  measured?: boolean;
  /** The same as a hand measures it: "one fret". */
  hand?: string;
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

/** What becomes of a part that comes off. */
export const FATES = ['keep-in-place', 'move', 'put-back', 'stock', 'discard'] as const;
export type Fate = (typeof FATES)[number];

export const FATE_NAMES: Record<Fate, string> = {
  'keep-in-place': 'each back in its own place',
  move: 'move to the new string',
  'put-back': 'back as found',
  stock: 'to stock',
  discard: 'to the bin',
};

export interface PartFate {
  part: string;
  fate: Fate;
  /** How many; 0 where they are not counted. */
  count: number;
}

/** What a step says. Text carries named quantities in braces; the screen fills them in. */
export interface StepBody {
  title: string;
  detail?: string;
  /** Why this is done, or done now. */
  reason: string;
  numbers?: Record<string, Quantity>;
  check?: Check;
  cautions?: CautionId[];
  mistakes?: MistakeId[];
  tools?: string[];
  consumables?: string[];
  minutes: number;
  /** What must not be done yet. */
  notYet?: string;
  /** For a step that cannot be taken back: what has to be true before it opens. */
  gate?: string;
  /** When to stop and hand the instrument to a qualified repairer. */
  stopIf?: string[];
  /** What has to be written down or photographed before it comes off. */
  note?: FactId[];
  parts?: PartFate[];
  /** Answers to choose from, the good one first; the place of the one chosen is kept. */
  choices?: readonly string[];
  /** Answers that let the step be passed over; absent: it has to be done. */
  skipBecause?: string[];
  drawing?: 'post' | 'tail' | 'order';
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
  /** The same words where several strings are listed, or where the string is named already; absent: as they are. */
  each?: StepWords;
  it?: StepWords;
  /** Added by the programme itself. */
  house?: true;
}

export interface StepWords {
  title: string;
  detail?: string;
}

/** How the strings that come off now were put on. */
export interface LastTime {
  winds: Method['winds'];
  /** Millimetres of end left after trimming. */
  leaveMm: number;
}

/** What a job is about, beside the strings that go on. */
export interface JobContext {
  kind: JobKind;
  last: LastTime | null;
  /** The strings that go on against those that were on; null when that is not known. */
  change: SetChange | null;
  /** The reference pitch in Hz. */
  a4Hz: number;
  /** Whether it is for somebody at a bench, who may be led by phase: with the words for that. */
  led: boolean;
}

/** Everything a step may ask about. */
export interface Situation {
  build: Build;
  method: Method;
  strings: StringToFit[];
  job: JobContext;
  /** Strings that are off at the same time. */
  group: Position[];
  /** The strings of the whole job, in working order. */
  order: Position[];
  /** What strings are called. */
  names: Names;
  /** The numbers of one string here, worked out once however many steps ask. */
  numbersOf: (position: Position, string: StringToFit) => StringNumbers;
}

export interface StepDefinition {
  id: string;
  phase: Phase;
  /** `instrument`: once; `group`: once for the strings that are off together; `string`: once for each. */
  scope: 'instrument' | 'group' | 'string';
  provides?: Capability;
  undoable?: false;
  /** The kinds of job it belongs to; absent: every change but the fast path. */
  kinds?: readonly JobKind[];
  /** The builds it is for; absent: all. */
  when?: (build: Build, method: Method) => boolean;
  /** Null where there is nothing to do for this string or instrument. */
  compose: (s: Situation, position: Position, string: StringToFit) => StepBody | null;
}

export interface Procedure {
  title: string;
  kind: JobKind;
  /** As the parts of this instrument make it. */
  method: Method;
  /** Where and why that differs from the house method as chosen for the family. */
  adapted: string[];
  steps: Step[];
  minutes: number;
  tools: string[];
  consumables: string[];
  parts: PartFate[];
}

/** Why there is no procedure: parts that cannot be together, or a way of working that is not safe. */
export interface Gap {
  capability: Capability;
  needs: string;
}
