/**
 * The cheapest things to do in a session of whole minutes, with set-ups by group: for each number of minutes in use the
 * least cost, group by group and thing by thing, and for each step what it came from.
 */
export class Knapsack {
  private minutes = 0;
  private width = 1;
  /** Least cost by state of the group and minutes; state 0 is not set up. */
  private cost = new Float64Array(0);
  private states = 1;
  private inGroup = false;
  /** Of each thing and each state and minute: the state it was taken from, and one; 0 where it was not taken. */
  private came = new Uint8Array(0);
  private things: { id: number; minutes: number; at: number; setUp: number }[] = [];
  private offered: { id: number; minutes: number; cost: number }[] = [];
  /** Minutes of the things of a group that are cheaper, by their minutes. */
  private cheaper = new Int32Array(0);
  /** By group, of each minute the state that is best. */
  private ends: { from: number; at: number }[] = [];
  private end = new Uint8Array(0);
  private filled = 0;
  private endFilled = 0;
  private setUpMinutes = 0;
  private setUpCost = 0;
  private benchSpace = 0;
  /** Things of no minutes that cost less than nothing. */
  private free: number[] = [];
  private freeCost = 0;
  private bestAt = 0;
  /** Most minutes that anything until now can fill. */
  private reach = 0;
  used = 0;

  begin(minutes: number): void {
    this.minutes = minutes;
    this.width = minutes + 1;
    this.things.length = 0;
    this.ends.length = 0;
    this.free.length = 0;
    this.freeCost = 0;
    this.filled = 0;
    this.endFilled = 0;
    this.states = 1;
    this.inGroup = false;
    this.reach = 0;
    if (this.cost.length < this.width) this.cost = new Float64Array(this.width);
    if (this.cheaper.length < this.width) this.cheaper = new Int32Array(this.width);
    this.cost.fill(Number.POSITIVE_INFINITY, 0, this.width);
    this.cost[0] = 0;
  }

  /** Begins a group. @param space how many lie on the bench together; 0: all */
  group(setUpMinutes: number, setUpCost: number, space: number): void {
    this.close();
    this.inGroup = true;
    this.setUpMinutes = setUpMinutes;
    this.setUpCost = setUpCost;
    this.benchSpace = space;
    // Set up or not; where the bench is narrow, how many lie on it.
    this.states = space === 0 ? 2 : Math.min(space, 250);
    const need = this.states * this.width;
    if (this.cost.length < need) {
      const wider = new Float64Array(need);
      wider.set(this.cost.subarray(0, this.width));
      this.cost = wider;
    }
    this.cost.fill(Number.POSITIVE_INFINITY, this.width, need);
  }

  private next(state: number): number {
    if (this.benchSpace === 0) return 1;
    return state + 1 === this.states ? 0 : state + 1;
  }

  item(id: number, minutes: number, cost: number): void {
    if (minutes <= 0) {
      this.free.push(id);
      this.freeCost += cost;
    } else if (minutes + this.setUpMinutes <= this.minutes) this.offered.push({ id, minutes, cost });
  }

  /**
   * Takes in the things of a group. One is left out where all those that are cheaper and no longer would not fit beside
   * it: then one of them is missing from whatever it is part of, and can stand in its place.
   */
  private takeIn(): void {
    const { width, states, cheaper } = this;
    this.offered.sort((a, b) => a.cost - b.cost);
    cheaper.fill(0, 0, width);
    for (const { id, minutes, cost } of this.offered) {
      let beside = minutes + this.setUpMinutes;
      for (let m = 1; m <= minutes; m++) beside += cheaper[m] as number;
      cheaper[minutes] = (cheaper[minutes] as number) + minutes;
      if (beside > this.minutes) continue;
      const at = this.filled;
      const need = at + states * width;
      if (this.came.length < need) {
        const wider = new Uint8Array(Math.max(need, 2 * this.came.length));
        wider.set(this.came);
        this.came = wider;
      }
      this.came.fill(0, at, need);
      this.filled = need;
      this.things.push({ id, minutes, at, setUp: this.setUpMinutes });
      this.take(minutes, cost, at);
      this.reach = Math.min(this.minutes, this.reach + minutes + this.setUpMinutes);
    }
    this.offered.length = 0;
  }

