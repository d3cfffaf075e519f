import type { LocalDate } from '../dates';
import { lifeLeft } from './due';

/** One string of a strip as kept; life and settling follow from the moment it is looked at. */
export interface KeptString {
  number: number;
  gaugeMm: number;
  wound: boolean;
  state: 'on' | 'broken' | 'missing';
  fittedOn: LocalDate | null;
  /** The day on which it alone would be due. */
  endsOn: LocalDate | null;
  /** When it has settled, in milliseconds since 1970 UTC. */
  settledAt: number | null;
}

/** One line of the string strip. */
export interface StripString {
  number: number;
  gaugeMm: number;
  wound: boolean;
  /** `off`: taken off for the moment, on the bench. */
  state: 'on' | 'settling' | 'broken' | 'missing' | 'unknown' | 'off';
  /** Life left, 1 new to 0 due. */
  life: number;
}

/** The strings of an instrument as they are on a day and at an instant. */
export function stripAt(kept: readonly KeptString[], today: LocalDate, now: number): StripString[] {
  return kept.map((s) => ({
    number: s.number,
    gaugeMm: s.gaugeMm,
    wound: s.wound,
    state: s.state !== 'on' ? s.state : s.fittedOn === null ? 'unknown' : (s.settledAt ?? 0) > now ? 'settling' : 'on',
    life: s.fittedOn && s.endsOn && s.state === 'on' ? lifeLeft(s.fittedOn, s.endsOn, today) : 0,
  }));
}

const STATES: readonly StripString['state'][] = ['on', 'settling', 'broken', 'missing', 'unknown', 'off'];

/**
 * A strip as short text, for lists that carry many: `number:gauge in mm:w or p:state:life in %`, strings parted by
 * semicolons.
 */
export function encodeStrip(strings: readonly StripString[]): string {
  return strings
    .map(
      (s) =>
        `${s.number}:${+s.gaugeMm.toFixed(2)}:${s.wound ? 'w' : 'p'}:${STATES.indexOf(s.state)}:${Math.round(s.life * 100)}`,
    )
    .join(';');
}

/** @throws RangeError when the text is no strip */
export function decodeStrip(code: string): StripString[] {
  return code.split(';').map((part) => {
    const [number, gaugeMm, build, state, life] = part.split(':');
    const known = STATES[Number(state)];
    if (!known) throw new RangeError(`“${part}” is not a string of a strip.`);
    return {
      number: Number(number),
      gaugeMm: Number(gaugeMm),
      wound: build === 'w',
      state: known,
      life: Number(life) / 100,
    };
  });
}
