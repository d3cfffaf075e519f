import { seededChance } from '../chance';
import type { Plan, PlanProblem } from './model';
import { quickPlan } from './quick';
import { PlanState } from './state';

export interface SearchOptions {
  seed: number;
  /** Moves to try in all; the same number and seed give the same plan on every machine. */
  moves: number;
  /** Where to begin; absent: the quick plan. */
  start?: Plan;
  /** Shifts of each job, those first in which it should be by the prices of the bound: they are drawn more often. */
  favoured?: readonly Int32Array[];
}

/** Temperatures in points of cost: what is commonly taken on for one move at the start and at the end of the search. */
const INITIAL_TEMPERATURE = 4;
const FINAL_TEMPERATURE = 0.35;
/** With more moves than this for each job it is warmed up again: a second way down finds what the first went past. */
const MOVES_PER_JOB = 12_000;
/** Share of the moves over which it cools, geometrically; then it stays, and the last moves are nearly a descent. */
const COOLED_BY = 0.9;
const QUENCHED_FROM = 0.95;
const QUENCH = 0.1;
/** Moves at one temperature. */
const EPOCH = 512;
/** Jobs that may be put out for one. */
const MOST_OUT = 2;
/** Share of draws that take any shift, and of those that look for one in which the group of a job is set up already. */
const ANY = 0.1;
const TOGETHER = 0.4;
/** Shares of the kinds of move; the rest put one job in and others out. */
const RELOCATIONS = 0.25;
const EXCHANGES = 0.3;
const CHAINS = 0.25;
const GROUPS = 0.1;
/** Jobs of a chain at most, and shifts tried for each. */
const CHAIN = 5;
const CHAIN_TRIES = 4;

/**
 * Improves a plan by simulated annealing (Kirkpatrick, Gelatt and Vecchi, Science 220, 1983; from memory) over five kinds of move: a job to another shift, two jobs changing places, a
 * job in and another out to make room, a chain of such, a whole group of a shift elsewhere. The plan at hand is valid at every moment;
 * the best so far is kept. Run it in pieces and stop whenever.
 */
export class PlanSearch {
  readonly best: Plan;
  bestCost: number;
  private readonly state: PlanState;
  private readonly chance: () => number;
  private readonly bySite: Int32Array[];
  private readonly jobSite: Int32Array;
  private done = 0;
  /** Moves from one warming to the next. */
  private readonly roundMoves: number;
  private readonly outs: { job: number; from: number }[] = [];
  /** What a chain has done: who was taken out of where, or, from below nothing, was put somewhere. */
  private readonly stepJob = new Int32Array(2 * CHAIN + 2);
  private readonly stepFrom = new Int32Array(2 * CHAIN + 2);
  private readonly jobs: Int32Array;
  private readonly bySku: Int32Array[];

  constructor(
    readonly problem: PlanProblem,
    private readonly options: SearchOptions,
  ) {
    this.state = new PlanState(problem);
    this.state.load(options.start ?? quickPlan(problem));
    this.chance = seededChance(options.seed);
    const rounds = Math.max(1, Math.floor(options.moves / (MOVES_PER_JOB * Math.max(1, problem.jobs.length))));
    this.roundMoves = EPOCH * Math.ceil(options.moves / rounds / EPOCH);
    this.best = this.state.plan.slice();
    this.state.touches = 0;
    this.bestCost = this.state.total;
    this.jobSite = Int32Array.from(problem.jobs, (j) => j.site);
    // Only jobs that have somewhere to go.
    const able = problem.jobs.map((_, i) => i).filter((i) => this.state.movable[i] && this.choices(i) > 0);
    this.jobs = Int32Array.from(able);
    this.bySku = problem.stock.map((_, s) => Int32Array.from(able.filter((i) => this.state.packsOf(i).includes(s))));
    this.bySite = Array.from({ length: problem.sites }, (_, s) =>
      Int32Array.from(able.filter((i) => this.jobSite[i] === s)),
    );
  }

  get finished(): boolean {
    return this.done >= this.options.moves || this.jobs.length === 0;
  }

  /** Share of the search that is done. */
  get progress(): number {
    return this.jobs.length === 0 ? 1 : Math.min(1, this.done / this.options.moves);
  }

