import { halves } from '../count';
import { type Build, isBowed, type Position, speakingLengthMm } from '../instruments/build';
import { TAIL_END } from '../parts/tailEnds';
import { isLocking } from '../parts/tuners';
import { frequencyHz, midiOf } from '../pitch/notes';
import { modulusMpa } from '../strings/materials';
import { elasticTakeUpMm, tensionN } from '../strings/tension';
import { treeWinding } from '../winding/bass';
import { type CutPoint, cutPoint, neededLengthMm, type Reach, reachOf } from '../winding/cut';
import { goodSlack, predictWinds, type WindLimits, type Winds, windAdvice } from '../winding/post';
import { type SlackRule, sayRule, slackInFrets, slackMm } from '../winding/slack';
import type { Method, Quantity, StringToFit } from './types';

/** Length in mm of string that the tail end takes up. */
export const tailLengthMm = (build: Pick<Build, 'tailEnd' | 'family' | 'scaleMm'>): number =>
  TAIL_END[build.tailEnd].lengthMm({
    bowed: isBowed(build.family),
    bass: build.family === 'double-bass',
    scaleMm: build.scaleMm,
  });

/** A bass guitar whose string tree decides how much of each string is wound. */
export const underTree = (build: Pick<Build, 'family' | 'extras'>): boolean =>
  build.family === 'bass-guitar' && build.extras.includes('string-tree');

/** Strings that go on together, with the thinnest of the wound ones marked where plain ones go on too. */
export function markThinnestWound(strings: readonly StringToFit[]): StringToFit[] {
  const wound = strings.filter((s) => s.wound);
  if (wound.length === 0 || wound.length === strings.length) return [...strings];
  const least = Math.min(...wound.map((s) => s.gaugeMm));
  return strings.map((s) => (s.wound && s.gaugeMm === least ? { ...s, thinnestWound: true } : s));
}

/** The rule for this string on this instrument: its parts first, then the house. */
export function slackRuleFor(
  build: Build,
  method: Method,
  string: Pick<StringToFit, 'number' | 'wound' | 'thinnestWound'>,
): SlackRule {
  if (isLocking(build)) return { kind: 'none' };
  if (build.head === 'pegbox') return { kind: 'whole' };
  if (underTree(build)) return treeWinding(build, string).rule;
  if (string.thinnestWound && method.slackThinWound) return method.slackThinWound;
  return method.slackPlain && !string.wound ? method.slackPlain : method.slack;
}

/** Fewest winds that hold and most that still settle. Common practice, no source. */
export function windLimits(
  build: Pick<Build, 'tuner'>,
  method: Pick<Method, 'winds'>,
  rule: SlackRule,
  string: Pick<StringToFit, 'wound' | 'core'>,
): WindLimits {
  if (isLocking(build)) return { least: 0, most: 1 };
  // Nothing is cut off: whatever there is goes on, as long as it has room.
  if (rule.kind === 'whole') return { least: 2, most: Number.POSITIVE_INFINITY };
  // From nearly taut to a fret: the lock holds, winds do not.
  if (method.winds === 'self-lock') return { least: 0.5, most: 2.25 };
  // Plain steel slips more than what has a winding or gives.
  return { least: !string.wound && string.core === 'steel' ? 2 : 1.5, most: 4 };
}

/** All that is computed for one string at one position. Lengths in mm, tension in N, frequency in Hz. */
export interface StringNumbers {
  rule: SlackRule;
  /** What to leave: what the rule says, or the nearest that holds, settles and has room on this post. */
  slackMm: number;
  /** What the rule says, and the turns that would give, where that would not do; null where it does. */
  ruleGives: { slackMm: number; turns: number; verdict: Winds['verdict'] } | null;
  slackFrets: number;
  tensionN: number;
  frequencyHz: number;
  /** What the string gives elastically on the way to pitch. */
  elasticMm: number;
  limits: WindLimits;
  winds: Winds;
  /** The range of slack that holds, settles and has room; null when there is none. */
  good: { fromMm: number; toMm: number } | null;
  /** What to do instead; empty when the winds are good. */
  advice: string;
  neededLengthMm: number;
  reach: Reach;
  cut: CutPoint;
}

