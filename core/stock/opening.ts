import type { Highs } from 'highs';
import { LinearProgram, type SolveOptions } from '../solver/linear';
import type { SetContents } from './draw';

/** Strings wanted alike: the same choices, the same place and day. */
export interface OpeningNeed {
  id: string;
  /** What would do, the wanted one first; the cost of taking it instead, in hundredths of the currency. */
  choices: { productId: string; penaltyCents: number }[];
  amount: 'whole' | 'half';
  count: number;
  placeId: number;
  /** ISO day on which it is needed. */
  on: string;
}

/** Packs, strings or halves that lie together. */
export interface OpeningSupply {
  id: string;
  productId: string;
  form: 'set' | 'single' | 'half';
  count: number;
  placeId: number;
  /** It can be brought anywhere, as what lies in the store can. */
  travels: boolean;
  /** ISO day from which it is there; a delivery under way has one ahead. */
  from: string;
  sealed: boolean;
  /** Days it has lain there: the older goes first. */
  ageDays: number;
  /** Cost of one set, string or half. */
  unitCents: number;
}

/** A string of each of these products at hand, beside what is used. */
export interface SpareNeed {
  productId: string;
  placeId: number;
  on: string;
}

export interface OpeningProblem {
  needs: OpeningNeed[];
  supplies: OpeningSupply[];
  spares: SpareNeed[];
  contents: SetContents;
  /** Share of its cost that a string left over of an opened set is likely to lose, by product; absent: a half. */
  loss?: ReadonlyMap<string, number>;
}

export interface OpeningPlan {
  /** Sets to open, by supply. */
  opens: { supplyId: string; count: number }[];
  /** Whole strings to halve, from a supply of singles or out of an opened set. */
  halves: { supplyId: string; productId: string; count: number }[];
  uses: { needId: string; productId: string; supplyId: string; amount: 'whole' | 'half'; count: number }[];
  short: { needId: string; count: number }[];
  /** Packs and strings taken along as spare, unopened. */
  spares: { supplyId: string; productId: string; count: number }[];
  spareShort: string[];
  /** Strings of opened sets that are left, and halves. */
  leftovers: { productId: string; form: 'single' | 'half'; count: number }[];
  /** Cost in hundredths of the currency, with what is short, lost and taken instead. */
  objective: number;
  /** The same without the weight of what stays short: what it costs in strings. */
  costCents: number;
  /** No choice can cost less; absent before it is proven. */
  bound: number | null;
}

// Weights in hundredths of the currency. Common practice, no source: a job not done costs more than any string.
const SHORT_CENTS = 50_000;
const SPARE_SHORT_CENTS = 300;
const LOSS = 0.5;
const HALF_LOSS = 0.25;
/** Cutting takes a moment. */
const CUT_CENTS = 1;
/** What a sealed single loses when an opened one would have done, and what a day on the shelf is worth. */
const UNSEAL_CENTS = 20;
/** What lies elsewhere is fetched only for a reason. */
const FETCH_CENTS = 10;
const AGE_CENTS_PER_DAY = 0.01;
const MOST_AGE_DAYS = 1000;

const reaches = (s: OpeningSupply, need: { placeId: number; on: string }): boolean =>
  s.from <= need.on && (s.travels || s.placeId === need.placeId);

/**
 * What to open is a small integer program: sets opened, strings halved, and who gets what; the cost is what is used, a
 * share of what an opened set leaves over, substitutes taken, and very much for what stays short. A spare of each
 * string is taken along unopened where there is one.
 */
export class Opening {
  private readonly lp = new LinearProgram();
  private readonly open = new Map<string, number>();
  private readonly carried = new Map<string, number>();
  private readonly halved = new Map<string, { column: number; supply: OpeningSupply; productId: string }>();
  private readonly used: { column: number; need: OpeningNeed; productId: string; supply: OpeningSupply }[] = [];
  private readonly shortAt = new Map<string, number>();
  private readonly spareAt: { column: number; productId: string; supply: OpeningSupply }[] = [];
  private readonly spareShortAt: { column: number; productId: string }[] = [];