  private choices(job: number): number {
    return (this.state.candidateFrom[job + 1] as number) - (this.state.candidateFrom[job] as number);
  }

  private pick(list: Int32Array): number {
    return list[Math.floor(this.chance() * list.length)] as number;
  }

  /** A shift a job could be in: one it favours, or of two drawn the one that is less late; now and then any. */
  private candidate(job: number): number {
    const from = this.state.candidateFrom[job] as number;
    const n = this.choices(job);
    const a = this.state.candidates[from + Math.floor(this.chance() * n)] as number;
    const kind = this.chance();
    if (kind < ANY) return a;
    if (kind < ANY + TOGETHER) {
      // Where its group is set up already, if that is found quickly.
      for (let tries = 0; tries < 5; tries++) {
        const c = this.state.candidates[from + Math.floor(this.chance() * n)] as number;
        if (this.state.hasGroup(job, c)) return c;
      }
      return a;
    }
    const favoured = this.options.favoured?.[job];
    if (favoured && favoured.length > 0) {
      // At the fourth power of an even draw the first are drawn far more often.
      const squared = this.chance() ** 2;
      return favoured[Math.floor(favoured.length * squared * squared)] as number;
    }
    const b = this.state.candidates[from + Math.floor(this.chance() * n)] as number;
    return (this.state.shiftDay[b] as number) <= (this.state.shiftDay[a] as number) ? b : a;
  }

  /** A job to move: of two drawn the one that costs more as it stands, now and then any. */
  private anyJob(): number {
    const a = this.pick(this.jobs);
    if (this.chance() < 0.4) return a;
    const b = this.pick(this.jobs);
    return this.state.painOf(b) > this.state.painOf(a) ? b : a;
  }

  /** By epochs of the whole search, the same however the moves are cut into pieces. */
  private temperatureAt(done: number): number {
    const epoch = done - (done % EPOCH);
    const share = (epoch % this.roundMoves) / this.roundMoves;
    const cooled = INITIAL_TEMPERATURE * (FINAL_TEMPERATURE / INITIAL_TEMPERATURE) ** Math.min(1, share / COOLED_BY);
    return cooled * (share > QUENCHED_FROM ? QUENCH : 1);
  }

  /** Tries so many moves more. */
  run(moves: number): void {
    if (this.jobs.length === 0) return;
    const until = Math.min(this.options.moves, this.done + moves);
    const { state } = this;
    let temperature = this.temperatureAt(this.done);
    for (; this.done < until; this.done++) {
      if (this.done % EPOCH === 0) temperature = this.temperatureAt(this.done);
      const kind = this.chance();
      // Metropolis' rule, turned round: accepted with probability exp(-rise / temperature) is what rises at most by this,
      // drawn before the move is tried, so that one that costs more need not be finished.
      const threshold = -temperature * Math.log(this.chance() + 1e-12);
      const job = this.anyJob();
      if (kind < RELOCATIONS) this.relocate(job, threshold);
      else if (kind < RELOCATIONS + EXCHANGES) this.exchange(job, threshold);
      else if (kind < RELOCATIONS + EXCHANGES + CHAINS) this.chain(job, threshold);
      else if (kind < 1 - GROUPS) this.eject(job, threshold);
      else this.moveGroup(job, threshold);
      if (state.total < this.bestCost - 1e-9) {
        this.bestCost = state.total;
        this.keep();
      }
    }
  }

  /** The plan at hand is the best: only what was touched since the last time is copied, where that is known. */
  private keep(): void {
    const { state, best } = this;
    if (state.touches > state.touched.length) best.set(state.plan);
    else
      for (let k = 0; k < state.touches; k++) {
        const job = state.touched[k] as number;
        best[job] = state.plan[job] as number;
      }
    state.touches = 0;
  }

