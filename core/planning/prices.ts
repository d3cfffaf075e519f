import { Knapsack } from './knapsack';
import {
  availableByDay,
  candidateShifts,
  countingShifts,
  type Plan,
  type PlanProblem,
  setUpOf,
  skusOf,
  standingMinutes,
  standsBy,
  travelCost,
  unplannedCost,
  visitDaysOf,
} from './model';

export interface Bound {
  /** No plan that keeps all rules costs less. */
  bound: number;
  /** Rounds of prices it took. */
  rounds: number;
  /** Points by which one pack more of each sku would make the bound lower, at these prices. */
  packPrice: number[];
  /** Points by which one minute more in each shift would make it lower. */
  minutePrice: number[];
  /** Shifts in which each job could be, by their place in the list, the cheapest for it at these prices first. */
  favoured: Int32Array[];
}

export interface BoundOptions {
  /** A plan that keeps all rules: its cost is what the prices aim at, its loads are where fairness is measured from. */
  plan: Plan;
  cost: number;
  /** What part of what it may take is over, after so many rounds: of time, or of rounds; from 1 on it stops. */
  part: (rounds: number) => number;
  /** Minutes more that the value of a shift's time is measured with. */
  moreMinutes?: number;
}

/** The first step in shares of what a job costs, the last in shares of the first. */
const FIRST_STEP = 1;
const LAST_STEP = 0.005;
/** How much of the way, and of the size of slopes, is kept from round to round. */
const KEPT_WAY = 0.9;
const KEPT_SIZE = 0.98;
const LEAST_SLOPE = 1e-3;
/** Rough minutes are enough to find good prices, for such a part of the time. */
const COARSE_MINUTES = 5;
const COARSE_PART = 0.75;
const ROUNDING = 1e-7;

/**
 * A bound below every plan that keeps all rules, by prices: of being planned for each job, of packs until each delivery,
 * of each day's room for visits. At any prices the sessions are apart, and the best contents of each alone, with
 * set-ups, ways, bench space and the visits that still fit beside them, are found exactly by going through its minutes.
 * The sum is a bound whatever the prices are, so that it can be stopped at any moment and only gets better.
 *
 * Lagrangian relaxation (Geoffrion 1974) of a generalised assignment with set-ups; a session as a knapsack with set-ups
 * by dynamic programming over minutes. Prices of jobs, packs and room have slopes of quite different size, so that each
 * is moved by its own, as Kingma and Ba (2015) do, with steps that become shorter. Fairness is convex in the minutes
 * worked, and counts by its tangent at the known plan.
 */
export function lowerBound(p: PlanProblem, options: BoundOptions): Bound {
  return new Prices(p, options.plan).improve(options);
}

class Prices {
  private readonly days: number;
  private readonly counts: boolean[];
  /** Of each job: what it costs when it is in no session, and whether it can be in one. */
  private readonly left: Float64Array;
  private readonly open: Uint8Array;
  // What could be in which session, by session and group: the job, its cost there, its minutes, where its visits fall.
  private readonly from: Int32Array;
  private readonly job: Int32Array;
  private readonly base: Float64Array;
  private readonly minutes: Int32Array;
  private readonly group: Int32Array;
  /** Where in the list of prices of a pack on a day its pack stands; the last for none. Further packs apart. */
  private readonly packAt: Int32Array;
  private readonly more: ReadonlyMap<number, readonly number[]>;
  private readonly skus: readonly (readonly number[])[];
  /** Which visits follow: cells of a place and a day, each list of them once. */
  private readonly visitsAt: Int32Array;
  private readonly visitCells: Int32Array[] = [];
  private readonly visitPrice: Float64Array;
  private readonly setUps: readonly { minutes: number; points: number }[];
  /** Rows of the stock: packs that are there by the end of a stretch in which none arrive. */
  private readonly rowSku: number[] = [];
  private readonly rowDay: number[] = [];
  private readonly rowPacks: number[] = [];
  private readonly rowFrom: number[] = [];
  /** What one minute of each person costs by fairness, and what the tangent costs without any. */
  private readonly minuteCost: Float64Array;
  private readonly tangent: number;
  /** What is fixed: jobs that cannot be in any session. */
  private readonly fixed: number;