  constructor(readonly problem: OpeningProblem) {
    this.build();
  }

  /** Costs of using one string (or half) of a supply for a need, without the pack's own. */
  private centsOf(supply: OpeningSupply, amount: 'whole' | 'half', share: number): number {
    const age = AGE_CENTS_PER_DAY * Math.min(MOST_AGE_DAYS, supply.ageDays);
    const sealed = supply.form !== 'half' && supply.sealed && supply.form !== 'set' ? UNSEAL_CENTS : 0;
    return (amount === 'half' ? share / 2 : share) + sealed - age;
  }

  /** Cost of one string out of a supply. */
  private stringCents(supply: OpeningSupply): number {
    if (supply.form !== 'set') return supply.form === 'half' ? supply.unitCents * 2 : supply.unitCents;
    const strings = (this.problem.contents.get(supply.productId) ?? []).reduce((sum, i) => sum + i.count, 0);
    return strings ? supply.unitCents / strings : supply.unitCents;
  }

  private lossOf(productId: string): number {
    return this.problem.loss?.get(productId) ?? LOSS;
  }

  private build(): void {
    const { lp, problem } = this;
    const { needs, supplies, contents } = problem;
    const wanted = new Set(needs.flatMap((n) => n.choices.map((c) => c.productId)));
    const halvesWanted = new Set(
      needs.filter((n) => n.amount === 'half').flatMap((n) => n.choices.map((c) => c.productId)),
    );
    // Whole strings and halves taken out of each supply, by product, as terms of its capacity rows.
    const wholes = new Map<string, [number, number][]>();
    const halves = new Map<string, [number, number][]>();
    const key = (supplyId: string, productId: string) => `${supplyId}/${productId}`;
    const push = (map: Map<string, [number, number][]>, k: string, column: number, value: number) =>
      map.set(k, [...(map.get(k) ?? []), [column, value]]);
    const itemsOf = (s: OpeningSupply) =>
      s.form === 'set'
        ? (contents.get(s.productId) ?? []).filter((i) => wanted.has(i.productId))
        : wanted.has(s.productId)
          ? [{ productId: s.productId, count: 1 }]
          : [];

    for (const s of supplies) {
      const items = itemsOf(s);
      if (items.length === 0) continue;
      const each = this.stringCents(s);
      if (s.form === 'set') {
        // What a set leaves over loses part of its cost; a string that is used gives that part back.
        const left = (contents.get(s.productId) ?? []).reduce(
          (sum, i) => sum + i.count * each * this.lossOf(i.productId),
          0,
        );
        this.open.set(s.id, lp.column(left, 0, s.count, true));
      }
      for (const { productId } of items) {
        if (s.form === 'half' || !halvesWanted.has(productId)) continue;
        // A half that is left loses a little; out of a set it loses what the whole would have.
        const cents = CUT_CENTS + (s.form === 'set' ? 0 : each * HALF_LOSS);
        const most = s.form === 'set' ? Number.POSITIVE_INFINITY : s.count;
        const column = lp.column(cents, 0, most, true);
        this.halved.set(key(s.id, productId), { column, supply: s, productId });
        push(wholes, key(s.id, productId), column, 1);
        push(halves, key(s.id, productId), column, -2);
      }
    }
    for (const need of needs) {
      const terms: [number, number][] = [];
      for (const { productId, penaltyCents } of need.choices)
        for (const s of supplies) {
          if (!reaches(s, need) || !itemsOf(s).some((i) => i.productId === productId)) continue;
          const half = need.amount === 'half';
          if (half !== (s.form === 'half') && !(half && this.halved.has(key(s.id, productId)))) continue;
          const each = this.stringCents(s);
          // What is used is not left over: its share of the loss comes back.
          const share = s.form === 'set' ? this.lossOf(productId) : half && s.form === 'single' ? HALF_LOSS : 0;
          const back = half ? (each * share) / 2 : each * share;
          const fetch = s.placeId === need.placeId ? 0 : FETCH_CENTS;
          const cost = this.centsOf(s, need.amount, each) + penaltyCents + fetch - back;
          const column = lp.column(cost, 0, need.count, true);
          this.used.push({ column, need, productId, supply: s });
          push(half ? halves : wholes, key(s.id, productId), column, 1);
          terms.push([column, 1]);
        }
      const short = lp.column(SHORT_CENTS, 0, need.count, true);
      this.shortAt.set(need.id, short);
      lp.row(need.count, need.count, [...terms, [short, 1]]);
    }
    for (const spare of problem.spares) {
      const terms: [number, number][] = [];
      for (const s of supplies) {
        if (!reaches(s, spare) || s.form === 'half') continue;
        const count = itemsOf(s).find((i) => i.productId === spare.productId)?.count ?? 0;
        if (count === 0) continue;
        if (s.form === 'set') {
          // One sealed set is the spare of all its strings.
          const fetch = s.placeId === spare.placeId ? 0 : FETCH_CENTS;
          const known = this.carried.get(s.id) ?? lp.column(1 + fetch, 0, s.count, true);
          this.carried.set(s.id, known);
          terms.push([known, count]);
        } else {
          const column = lp.column(1, 0, 1, true);
          this.spareAt.push({ column, productId: spare.productId, supply: s });
          push(wholes, key(s.id, spare.productId), column, 1);
          terms.push([column, 1]);
        }
        // A string of a set that is opened anyway is a spare as well, if it is not used.
        if (s.form === 'set') {
          const column = lp.column(0.5, 0, count * s.count, true);
          this.spareAt.push({ column, productId: spare.productId, supply: s });
          push(wholes, key(s.id, spare.productId), column, 1);
          terms.push([column, 1]);
        }
      }
      const short = lp.column(SPARE_SHORT_CENTS, 0, 1, true);
      this.spareShortAt.push({ column: short, productId: spare.productId });
      lp.row(1, Number.POSITIVE_INFINITY, [...terms, [short, 1]]);
    }
    for (const s of supplies) {
      const open = this.open.get(s.id);
      for (const { productId, count } of itemsOf(s)) {
        const k = key(s.id, productId);
        const whole = wholes.get(k) ?? [];
        const half = halves.get(k) ?? [];
        if (s.form === 'set' && open !== undefined && whole.length > 0)
          lp.row(Number.NEGATIVE_INFINITY, 0, [...whole, [open, -count]]);
        if (s.form === 'single' && whole.length > 0) lp.row(Number.NEGATIVE_INFINITY, s.count, whole);
        if (half.length > 0) lp.row(Number.NEGATIVE_INFINITY, s.form === 'half' ? s.count : 0, half);
      }
      const carried = this.carried.get(s.id);
      if (open !== undefined && carried !== undefined)
        lp.row(Number.NEGATIVE_INFINITY, s.count, [
          [open, 1],
          [carried, 1],
        ]);
    }
  }

