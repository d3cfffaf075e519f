/** What is written down of an instrument as it was found, each with how it is asked for. Common practice, no source. */
export const FACTS = {
  'bridge-place': 'String length from nut to bridge, and where the bridge’s feet stand',
  'bridge-screws': 'Which way the bridge’s adjusting screws face',
  spacers: 'How many ball-end spacers are on each string',
  'tail-path': 'The path of each string through the tailpiece',
  'wrapped-strings': 'Which strings wrap over the top',
  'pickup-clip': 'Where the pickup clip sits',
  'felt-washer': 'Where the felt washer sits',
  sleeves: 'Which strings wear a sleeve on the bridge',
  room: 'Relative humidity and temperature of the room',
  photographs: 'Photographs of the headstock, the bridge and the tail end',
  measured: 'String length, post diameter, gauge of each string',
  flatness: 'Cents flat for each string',
} as const;
export type FactId = keyof typeof FACTS;

/** How a fact is asked for; what was kept under words of its own keeps them. */
export const factName = (id: string): string => (FACTS as Record<string, string>)[id] ?? id;

/**
 * A length in mm out of what somebody wrote of where the bridge stands; null when there is none in it.
 * @example `lengthIn('bridge-place', '32,8 cm, on their marks')` is 328
 */
export function lengthIn(id: string, said: string): number | null {
  if (id !== 'bridge-place') return null;
  const found = /(\d+(?:[.,]\d+)?)\s*(mm|cm|in\b|inch)?/i.exec(said);
  if (!found) return null;
  const value = Number((found[1] as string).replace(',', '.'));
  const unit = (found[2] ?? 'mm').toLowerCase();
  const mm = unit === 'cm' ? value * 10 : unit.startsWith('in') ? value * 25.4 : value;
  // From the smallest violin to the largest bass.
  return mm >= 150 && mm <= 1300 ? Math.round(mm * 10) / 10 : null;
}
