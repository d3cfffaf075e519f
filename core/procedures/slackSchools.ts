import type { Build } from '../instruments/build';
import { isLocking } from '../parts/tuners';
import { capital } from '../sentence';
import { SLACK_SCHOOLS, type SlackRule, sayRule } from '../winding/slack';
import { slackRuleFor, stringNumbers, underTree } from './numbers';
import type { Method, StringToFit } from './types';

/** What holds a string by friction on metal, bone or wood: a careful figure. Common practice, no source. */
const FRICTION = 0.15;

/**
 * What is left of the pull for the string's own end to hold after so many turns, in N: T · e^(−μ · 2π · n) (capstan
 * equation, Euler and Eytelwein).
 * @param friction μ; a careful 0.15 unless it is known
 */
export function endPullN(tensionN: number, turns: number, friction = FRICTION): number {
  return tensionN * Math.exp(-friction * 2 * Math.PI * Math.max(0, turns));
}

export interface SlackRow {
  id: string;
  name: string;
  rule: SlackRule;
  slackMm: number;
  turns: number;
  coils: number;
  stackMm: number;
  verdict: 'too-few' | 'good' | 'too-many' | 'no-room';
  advice: string;
  /** What friction leaves for the end to hold, in N. */
  endN: number;
  /** The rule that holds for this string now. */
  isHouse: boolean;
}

/** Whether the parts of this build leave no choice of slack. */
export const decidedByParts = (build: Build): boolean =>
  isLocking(build) || build.head === 'pegbox' || underTree(build);

const sameRule = (a: SlackRule, b: SlackRule) => JSON.stringify(a) === JSON.stringify(b);

/**
 * Every school of slack for one string of an instrument, the rule in force first if it is none of them. Where the parts
 * decide (a lock, a pegbox, a string tree), only what they ask for.
 */
export function compareSlack(build: Build, method: Method, string: StringToFit, a4Hz?: number): SlackRow[] {
  const position = build.positions.find((p) => p.number === string.number);
  if (!position) throw new RangeError(`This instrument has no string ${string.number}.`);
  const house = slackRuleFor(build, method, string);
  const decided = decidedByParts(build);
  const schools =
    !decided && SLACK_SCHOOLS.some((s) => sameRule(s.rule, house))
      ? SLACK_SCHOOLS
      : [{ id: 'house', name: capital(sayRule(house)), rule: house }, ...(decided ? [] : SLACK_SCHOOLS)];
  return schools.map(({ id, name, rule }) => {
    const n = stringNumbers(build, method, position, string, a4Hz, rule);
    return {
      id,
      name,
      rule,
      slackMm: n.slackMm,
      turns: n.winds.turns,
      coils: n.winds.coils,
      stackMm: n.winds.stackMm,
      verdict: n.winds.verdict,
      advice: n.advice,
      endN: endPullN(n.tensionN, n.winds.turns),
      isHouse: sameRule(rule, house),
    };
  });
}