/** Place of a string counted from the outside: 0 for the outer pair. */
function pairFromOutside(build: Pick<Build, 'positions'>, number: number): number {
  const numbers = build.positions.map((p) => p.number).sort((a, b) => a - b);
  const index = numbers.indexOf(number);
  return Math.min(index, numbers.length - 1 - index);
}

/**
 * The numbers of one string on this instrument under a method.
 * @param shared what strings like this one leave where the house rule will not do for one of them, in mm
 * @param given a slack rule to use as it is, instead of the one the instrument and method give, for comparing schools
 */
export function stringNumbers(
  build: Build,
  method: Method,
  position: Position,
  string: StringToFit,
  a4Hz = 440,
  given?: SlackRule,
  shared?: number,
): StringNumbers {
  const rule = given ?? slackRuleFor(build, method, string);
  const speaking = speakingLengthMm(build, position);
  const tail = tailLengthMm(build);
  const length = string.half ? string.lengthMm / 2 : string.lengthMm;
  const path = {
    tailMm: tail,
    speakingLengthMm: speaking,
    nutToPostMm: position.nutToPostMm,
    postDiameterMm: build.post.diameterMm,
  };
  const ruled = slackMm(rule, {
    scaleMm: build.scaleMm,
    postSpacingMm: build.post.spacingMm,
    postDiameterMm: build.post.diameterMm,
    gaugeMm: string.gaugeMm,
    pairFromOutside: pairFromOutside(build, position.number),
    beyondPostMm: length - neededLengthMm({ ...path, slackMm: 0 }),
  });
  const frequency = frequencyHz(midiOf(position.note), a4Hz);
  const tension = tensionN(string.massKgPerM, speaking, frequency);
  const elasticMm = elasticTakeUpMm({
    tensionN: tension,
    freeLengthMm: speaking + position.nutToPostMm,
    coreMm: string.coreMm,
    modulusMpa: modulusMpa(string.core),
  });
  const limits = windLimits(build, method, rule, string);
  const post = {
    elasticMm,
    postDiameterMm: build.post.diameterMm,
    roomUnderHoleMm: build.post.roomUnderHoleMm,
    gaugeMm: string.gaugeMm,
    ...limits,
  };
  const asRuled = predictWinds({ slackMm: ruled, ...post });
  const good = goodSlack(post);
  // A house rule is one length for many posts: where it would not do, the nearest length that does is left instead.
  const free = given === undefined && rule.kind !== 'none' && !(rule.kind === 'whole' && build.head === 'pegbox');
  const instead = free && good && missesBy(asRuled, limits) ? (shared ?? handyMm(ruled, good)) : null;
  const slack = instead ?? ruled;
  const winds = instead === null ? asRuled : predictWinds({ slackMm: slack, ...post });
  return {
    rule,
    slackMm: slack,
    ruleGives: instead === null ? null : { slackMm: ruled, turns: asRuled.turns, verdict: asRuled.verdict },
    slackFrets: slackInFrets(slack, build.scaleMm),
    tensionN: tension,
    frequencyHz: frequency,
    elasticMm,
    limits,
    winds,
    good,
    advice: free && !missesBy(winds, limits) ? '' : windAdvice(winds.verdict, good),
    neededLengthMm: neededLengthMm({ ...path, slackMm: slack }),
    reach: reachOf({
      ...path,
      slackMm: rule.kind === 'whole' ? 0 : slack,
      lengthMm: length,
      windingMm: string.windingMm ?? null,
    }),
    cut: cutPoint({ slackMm: slack, postDiameterMm: build.post.diameterMm, postSpacingMm: build.post.spacingMm }),
  };
}

