import type { Build, Position } from '../instruments/build';
import { bassHalf } from '../strings/set';
import { pegTurn, tightens } from '../winding/post';
import type { Quantity } from './types';

const UNITS: Record<Quantity['unit'], string> = {
  mm: ' mm',
  turns: ' turns',
  coils: ' coils',
  cents: ' cents',
  N: ' N',
  count: '',
};

/** A quantity as text: "36 mm", "12 to 19 mm". */
export function sayQuantity(q: Quantity): string {
  const to = q.to === undefined ? '' : ` to ${q.to.toFixed(q.digits)}`;
  return `${q.value.toFixed(q.digits)}${to}${UNITS[q.unit]}`;
}

/** A piece of filled text; `name` is the quantity it stands for. */
export interface TextPiece {
  text: string;
  name: string | null;
}

/** A template cut into plain text and the quantities it names, so that a screen can set the numbers apart. */
export function fillText(template: string, numbers: Record<string, Quantity> = {}): TextPiece[] {
  return template.split(/(\{[a-zA-Z]+\})/).flatMap((piece): TextPiece[] => {
    const name = /^\{(.+)\}$/.exec(piece)?.[1];
    if (!name) return piece ? [{ text: piece, name: null }] : [];
    const quantity = numbers[name];
    if (!quantity) throw new RangeError(`The text names {${name}}, which has no number.`);
    return [{ text: sayQuantity(quantity), name }];
  });
}

/**
 * A string by pitch with octave, number and side together: letters alone mislead where two strings share one, numbers
 * where people count from the other end. The side is where the string lies, whatever row its post is in.
 */
export function stringLabel(build: Pick<Build, 'positions'>, position: Pick<Position, 'note' | 'number'>): string {
  const side = bassHalf(build.positions).has(position.number) ? 'bass' : 'treble';
  return `${position.note} (string ${position.number}, ${side} side)`;
}

const COUNTS = [
  'no',
  'one',
  'two',
  'three',
  'four',
  'five',
  'six',
  'seven',
  'eight',
  'nine',
  'ten',
  'eleven',
  'twelve',
];

/** "all six strings", or the one string by its label. */
export function groupLabel(build: Pick<Build, 'positions'>, group: readonly Position[]): string {
  const [only] = group;
  if (group.length === 1 && only) return stringLabel(build, only);
  const all = group.length === build.positions.length ? 'all ' : '';
  return `${all}${COUNTS[group.length] ?? group.length} strings`;
}

/** What a string is wound on, as the trade calls it. */
export function postWord(build: Pick<Build, 'tuner' | 'head'>): 'post' | 'roller' | 'peg' {
  if (build.tuner === 'roller') return 'roller';
  return build.head === 'pegbox' || build.tuner === 'friction-peg' || build.tuner === 'planetary' ? 'peg' : 'post';
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
        ? 'Over the top of the roller: every button sharpens the same way.'
        : 'Every button slackens the same way: the string comes off over the top.';
    const peg = pegTurn(position.side, build.handedness);
    const opposite = peg === 'clockwise' ? 'counter-clockwise' : 'clockwise';
    return `Seen from its own end the peg ${which} ${which === 'tightens' ? peg : opposite}: the string runs over the top.`;
  }
  const opposite = turn === 'clockwise' ? 'counter-clockwise' : 'clockwise';
  const direction = which === 'tightens' ? turn : opposite;
  const sides =
    build.head !== 'in-line' && which === 'loosens' ? `On the ${position.side} side the ${word}` : `The ${word}`;
  return `${sides} ${which} ${direction}, seen from the front, head up.`;
}