  /** By the minutes it ends at, from the last down: whatever it is taken from lies before, and is not touched yet. */
  private take(minutes: number, cost: number, at: number): void {
    const { width, states, cost: table, came, setUpMinutes, setUpCost } = this;
    const top = Math.min(this.minutes, this.reach + minutes + setUpMinutes);
    if (this.benchSpace === 0) {
      const first = minutes + setUpMinutes;
      const fresh = cost + setUpCost;
      for (let t = top; t >= minutes; t--) {
        const on = (table[width + t - minutes] as number) + cost;
        const begun = t >= first ? (table[t - first] as number) + fresh : Number.POSITIVE_INFINITY;
        const least = Math.min(on, begun);
        if (least < (table[width + t] as number)) {
          table[width + t] = least;
          came[at + width + t] = on <= begun ? 2 : 1;
        }
      }
      return;
    }
    for (let t = top; t >= minutes; t--)
      for (let state = 0; state < states; state++) {
        const u = state === 0 ? t - minutes - setUpMinutes : t - minutes;
        if (u < 0) continue;
        const c = (table[state * width + u] as number) + (state === 0 ? cost + setUpCost : cost);
        const to = this.next(state) * width + t;
        if (c < (table[to] as number)) {
          table[to] = c;
          came[at + to] = state + 1;
        }
      }
  }

  /** Ends a group: for each minute the best of its states. */
  private close(): void {
    if (!this.inGroup) return;
    this.inGroup = false;
    this.takeIn();
    const { width, states } = this;
    const at = this.endFilled;
    if (this.end.length < at + width) {
      const wider = new Uint8Array(Math.max(at + width, 2 * this.end.length));
      wider.set(this.end);
      this.end = wider;
    }
    this.endFilled = at + width;
    for (let u = 0; u < width; u++) {
      let state = 0;
      for (let k = 1; k < states; k++)
        if ((this.cost[k * width + u] as number) < (this.cost[state * width + u] as number)) state = k;
      this.cost[u] = this.cost[state * width + u] as number;
      this.end[at + u] = state;
    }
    this.ends.push({ from: this.things.length, at });
  }

  /**
   * The least cost of all, with what is left over worth something.
   * @param rest the cost of what is left when so many minutes are in use; it must not fall with more minutes in use
   * @param trip what it costs to do anything at all
   */
  best(rest: (used: number) => number, trip: number): number {
    this.close();
    const nothing = rest(0);
    let best = Number.POSITIVE_INFINITY;
    for (let u = 0; u <= Math.min(this.reach, this.minutes); u++) {
      const c = this.cost[u] as number;
      if (c === Number.POSITIVE_INFINITY) continue;
      const whole = c + rest(u);
      if (whole < best) {
        best = whole;
        this.bestAt = u;
      }
    }
    best += trip + this.freeCost;
    if (best < nothing) {
      this.used = this.bestAt;
      return best;
    }
    this.used = 0;
    this.bestAt = -1;
    return nothing;
  }

  /** What is taken in the best. */
  taken(): number[] {
    if (this.bestAt < 0) return [];
    const taken = [...this.free];
    let u = this.bestAt;
    const { width } = this;
    for (let g = this.ends.length - 1; g >= 0; g--) {
      const { from: to, at } = this.ends[g] as { from: number; at: number };
      let state = this.end[at + u] as number;
      const first = g === 0 ? 0 : (this.ends[g - 1] as { from: number }).from;
      for (let i = to - 1; i >= first; i--) {
        const thing = this.things[i] as Knapsack['things'][number];
        const came = this.came[thing.at + state * width + u] as number;
        if (came === 0) continue;
        taken.push(thing.id);
        const before = came - 1;
        u -= thing.minutes + (before === 0 ? thing.setUp : 0);
        state = before;
      }
    }
    return taken;
  }
}