/** A house rule is kept unless it misses what holds and settles by more than this. Common practice, no source. */
const MISSED_TURNS = 0.5;

const missesBy = (winds: Winds, limits: WindLimits): boolean =>
  winds.verdict === 'no-room' || winds.turns < limits.least - MISSED_TURNS || winds.turns > limits.most + MISSED_TURNS;

/** A hand measures in steps of so many millimetres. */
const HANDY_MM = 5;

/**
 * The length in a range that is nearest to another and that a hand can measure: in steps of 5 mm, of 1 mm where there is
 * none, or the range's middle.
 */
export function handyMm(length: number, range: { fromMm: number; toMm: number }): number {
  for (const step of [HANDY_MM, 1]) {
    const [from, to] = [Math.ceil(range.fromMm / step) * step, Math.floor(range.toMm / step) * step];
    if (from <= to) return Math.min(to, Math.max(from, Math.round(length / step) * step));
  }
  return (range.fromMm + range.toMm) / 2;
}

/**
 * The one length that all of some strings leave where the house rule will not do for one of them: in the range that is
 * good for each, else none is shared.
 */
export function sharedSlackMm(numbers: readonly StringNumbers[]): number | null {
  const overruled = numbers.filter((n) => n.ruleGives !== null);
  if (overruled.length < 2 || overruled.some((n) => n.good === null)) return null;
  const range = {
    fromMm: Math.max(...overruled.map((n) => n.good?.fromMm ?? 0)),
    toMm: Math.min(...overruled.map((n) => n.good?.toMm ?? 0)),
  };
  return range.fromMm > range.toMm ? null : handyMm(overruled[0]?.ruleGives?.slackMm ?? 0, range);
}

const TOO: Record<Winds['verdict'], string> = {
  good: '',
  'too-few': 'too few winds to hold',
  'too-many': 'more winds than will settle',
  'no-room': 'more winds than there is room for',
};

/** Why the house rule is not followed on this post; empty where it is. */
export function insteadOfRule(n: StringNumbers): string {
  if (!n.ruleGives) return '';
  return `The usual rule (${sayRule(n.rule)}) gives ${TOO[n.ruleGives.verdict]} on this post.`;
}

/** Whether all there is of a string goes on its post, so that nothing of it is cut off there. */
export const woundWhole = (n: Pick<StringNumbers, 'rule' | 'ruleGives'>): boolean =>
  n.rule.kind === 'whole' && n.ruleGives === null;

/** The numbers of threading and winding, ready to show. */
export function windingQuantities(build: Build, n: StringNumbers): Record<'slack' | 'winds' | 'stack', Quantity> {
  const stretch =
    n.winds.fromStretch >= 0.15
      ? ` About ${halves(n.winds.fromSlack)} from the slack, ${halves(n.winds.fromStretch)} as the string stretches to pitch.`
      : '';
  const whole = woundWhole(n);
  return {
    slack: {
      label: whole ? 'Left to wind' : 'Let back',
      value: n.slackMm,
      unit: 'mm',
      digits: 0,
      measured: !whole,
      why: whole
        ? `Wind on all of it, uncut: ${n.slackMm.toFixed(0)} mm beyond the hole.`
        : n.ruleGives
          ? insteadOfRule(n)
          : `Usual rule: ${sayRule(n.rule)}. On this ${Math.round(build.scaleMm)} mm scale that is ${Math.round(n.slackMm)} mm.`,
    },
    winds: {
      label: 'Winds',
      value: n.winds.turns,
      unit: 'winds',
      digits: 1,
      why: `${n.slackMm.toFixed(0)} mm of slack on a ${build.post.diameterMm} mm post.${stretch} On the post you will count ${n.winds.coils}.`,
    },
    stack: {
      label: 'Height of the winds',
      value: n.winds.stackMm,
      unit: 'mm',
      digits: 1,
      why: `The winds times the gauge; there is room for ${build.post.roomUnderHoleMm} mm.`,
    },
  };
}
