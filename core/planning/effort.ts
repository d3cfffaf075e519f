import { group } from 'd3-array';

/** A job that was done: what it took against what jobs like it usually take. */
export interface WorkRecord {
  person: number;
  /** What is learned together, such as the family of instruments. */
  method: string;
  minutes: number;
  usualMinutes: number;
}

/** Minutes a job may take. */
export interface Effort {
  /** Expected; what a plan counts with. */
  minutes: number;
  /** In eight cases of ten it lies between. */
  low: number;
  high: number;
  /** Records it rests on, of this person with this method. */
  records: number;
}

/** Records that what is usual stands for, for a method and for a person: common practice, no source. */
const PRIOR_METHOD = 5;
const PRIOR_PERSON = 10;
/** Spread of one job about its expectation, as a standard deviation of its logarithm, and the records it stands for. */
const PRIOR_SPREAD = 0.3;
const PRIOR_SPREAD_RECORDS = 20;
/** Times this far from what is usual are mistakes of the clock: a bench left open over lunch. */
const MOST_TIMES = 4;
const SWEEPS = 12;
const TEN_PERCENT = 1.2816;

export interface Efforts {
  /** @param usualMinutes what the procedure says for this instrument */
  of: (person: number, method: string, usualMinutes: number) => Effort;
  /** Standard deviation of the logarithm of a job's minutes. */
  spread: number;
}

/**
 * What is learned from the records of one person with one method: how many there are, and the sums of the logarithm of
 * minutes over usual minutes and of its square. More of a record is not needed.
 */
export interface EffortCell {
  person: number;
  method: string;
  records: number;
  sum: number;
  squares: number;
}

/** Records that took so many times as long as usual, or as short, tell of something else. */
export const MOST_LOG = Math.log(MOST_TIMES);

/** Records as cells. */
export function cellsOf(records: readonly WorkRecord[]): EffortCell[] {
  const cells = new Map<string, EffortCell>();
  for (const { person, method, minutes, usualMinutes } of records) {
    if (!(minutes > 0 && usualMinutes > 0)) continue;
    const y = Math.log(minutes / usualMinutes);
    if (Math.abs(y) > MOST_LOG) continue;
    const key = `${person}/${method}`;
    const cell = cells.get(key) ?? { person, method, records: 0, sum: 0, squares: 0 };
    cell.records += 1;
    cell.sum += y;
    cell.squares += y ** 2;
    cells.set(key, cell);
  }
  return [...cells.values()];
}

/**
 * Learns minutes by method and person. The logarithm of minutes over usual minutes is a sum of a method's part, a
 * person's part and chance; both parts are drawn towards nothing by the records that stand for what is usual
 * (a crossed random-effects model; Robinson 1991), so that few records say little.
 */
export function learnEfforts(cells: readonly EffortCell[]): Efforts {
  const methods = new Map<string, number>();
  const people = new Map<number, number>();
  const byMethod = group(cells, (c) => c.method);
  const byPerson = group(cells, (c) => c.person);
  const total = (list: readonly EffortCell[], of: (c: EffortCell) => number) => list.reduce((n, c) => n + of(c), 0);
  const records = (list: readonly EffortCell[]) => total(list, (c) => c.records);
  for (let sweep = 0; sweep < SWEEPS; sweep++) {
    for (const [m, list] of byMethod)
      methods.set(
        m,
        total(list, (c) => c.sum - c.records * (people.get(c.person) ?? 0)) / (records(list) + PRIOR_METHOD),
      );
    for (const [k, list] of byPerson)
      people.set(
        k,
        total(list, (c) => c.sum - c.records * (methods.get(c.method) ?? 0)) / (records(list) + PRIOR_PERSON),
      );
  }
  const squares = total(cells, (c) => {
    const part = (methods.get(c.method) ?? 0) + (people.get(c.person) ?? 0);
    return Math.max(0, c.squares - 2 * part * c.sum + c.records * part ** 2);
  });
  const spread = Math.sqrt(
    (squares + PRIOR_SPREAD_RECORDS * PRIOR_SPREAD ** 2) / (records(cells) + PRIOR_SPREAD_RECORDS),
  );
  const counts = new Map(cells.map((c) => [`${c.person}/${c.method}`, c.records]));
  return {
    spread,
    of: (person, method, usualMinutes) => {
      const middle = usualMinutes * Math.exp((methods.get(method) ?? 0) + (people.get(person) ?? 0));
      return {
        // The mean of a log-normal lies above its middle.
        minutes: middle * Math.exp(spread ** 2 / 2),
        low: middle * Math.exp(-TEN_PERCENT * spread),
        high: middle * Math.exp(TEN_PERCENT * spread),
        records: counts.get(`${person}/${method}`) ?? 0,
      };
    },
  };
}

/**
 * The chance that jobs are done within some minutes: their sum as a normal distribution with the mean and the variance
 * of the log-normal parts.
 * @param spread as in `Efforts`
 */
export function chanceWithin(
  meanMinutes: readonly number[],
  fixedMinutes: number,
  spread: number,
  minutes: number,
): number {
  const mean = meanMinutes.reduce((a, b) => a + b, 0) + fixedMinutes;
  const variance = meanMinutes.reduce((sum, m) => sum + m ** 2 * (Math.exp(spread ** 2) - 1), 0);
  if (variance === 0) return mean <= minutes ? 1 : 0;
  return normalBelow((minutes - mean) / Math.sqrt(variance));
}

/** Standard normal distribution (Abramowitz and Stegun 1964, 26.2.17; error below 7.5e-8). */
export function normalBelow(z: number): number {
  const t = 1 / (1 + 0.2316419 * Math.abs(z));
  const poly = t * (0.31938153 + t * (-0.356563782 + t * (1.781477937 + t * (-1.821255978 + t * 1.330274429))));
  const tail = (Math.exp(-(z ** 2) / 2) / Math.sqrt(2 * Math.PI)) * poly;
  return z >= 0 ? 1 - tail : tail;
}
