import { seededChance } from '../chance';
import type { Build, Position } from '../instruments/build';
import { pegTurn, tightens } from '../winding/post';
import { type Screen, screensOf } from './led';
import { handyMm } from './numbers';
import { fillText } from './quantities';
import type { Check, Procedure, Step } from './types';
import { postWord, stringLabel } from './words';

/** What a card asks before it tells. Exactly one of the options is what the card says. */
export interface Question {
  asks: string;
  options: string[];
  right: number;
}

/** One screen of the card, with what is asked before it is shown; null: nothing of it can be asked fairly. */
export interface PracticeScreen {
  screen: Screen;
  question: Question | null;
}

/** Most answers to choose from. */
const MOST_OPTIONS = 4;

/**
 * A card to be practised, screen by screen: which way a post turns, how far back, which string comes next, when something
 * that cannot be undone may be done, what a good answer to a check looks like. Wrong answers are those of the same card
 * at other places, so that none can be told by its look.
 * @param seed another seed asks in another order
 */
export function practiceOf(
  build: Build,
  procedure: Pick<Procedure, 'method' | 'steps'>,
  order: readonly Position[],
  seed: number,
): PracticeScreen[] {
  const random = seededChance(seed);
  const pick = (right: string, others: readonly string[]): Omit<Question, 'asks'> | null => {
    const wrong = shuffled(
      [...new Set(others)].filter((o) => o !== right),
      random,
    ).slice(0, MOST_OPTIONS - 1);
    if (wrong.length === 0) return null;
    const options = shuffled([right, ...wrong], random);
    return { options, right: options.indexOf(right) };
  };
  const goods = procedure.steps.flatMap((s) => (s.check ? [s.check] : []));
  const gates = procedure.steps.flatMap((s) => (s.gate ? [s.gate] : []));
  const asked = new Set<string>();
  return screensOf(procedure, 'phase').map((screen) => {
    for (const ask of [whichWay, howFar, whichNext, whenMayIt, whatIsGood]) {
      const found = ask({ build, screen, order, goods, gates });
      if (!found || asked.has(found.asks)) continue;
      const choice = pick(found.right, found.others);
      if (!choice) continue;
      asked.add(found.asks);
      return { screen, question: { asks: found.asks, ...choice } };
    }
    return { screen, question: null };
  });
}

interface Asked {
  asks: string;
  right: string;
  others: readonly string[];
}
interface At {
  build: Build;
  screen: Screen;
  order: readonly Position[];
  goods: readonly Check[];
  gates: readonly string[];
}

const only = (screen: Screen, id: string): Step[] => screen.steps.filter((s) => s.id === id);
const positionsOf = (at: At, step: Step | undefined) =>
  at.build.positions.find((p) => p.number === step?.positions[0]) ?? null;

/** Which way the post or peg of a string tightens. */
function whichWay(at: At): Asked | null {
  const { build } = at;
  const steps = only(at.screen, 'fit-post.wind');
  // Of several the last, so that it is not always the first string that is asked about.
  const position = positionsOf(at, steps.at(-1));
  if (!position) return null;
  const name = stringLabel(build, position);
  const word = postWord(build);
  const turn = tightens(build.head, position.side, build.handedness);
  if (turn !== 'over-the-top')
    return {
      asks: `Seen from the front, headstock up: which way does the ${word} of ${name} turn to tighten?`,
      right: `${turn}, so the string leaves on the inside`,
      others: (['clockwise', 'anticlockwise'] as const)
        .filter((t) => t !== turn)
        .map((t) => `${t}, so the string leaves on the inside`)
        .concat('either way: it makes no difference'),
    };
  if (build.head === 'pegbox') {
    const own = pegTurn(position.side, build.handedness);
    return {
      asks: `Looking at the peg head end-on: which way does the peg of ${name} turn to tighten?`,
      right: `${own}, the string running over the top`,
      others: [
        `${own === 'clockwise' ? 'anticlockwise' : 'clockwise'}, the string running over the top`,
        `${own}, the string running underneath`,
      ],
    };
  }
  return {
    asks: `Which way does the ${word} of ${name} turn?`,
    right: 'over the top, like all the others',
    others: ['underneath, so it pulls down', 'over the top on the bass side, underneath on the treble side'],
  };
}

/** How much slack a string is left. */
function howFar(at: At): Asked | null {
  const step = only(at.screen, 'fit-post.thread').find((s) => s.numbers?.slack?.measured);
  const position = positionsOf(at, step);
  const slack = step?.numbers?.slack;
  if (!position || !slack) return null;
  const mm = handyMm(slack.value, { fromMm: slack.value - 3, toMm: slack.value + 3 });
  const say = (n: number) => `about ${Math.round(n)} mm`;
  return {
    asks: `How far do you let ${stringLabel(at.build, position)} back before winding?`,
    right: `about ${Math.round(mm)} mm${slack.hand ? `, ${slack.hand}` : ''}`,
    // Far enough off that no hand takes one for another.
    others: [mm < 20 ? 'not at all: pull it tight' : say(Math.max(5, mm / 3)), say(mm * 2.2), say(mm * 4)],
  };
}

/** Which string is done after another. */
function whichNext(at: At): Asked | null {
  if (at.order.length < 3 || !['fit-tail', 'remove'].includes(at.screen.phase)) return null;
  const numbers = [...new Set(at.screen.steps.flatMap((s) => (s.positions.length === 1 ? s.positions : [])))];
  const first = at.order.findIndex((p) => p.number === numbers[0]);
  const [now, next] = [at.order[first], at.order[first + 1]];
  if (!now || !next || !numbers.includes(next.number)) return null;
  return {
    asks: `${at.screen.phase === 'remove' ? 'Off' : 'On'} already: ${stringLabel(at.build, now)}. Which string comes next?`,
    right: stringLabel(at.build, next),
    others: at.order
      .filter((p) => p.number !== now.number && p.number !== next.number)
      .map((p) => stringLabel(at.build, p)),
  };
}

/** When something that cannot be undone may be done. */
function whenMayIt(at: At): Asked | null {
  const step = at.screen.steps.find((s) => s.gate);
  if (!step?.gate) return null;
  return {
    asks: `This cannot be undone: ${filled(step)} When may you do it?`,
    right: step.gate,
    others: [
      ...at.gates,
      'As soon as the string is through its hole: a short end is out of the way.',
      'When all the other instruments in the batch are done.',
    ],
  };
}

/** What a good answer to a check looks like. */
function whatIsGood(at: At): Asked | null {
  const step = at.screen.steps.find((s) => s.check);
  if (!step?.check) return null;
  return {
    asks: `${filled(step)} ${step.check.question} What does a good result look like?`,
    right: step.check.good,
    // What is asked to find the same fault may be as good an answer here: it is not set against it.
    others: at.goods.flatMap((c) => (c.ifNot !== step.check?.ifNot ? [c.good] : [])),
  };
}

const filled = (step: Step): string =>
  fillText((step.each ?? step).title, step.numbers)
    .map((p) => p.text)
    .join('');

function shuffled<T>(list: readonly T[], random: () => number): T[] {
  const left = [...list];
  return list.map(() => left.splice(Math.floor(random() * left.length), 1)[0] as T);
}

/** What it takes to have practised a card: most of it right the first time. Common practice, no source. */
export const PRACTISED_SHARE = 0.8;
export const isPractised = (p: { asked: number; right: number }): boolean =>
  p.asked >= 5 && p.right >= PRACTISED_SHARE * p.asked;