  // Prices, and how they would be better.
  private readonly jobs: number;
  private readonly rows: number;
  private readonly size: number;
  /** Minutes are counted in such pieces while prices are looked for. */
  private grain = 1;
  private readonly exact: boolean;
  private readonly price: Float64Array;
  private readonly slope: Float64Array;
  private readonly knapsack: Knapsack;
  private readonly skuDayPrice: Float64Array;

  constructor(
    private readonly p: PlanProblem,
    plan: Plan,
  ) {
    this.days = p.days;
    this.counts = countingShifts(p);
    const candidates = candidateShifts(p, this.counts);
    const n = p.jobs.length;
    this.jobs = n;
    const moved = (i: number, s: number) => {
      const was = p.jobs[i]?.published;
      return was == null || was === s ? 0 : p.weights.change;
    };
    const { costs, tangent } = fairnessAt(p, plan, this.counts);
    this.minuteCost = costs;
    this.tangent = tangent;
    const visitDays = visitDaysOf(p, this.counts);
    const standing = standsBy(p);
    this.skus = p.jobs.map((j) => skusOf(j));
    this.left = new Float64Array(n);
    this.open = new Uint8Array(n);
    let fixed = 0;
    const inShift: { job: number; group: number; base: number; minutes: number; visits: number; day: number }[][] =
      p.shifts.map(() => []);
    const known = new Map<string, number>();
    p.jobs.forEach((job, i) => {
      const left = unplannedCost(p, job) + moved(i, -1);
      this.left[i] = left;
      const list = job.locked && job.published != null ? [job.published].filter((s) => s >= 0) : (candidates[i] ?? []);
      for (const s of list) {
        const shift = p.shifts[s];
        const minutes = job.minutes[shift?.person ?? -1];
        if (!shift || minutes === undefined || !this.counts[s]) continue;
        const lags = job.visits ?? p.retuneLags;
        const key = `${job.site}/${shift.day}/${lags.join()}`;
        let visits = known.get(key);
        if (visits === undefined) {
          const days = visitDays(job.site, shift.day, lags);
          visits = this.visitCells.push(Int32Array.from(days, (d) => job.site * p.days + d)) - 1;
          known.set(key, visits);
        }
        const late = job.weight * Math.max(0, shift.day - job.due);
        // Whoever stands by works too, as fairness counts; that their session has so much less room is left out, which
        // only makes the bound lower.
        const by = p.shifts[standing[s * p.skillNeeded.length + job.group] ?? -1];
        const given = by ? (costs[by.person] as number) * standingMinutes(p, minutes) : 0;
        const own = late + moved(i, s) + (costs[shift.person] as number) * minutes + given;
        inShift[s]?.push({ job: i, group: job.group, base: own, minutes, visits, day: shift.day });
        this.open[i] = 1;
      }
      if (this.open[i] === 0) fixed += left;
    });
    this.fixed = fixed;
    this.from = new Int32Array(p.shifts.length + 1);
    const all = inShift.flatMap((list, s) => {
      this.from[s + 1] = (this.from[s] as number) + list.length;
      return list.sort((a, b) => a.group - b.group || a.minutes - b.minutes);
    });
    this.job = Int32Array.from(all, (x) => x.job);
    this.base = Float64Array.from(all, (x) => x.base);
    this.minutes = Int32Array.from(all, (x) => x.minutes);
    this.group = Int32Array.from(all, (x) => x.group);
    this.visitsAt = Int32Array.from(all, (x) => x.visits);
    this.visitPrice = new Float64Array(this.visitCells.length);
    const none = p.stock.length * p.days;
    this.packAt = Int32Array.from(all, (x) => {
      const sku = this.skus[x.job]?.[0];
      return sku === undefined ? none : sku * p.days + x.day;
    });
    this.more = new Map(
      all.flatMap((x, q) => {
        const others = (this.skus[x.job] ?? []).slice(1);
        return others.length > 0 ? [[q, others.map((sku) => sku * p.days + x.day)] as const] : [];
      }),
    );
    this.setUps = p.skillNeeded.map((_, g) => setUpOf(p, g));
    p.stock.forEach((_, sku) => {
      this.rowFrom.push(this.rowSku.length);
      const packs = availableByDay(p, sku);
      packs.forEach((there, day) => {
        if (day + 1 < p.days && packs[day + 1] === there) return;
        this.rowSku.push(sku);
        this.rowDay.push(day);
        this.rowPacks.push(there);
      });
    });
    this.rowFrom.push(this.rowSku.length);
    this.rows = this.rowSku.length;
    this.size = n + this.rows + p.sites * p.days;
    this.price = new Float64Array(this.size);
    this.slope = new Float64Array(this.size);
    this.skuDayPrice = new Float64Array(none + 1);
    this.knapsack = new Knapsack();
    // Where a session is short, rough minutes say nothing.
    this.exact = p.shifts.every((x) => x.minutes < 10 * COARSE_MINUTES);
    this.begin();
  }

