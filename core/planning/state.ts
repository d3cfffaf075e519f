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

/**
 * A plan with everything counted that a move changes, so that the cost of a move is known in a few steps. All in typed
 * arrays that are made once; nothing is allocated while searching.
 */
export class PlanState {
  readonly plan: Plan;
  /** Places of the shifts each job could be in, one after the other. */
  readonly candidates: Int32Array;
  readonly candidateFrom: Int32Array;
  readonly counts: boolean[];
  total = 0;
  /** Jobs put or taken since it was last set to none, as far as there is room to keep them. */
  readonly touched = new Int32Array(256);
  touches = 0;

  private readonly groups: number;
  private readonly days: number;
  private readonly jobSite: Int32Array;
  private readonly jobGroup: Int32Array;
  private readonly jobSkus: Int32Array[];
  private readonly jobDue: Int32Array;
  private readonly jobWeight: Float64Array;
  private readonly jobLeft: Float64Array;
  private readonly jobPublished: Int32Array;
  readonly movable: Uint8Array;
  private readonly minutesOf: Int32Array;
  private readonly people: number;
  readonly shiftDay: Int32Array;
  private readonly shiftPerson: Int32Array;
  private readonly shiftCell: Int32Array;
  private readonly shiftMinutes: Int32Array;
  /** Minutes in use by shift, jobs by shift and group. */
  readonly used: Int32Array;
  private readonly inGroup: Int32Array;
  /** Retune visits wanted and room for them by place and day. */
  private readonly wanted: Int32Array;
  private readonly room: Int32Array;
  /** Cells of the visits after a job, by its kind of visits, its place and the day. */
  private readonly visitCells: Int32Array[];
  private readonly jobVisits: Int32Array;
  /** Who stands by in a shift for a group, and whether anybody has to. */
  private readonly standing: Int32Array;
  /** Minutes that whoever stands by gives, by job and person who does it. */
  private readonly standingOf: Int32Array;
  /** Minutes and points to set up for each group; points for going to each shift. */
  private readonly benchSpace: Int32Array;
  private readonly setUpMinutes: Int32Array;
  private readonly setUpPoints: Float64Array;
  private readonly tripPoints: Float64Array;
  /** Fairness: minutes worked and there by person, and in all. */
  private readonly worked: Float64Array;
  private readonly had: Float64Array;
  private workedAll = 0;
  private hadAll = 0;
  private readonly fairness: number;
  /** Jobs of each shift, and where in its list each job is. */
  readonly jobsIn: number[][];
  private readonly placeIn: Int32Array;
  /**
   * Packs free at the ends of the stretches in which none arrive, one sku after the other: only there can they run out.
   * By sku and day the first such end from it on, and by sku where its ends stop.
   */
  private readonly slack: Int32Array;
  private readonly slackFrom: Int32Array;
  private readonly slackEnd: Int32Array;

