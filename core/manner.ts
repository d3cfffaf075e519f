/**
 * How a programme writes money, days and lengths. One process, and one page, writes for one programme: so it is said once
 * where it begins, as date libraries do with their defaults, and every sentence follows.
 */
export interface Manner {
  /** ISO 4217, as "EUR"; empty: amounts are bare numbers. */
  currency: string;
  /** "24 Nov", "Nov 24" or "2026-11-24". */
  days: (typeof DAY_STYLES)[number];
  /** The day a week begins with: 1 is Monday, 7 Sunday (ISO 8601). */
  weekStarts: number;
  /** Whether lengths at the bench stand in inches too, beside the millimetres that they are measured in. */
  lengths: (typeof LENGTHS)[number];
  /** Whether gauges of strings stand in thousandths of an inch, as on most packets, or in millimetres. */
  gauges: (typeof GAUGES)[number];
}

export const DAY_STYLES = ['day-first', 'month-first', 'iso'] as const;
export const LENGTHS = ['mm', 'in'] as const;
export const GAUGES = ['thou', 'mm'] as const;

export const USUAL_MANNER: Manner = { currency: '', days: 'day-first', weekStarts: 1, lengths: 'mm', gauges: 'thou' };

let manner: Manner = USUAL_MANNER;

/** The manner of the programme that is written for. */
export const mannerNow = (): Manner => manner;

/** From now on everything is written in this manner. */
export function writeIn(next: Manner): void {
  manner = next;
}

/** A manner as one short text, for the root of a page: "EUR/day-first/1/mm/thou". */
export const mannerText = (m: Manner): string => [m.currency, m.days, m.weekStarts, m.lengths, m.gauges].join('/');

/** The manner that a text stands for; what cannot be read in it is as usual. */
export function mannerOf(text: string): Manner {
  const [currency = '', days = '', weekStarts = '', lengths = '', gauges = ''] = text.split('/');
  return {
    currency: isCurrency(currency) ? currency : USUAL_MANNER.currency,
    days: DAY_STYLES.find((d) => d === days) ?? USUAL_MANNER.days,
    weekStarts: [1, 6, 7].includes(Number(weekStarts)) ? Number(weekStarts) : USUAL_MANNER.weekStarts,
    lengths: LENGTHS.find((l) => l === lengths) ?? USUAL_MANNER.lengths,
    gauges: GAUGES.find((g) => g === gauges) ?? USUAL_MANNER.gauges,
  };
}

/** Whether a text is a currency that money is written in (ISO 4217), or empty. */
export const isCurrency = (code: string): boolean => code === '' || CURRENCIES.includes(code);

/** Currencies by their ISO 4217 codes that the runtime knows. */
export const CURRENCIES: readonly string[] = Intl.supportedValuesOf('currency');

/** An amount of hundredths: "12.50 EUR". The code, not the sign: several currencies share one. */
export function sayMoney(cents: number): string {
  const { currency } = manner;
  const amount = amountOf(cents).replace('-', '−');
  return currency ? `${amount} ${currency}` : amount;
}

/** An amount of hundredths as a field holds it: "12.50". */
export const amountOf = (cents: number): string => (cents / 100).toFixed(2);

/** A gauge as the programme says it: ".032", or "0.81 mm". */
export const sayGauge = (mm: number): string =>
  manner.gauges === 'mm' ? `${mm.toFixed(2)} mm` : `.${String(Math.round(mm / 0.0254)).padStart(3, '0')}`;

/** The weekdays in the order of the programme's week, as ISO 8601 numbers them. */
export const weekOrder = (): number[] => Array.from({ length: 7 }, (_, i) => ((manner.weekStarts - 1 + i) % 7) + 1);

/** How many days of its week lie before this weekday. */
export const daysIntoWeek = (weekday: number): number => (weekday - manner.weekStarts + 7) % 7;
