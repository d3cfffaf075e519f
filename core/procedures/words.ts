import { countWord, sayList } from '../count';
import type { Build, Position } from '../instruments/build';
import { TUNER } from '../parts/tuners';
import { capital, lowerFirst } from '../sentence';
import { bassHalf } from '../strings/set';
import { pegTurn, tightens } from '../winding/post';

/** The side of the board that a string lies on, whatever row of the head its post is in. */
export const liesOn = (build: Pick<Build, 'positions'>, number: number): 'bass' | 'treble' =>
  bassHalf(build.positions).has(number) ? 'bass' : 'treble';

/**
 * A string by pitch with octave, number and side together: letters alone mislead where two strings share one, numbers
 * where people count from the other end. The side is where the string lies, whatever row its post is in.
 */
export function stringLabel(build: Pick<Build, 'positions'>, position: Pick<Position, 'note' | 'number'>): string {
  return `${position.note} (string ${position.number}, ${liesOn(build, position.number)} side)`;
}

/**
 * "all six strings", one string by its label, and where only some are meant, which: "E2, A2 and D3 (strings 6, 5 and
 * 4)". A count alone leaves open which of them.
 */
export function groupLabel(build: Pick<Build, 'positions'>, group: readonly Position[]): string {
  const [only] = group;
  if (group.length === 1 && only) return stringLabel(build, only);
  if (group.length === build.positions.length) return `all ${countWord(group.length)} strings`;
  return `${sayList(group.map((p) => p.note))} (strings ${sayList(group.map((p) => String(p.number)))})`;
}

/**
 * How a text names what it is about: the string itself; each of several, where a screen lists them; or "it", where a
 * screen has named it already.
 */
export type Naming = 'named' | 'each' | 'it';

/** What a step calls strings. */
export interface Names {
  /** A string in the middle of a sentence. */
  of: (position: Pick<Position, 'note' | 'number'>) => string;
  /** Something of a string: "the pin of E2", "each pin", "its pin". */
  part: (part: string, position: Pick<Position, 'note' | 'number'>) => string;
  /** A sentence that begins by saying which string it is for. */
  lead: (position: Pick<Position, 'note' | 'number'>, sentence: string) => string;
  /** Several strings together. */
  group: (positions: readonly Position[]) => string;
  /** Whether strings of both kinds, or sides, are spoken of at once, so that what differs stands beside each. */
  several: boolean;
}

export function namesFor(build: Pick<Build, 'positions'>, naming: Naming): Names {
  const group = (positions: readonly Position[]) =>
    naming === 'it' && positions.length === 1 ? 'it' : groupLabel(build, positions);
  switch (naming) {
    case 'named':
      return {
        of: (p) => stringLabel(build, p),
        part: (part, p) => `the ${part} of ${stringLabel(build, p)}`,
        lead: (p, sentence) => `${stringLabel(build, p)}: ${sentence}`,
        group,
        several: false,
      };
    case 'each':
      return {
        of: () => 'each string',
        part: (part) => `each ${part}`,
        lead: (_, sentence) => capital(sentence),
        group,
        several: true,
      };
    case 'it':
      return {
        of: () => 'it',
        part: (part) => `its ${part}`,
        lead: (_, sentence) => capital(sentence),
        group,
        several: false,
      };
  }
}

/** What a string is wound on, as the trade calls it. */
export function postWord(build: Pick<Build, 'tuner' | 'head'>): 'post' | 'roller' | 'peg' {
  return build.head === 'pegbox' ? 'peg' : TUNER[build.tuner].word;
}

/**
 * How to turn a post, with the positional test beside the direction word, which depends on where one stands.
 */
export function postPhrase(build: Build, position: Position, which: 'tightens' | 'loosens'): string {
  const word = postWord(build);
  const turn = tightens(build.head, position.side, build.handedness);
  if (turn === 'over-the-top') {
    if (build.tuner === 'roller')
      return which === 'tightens'
        ? 'Over the top of the roller: every button tightens the same way.'
        : 'Every button slackens the same way: the string comes off over the top.';
    const peg = pegTurn(position.side, build.handedness);
    const opposite = peg === 'clockwise' ? 'anticlockwise' : 'clockwise';
    return `Looking at the peg head end-on, it ${which} ${which === 'tightens' ? peg : opposite}: the string runs over the top.`;
  }
  const opposite = turn === 'clockwise' ? 'anticlockwise' : 'clockwise';
  const direction = which === 'tightens' ? turn : opposite;
  const sides =
    build.head !== 'in-line' && which === 'loosens' ? `On the ${position.side} side the ${word}` : `The ${word}`;
  return `${sides} ${which} ${direction}, seen from the front, headstock up.`;
}

/** How to turn the posts of several strings: where their sides turn different ways, each way with its strings. */
export function groupPhrase(build: Build, group: readonly Position[], which: 'tightens' | 'loosens'): string {
  const ways = new Map<string, Position[]>();
  for (const p of group) {
    const phrase = postPhrase(build, p, which);
    const known = ways.get(phrase);
    if (known) known.push(p);
    else ways.set(phrase, [p]);
  }
  if (ways.size < 2) return [...ways.keys()][0] ?? '';
  return [...ways].map(([phrase, own]) => `${sayList(own.map((p) => p.note))}: ${lowerFirst(phrase)}`).join(' ');
}