  constructor(readonly problem: PlanProblem) {
    const p = problem;
    const n = p.jobs.length;
    this.days = p.days;
    this.groups = p.skillNeeded.length;
    this.people = p.people.length;
    this.plan = new Int32Array(n).fill(-1);
    this.counts = countingShifts(p);
    const lists = candidateShifts(p, this.counts);
    this.candidateFrom = new Int32Array(n + 1);
    lists.forEach((l, i) => {
      this.candidateFrom[i + 1] = (this.candidateFrom[i] as number) + l.length;
    });
    this.candidates = Int32Array.from(lists.flat());
    this.jobSite = Int32Array.from(p.jobs, (j) => j.site);
    this.jobGroup = Int32Array.from(p.jobs, (j) => j.group);
    this.jobSkus = p.jobs.map((j) => Int32Array.from(skusOf(j)));
    this.jobDue = Int32Array.from(p.jobs, (j) => j.due);
    this.jobWeight = Float64Array.from(p.jobs, (j) => j.weight);
    this.jobLeft = Float64Array.from(p.jobs, (j) => unplannedCost(p, j));
    this.jobPublished = Int32Array.from(p.jobs, (j) => j.published ?? -2);
    this.movable = Uint8Array.from(p.jobs, (j) => (j.locked ? 0 : 1));
    this.minutesOf = Int32Array.from(p.jobs.flatMap((j) => p.people.map((_, k) => j.minutes[k] ?? 1_000_000)));
    this.standing = standsBy(p);
    this.standingOf = this.minutesOf.map((m) => standingMinutes(p, m));
    this.shiftDay = Int32Array.from(p.shifts, (s) => s.day);
    this.shiftPerson = Int32Array.from(p.shifts, (s) => s.person);
    this.shiftCell = Int32Array.from(p.shifts, (s) => s.site * p.days + s.day);
    this.shiftMinutes = Int32Array.from(p.shifts, (s) => s.minutes);
    this.jobsIn = p.shifts.map(() => []);
    this.placeIn = new Int32Array(n);
    this.used = new Int32Array(p.shifts.length);
    this.inGroup = new Int32Array(p.shifts.length * this.groups);
    this.wanted = new Int32Array(p.sites * p.days);
    this.room = new Int32Array(p.sites * p.days);
    p.shifts.forEach((s, i) => {
      const cell = this.shiftCell[i] as number;
      if (this.counts[i]) this.room[cell] = (this.room[cell] as number) + Math.floor(s.minutes / p.retuneMinutes);
    });
    const slack: number[] = [];
    this.slackFrom = new Int32Array(p.stock.length * p.days);
    this.slackEnd = new Int32Array(p.stock.length);
    p.stock.forEach((_, sku) => {
      availableByDay(p, sku).forEach((packs, day, all) => {
        this.slackFrom[sku * p.days + day] = slack.length;
        if (all[day + 1] !== packs) slack.push(packs);
      });
      this.slackEnd[sku] = slack.length;
    });
    this.slack = Int32Array.from(slack);
    const visitDays = visitDaysOf(p, this.counts);
    const kinds = new Map<string, number>();
    const lags: (readonly number[])[] = [];
    this.jobVisits = Int32Array.from(p.jobs, (j) => {
      const own = j.visits ?? p.retuneLags;
      const known = kinds.get(own.join());
      if (known !== undefined) return known;
      kinds.set(own.join(), lags.length);
      return lags.push(own) - 1;
    });
    this.visitCells = lags.flatMap((own) =>
      Array.from({ length: p.sites * p.days }, (_, cell) => {
        const [site, day] = [Math.floor(cell / p.days), cell % p.days];
        return Int32Array.from(visitDays(site, day, own), (d) => site * p.days + d);
      }),
    );
    const setUps = p.skillNeeded.map((_, g) => setUpOf(p, g));
    // Where nothing is said there is room for all of a group.
    this.benchSpace = Int32Array.from(p.shifts, (s) => s.benchSpace ?? p.jobs.length + 1);
    this.setUpMinutes = Int32Array.from(setUps, (s) => s.minutes);
    this.setUpPoints = Float64Array.from(setUps, (s) => s.points);
    this.tripPoints = Float64Array.from(p.shifts, (s) => travelCost(p, s));
    this.worked = Float64Array.from(p.people, (x) => x.workedMinutes ?? 0);
    this.had = Float64Array.from(p.people, (x) => x.hadMinutes ?? 0);
    p.shifts.forEach((s, i) => {
      if (this.counts[i]) this.had[s.person] = (this.had[s.person] as number) + s.minutes;
    });
    this.workedAll = this.worked.reduce((a, b) => a + b, 0);
    this.hadAll = this.had.reduce((a, b) => a + b, 0);
    this.fairness = (p.weights.fairness ?? 0) / 60;
    if (this.fairness > 0 && this.hadAll > 0) {
      this.total -= (this.fairness * this.workedAll ** 2) / this.hadAll;
      this.worked.forEach((u, k) => {
        const had = this.had[k] as number;
        if (had > 0) this.total += (this.fairness * u ** 2) / had;
      });
    }
    for (let j = 0; j < n; j++) this.total += (this.jobLeft[j] as number) + this.changeCost(j, -1);
  }

  private changeCost(job: number, shift: number): number {
    const was = this.jobPublished[job] as number;
    return was === -2 || was === shift ? 0 : this.problem.weights.change;
  }

  /** Minutes a job takes in a shift, with a set-up where its group is not there yet. */
  minutesIn(job: number, shift: number): number {
    const own = this.minutesOf[job * this.people + (this.shiftPerson[shift] as number)] as number;
    const there = this.inGroup[shift * this.groups + (this.jobGroup[job] as number)] as number;
    return own + (this.full(there, shift) ? (this.setUpMinutes[this.jobGroup[job] as number] as number) : 0);
  }

  /** The shift of whoever stands by while a job is done in one; below nothing where nobody does. */
  private besideOf(job: number, shift: number): number {
    return this.standing[shift * this.groups + (this.jobGroup[job] as number)] as number;
  }

  /** Minutes that whoever stands by gives for a job in a shift. */
  private givenFor(job: number, shift: number): number {
    return this.standingOf[job * this.people + (this.shiftPerson[shift] as number)] as number;
  }

