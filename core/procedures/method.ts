import type { Build, Family } from '../instruments/build';
import { isBowed } from '../instruments/build';
import { comesLoose } from '../parts/tailEnds';
import { isLocking } from '../parts/tuners';
import { pairsFromNut, treeOrder } from '../winding/bass';
import { underTree } from './numbers';
import { CUTTING_KINDS, type JobKind, type Method, type Ties } from './types';

/** Wound basses hold with one turn, trebles take two, a thin first three. Common practice, no source. */
export const USUAL_TIES: Ties = { wound: 1, plain: 2, thinnest: 3, safetyKnot: false };

const GUITAR: Method = {
  atATime: 'all',
  order: 'thick-to-thin',
  finish: 'by-phase',
  slack: { kind: 'first-fret', times: 1 },
  slackPlain: { kind: 'first-fret', times: 1.5 },
  slackThinWound: null,
  winds: 'one-over',
  windsPlain: null,
  hole: 'across',
  trim: { when: 'when-settled', leaveMm: 5 },
  stretchRounds: 3,
  hanging: 'taped',
  ties: USUAL_TIES,
};

/** One at a time, so that a floating bridge never stands without pull. */
const FLOATING: Method = { ...GUITAR, atATime: 1, slackPlain: null, winds: 'spiral-down', stretchRounds: 2 };

/**
 * The house method a new programme starts with, by family. Common practice, no source; a programme replaces it with
 * its own choice.
 */
export const HOUSE_METHODS: Record<Family, Method> = {
  'steel-acoustic': GUITAR,
  'twelve-string': { ...GUITAR, order: 'number-down' },
  // Nylon gives more than a turn on the way to pitch: little slack on a roller.
  classical: { ...GUITAR, slack: { kind: 'length', mm: 25.4 }, slackPlain: { kind: 'length', mm: 40 } },
  electric: { ...GUITAR, slack: { kind: 'post-spacings', spacings: 2 }, slackPlain: null, windsPlain: 'two-over' },
  'bass-guitar': { ...GUITAR, slack: { kind: 'post-spacings', spacings: 2 }, slackPlain: null },
  ukulele: {
    ...GUITAR,
    atATime: 1,
    order: 'number-down',
    // An inch, pulled back.
    slack: { kind: 'length', mm: 25.4 },
    slackPlain: null,
    winds: 'spiral-down',
    ties: { ...USUAL_TIES, wound: 2 },
  },
  banjo: { ...FLOATING, order: 'number-down' },
  mandolin: {
    ...FLOATING,
    order: 'number-down',
    slack: { kind: 'first-fret', times: 1.5 },
    slackPlain: { kind: 'first-fret', times: 2 },
  },
  violin: FLOATING,
  viola: FLOATING,
  cello: FLOATING,
  'double-bass': { ...FLOATING, order: 'pairs-from-nut', stretchRounds: 1 },
};

/** The house method as the parts of one instrument and the kind of job make it. */
export interface AdaptedMethod {
  method: Method;
  /** Where it differs from the house's choice, and why; each a sentence. */
  because: string[];
}

/** Shops take two strings at a time off a double bass, while the other two stay at pitch and the bridge is watched. */
export const mayBePairs = (build: Pick<Build, 'family'>, method: Pick<Method, 'atATime'>): boolean =>
  build.family === 'double-bass' && method.atATime === 2;

/**
 * What of a house method holds on this instrument. A house chooses for a family; the parts decide last.
 */