  /** How many variables and rows it has. */
  get size(): { columns: number; rows: number } {
    return { columns: this.lp.columns, rows: this.lp.rows };
  }

  /** The best plan, proven or with the bound reached in the time. Null when the solver found none in that time. */
  solve(highs: Highs, options: SolveOptions = {}): OpeningPlan | null {
    const start = options.start ?? this.quickPoint();
    const found = this.lp.solve(highs, { ...options, start });
    if (!found) return null;
    return this.planOf(found.x.map(Math.round), found.bound);
  }

  /** A plan at once, without proof: halves and singles before sets, the wanted string before a substitute. */
  quick(): OpeningPlan {
    return this.planOf(this.quickPoint(), null);
  }

  private quickPoint(): number[] {
    const x = new Array<number>(this.lp.columns).fill(0);
    const add = (column: number, by: number) => {
      x[column] = (x[column] ?? 0) + by;
    };
    const { supplies, contents } = this.problem;
    const left = new Map(supplies.map((s) => [s.id, s.count]));
    // Strings and halves that opened sets and cut strings have made so far.
    const loose = new Map<string, number>();
    const cut = new Map<string, number>();
    const key = (s: OpeningSupply, productId: string) => `${s.id}/${productId}`;
    const columns = new Map<string, (typeof this.used)[number][]>();
    for (const u of this.used) columns.set(u.need.id, [...(columns.get(u.need.id) ?? []), u]);
    const open = (s: OpeningSupply): boolean => {
      if ((left.get(s.id) ?? 0) < 1) return false;
      left.set(s.id, (left.get(s.id) ?? 0) - 1);
      add(this.open.get(s.id) as number, 1);
      for (const i of contents.get(s.productId) ?? [])
        loose.set(key(s, i.productId), (loose.get(key(s, i.productId)) ?? 0) + i.count);
      return true;
    };
    const takeWhole = (s: OpeningSupply, productId: string): boolean => {
      const from = s.form === 'set' ? loose : left;
      const k = s.form === 'set' ? key(s, productId) : s.id;
      if ((from.get(k) ?? 0) < 1) return false;
      from.set(k, (from.get(k) ?? 0) - 1);
      return true;
    };
    const serve = (u: (typeof this.used)[number], mayOpen: boolean): boolean => {
      const { supply: s, productId } = u;
      const k = key(s, productId);
      if (u.need.amount === 'half') {
        if (s.form === 'half') {
          if ((left.get(s.id) ?? 0) < 1) return false;
          left.set(s.id, (left.get(s.id) ?? 0) - 1);
        } else {
          if ((cut.get(k) ?? 0) < 1) {
            if (!takeWhole(s, productId) && !(mayOpen && s.form === 'set' && open(s) && takeWhole(s, productId)))
              return false;
            add((this.halved.get(k) as { column: number }).column, 1);
            cut.set(k, 2);
          }
          cut.set(k, (cut.get(k) ?? 0) - 1);
        }
      } else if (!takeWhole(s, productId) && !(mayOpen && s.form === 'set' && open(s) && takeWhole(s, productId)))
        return false;
      add(u.column, 1);
      return true;
    };
    const order = (list: (typeof this.used)[number][]) =>
      [...list].sort((a, b) => {
        const rank = (u: (typeof this.used)[number]) => u.need.choices.findIndex((c) => c.productId === u.productId);
        const pack = (u: (typeof this.used)[number]) => ({ half: 0, single: 1, set: 2 })[u.supply.form];
        return rank(a) - rank(b) || pack(a) - pack(b) || b.supply.ageDays - a.supply.ageDays;
      });
    for (const need of this.problem.needs) {
      const choices = order(columns.get(need.id) ?? []);
      for (let n = 0; n < need.count; n++) {
        const done = choices.some((u) => serve(u, false)) || choices.some((u) => serve(u, true));
        if (!done) add(this.shortAt.get(need.id) as number, 1);
      }
    }
    for (const [i, spare] of this.problem.spares.entries()) {
      const single = this.spareAt.find(
        (a) => a.productId === spare.productId && reaches(a.supply, spare) && takeWhole(a.supply, spare.productId),
      );
      if (single) {
        add(single.column, 1);
        continue;
      }
      const has = (s: OpeningSupply) =>
        reaches(s, spare) && (contents.get(s.productId) ?? []).some((c) => c.productId === spare.productId);
      const carriedNow = supplies.some((s) => has(s) && (x[this.carried.get(s.id) ?? -1] ?? 0) > 0);
      if (carriedNow) continue;
      const set = supplies.find((s) => s.form === 'set' && has(s) && (left.get(s.id) ?? 0) > 0);
      if (set) {
        left.set(set.id, (left.get(set.id) ?? 0) - 1);
        add(this.carried.get(set.id) as number, 1);
        continue;
      }
      add((this.spareShortAt[i] as { column: number }).column, 1);
    }
    return x;
  }

