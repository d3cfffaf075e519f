import { count } from '../count';
import type { Plan, PlanCost, PlanProblem } from './model';

export interface BrokenRule {
  rule: 'site' | 'release' | 'latest' | 'away' | 'skill' | 'supervision' | 'minutes' | 'stock' | 'locked' | 'unknown';
  /** Places of the jobs it is about. */
  jobs: number[];
  says: string;
}

/** How what is checked is called. */
export type CheckNames = Partial<Record<'job' | 'person' | 'site' | 'sku' | 'day', (n: number) => string>> & {
  /** Why a job cannot be in a shift that is closed to it. */
  closedWhy?: (job: number, shift: number) => string;
};

/**
 * Every rule a plan breaks, in words. It shares no code with the solvers: it counts everything anew, job by job and
 * day by day, so that what they get wrong is seen here.
 *
 * @param names how jobs, people, places and packs are called; numbers without it
 */
export function brokenRules(p: PlanProblem, plan: Plan, names: CheckNames = {}): BrokenRule[] {
  const broken: BrokenRule[] = [];
  const job = names.job ?? ((n: number) => `job ${p.jobs[n]?.id}`);
  const person = names.person ?? ((n: number) => `person ${n}`);
  const site = names.site ?? ((n: number) => `place ${n}`);
  const sku = names.sku ?? ((n: number) => `pack ${n}`);
  const day = names.day ?? ((n: number) => `day ${n}`);
  const say = (rule: BrokenRule['rule'], jobs: number[], says: string) => broken.push({ rule, jobs, says });
  const inShift = new Map<number, number[]>();
  /** Jobs of others that somebody stands by for, by the shift they stand by in. */
  const stoodBy = new Map<number, number[]>();
  p.jobs.forEach((j, i) => {
    const at = plan[i] ?? -1;
    if (j.locked && j.published !== undefined && j.published !== null && at !== j.published)
      say('locked', [i], `${job(i)} is locked and stays where it was.`);
    if (at < 0) return;
    const shift = p.shifts[at];
    if (!shift) {
      say('unknown', [i], `The shift for ${job(i)} no longer exists.`);
      return;
    }
    inShift.set(at, [...(inShift.get(at) ?? []), i]);
    if (shift.site !== j.site) say('site', [i], `${job(i)} is at ${site(j.site)}, not at ${site(shift.site)}.`);
    if (shift.day < j.release) say('release', [i], `${job(i)} is not available before ${day(j.release)}.`);
    if (j.latest !== null && shift.day > j.latest) say('latest', [i], `${job(i)} has to be done by ${day(j.latest)}.`);
    if (j.closed?.includes(at))
      say(
        'away',
        [i],
        `${job(i)} is not available in ${person(shift.person)}’s session on ${day(shift.day)}${names.closedWhy ? `: ${names.closedWhy(i, at)}` : ''}.`,
      );
    if (j.away?.includes(shift.day)) say('away', [i], `${job(i)} is not available on ${day(shift.day)}.`);
    const who = p.people[shift.person];
    const needed = p.skillNeeded[j.group] ?? 0;
    const level = who?.skill[j.group] ?? 0;
    if (level < needed) {
      const learns = p.underSupervision && level > 0 && level === needed - 1;
      const by = learns ? firstTeacher(p, shift, j.group) : -1;
      if (by >= 0) stoodBy.set(by, [...(stoodBy.get(by) ?? []), i]);
      if (!learns) say('skill', [i], `${person(shift.person)} is not signed off for ${job(i)}.`);
      else if (by < 0)
        say(
          'supervision',
          [i],
          `${person(shift.person)} may do ${job(i)} only under supervision, and nobody at ${site(shift.site)} on ${day(shift.day)} can supervise it.`,
        );
    }
    if (who?.helper) {
      const watched = p.shifts.some((o) => {
        const other = p.people[o.person];
        return o !== shift && overlap(o, shift) && other?.supervisor && !other.helper;
      });
      if (!watched)
        say(
          'supervision',
          [i],
          `Nobody supervises ${person(shift.person)} at ${site(shift.site)} on ${day(shift.day)}.`,
        );
    }
  });
  for (const at of new Set([...inShift.keys(), ...stoodBy.keys()])) {
    const shift = p.shifts[at];
    if (!shift) continue;
    const jobs = inShift.get(at) ?? [];
    const watched = stoodBy.get(at) ?? [];
    const given = watched.reduce((sum, i) => sum + givenFor(p, i, plan), 0);
    const groups = new Set(jobs.map((i) => p.jobs[i]?.group));
    const minutes =
      given +
      jobs.reduce((sum, i) => sum + (p.jobs[i]?.minutes[shift.person] ?? 0), 0) +
      [...groups].reduce<number>((sum, g) => {
        const together = jobs.filter((i) => p.jobs[i]?.group === g).length;
        const times = shift.benchSpace ? Math.ceil(together / shift.benchSpace) : 1;
        return sum + times * (p.setUpByGroup?.[g ?? -1] ?? p.setUpMinutes);
      }, 0);
    if (minutes > shift.minutes)
      say(
        'minutes',
        [...jobs, ...watched],
        `${person(shift.person)} has ${count(shift.minutes, 'minute')} at ${site(shift.site)} on ${day(shift.day)}; this needs ${minutes}${given > 0 ? `, ${given} of them supervising` : ''}.`,
      );
  }
  p.stock.forEach((stock, s) => {
    const users = p.jobs.flatMap((j, i) => ((j.sku === s || j.pools?.includes(s)) && (plan[i] ?? -1) >= 0 ? [i] : []));
    for (let d = 0; d < p.days; d++) {
      const used = users.filter((i) => (p.shifts[plan[i] as number]?.day ?? 0) <= d);
      const had = stock.initial + stock.arrivals.filter((a) => a.day <= d).reduce((sum, a) => sum + a.packs, 0);
      if (used.length > had) {
        say('stock', used, `${sku(s)}: ${used.length} needed by ${day(d)}, only ${had} in stock by then.`);
        break;
      }
    }
  });
  return broken;
}