  private relocate(job: number, threshold: number): void {
    const { state } = this;
    const from = state.plan[job] as number;
    // Now and then a job is left out, which opens room for others.
    const leave = from >= 0 && this.chance() < 0.03;
    const to = leave ? -1 : this.candidate(job);
    if (to === from) return;
    if (from >= 0 && to >= 0 && (!state.hasMinutes(job, to) || state.leastMove(job, to) > threshold)) return;
    let change = from >= 0 ? state.take(job) : 0;
    if (to >= 0) {
      if (change + state.leastChange(job, to) > threshold || !state.fits(job, to)) {
        if (from >= 0) state.put(job, from);
        return;
      }
      change += state.put(job, to);
    }
    if (change <= threshold) return;
    if (to >= 0) state.take(job);
    if (from >= 0) state.put(job, from);
  }

  private exchange(a: number, threshold: number): void {
    const { state } = this;
    const sa = state.plan[a] as number;
    if (sa < 0) return;
    // Somebody in a shift where it could be, or anybody of its place.
    const there = state.jobsIn[this.candidate(a)] as number[];
    const b =
      there.length > 0 && this.chance() < 0.8
        ? (there[Math.floor(this.chance() * there.length)] as number)
        : this.pick(this.bySite[this.jobSite[a] as number] as Int32Array);
    if (!state.movable[b]) return;
    const sb = state.plan[b] as number;
    if (a === b || sa === sb) return;
    if (sb >= 0 && !state.allowed(a, sb)) return;
    if (!state.allowed(b, sa)) return;
    // Of one group they may share a set-up, which is then counted twice.
    if (sb >= 0 && state.groupOf(a) !== state.groupOf(b) && state.leastMove(a, sb) + state.leastMove(b, sa) > threshold)
      return;
    let change = state.take(a);
    if (sb >= 0) change += state.take(b);
    const least = change + state.leastChange(b, sa) + (sb >= 0 ? state.leastChange(a, sb) : 0);
    if (least <= threshold && state.fits(b, sa)) {
      change += state.put(b, sa);
      if (sb < 0) {
        // The other was not planned: it takes the place.
        if (change <= threshold) return;
        state.take(b);
      } else if (state.fits(a, sb)) {
        change += state.put(a, sb);
        if (change <= threshold) return;
        state.take(a);
        state.take(b);
      } else state.take(b);
    }
    state.put(a, sa);
    if (sb >= 0) state.put(b, sb);
  }

  /**
   * Puts a job where it is wanted; out goes one that uses its pack, or one that is there, or both. Those who are out go
   * elsewhere or are left out.
   */
  private eject(job: number, threshold: number): void {
    const { state } = this;
    const to = this.candidate(job);
    const from = state.plan[job] as number;
    if (to === from) return;
    let change = from >= 0 ? state.take(job) : 0;
    const outs = this.outs;
    outs.length = 0;
    let left = 0;
    for (let n = 0; n < MOST_OUT && !state.fits(job, to); n++) {
      const out = this.inTheWay(job, to);
      if (out < 0) {
        this.putBack(job, from);
        return;
      }
      const outFrom = state.plan[out] as number;
      if (change - left + state.leastTake(out) + state.leastChange(job, to) > threshold) {
        this.putBack(job, from);
        return;
      }
      change += state.take(out);
      left += state.leftOf(out);
      outs.push({ job: out, from: outFrom });
      // Wherever they go, those who are out cost nothing at best.
      if (change - left + state.leastChange(job, to) > threshold) {
        this.putBack(job, from);
        return;
      }
    }
    if (!state.fits(job, to)) {
      this.putBack(job, from);
      return;
    }
    change += state.put(job, to);
    for (const out of outs) {
      left -= state.leftOf(out.job);
      for (let tries = 0; tries < 4; tries++) {
        const s = this.candidate(out.job);
        if (s === out.from || change - left + state.leastChange(out.job, s) > threshold || !state.fits(out.job, s))
          continue;
        const more = state.put(out.job, s);
        if (change + more - left <= threshold) {
          change += more;
          break;
        }
        state.take(out.job);
      }
    }
    if (change > threshold) this.putBack(job, from);
  }

  /** As it was before a job was put in the place of those in `outs`, wherever they are now. */
  private putBack(job: number, from: number): void {
    const { state, outs } = this;
    if ((state.plan[job] as number) >= 0) state.take(job);
    for (const out of outs) if ((state.plan[out.job] as number) >= 0) state.take(out.job);
    for (let k = outs.length - 1; k >= 0; k--) {
      const out = outs[k] as { job: number; from: number };
      state.put(out.job, out.from);
    }
    if (from >= 0) state.put(job, from);
  }