  private planOf(x: readonly number[], bound: number | null): OpeningPlan {
    const at = (column: number) => Math.round(x[column] ?? 0);
    const opens = [...this.open]
      .map(([supplyId, column]) => ({ supplyId, count: at(column) }))
      .filter((o) => o.count > 0);
    const halves = [...this.halved.values()]
      .map((h) => ({ supplyId: h.supply.id, productId: h.productId, count: at(h.column) }))
      .filter((h) => h.count > 0);
    const uses = this.used
      .map((u) => ({
        needId: u.need.id,
        productId: u.productId,
        supplyId: u.supply.id,
        amount: u.need.amount,
        count: at(u.column),
      }))
      .filter((u) => u.count > 0);
    const left = new Map<string, number>();
    const add = (productId: string, form: 'single' | 'half', by: number) =>
      left.set(`${productId}/${form}`, (left.get(`${productId}/${form}`) ?? 0) + by);
    for (const o of opens) {
      const s = this.problem.supplies.find((p) => p.id === o.supplyId) as OpeningSupply;
      for (const i of this.problem.contents.get(s.productId) ?? []) add(i.productId, 'single', i.count * o.count);
    }
    const isSet = (supplyId: string) => this.open.has(supplyId);
    for (const h of halves) {
      if (isSet(h.supplyId)) add(h.productId, 'single', -h.count);
      add(h.productId, 'half', 2 * h.count);
    }
    for (const u of uses) {
      const s = this.problem.supplies.find((p) => p.id === u.supplyId) as OpeningSupply;
      if (u.amount === 'half' && s.form !== 'half') add(u.productId, 'half', -u.count);
      else if (isSet(u.supplyId)) add(u.productId, 'single', -u.count);
    }
    const { objective } = this.lp.evaluate(x);
    const missing = [...this.shortAt.values()].reduce((sum, c) => sum + at(c), 0);
    const bare = this.spareShortAt.reduce((sum, s) => sum + at(s.column), 0);
    return {
      opens,
      halves,
      uses,
      short: [...this.shortAt].map(([needId, c]) => ({ needId, count: at(c) })).filter((s) => s.count > 0),
      spares: [
        ...[...this.carried].map(([supplyId, c]) => ({
          supplyId,
          productId: this.problem.supplies.find((s) => s.id === supplyId)?.productId ?? '',
          count: at(c),
        })),
        ...this.spareAt.map((s) => ({ supplyId: s.supply.id, productId: s.productId, count: at(s.column) })),
      ].filter((s) => s.count > 0),
      spareShort: this.spareShortAt.filter((s) => at(s.column) > 0).map((s) => s.productId),
      leftovers: [...left]
        .map(([k, count]) => {
          const [productId, form] = k.split('/') as [string, 'single' | 'half'];
          return { productId, form, count };
        })
        .filter((l) => l.count > 0),
      objective,
      costCents: objective - SHORT_CENTS * missing - SPARE_SHORT_CENTS * bare,
      bound,
    };
  }

  /** By how much a plan breaks the shelf, at most; nothing for a plan that can be done. */
  violation(x: readonly number[]): number {
    return this.lp.evaluate(x).violation;
  }
}

/** How far a plan may be from the best there is, as a share of it; null before it is proven. */
export const gapOf = (plan: Pick<OpeningPlan, 'objective' | 'bound'>): number | null =>
  plan.bound === null ? null : Math.max(0, (plan.objective - plan.bound) / Math.max(1, Math.abs(plan.objective)));