  /** Prices to begin with: what each job costs at least. Then no session holds anything, and the bound is their sum. */
  private begin(): void {
    this.price.fill(Number.POSITIVE_INFINITY, 0, this.jobs);
    this.job.forEach((j, q) => {
      this.price[j] = Math.min(this.price[j] as number, this.base[q] as number);
    });
    for (let i = 0; i < this.jobs; i++) this.price[i] = Math.min(this.price[i] as number, this.left[i] as number);
  }

  /** The bound at the prices as they are; how it would change with each of them is left in `slope`. */
  private at(price: Float64Array): number {
    const { p, jobs, rows, slope } = this;
    slope.fill(0);
    let bound = this.fixed + this.tangent;
    for (let i = 0; i < jobs; i++) {
      if (this.open[i] === 0) continue;
      bound += price[i] as number;
      slope[i] = 1;
    }
    for (let r = 0; r < rows; r++) {
      bound -= (price[jobs + r] as number) * (this.rowPacks[r] as number);
      slope[jobs + r] = -(this.rowPacks[r] as number);
    }
    this.pricePacks(price);
    this.priceVisits(price);
    for (let s = 0; s < p.shifts.length; s++) {
      if (this.counts[s]) bound += this.session(s, price, p.shifts[s]?.minutes ?? 0, true);
    }
    return bound;
  }

  /** What a pack used on a day costs: it is gone at the end of each stretch after it. */
  private pricePacks(price: Float64Array): void {
    for (let sku = 0; sku < this.p.stock.length; sku++) {
      let sum = 0;
      let r = (this.rowFrom[sku + 1] as number) - 1;
      for (let day = this.days - 1; day >= 0; day--) {
        if (r >= (this.rowFrom[sku] as number) && this.rowDay[r] === day) sum += price[this.jobs + r--] as number;
        this.skuDayPrice[sku * this.days + day] = sum;
      }
    }
  }

  private priceVisits(price: Float64Array): void {
    const first = this.jobs + this.rows;
    this.visitCells.forEach((cells, v) => {
      let sum = 0;
      for (let k = 0; k < cells.length; k++) sum += price[first + (cells[k] as number)] as number;
      this.visitPrice[v] = sum;
    });
  }

