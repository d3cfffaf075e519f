import { type CoreMaterial, strengthMpa } from './materials';
import { stressMpa } from './tension';

export interface BreakMargin {
  stressMpa: number;
  /** Null where the core is no solid and no single strength applies. */
  strengthMpa: number | null;
  /** How many semitones above this pitch the core reaches its strength. */
  semitones: number | null;
}

/**
 * How far a string at pitch stands from breaking. Stress grows with the square of the pitch, so the margin is
 * 6 · log2(strength / stress) semitones. On a wound string the core alone is taken to carry the pull.
 * The stress of a plain string at a pitch and length does not depend on its diameter.
 */
export function breakMargin(p: { tensionN: number; coreMm: number; core: CoreMaterial }): BreakMargin {
  const stress = stressMpa(p.tensionN, p.coreMm);
  const strength = strengthMpa(p.core, p.coreMm);
  return {
    stressMpa: stress,
    strengthMpa: strength,
    semitones: strength === null || stress <= 0 ? null : 6 * Math.log2(strength / stress),
  };
}

export type SlotVerdict = 'binds' | 'glides' | 'wide';

/** A slot is cut a little wider than its string; much wider and it buzzes. Common practice, no source. */
const SLOT_PLAY_MM = { least: 0.02, most: 0.25 };

/** Whether a string fits its nut slot; widths in mm. */
export function slotVerdict(slotMm: number, gaugeMm: number): SlotVerdict {
  const play = slotMm - gaugeMm;
  return play < SLOT_PLAY_MM.least ? 'binds' : play > SLOT_PLAY_MM.most ? 'wide' : 'glides';
}

/** What to do about it, in words; null when nothing is. */
export function slotAdvice(slotMm: number, gaugeMm: number): string | null {
  const size = `${gaugeMm.toFixed(2)} mm in a ${slotMm.toFixed(2)} mm slot`;
  switch (slotVerdict(slotMm, gaugeMm)) {
    case 'binds':
      return `${size} binds: it will ping and drift. Widening a slot is for a qualified repairer; a lighter string fits.`;
    case 'wide':
      return `${size} has play: it may buzz when open. A qualified repairer can fill the slot; a heavier string sits better.`;
    case 'glides':
      return null;
  }
}
