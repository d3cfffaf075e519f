import { addDays, daysBetween, type LocalDate } from '../dates';
import { poissonQuantile } from './quantities';

/** What is bought as one: a set with its strings, or a string sold singly, as a set of itself. */
export interface Pack {
  productId: string;
  items: readonly { productId: string; count: number }[];
  /** Sealed packs on the shelf that no job has set aside for good. */
  packs: number;
  /** Loose strings by product, counted in half strings. */
  looseHalves: ReadonlyMap<string, number>;
  /** Packs under way. */
  arrivals: readonly { on: LocalDate; packs: number }[];
}

/** Half strings of a product wanted on a day: two for a whole one. */
export interface Demand {
  on: LocalDate;
  productId: string;
  halves: number;
  /** The instrument that waits for it; empty where nobody in particular does. */
  tag: string;
}

/** Strings that break by chance: how many a week are expected of each product. */
export type Breaks = ReadonlyMap<string, number>;

/**
 * Packs opened by the end of each week when strings are taken from what is loose first: the most that any one of its
 * strings asks for. Strings left over of opened packs serve what comes later.
 *
 * @param needs half strings wanted in each week, by product
 */
export function packsNeeded(
  pack: Pick<Pack, 'items' | 'looseHalves'>,
  needs: readonly ReadonlyMap<string, number>[],
): number[] {
  const sums = new Map<string, number>();
  return needs.map((week) => {
    for (const [productId, halves] of week) sums.set(productId, (sums.get(productId) ?? 0) + halves);
    let packs = 0;
    for (const { productId, count } of pack.items) {
      const missing = (sums.get(productId) ?? 0) - (pack.looseHalves.get(productId) ?? 0);
      if (missing > 0) packs = Math.max(packs, Math.ceil(missing / (2 * count)));
    }
    return packs;
  });
}

/** Week of a day, counted from today; days before today belong to the first. */
export const weekOf = (today: LocalDate, on: LocalDate): number => Math.max(0, Math.floor(daysBetween(today, on) / 7));

function byWeek(today: LocalDate, weeks: number, demand: readonly Demand[]): Map<string, number>[] {
  const needs = Array.from({ length: weeks }, () => new Map<string, number>());
  for (const d of demand) {
    const week = needs[weekOf(today, d.on)];
    if (week) week.set(d.productId, (week.get(d.productId) ?? 0) + d.halves);
  }
  return needs;
}

export interface Outlook {
  /** By the end of each week: packs wanted so far without chance, packs had so far, and the range by chance. */
  weeks: {
    week: number;
    endsOn: LocalDate;
    wanted: number;
    had: number;
    left: number;
    /** What is left in nine of ten futures lies between. */
    low: number;
    high: number;
    /** Chance that some string has been wanted in vain by then. */
    shortChance: number;
  }[];
  /** The first day on which it does not do, without chance; null within the weeks looked at. */
  runsOutOn: LocalDate | null;
  /** Chance that it runs short before an order sent today would have come. */
  shortInLead: number;
}

/**
 * What is left of a pack week by week, from the jobs that are known and the strings that break by chance.
 *
 * @param draws futures to draw
 * @param random a source of numbers from 0 to 1
 */
export function outlook(
  pack: Pack,
  demand: readonly Demand[],
  breaks: Breaks,
  p: { today: LocalDate; weeks: number; leadDays: number; draws: number; random: () => number },
): Outlook {
  const known = byWeek(p.today, p.weeks, demand);
  const wanted = packsNeeded(pack, known);
  const arrivals = new Array<number>(p.weeks).fill(0);
  for (const a of pack.arrivals) {
    const week = weekOf(p.today, a.on);
    if (week < p.weeks) arrivals[week] = (arrivals[week] ?? 0) + a.packs;
  }
  let had = pack.packs;
  const hadBy = arrivals.map((n) => {
    had += n;
    return had;
  });
  const futures = drawFutures(pack, known, breaks, p.draws, p.random);
  // The first week in which each future runs short.
  const firstShort = futures.map((f) => {
    const at = f.findIndex((n, w) => n > (hadBy[w] as number));
    return at < 0 ? Number.POSITIVE_INFINITY : at;
  });
  const weeks = wanted.map((want, week) => {
    const left = futures.map((f) => (hadBy[week] as number) - (f[week] as number)).sort((a, b) => a - b);
    const at = (q: number) => left[Math.min(left.length - 1, Math.floor(q * left.length))] ?? 0;
    const short = firstShort.filter((first) => first <= week).length;
    return {
      week,
      endsOn: addDays(p.today, 7 * week + 6),
      wanted: want,
      had: hadBy[week] as number,
      left: (hadBy[week] as number) - want,
      low: at(0.05),
      high: at(0.95),
      shortChance: futures.length ? short / futures.length : 0,
    };
  });
  // The lead time ends within a week: of that week as much as lies before.
  const chanceAfter = (full: number) => (full <= 0 ? 0 : (weeks[Math.min(p.weeks, full) - 1]?.shortChance ?? 0));
  const full = Math.floor(p.leadDays / 7);
  const rest = p.leadDays / 7 - full;
  const shortInLead = chanceAfter(full) + rest * (chanceAfter(full + 1) - chanceAfter(full));
  return { weeks, runsOutOn: runsOut(pack, demand), shortInLead };
}