  /**
   * The best contents of a session at some prices.
   * @param minutes how long it is
   * @param tell whether what is in it is added to the slope
   * @returns its points
   */
  private session(s: number, price: Float64Array, minutes: number, tell: boolean): number {
    const { p, days, jobs, rows, slope, knapsack } = this;
    const shift = p.shifts[s] as PlanProblem['shifts'][number];
    const cell = jobs + rows + shift.site * days + shift.day;
    const room = price[cell] as number;
    const perMinute = this.minuteCost[shift.person] as number;
    const { grain } = this;
    const whole = (m: number) => (grain === 1 || m === 0 ? m : Math.max(1, Math.round(m / grain)));
    knapsack.begin(whole(minutes));
    const { job, base, packAt, visitsAt, visitPrice, skuDayPrice, more } = this;
    const many = more.size > 0;
    let group = -1;
    const to = this.from[s + 1] as number;
    for (let q = this.from[s] as number; q < to; q++) {
      let cost = (base[q] as number) - (price[job[q] as number] as number);
      if (cost >= 0) continue;
      cost += (skuDayPrice[packAt[q] as number] as number) + (visitPrice[visitsAt[q] as number] as number);
      if (many) for (const at of more.get(q) ?? []) cost += skuDayPrice[at] as number;
      if (cost >= 0) continue;
      if (this.group[q] !== group) {
        group = this.group[q] as number;
        const setUp = this.setUps[group] as { minutes: number; points: number };
        knapsack.group(whole(setUp.minutes), setUp.points + perMinute * setUp.minutes, shift.benchSpace ?? 0);
      }
      knapsack.item(q, whole(this.minutes[q] as number), cost);
    }
    const visit = p.retuneMinutes;
    const rest = (used: number) => -room * Math.floor((minutes - used * grain) / visit);
    const best = knapsack.best(rest, travelCost(p, shift));
    if (!tell) return best;
    for (const q of knapsack.taken()) {
      const j = this.job[q] as number;
      slope[j] = (slope[j] as number) - 1;
      for (const sku of this.skus[j] as readonly number[])
        for (let r = this.rowFrom[sku] as number; r < (this.rowFrom[sku + 1] as number); r++)
          if ((this.rowDay[r] as number) >= shift.day) slope[jobs + r] = (slope[jobs + r] as number) + 1;
      const cells = this.visitCells[this.visitsAt[q] as number] as Int32Array;
      for (let k = 0; k < cells.length; k++) {
        const c = jobs + rows + (cells[k] as number);
        slope[c] = (slope[c] as number) + 1;
      }
    }
    slope[cell] = (slope[cell] as number) - Math.floor((minutes - knapsack.used * grain) / visit);
    return best;
  }

  improve(options: BoundOptions): Bound {
    const { jobs, rows, size, slope, price, p } = this;
    const { cost } = options;
    const cap = p.weights.missedRetune;
    /** Keeps each price where it means something: left out is never dearer than that, packs and room never cost less than nothing. */
    const limit = () => {
      for (let i = 0; i < jobs; i++) price[i] = Math.min(price[i] as number, this.left[i] as number);
      for (let r = jobs; r < jobs + rows; r++) price[r] = Math.max(0, price[r] as number);
      for (let c = jobs + rows; c < size; c++) price[c] = Math.min(cap, Math.max(0, price[c] as number));
    };
    /** Whether a price stays at its limit, whatever its slope says. */
    const stays = (i: number): boolean => {
      const [at, by] = [price[i] as number, slope[i] as number];
      if (i < jobs) return this.open[i] === 0 || (by > 0 && at >= (this.left[i] as number) - ROUNDING);
      return (by < 0 && at <= 0) || (i >= jobs + rows && by > 0 && at >= cap);
    };
    let best = this.at(price);
    const bestPrice = price.slice();
    const way = slope.slice();
    const size2 = Float64Array.from(slope, (g) => g * g);
    let rounds = 1;
    const longest = (FIRST_STEP * Math.max(cost, 1)) / Math.max(1, jobs);
    let coarse = Number.NEGATIVE_INFINITY;
    const coarsePrice = price.slice();
    this.grain = this.exact ? 1 : COARSE_MINUTES;
    for (;;) {
      const part = options.part(rounds);
      if (part >= 1 || best >= cost - ROUNDING * Math.max(1, cost)) break;
      if (this.grain > 1 && part >= COARSE_PART) {
        this.grain = 1;
        price.set(coarsePrice);
      } else {
        const step = longest * LAST_STEP ** part;
        for (let i = 0; i < size; i++)
          price[i] = (price[i] as number) + (step * (way[i] as number)) / (Math.sqrt(size2[i] as number) + LEAST_SLOPE);
        limit();
      }
      const bound = this.at(price);
      rounds += 1;
      // Counted by rough minutes it is none, but its prices are good ones.
      if (this.grain > 1) {
        if (bound > coarse) {
          coarse = bound;
          coarsePrice.set(price);
        }
      } else if (bound > best) {
        best = bound;
        bestPrice.set(price);
      }
      for (let i = 0; i < size; i++) {
        const g = stays(i) ? 0 : (slope[i] as number);
        way[i] = KEPT_WAY * (way[i] as number) + (1 - KEPT_WAY) * g;
        size2[i] = KEPT_SIZE * (size2[i] as number) + (1 - KEPT_SIZE) * g * g;
      }
    }
    this.grain = 1;
    this.pricePacks(bestPrice);
    this.priceVisits(bestPrice);
    const more = options.moreMinutes ?? 60;
    const worth = (s: number, minutes: number) => this.session(s, bestPrice, minutes, false);
    const minutePrice = p.shifts.map(({ minutes }, s) =>
      this.counts[s] ? Math.max(0, (worth(s, minutes) - worth(s, minutes + more)) / more) : 0,
    );
    return {
      bound: Math.max(0, best),
      rounds,
      packPrice: p.stock.map((_, sku) => this.skuDayPrice[sku * this.days] ?? 0),
      minutePrice,
      favoured: this.favoured(minutePrice),
    };
  }