  /**
   * A job to another shift, one that is there or has its pack to a third, one from there to a fourth, and so on: an
   * ejection chain (Glover 1996; from memory). Of all its beginnings the best counts, with the last job left out.
   */
  private chain(job: number, threshold: number): void {
    const { state, stepJob, stepFrom } = this;
    let steps = 0;
    let change = 0;
    let from = state.plan[job] as number;
    if (from >= 0) {
      stepJob[0] = job;
      stepFrom[0] = from;
      steps = 1;
      change += state.take(job);
    }
    let [best, bestSteps] = [Number.POSITIVE_INFINITY, 0];
    let homeless = job;
    while (homeless >= 0 && steps < 2 * CHAIN) {
      let placed = false;
      let next = -1;
      let nextFrom = -1;
      for (let tries = 0; tries < CHAIN_TRIES && !placed; tries++) {
        const to = this.candidate(homeless);
        // Where it comes from it would only push out who took its place.
        if (to === from) continue;
        const least = change + state.leastChange(homeless, to);
        if (state.fits(homeless, to)) {
          if (least > threshold) continue;
        } else {
          const out = this.inTheWay(homeless, to);
          // Wherever the one who is out goes, it costs nothing at best.
          if (out < 0 || least + state.leastTake(out) > threshold) continue;
          const outFrom = state.plan[out] as number;
          const more = state.take(out);
          if (
            change + more - state.leftOf(out) + state.leastChange(homeless, to) > threshold ||
            !state.fits(homeless, to)
          ) {
            state.put(out, outFrom);
            continue;
          }
          change += more;
          stepJob[steps] = out;
          stepFrom[steps] = outFrom;
          steps += 1;
          next = out;
          nextFrom = outFrom;
        }
        stepJob[steps] = homeless;
        stepFrom[steps] = -1;
        steps += 1;
        change += state.put(homeless, to);
        placed = true;
      }
      if (!placed) break;
      homeless = next;
      from = nextFrom;
      if (change < best) {
        best = change;
        bestSteps = steps;
      }
    }
    if (best > threshold) bestSteps = 0;
    for (steps -= 1; steps >= bestSteps; steps--) {
      const back = stepFrom[steps] as number;
      if (back < 0) state.take(stepJob[steps] as number);
      else state.put(stepJob[steps] as number, back);
    }
  }

  /** Somebody who keeps a job out of a shift: who has its pack, or who is there; below nothing where none was found. */
  private inTheWay(job: number, shift: number): number {
    const { state } = this;
    if (!state.packFree(job, state.shiftDay[shift] as number)) {
      const same = this.bySku[this.pick(state.packsOf(job))] as Int32Array;
      for (let tries = 0; tries < 3; tries++) {
        const k = this.pick(same);
        if (k !== job && (state.plan[k] as number) >= 0 && state.movable[k]) return k;
      }
      return -1;
    }
    const there = state.jobsIn[shift] as number[];
    const out = there.length > 0 ? (there[Math.floor(this.chance() * there.length)] as number) : -1;
    return out >= 0 && state.movable[out] ? out : -1;
  }

  /** All jobs of one group in a shift to another shift. */
  private moveGroup(job: number, threshold: number): void {
    const { state } = this;
    const from = state.plan[job] as number;
    if (from < 0) return;
    const to = this.candidate(job);
    if (to === from) return;
    const group = state.groupOf(job);
    const moved = (state.jobsIn[from] as number[]).filter((k) => state.groupOf(k) === group && state.movable[k]);
    for (const k of moved) if (!state.allowed(k, to)) return;
    if (!state.hasMinutes(job, to)) return;
    let change = 0;
    for (const k of moved) change += state.take(k);
    let fits = true;
    let placed = 0;
    for (const k of moved) {
      if (!state.fits(k, to)) {
        fits = false;
        break;
      }
      change += state.put(k, to);
      placed += 1;
    }
    if (fits && change <= threshold) return;
    for (let i = 0; i < placed; i++) state.take(moved[i] as number);
    for (const k of moved) state.put(k, from);
  }
}
