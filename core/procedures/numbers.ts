import { type Build, type Position, speakingLengthMm } from '../instruments/build';
import { frequencyHz, midiOf } from '../pitch/notes';
import { modulusMpa } from '../strings/materials';
import { elasticTakeUpMm, tensionN } from '../strings/tension';
import { neededLengthMm } from '../winding/cut';
import { predictWinds, type Winds } from '../winding/post';
import { type SlackRule, slackInFrets, slackMm } from '../winding/slack';
import type { Method, Quantity, StringToFit } from './types';

/** Length in mm of string that the tail end takes up, by the kind of tail. */
const TAIL_MM: Partial<Record<Build['tailEnd'], number>> = { 'pin-bridge': 20, 'uke-tie': 70 };

/** A slack rule in words, with its kind, since "a fret of slack" means two opposite things. */
export function sayRule(rule: SlackRule): string {
  switch (rule.kind) {
    case 'first-fret':
      return rule.times === 1
        ? 'the distance from nut to first fret'
        : `${rule.times} × the distance from nut to first fret`;
    case 'to-fret':
      return `the distance from nut to fret ${rule.fret}`;
    case 'post-spacings':
      return `${rule.spacings} post spacings past the post`;
    case 'length':
      return rule.mm === 25.4 ? 'an inch' : `${rule.mm} mm by ruler`;
  }
}

/** The house rule that applies to this string. */
export function slackRuleFor(method: Method, string: Pick<StringToFit, 'wound'>): SlackRule {
  return method.slackPlain && !string.wound ? method.slackPlain : method.slack;
}

/** All that is computed for one string at one position. Lengths in mm, tension in N, frequency in Hz. */
export interface StringNumbers {
  rule: SlackRule;
  slackMm: number;
  slackFrets: number;
  tensionN: number;
  frequencyHz: number;
  winds: Winds;
  neededLengthMm: number;
}

/** Fewest winds that hold and most that still settle. Common practice, no source. */
const WIND_LIMITS = { least: 1.5, most: 4 };

export function stringNumbers(
  build: Build,
  method: Method,
  position: Position,
  string: StringToFit,
  a4Hz = 440,
): StringNumbers {
  const rule = slackRuleFor(method, string);
  const speaking = speakingLengthMm(build, position);
  const slack = slackMm(rule, { scaleMm: build.scaleMm, postSpacingMm: build.post.spacingMm });
  const frequency = frequencyHz(midiOf(position.note), a4Hz);
  const tension = tensionN(string.massKgPerM, speaking, frequency);
  const tailMm = TAIL_MM[build.tailEnd] ?? 40;
  const elasticMm = elasticTakeUpMm({
    tensionN: tension,
    freeLengthMm: speaking + position.nutToPostMm,
    coreMm: string.coreMm,
    modulusMpa: modulusMpa(string.core),
  });
  return {
    rule,
    slackMm: slack,
    slackFrets: slackInFrets(slack, build.scaleMm),
    tensionN: tension,
    frequencyHz: frequency,
    winds: predictWinds({
      slackMm: slack,
      elasticMm,
      postDiameterMm: build.post.diameterMm,
      roomUnderHoleMm: build.post.roomUnderHoleMm,
      gaugeMm: string.gaugeMm,
      ...WIND_LIMITS,
    }),
    neededLengthMm: neededLengthMm({
      tailMm,
      speakingLengthMm: speaking,
      nutToPostMm: position.nutToPostMm,
      slackMm: slack,
      postDiameterMm: build.post.diameterMm,
    }),
  };
}

/** The numbers of threading and winding, ready to show. */
export function windingQuantities(build: Build, n: StringNumbers): Record<string, Quantity> {
  const stretch =
    n.winds.fromStretch >= 0.15
      ? ` ${n.winds.fromSlack.toFixed(1)} from the slack and ${n.winds.fromStretch.toFixed(1)} as the string stretches to pitch.`
      : '';
  return {
    slack: {
      label: 'Pull back',
      value: n.slackMm,
      unit: 'mm',
      digits: 0,
      why: `House rule: ${sayRule(n.rule)}. On this ${Math.round(build.scaleMm)} mm scale that is ${n.slackMm.toFixed(1)} mm, ${n.slackFrets.toFixed(1)} × nut to first fret.`,
    },
    winds: {
      label: 'Winds you will get',
      value: n.winds.turns,
      unit: 'turns',
      digits: 1,
      why: `${n.slackMm.toFixed(0)} mm on a ${build.post.diameterMm} mm post.${stretch} You will see ${n.winds.coils} coils.`,
    },
    stack: {
      label: 'Stack of winds',
      value: n.winds.stackMm,
      to: build.post.roomUnderHoleMm,
      unit: 'mm',
      digits: 1,
      why: `Turns × gauge, of ${build.post.roomUnderHoleMm} mm of room under the hole.`,
    },
  };
}