/**
 * What breaks when one job is put into a shift, in words; nothing where it may go there. Only the jobs it has to do with
 * are looked at: those of the shift and those that use its packs.
 */
export function brokenByMove(
  p: PlanProblem,
  plan: Plan,
  job: number,
  to: number,
  names: CheckNames = {},
): BrokenRule[] {
  const own = p.jobs[job];
  if (!own) return [];
  const packs = new Set([own.sku, ...(own.pools ?? [])].filter((s) => s >= 0));
  // Whose minutes it takes: those of the shift, and of whoever stands by.
  const taken = new Set([to, stoodByIn(p, own, to)].filter((s) => s >= 0));
  const about = p.jobs.flatMap((j, i) =>
    i !== job &&
    (taken.has(plan[i] ?? -1) ||
      taken.has(stoodByIn(p, j, plan[i] ?? -1)) ||
      packs.has(j.sku) ||
      j.pools?.some((s) => packs.has(s)))
      ? [i]
      : [],
  );
  about.push(job);
  const jobs = about.map((i) => ({ ...(p.jobs[i] as PlanProblem['jobs'][number]), locked: false }));
  const part = {
    ...p,
    jobs,
    stock: p.stock.map((s, i) => (packs.has(i) ? s : { initial: about.length, arrivals: [] })),
  };
  const say = {
    ...names,
    job: (n: number) => (names.job ?? ((i: number) => `job ${p.jobs[i]?.id}`))(about[n] as number),
    ...(names.closedWhy
      ? { closedWhy: (n: number, at: number) => names.closedWhy?.(about[n] as number, at) ?? '' }
      : {}),
  };
  const last = about.length - 1;
  const rules = (shift: number) =>
    brokenRules(
      part,
      Int32Array.from(about, (i, n) => (n === last ? shift : (plan[i] as number))),
      say,
    );
  const before = new Set(rules(-1).map((b) => b.says));
  return rules(to)
    .filter((b) => !before.has(b.says))
    .map((b) => ({ ...b, jobs: b.jobs.map((n) => about[n] as number) }));
}

/** The first shift beside another whose person, no helper, teaches a group; -1 where nobody does. */
const firstTeacher = (p: PlanProblem, shift: PlanProblem['shifts'][number], group: number): number =>
  p.shifts.findIndex((o) => {
    const who = p.people[o.person];
    return o.person !== shift.person && who?.teaches?.[group] && !who.helper && overlap(o, shift);
  });

/** Where somebody stands by for a job in a shift: their shift; -1 where nobody has to, or can. */
function stoodByIn(p: PlanProblem, job: PlanProblem['jobs'][number], at: number): number {
  const shift = p.shifts[at];
  if (!shift || !p.underSupervision) return -1;
  const level = p.people[shift.person]?.skill[job.group] ?? 0;
  return level > 0 && level + 1 === p.skillNeeded[job.group] ? firstTeacher(p, shift, job.group) : -1;
}

/** Minutes that whoever stands by gives for a job where it is planned. */
function givenFor(p: PlanProblem, i: number, plan: Plan): number {
  const own = p.jobs[i]?.minutes[p.shifts[plan[i] ?? -1]?.person ?? -1] ?? 0;
  return Math.ceil(own * (p.supervisionShare ?? 0));
}

/** Whether two shifts are at one place for some minute of a day; without their times, for all that is known. */
function overlap(a: PlanProblem['shifts'][number], b: PlanProblem['shifts'][number]): boolean {
  if (a.day !== b.day || a.site !== b.site || Math.min(a.minutes, b.minutes) <= 0) return false;
  const from = Math.max(a.startsMinute ?? 0, b.startsMinute ?? 0);
  const until = Math.min((a.startsMinute ?? 0) + a.minutes, (b.startsMinute ?? 0) + b.minutes);
  return a.startsMinute === undefined || b.startsMinute === undefined || from < until;
}