  /** Whether one job more of a group means to set up for it, the first time or again. */
  private full(there: number, shift: number): boolean {
    return there % (this.benchSpace[shift] as number) === 0;
  }

  /** Whether a job that is not planned fits into a shift now: minutes and packs. */
  fits(job: number, shift: number): boolean {
    if ((this.used[shift] as number) + this.minutesIn(job, shift) > (this.shiftMinutes[shift] as number)) return false;
    const by = this.besideOf(job, shift);
    if (by >= 0 && (this.used[by] as number) + this.givenFor(job, shift) > (this.shiftMinutes[by] as number))
      return false;
    return this.packFree(job, this.shiftDay[shift] as number);
  }

  /** Whether its pack is there from a day on, beside all that is planned. */
  packFree(job: number, day: number): boolean {
    const skus = this.jobSkus[job] as Int32Array;
    for (let k = 0; k < skus.length; k++) {
      const sku = skus[k] as number;
      const end = this.slackEnd[sku] as number;
      for (let i = this.slackFrom[sku * this.days + day] as number; i < end; i++)
        if ((this.slack[i] as number) < 1) return false;
    }
    return true;
  }

  /** Whether a job can be in a shift at all. */
  allowed(job: number, shift: number): boolean {
    // Candidates of a job are in rising order.
    let low = this.candidateFrom[job] as number;
    let high = (this.candidateFrom[job + 1] as number) - 1;
    while (low <= high) {
      const middle = (low + high) >> 1;
      const at = this.candidates[middle] as number;
      if (at === shift) return true;
      if (at < shift) low = middle + 1;
      else high = middle - 1;
    }
    return false;
  }

  /** Minutes free in a shift. */
  free(shift: number): number {
    return (this.shiftMinutes[shift] as number) - (this.used[shift] as number);
  }

  private missedAt(cell: number): number {
    return Math.max(0, (this.wanted[cell] as number) - (this.room[cell] as number));
  }

  private addVisits(job: number, day: number, by: number): number {
    let change = 0;
    const kind = (this.jobVisits[job] as number) * this.problem.sites + (this.jobSite[job] as number);
    const cells = this.visitCells[kind * this.days + day] as Int32Array;
    for (let i = 0; i < cells.length; i++) {
      const cell = cells[i] as number;
      const before = this.missedAt(cell);
      this.wanted[cell] = (this.wanted[cell] as number) + by;
      change += this.missedAt(cell) - before;
    }
    return change;
  }

  /** Points by which visits missed and fairness change. */
  private addMinutes(shift: number, by: number): number {
    const cell = this.shiftCell[shift] as number;
    const before = this.missedAt(cell);
    const minutes = this.shiftMinutes[shift] as number;
    const r = this.problem.retuneMinutes;
    const was = Math.floor((minutes - (this.used[shift] as number)) / r);
    this.used[shift] = (this.used[shift] as number) + by;
    this.room[cell] = (this.room[cell] as number) + Math.floor((minutes - (this.used[shift] as number)) / r) - was;
    let points = this.problem.weights.missedRetune * (this.missedAt(cell) - before);
    if (this.fairness > 0) {
      // Of u²/a the change by d is d(2u + d)/a.
      const who = this.shiftPerson[shift] as number;
      const u = this.worked[who] as number;
      const own = (by * (2 * u + by)) / (this.had[who] as number);
      const all = (by * (2 * this.workedAll + by)) / this.hadAll;
      this.worked[who] = u + by;
      this.workedAll += by;
      points += this.fairness * (own - all);
    }
    return points;
  }

  private addPack(job: number, day: number, by: number): void {
    const skus = this.jobSkus[job] as Int32Array;
    for (let k = 0; k < skus.length; k++) {
      const sku = skus[k] as number;
      const end = this.slackEnd[sku] as number;
      for (let i = this.slackFrom[sku * this.days + day] as number; i < end; i++)
        this.slack[i] = (this.slack[i] as number) - by;
    }
  }

