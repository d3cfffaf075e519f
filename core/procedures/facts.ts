/** What is asked where the bridge stands by the strings alone. */
export const LENGTH_ASKED = 'String length from nut to bridge, and where the bridge’s feet stand';

/** A length in mm out of what somebody wrote to that question: "327.5, on their marks" or "32,8 cm"; null when there is none. */
export function lengthIn(asked: string, said: string): number | null {
  if (asked !== LENGTH_ASKED) return null;
  const found = /(\d+(?:[.,]\d+)?)\s*(mm|cm|in\b|inch)?/i.exec(said);
  if (!found) return null;
  const value = Number((found[1] as string).replace(',', '.'));
  const unit = (found[2] ?? 'mm').toLowerCase();
  const mm = unit === 'cm' ? value * 10 : unit.startsWith('in') ? value * 25.4 : value;
  // From the smallest violin to the largest bass.
  return mm >= 150 && mm <= 1300 ? Math.round(mm * 10) / 10 : null;
}