  /** The shifts of each job by what it costs in them, with what it takes of packs, room for visits and minutes. */
  private favoured(minutePrice: readonly number[]): Int32Array[] {
    const costs: { shift: number; cost: number }[][] = Array.from({ length: this.jobs }, () => []);
    for (let shift = 0; shift + 1 < this.from.length; shift++)
      for (let q = this.from[shift] as number; q < (this.from[shift + 1] as number); q++) {
        let cost = (this.base[q] as number) + (this.visitPrice[this.visitsAt[q] as number] as number);
        cost += this.skuDayPrice[this.packAt[q] as number] as number;
        for (const at of this.more.get(q) ?? []) cost += this.skuDayPrice[at] as number;
        cost += (minutePrice[shift] as number) * (this.minutes[q] as number);
        costs[this.job[q] as number]?.push({ shift, cost });
      }
    return costs.map((own) =>
      Int32Array.from(
        own.sort((a, b) => a.cost - b.cost || a.shift - b.shift),
        (c) => c.shift,
      ),
    );
  }
}

/** What fairness costs at a plan's loads without any minutes, by its tangent, and each person's minute. */
function fairnessAt(p: PlanProblem, plan: Plan, counts: readonly boolean[]): { costs: Float64Array; tangent: number } {
  const costs = new Float64Array(p.people.length);
  const weight = (p.weights.fairness ?? 0) / 60;
  const had = p.people.map((x) => x.hadMinutes ?? 0);
  const before = p.people.map((x) => x.workedMinutes ?? 0);
  p.shifts.forEach((s, i) => {
    if (counts[i]) had[s.person] = (had[s.person] as number) + s.minutes;
  });
  const hadAll = had.reduce((a, b) => a + b, 0);
  if (weight === 0 || hadAll === 0) return { costs, tangent: 0 };
  const worked = [...before];
  const standing = standsBy(p);
  const groups = new Map<string, number>();
  p.jobs.forEach((job, i) => {
    const s = plan[i] as number;
    const shift = p.shifts[s];
    if (!shift) return;
    worked[shift.person] = (worked[shift.person] as number) + (job.minutes[shift.person] ?? 0);
    const by = p.shifts[standing[s * p.skillNeeded.length + job.group] ?? -1];
    if (by) worked[by.person] = (worked[by.person] as number) + standingMinutes(p, job.minutes[shift.person] ?? 0);
    groups.set(`${s}/${job.group}`, (groups.get(`${s}/${job.group}`) ?? 0) + 1);
  });
  for (const [key, n] of groups) {
    const [s, group] = key.split('/').map(Number) as [number, number];
    const shift = p.shifts[s] as PlanProblem['shifts'][number];
    const times = shift.benchSpace === undefined ? 1 : Math.ceil(n / shift.benchSpace);
    worked[shift.person] = (worked[shift.person] as number) + times * setUpOf(p, group).minutes;
  }
  const all = worked.reduce((a, b) => a + b, 0);
  const counted = worked.reduce((sum, u, k) => ((had[k] as number) > 0 ? sum + u : sum), 0);
  let value = 0;
  let tangent = 0;
  had.forEach((a, k) => {
    if (a <= 0) return;
    const over = (worked[k] as number) / a - all / hadAll;
    value += weight * a * over ** 2;
    costs[k] = weight * (2 * over - (2 * (counted - all)) / hadAll);
    tangent += (costs[k] as number) * ((before[k] as number) - (worked[k] as number));
  });
  return { costs, tangent: tangent + value };
}