  /** Plans a job that is not planned. Returns the change of the cost. The caller has looked whether it fits. */
  put(job: number, shift: number): number {
    const { weights } = this.problem;
    const day = this.shiftDay[shift] as number;
    const g = shift * this.groups + (this.jobGroup[job] as number);
    const own = this.minutesOf[job * this.people + (this.shiftPerson[shift] as number)] as number;
    let change = this.changeCost(job, shift) - this.changeCost(job, -1) - (this.jobLeft[job] as number);
    change += (this.jobWeight[job] as number) * Math.max(0, day - (this.jobDue[job] as number));
    let minutes = own;
    const group = this.jobGroup[job] as number;
    if (this.full(this.inGroup[g] as number, shift)) {
      minutes += this.setUpMinutes[group] as number;
      change += this.setUpPoints[group] as number;
    }
    this.inGroup[g] = (this.inGroup[g] as number) + 1;
    change += this.addMinutes(shift, minutes) + weights.missedRetune * this.addVisits(job, day, 1);
    const by = this.besideOf(job, shift);
    if (by >= 0) change += this.addMinutes(by, this.givenFor(job, shift));
    this.addPack(job, day, 1);
    this.plan[job] = shift;
    if (this.touches < this.touched.length) this.touched[this.touches] = job;
    this.touches += 1;
    const list = this.jobsIn[shift] as number[];
    if (list.length === 0) change += this.tripPoints[shift] as number;
    this.placeIn[job] = list.length;
    list.push(job);
    this.total += change;
    return change;
  }

  /** Takes a job out of its shift. Returns the change of the cost. */
  take(job: number): number {
    const shift = this.plan[job] as number;
    const { weights } = this.problem;
    const day = this.shiftDay[shift] as number;
    const g = shift * this.groups + (this.jobGroup[job] as number);
    const own = this.minutesOf[job * this.people + (this.shiftPerson[shift] as number)] as number;
    let change = this.changeCost(job, -1) - this.changeCost(job, shift) + (this.jobLeft[job] as number);
    change -= (this.jobWeight[job] as number) * Math.max(0, day - (this.jobDue[job] as number));
    let minutes = own;
    const group = this.jobGroup[job] as number;
    this.inGroup[g] = (this.inGroup[g] as number) - 1;
    if (this.full(this.inGroup[g] as number, shift)) {
      minutes += this.setUpMinutes[group] as number;
      change -= this.setUpPoints[group] as number;
    }
    change += this.addMinutes(shift, -minutes) + weights.missedRetune * this.addVisits(job, day, -1);
    const by = this.besideOf(job, shift);
    if (by >= 0) change += this.addMinutes(by, -this.givenFor(job, shift));
    this.addPack(job, day, -1);
    this.plan[job] = -1;
    if (this.touches < this.touched.length) this.touched[this.touches] = job;
    this.touches += 1;
    // The last of the list takes its place.
    const list = this.jobsIn[shift] as number[];
    const last = list.pop() as number;
    if (list.length === 0) change -= this.tripPoints[shift] as number;
    if (last !== job) {
      const at = this.placeIn[job] as number;
      list[at] = last;
      this.placeIn[last] = at;
    }
    this.total += change;
    return change;
  }

  /** Takes over a whole plan. */
  load(plan: Plan): void {
    for (let j = 0; j < this.plan.length; j++) if ((this.plan[j] as number) >= 0) this.take(j);
    for (let j = 0; j < plan.length; j++) if ((plan[j] as number) >= 0) this.put(j, plan[j] as number);
  }

  /**
   * The least that planning a job there now can change the cost by: all of it but the visits that are missed then, which
   * only become more.
   */
  leastChange(job: number, shift: number): number {
    const late = Math.max(0, (this.shiftDay[shift] as number) - (this.jobDue[job] as number));
    let change = (this.jobWeight[job] as number) * late - (this.jobLeft[job] as number);
    const was = this.jobPublished[job] as number;
    if (was === shift) change -= this.problem.weights.change;
    else if (was === -1) change += this.problem.weights.change;
    const group = this.jobGroup[job] as number;
    if (this.full(this.inGroup[shift * this.groups + group] as number, shift))
      change += this.setUpPoints[group] as number;
    if ((this.jobsIn[shift] as number[]).length === 0) change += this.tripPoints[shift] as number;
    if (this.fairness > 0) {
      const by = this.minutesIn(job, shift);
      const who = this.shiftPerson[shift] as number;
      let own = (by * (2 * (this.worked[who] as number) + by)) / (this.had[who] as number);
      let all = by;
      const beside = this.besideOf(job, shift);
      if (beside >= 0) {
        const given = this.givenFor(job, shift);
        const other = this.shiftPerson[beside] as number;
        own += (given * (2 * (this.worked[other] as number) + given)) / (this.had[other] as number);
        all += given;
      }
      change += this.fairness * (own - (all * (2 * this.workedAll + all)) / this.hadAll);
    }
    return change;
  }

