import { availableByDay, candidateShifts, countingShifts, type Plan, type PlanProblem, unplannedCost } from './model';

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

  private readonly groups: number;
  private readonly days: number;
  private readonly jobSite: Int32Array;
  private readonly jobGroup: Int32Array;
  private readonly jobSku: Int32Array;
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
  /** Jobs of each shift, and where in its list each job is. */
  readonly jobsIn: number[][];
  private readonly placeIn: Int32Array;
  /** Packs free at the end of each day, by sku and day. */
  private readonly slack: Int32Array;

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
    this.jobSku = Int32Array.from(p.jobs, (j) => j.sku);
    this.jobDue = Int32Array.from(p.jobs, (j) => j.due);
    this.jobWeight = Float64Array.from(p.jobs, (j) => j.weight);
    this.jobLeft = Float64Array.from(p.jobs, (j) => unplannedCost(p, j));
    this.jobPublished = Int32Array.from(p.jobs, (j) => j.published ?? -2);
    this.movable = Uint8Array.from(p.jobs, (j) => (j.locked ? 0 : 1));
    this.minutesOf = Int32Array.from(p.jobs.flatMap((j) => p.people.map((_, k) => j.minutes[k] ?? 1_000_000)));
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
    this.slack = Int32Array.from(p.stock.flatMap((_, s) => availableByDay(p, s)));
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
    return own + (there > 0 ? 0 : this.problem.setUpMinutes);
  }

  /** Whether a job that is not planned fits into a shift now: minutes and packs. */
  fits(job: number, shift: number): boolean {
    if ((this.used[shift] as number) + this.minutesIn(job, shift) > (this.shiftMinutes[shift] as number)) return false;
    return this.packFree(job, this.shiftDay[shift] as number);
  }

  /** Whether its pack is there from a day on, beside all that is planned. */
  packFree(job: number, day: number): boolean {
    const sku = this.jobSku[job] as number;
    if (sku < 0) return true;
    const from = sku * this.days;
    for (let d = day; d < this.days; d++) if ((this.slack[from + d] as number) < 1) return false;
    return true;
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
    const base = (this.jobSite[job] as number) * this.days;
    for (const lag of this.problem.retuneLags) {
      const d = day + lag;
      if (d >= this.days) continue;
      const cell = base + d;
      const before = this.missedAt(cell);
      this.wanted[cell] = (this.wanted[cell] as number) + by;
      change += this.missedAt(cell) - before;
    }
    return change;
  }

  private addMinutes(shift: number, by: number): number {
    const cell = this.shiftCell[shift] as number;
    const before = this.missedAt(cell);
    const minutes = this.shiftMinutes[shift] as number;
    const r = this.problem.retuneMinutes;
    const was = Math.floor((minutes - (this.used[shift] as number)) / r);
    this.used[shift] = (this.used[shift] as number) + by;
    this.room[cell] = (this.room[cell] as number) + Math.floor((minutes - (this.used[shift] as number)) / r) - was;
    return this.missedAt(cell) - before;
  }

  private addPack(job: number, day: number, by: number): void {
    const sku = this.jobSku[job] as number;
    if (sku < 0) return;
    const from = sku * this.days;
    for (let d = day; d < this.days; d++) this.slack[from + d] = (this.slack[from + d] as number) - by;
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
    if (this.inGroup[g] === 0) {
      minutes += this.problem.setUpMinutes;
      change += weights.setUp;
    }
    this.inGroup[g] = (this.inGroup[g] as number) + 1;
    change += weights.missedRetune * (this.addMinutes(shift, minutes) + this.addVisits(job, day, 1));
    this.addPack(job, day, 1);
    this.plan[job] = shift;
    const list = this.jobsIn[shift] as number[];
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
    this.inGroup[g] = (this.inGroup[g] as number) - 1;
    if (this.inGroup[g] === 0) {
      minutes += this.problem.setUpMinutes;
      change -= weights.setUp;
    }
    change += weights.missedRetune * (this.addMinutes(shift, -minutes) + this.addVisits(job, day, -1));
    this.addPack(job, day, -1);
    this.plan[job] = -1;
    // The last of the list takes its place.
    const list = this.jobsIn[shift] as number[];
    const last = list.pop() as number;
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

  /** The least that planning a job there can change the cost by: it is late and not left out; nothing is cheaper. */
  leastChange(job: number, shift: number): number {
    const late = Math.max(0, (this.shiftDay[shift] as number) - (this.jobDue[job] as number));
    return (
      (this.jobWeight[job] as number) * late -
      (this.jobLeft[job] as number) +
      this.changeCost(job, shift) -
      this.changeCost(job, -1)
    );
  }

  /** What a job costs by itself as it stands: late or left out. */
  painOf(job: number): number {
    const shift = this.plan[job] as number;
    if (shift < 0) return this.jobLeft[job] as number;
    return (
      (this.jobWeight[job] as number) * Math.max(0, (this.shiftDay[shift] as number) - (this.jobDue[job] as number))
    );
  }

  groupOf(job: number): number {
    return this.jobGroup[job] as number;
  }

  skuOf(job: number): number {
    return this.jobSku[job] as number;
  }
}
