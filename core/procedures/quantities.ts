import { halves, sayWinds } from '../count';
import { mannerNow } from '../manner';
import type { Quantity } from './types';

const UNITS: Record<Quantity['unit'], string> = {
  mm: ' mm',
  winds: ' winds',
  cents: ' cents',
  rounds: ' rounds',
  offcuts: ' offcuts',
  N: ' N',
  count: '',
};

/** Millimetres in inches as a rule shows them, to the sixteenth: "1 7/16". */
function inches(mm: number): string {
  const sixteenths = Math.round((mm / 25.4) * 16);
  const whole = Math.floor(sixteenths / 16);
  let [part, of] = [sixteenths % 16, 16];
  while (part > 0 && part % 2 === 0) [part, of] = [part / 2, of / 2];
  return part === 0 ? String(whole) : `${whole > 0 ? `${whole} ` : ''}${part}/${of}`;
}

/** Below this a rule in inches says less than the millimetres. */
const LEAST_INCHES_MM = 5;

/** A quantity as text: "36 mm", "12 to 19 mm"; with inches behind it where the programme wants them. */
export function sayQuantity(q: Quantity): string {
  if (q.unit === 'winds')
    return q.to === undefined || halves(q.to) === halves(q.value)
      ? sayWinds(q.value)
      : `${halves(q.value)} to ${sayWinds(q.to)}`;
  const to = q.to === undefined ? '' : ` to ${q.to.toFixed(q.digits)}`;
  const last = (q.to ?? q.value).toFixed(q.digits);
  // Whole ones are counted: "1 round", "2 rounds".
  const unit = last === '1' && q.to === undefined ? UNITS[q.unit].replace(/s$/, '') : UNITS[q.unit];
  const inch =
    q.unit === 'mm' && mannerNow().lengths === 'in' && q.value >= LEAST_INCHES_MM
      ? ` (${inches(q.value)}${q.to === undefined ? '' : ` to ${inches(q.to)}`} in)`
      : '';
  return `${q.value.toFixed(q.digits)}${to}${unit}${inch}`;
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
    if (!quantity) throw new RangeError(`The text uses {${name}}, which has no figure.`);
    return [{ text: sayQuantity(quantity), name }];
  });
}