  /** Points for visits missed that taking a job out of a shift, and so many minutes with it, could save at most. */
  private savedVisits(job: number, from: number, taken: number): number {
    let saved = Math.min(this.missedAt(this.shiftCell[from] as number), Math.ceil(taken / this.problem.retuneMinutes));
    const kind = (this.jobVisits[job] as number) * this.problem.sites + (this.jobSite[job] as number);
    const cells = this.visitCells[kind * this.days + (this.shiftDay[from] as number)] as Int32Array;
    for (let i = 0; i < cells.length; i++) if (this.missedAt(cells[i] as number) > 0) saved += 1;
    return this.problem.weights.missedRetune * saved;
  }

  /**
   * The least that moving a planned job elsewhere can change the cost by, without moving it: the visits it would no
   * longer take away from others count as all saved, those it brings as none missed. Minutes and packs are not looked at.
   */
  leastMove(job: number, to: number): number {
    const from = this.plan[job] as number;
    if (this.besideOf(job, from) >= 0 || this.besideOf(job, to) >= 0) return Number.NEGATIVE_INFINITY;
    const group = this.jobGroup[job] as number;
    const due = this.jobDue[job] as number;
    const late = Math.max(0, (this.shiftDay[to] as number) - due) - Math.max(0, (this.shiftDay[from] as number) - due);
    let change = (this.jobWeight[job] as number) * late + this.changeCost(job, to) - this.changeCost(job, from);
    let taken = this.minutesOf[job * this.people + (this.shiftPerson[from] as number)] as number;
    if (this.full((this.inGroup[from * this.groups + group] as number) - 1, from)) {
      taken += this.setUpMinutes[group] as number;
      change -= this.setUpPoints[group] as number;
    }
    if (this.full(this.inGroup[to * this.groups + group] as number, to)) change += this.setUpPoints[group] as number;
    if ((this.jobsIn[from] as number[]).length === 1) change -= this.tripPoints[from] as number;
    if ((this.jobsIn[to] as number[]).length === 0) change += this.tripPoints[to] as number;
    change -= this.savedVisits(job, from, taken);
    if (this.fairness > 0) {
      const by = this.minutesIn(job, to);
      const [a, b] = [this.shiftPerson[from] as number, this.shiftPerson[to] as number];
      const [ua, ub] = [this.worked[a] as number, this.worked[b] as number];
      const own =
        a === b
          ? ((by - taken) * (2 * ua + by - taken)) / (this.had[a] as number)
          : (taken * (taken - 2 * ua)) / (this.had[a] as number) + (by * (2 * ub + by)) / (this.had[b] as number);
      const all = by - taken;
      change += this.fairness * (own - (all * (2 * this.workedAll + all)) / this.hadAll);
    }
    return change;
  }

  /**
   * About the least that taking a planned job out can change the cost by, wherever it goes then: what it costs to leave
   * it out does not count, visits others would get all do. Loads of people are not looked at.
   */
  leastTake(job: number): number {
    const from = this.plan[job] as number;
    const group = this.jobGroup[job] as number;
    let change =
      -(this.jobWeight[job] as number) * Math.max(0, (this.shiftDay[from] as number) - (this.jobDue[job] as number)) -
      this.changeCost(job, from);
    let taken = this.minutesOf[job * this.people + (this.shiftPerson[from] as number)] as number;
    if (this.full((this.inGroup[from * this.groups + group] as number) - 1, from)) {
      taken += this.setUpMinutes[group] as number;
      change -= this.setUpPoints[group] as number;
    }
    if ((this.jobsIn[from] as number[]).length === 1) change -= this.tripPoints[from] as number;
    return change - this.savedVisits(job, from, taken);
  }

  /** Whether a shift has the minutes for a job from another one, whatever its pack. */
  hasMinutes(job: number, to: number): boolean {
    if (this.besideOf(job, this.plan[job] as number) === to) return true;
    return (this.used[to] as number) + this.minutesIn(job, to) <= (this.shiftMinutes[to] as number);
  }

  /** What a job costs by itself as it stands: late or left out. */
  painOf(job: number): number {
    const shift = this.plan[job] as number;
    if (shift < 0) return this.jobLeft[job] as number;
    return (
      (this.jobWeight[job] as number) * Math.max(0, (this.shiftDay[shift] as number) - (this.jobDue[job] as number))
    );
  }

  /** What a job costs when it is left out. */
  leftOf(job: number): number {
    return this.jobLeft[job] as number;
  }

  /** Whether a shift is set up for a job's group, with room for one more. */
  hasGroup(job: number, shift: number): boolean {
    return !this.full(this.inGroup[shift * this.groups + (this.jobGroup[job] as number)] as number, shift);
  }

  groupOf(job: number): number {
    return this.jobGroup[job] as number;
  }

  /** Packs a job counts against. */
  packsOf(job: number): Int32Array {
    return this.jobSkus[job] as Int32Array;
  }
}