/** Packs needed by the end of each week in each future; Poisson variates by multiplication (Knuth 1969). */
export function drawFutures(
  pack: Pick<Pack, 'items' | 'looseHalves'>,
  known: readonly ReadonlyMap<string, number>[],
  breaks: Breaks,
  draws: number,
  random: () => number,
): number[][] {
  // Item by item in arrays: what is known so far in each week, and e to the minus of what breaks in one.
  const weeks = known.length;
  const items = pack.items.map(({ productId, count }) => {
    let sum = -(pack.looseHalves.get(productId) ?? 0);
    const mean = breaks.get(productId) ?? 0;
    return {
      missing: known.map((week) => {
        sum += week.get(productId) ?? 0;
        return sum;
      }),
      perPack: 2 * count,
      limit: mean > 0 ? Math.exp(-mean) : 1,
      broke: 0,
    };
  });
  return Array.from({ length: draws }, () => {
    for (const item of items) item.broke = 0;
    const needed = new Array<number>(weeks);
    for (let w = 0; w < weeks; w++) {
      let packs = 0;
      for (const item of items) {
        if (item.limit < 1) {
          let product = random();
          while (product > item.limit) {
            product *= random();
            item.broke += 2;
          }
        }
        const missing = (item.missing[w] as number) + item.broke;
        if (missing > packs * item.perPack) packs = Math.ceil(missing / item.perPack);
      }
      needed[w] = packs;
    }
    return needed;
  });
}

/** The day on which the packs on the shelf and under way do not cover what is known. */
function runsOut(pack: Pack, demand: readonly Demand[]): LocalDate | null {
  const items = new Set(pack.items.map((i) => i.productId));
  const byDay = new Map<LocalDate, Demand[]>();
  for (const d of demand) {
    if (!items.has(d.productId)) continue;
    const same = byDay.get(d.on);
    if (same) same.push(d);
    else byDay.set(d.on, [d]);
  }
  const sums = new Map<string, number>();
  for (const [day, wanted] of [...byDay].sort(([a], [b]) => (a < b ? -1 : 1))) {
    for (const d of wanted) sums.set(d.productId, (sums.get(d.productId) ?? 0) + d.halves);
    const [needed] = packsNeeded(pack, [sums]);
    const had = pack.packs + pack.arrivals.filter((a) => a.on <= day).reduce((sum, a) => sum + a.packs, 0);
    if ((needed as number) > had) return day;
  }
  return null;
}

export interface ReorderRule {
  /** Packs on the shelf and under way at which to order. */
  point: number;
  /** Packs to order then, in whole trade units. */
  quantity: number;
  /** Packs wanted within the lead time, known and by chance. */
  knownInLead: number;
  randomInLead: number;
  /** The last day to send an order so that nothing is late; null when nothing runs out. */
  sendBy: LocalDate | null;
}

/**
 * When to order a pack and how much: the lead time covered with a chance of `service`, and as much as the economic
 * quantity, at least what the coming cycle is known to want, in whole trade units.
 *
 * @param p.economic packs per order at least cost
 * @param p.cycleDays days an order should last, beside the lead time
 */
export function reorderRule(
  pack: Pack,
  demand: readonly Demand[],
  breaks: Breaks,
  p: { today: LocalDate; leadDays: number; service: number; economic: number; cycleDays: number; unit: number },
): ReorderRule {
  const until = (days: number) => {
    const end = addDays(p.today, days);
    const needs = new Map<string, number>();
    for (const d of demand) if (d.on <= end) needs.set(d.productId, (needs.get(d.productId) ?? 0) + d.halves);
    return packsNeeded(pack, [needs])[0] as number;
  };
  const knownInLead = until(p.leadDays);
  // A string that breaks opens a pack whose other strings are left: each counts as a pack while nothing loose is there.
  const perWeek = pack.items.reduce((sum, i) => sum + (breaks.get(i.productId) ?? 0), 0);
  const randomInLead = (perWeek * p.leadDays) / 7;
  const most = Math.max(0, ...pack.items.map((i) => breaks.get(i.productId) ?? 0)) * (p.leadDays / 7);
  const point = knownInLead + poissonQuantile(p.service, Math.max(most, randomInLead / Math.max(1, pack.items.length)));
  const cycle = until(p.leadDays + p.cycleDays) - knownInLead;
  const wanted = Math.max(1, p.economic, cycle);
  const out = runsOut(pack, demand);
  return {
    point,
    quantity: Math.ceil(wanted / p.unit) * p.unit,
    knownInLead,
    randomInLead,
    sendBy: out ? addDays(out, -p.leadDays) : null,
  };
}

/**
 * Instruments that wait longer for each pack that is not bought, for how many packs: the first pack bought serves the
 * instrument that would wait first. Days late are counted to the end of the time looked at.
 */
export function lateWithout(pack: Pack, demand: readonly Demand[], until: LocalDate): { tag: string; days: number }[] {
  const items = new Set(pack.items.map((i) => i.productId));
  const jobs = new Map<string, Demand[]>();
  for (const d of demand)
    if (items.has(d.productId) && d.tag && d.on <= until)
      jobs.set(`${d.on}/${d.tag}`, [...(jobs.get(`${d.on}/${d.tag}`) ?? []), d]);
  const late: { tag: string; days: number }[] = [];
  const sums = new Map<string, number>();
  for (const [key, job] of [...jobs].sort(([a], [b]) => (a < b ? -1 : 1))) {
    const trial = new Map(sums);
    for (const d of job) trial.set(d.productId, (trial.get(d.productId) ?? 0) + d.halves);
    const [on, tag] = key.split('/') as [LocalDate, string];
    const had = pack.packs + pack.arrivals.filter((a) => a.on <= on).reduce((sum, a) => sum + a.packs, 0);
    if ((packsNeeded(pack, [trial])[0] as number) <= had) for (const [id, n] of trial) sums.set(id, n);
    else late.push({ tag, days: Math.max(1, daysBetween(on, until)) });
  }
  return late;
}