export function adaptMethod(build: Build, house: Method, kind: JobKind): AdaptedMethod {
  const method: Method = { ...house, trim: { ...house.trim } };
  const because: string[] = [];
  const adapt = (differs: boolean, change: () => void, why: string) => {
    if (!differs) return;
    change();
    because.push(why);
  };
  const set =
    <K extends keyof Method>(key: K, value: Method[K]) =>
    () => {
      method[key] = value;
    };

  adapt(
    build.bridge === 'floating' && house.atATime !== 1 && !mayBePairs(build, house),
    set('atATime', 1),
    'One string at a time: only string tension holds this bridge.',
  );
  adapt(
    isLocking(build) && house.winds !== 'spiral-down',
    () => Object.assign(method, { winds: 'spiral-down', windsPlain: null }),
    'No slack and less than one wind: the lock holds the string.',
  );
  adapt(
    isBowed(build.family) && house.winds !== 'spiral-down',
    () => Object.assign(method, { winds: 'spiral-down', windsPlain: null }),
    'Wound towards the pegbox wall, so the last winds pull the peg in.',
  );
  adapt(
    build.tuner === 'roller' && method.winds === 'one-over' && method.windsPlain !== null,
    set('windsPlain', null),
    'On rollers, plain strings are wound like the rest.',
  );
  adapt(
    build.tuner === 'slotted-post' && (house.winds !== 'spiral-down' || house.windsPlain !== null),
    () => Object.assign(method, { winds: 'spiral-down', windsPlain: null }),
    'Every wind goes below the last: the end is inside the slotted post.',
  );
  adapt(
    build.tuner === 'slotted-post' && house.trim.when !== 'before-winding',
    () => Object.assign(method, { trim: { when: 'before-winding', leaveMm: 0 } }),
    'The end goes down inside the slotted post, so it is cut before winding.',
  );
  adapt(
    isLocking(build) && house.trim.when === 'before-winding',
    () => Object.assign(method, { trim: { ...house.trim, when: 'after-first-tension' } }),
    'Trimmed once it is near pitch and the lock holds.',
  );
  adapt(
    comesLoose(build) && house.hanging === 'lifted' && method.atATime === 'all' && house.finish === 'by-string',
    set('finish', 'by-phase'),
    'Lifted off, it takes all its strings before the first is tightened.',
  );
  adapt(
    comesLoose(build) && house.hanging === 'lifted' && method.atATime !== 'all',
    set('hanging', 'taped'),
    'It stays put: some strings hold it all the time.',
  );
  adapt(
    house.order === 'pairs-from-nut' && build.family !== 'double-bass',
    set('order', 'thick-to-thin'),
    'Pairs from the nut are for double basses only.',
  );
  adapt(
    underTree(build),
    () => {},
    'String tree: the second-lowest string goes on first, wound whole, as nothing holds it down; the lowest is bent, then cut.',
  );
  adapt(
    kind === 'fast-path',
    () => {
      method.stretchRounds = Math.min(1, house.stretchRounds);
      if (!isLocking(build) && isCut(build) && build.tuner !== 'slotted-post')
        Object.assign(method, {
          winds: 'self-lock',
          windsPlain: null,
          // What locks under itself needs little slack; without frets to pinch at, a finger's breadth.
          slack: house.slack.kind === 'length' ? { kind: 'length', mm: 20 } : { kind: 'first-fret', times: 0.5 },
          slackPlain: null,
          slackThinWound: null,
        });
    },
    'Quick change: self-lock, near pitch, end left long; a full check follows.',
  );
  adapt(
    kind === 'refit' && isCut(build),
    () => {},
    'The same strings go back, so nothing is cut; one trimmed close may not reach again.',
  );
  return { method, because };
}

/** Whether strings of this instrument are cut at the post at all: those in a pegbox are wound whole. */
export const isCut = (build: Pick<Build, 'head'>): boolean => build.head !== 'pegbox';

/** Whether strings are cut at the post in a job of this kind. */
export const isTrimmed = (build: Pick<Build, 'head'>, kind: JobKind): boolean =>
  isCut(build) && CUTTING_KINDS.includes(kind);

/** The positions of a job in the order the method takes them on this instrument. */
export function workingOrder(build: Build, positions: readonly Build['positions'][number][], order: Method['order']) {
  const descending = [...positions].sort((a, b) => b.number - a.number);
  if (underTree(build)) return treeOrder(build, descending);
  switch (order) {
    case 'number-down':
    case 'thick-to-thin':
      return descending;
    case 'thin-to-thick':
      return descending.reverse();
    case 'pairs-from-nut':
      return build.family === 'double-bass' ? pairsFromNut(build, descending) : descending;
    case 'outer-inward': {
      const inward: typeof descending = [];
      for (let i = 0, j = descending.length - 1; i <= j; i++, j--) {
        inward.push(descending[i] as (typeof descending)[number]);
        if (i < j) inward.push(descending[j] as (typeof descending)[number]);
      }
      return inward;
    }
  }
}