/** What a plan costs, part by part, counted from nothing. */
export function costOf(p: PlanProblem, plan: Plan): PlanCost {
  let tardiness = 0;
  let unplanned = 0;
  let changes = 0;
  const setUps = new Map<string, number>();
  const used = p.shifts.map(() => 0);
  const visited = p.shifts.map(() => false);
  const wanted = new Map<string, number>();
  const watched = p.shifts.filter((s) => p.people[s.person]?.supervisor && !p.people[s.person]?.helper);
  const there = new Map<string, number[]>();
  p.shifts.forEach((s, i) => {
    if (s.minutes <= 0 || (p.people[s.person]?.helper && !watched.some((o) => overlap(o, s)))) return;
    const key = `${s.site}/${s.day}`;
    const list = there.get(key);
    if (list) list.push(i);
    else there.set(key, [i]);
  });
  p.jobs.forEach((j, i) => {
    const at = plan[i] ?? -1;
    if (j.published !== undefined && j.published !== null && at !== j.published) changes += p.weights.change;
    const shift = p.shifts[at];
    if (!shift) {
      const days = p.weights.unplannedDays + Math.max(0, p.days - j.due);
      unplanned += j.weight * days * (j.latest === null ? 1 : p.weights.wall);
      return;
    }
    tardiness += j.weight * Math.max(0, shift.day - j.due);
    setUps.set(`${at}/${j.group}`, (setUps.get(`${at}/${j.group}`) ?? 0) + 1);
    visited[at] = true;
    used[at] = (used[at] ?? 0) + (j.minutes[shift.person] ?? 0);
    const by = stoodByIn(p, j, at);
    if (by >= 0) used[by] = (used[by] ?? 0) + givenFor(p, i, plan);
    const days = new Set<number>();
    for (const lag of j.visits ?? p.retuneLags) {
      const due = shift.day + lag;
      if (due >= p.days) continue;
      let on = due;
      while (on <= due + (p.retuneGrace ?? 0) && on < p.days && !there.has(`${j.site}/${on}`)) on += 1;
      days.add(there.has(`${j.site}/${on}`) && on <= due + (p.retuneGrace ?? 0) ? on : due);
    }
    for (const day of days) {
      const key = `${j.site}/${day}`;
      wanted.set(key, (wanted.get(key) ?? 0) + 1);
    }
  });
  let setUp = 0;
  for (const [key, together] of setUps) {
    const [at, group] = key.split('/').map(Number) as [number, number];
    const minutes = p.setUpByGroup?.[group] ?? p.setUpMinutes;
    const space = p.shifts[at]?.benchSpace;
    const times = space ? Math.ceil(together / space) : 1;
    used[at] = (used[at] ?? 0) + times * minutes;
    if (minutes > 0 || !p.setUpByGroup) setUp += times * p.weights.setUp;
  }
  let missed = 0;
  for (const [key, n] of wanted) {
    const room = (there.get(key) ?? []).reduce(
      (sum, i) => sum + Math.floor(((p.shifts[i]?.minutes ?? 0) - (used[i] ?? 0)) / p.retuneMinutes),
      0,
    );
    missed += p.weights.missedRetune * Math.max(0, n - room);
  }
  const travel = p.shifts.reduce(
    (sum, s, i) => (visited[i] ? sum + ((p.weights.travel ?? 0) * (s.travelMinutes ?? 0)) / 60 : sum),
    0,
  );
  const fairness = p.weights.fairness ? p.weights.fairness * unevenHours(p, used, there) : 0;
  return {
    tardiness,
    unplanned,
    setUp,
    missed,
    travel,
    fairness,
    changes,
    total: tardiness + unplanned + setUp + missed + travel + fairness + changes,
  };
}

/** Hours by which loads differ: of each person's time the square of how much fuller it is than everybody's. */
function unevenHours(p: PlanProblem, used: readonly number[], there: ReadonlyMap<string, readonly number[]>): number {
  const counts = new Set([...there.values()].flat());
  const people = p.people.map((who, k) => {
    const own = p.shifts.flatMap((s, i) => (s.person === k ? [i] : []));
    return {
      had: (who.hadMinutes ?? 0) + own.reduce((sum, i) => sum + (counts.has(i) ? (p.shifts[i]?.minutes ?? 0) : 0), 0),
      worked: (who.workedMinutes ?? 0) + own.reduce((sum, i) => sum + (used[i] ?? 0), 0),
    };
  });
  const had = people.reduce((sum, x) => sum + x.had, 0);
  const mean = had > 0 ? people.reduce((sum, x) => sum + x.worked, 0) / had : 0;
  return people.reduce((sum, x) => (x.had > 0 ? sum + x.had * (x.worked / x.had - mean) ** 2 : sum), 0) / 60;
}
