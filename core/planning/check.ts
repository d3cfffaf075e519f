import type { Plan, PlanCost, PlanProblem } from './model';

export interface BrokenRule {
  rule: 'site' | 'release' | 'latest' | 'skill' | 'supervision' | 'minutes' | 'stock' | 'locked' | 'unknown';
  /** Places of the jobs it is about. */
  jobs: number[];
  says: string;
}

/**
 * Every rule a plan breaks, in words. It shares no code with the solvers: it counts everything anew, job by job and
 * day by day, so that what they get wrong is seen here.
 *
 * @param names how jobs, people, places and packs are called; numbers without it
 */
export function brokenRules(
  p: PlanProblem,
  plan: Plan,
  names: Partial<Record<'job' | 'person' | 'site' | 'sku' | 'day', (n: number) => string>> = {},
): BrokenRule[] {
  const broken: BrokenRule[] = [];
  const job = names.job ?? ((n: number) => `job ${p.jobs[n]?.id}`);
  const person = names.person ?? ((n: number) => `person ${n}`);
  const site = names.site ?? ((n: number) => `place ${n}`);
  const sku = names.sku ?? ((n: number) => `pack ${n}`);
  const day = names.day ?? ((n: number) => `day ${n}`);
  const say = (rule: BrokenRule['rule'], jobs: number[], says: string) => broken.push({ rule, jobs, says });
  const inShift = new Map<number, number[]>();
  p.jobs.forEach((j, i) => {
    const at = plan[i] ?? -1;
    if (j.locked && j.published !== undefined && j.published !== null && at !== j.published)
      say('locked', [i], `${job(i)} is locked where it was.`);
    if (at < 0) return;
    const shift = p.shifts[at];
    if (!shift) {
      say('unknown', [i], `${job(i)} is in a shift that does not exist.`);
      return;
    }
    inShift.set(at, [...(inShift.get(at) ?? []), i]);
    if (shift.site !== j.site) say('site', [i], `${job(i)} is at ${site(j.site)}, not at ${site(shift.site)}.`);
    if (shift.day < j.release) say('release', [i], `${job(i)} cannot be had before ${day(j.release)}.`);
    if (j.latest !== null && shift.day > j.latest) say('latest', [i], `${job(i)} has to be done by ${day(j.latest)}.`);
    const who = p.people[shift.person];
    const needed = p.skillNeeded[j.group] ?? 0;
    if ((who?.skill[j.group] ?? 0) < needed)
      say('skill', [i], `${person(shift.person)} is not signed off for ${job(i)}.`);
    if (who?.helper) {
      const watched = p.shifts.some((o) => {
        const other = p.people[o.person];
        return o !== shift && o.day === shift.day && o.site === shift.site && other?.supervisor && !other.helper;
      });
      if (!watched)
        say(
          'supervision',
          [i],
          `Nobody supervises ${person(shift.person)} at ${site(shift.site)} on ${day(shift.day)}.`,
        );
    }
  });
  for (const [at, jobs] of inShift) {
    const shift = p.shifts[at];
    if (!shift) continue;
    const groups = new Set(jobs.map((i) => p.jobs[i]?.group));
    const minutes =
      jobs.reduce((sum, i) => sum + (p.jobs[i]?.minutes[shift.person] ?? 0), 0) + p.setUpMinutes * groups.size;
    if (minutes > shift.minutes)
      say(
        'minutes',
        jobs,
        `${person(shift.person)} has ${shift.minutes} minutes at ${site(shift.site)} on ${day(shift.day)}; this takes ${minutes}.`,
      );
  }
  p.stock.forEach((stock, s) => {
    const users = p.jobs.flatMap((j, i) => (j.sku === s && (plan[i] ?? -1) >= 0 ? [i] : []));
    for (let d = 0; d < p.days; d++) {
      const used = users.filter((i) => (p.shifts[plan[i] as number]?.day ?? 0) <= d);
      const had = stock.initial + stock.arrivals.filter((a) => a.day <= d).reduce((sum, a) => sum + a.packs, 0);
      if (used.length > had) {
        say('stock', used, `${used.length} of ${sku(s)} are used by ${day(d)}, ${had} are there by then.`);
        break;
      }
    }
  });
  return broken;
}

/** What a plan costs, part by part, counted from nothing. */
export function costOf(p: PlanProblem, plan: Plan): PlanCost {
  let tardiness = 0;
  let unplanned = 0;
  let changes = 0;
  const setUps = new Set<string>();
  const used = p.shifts.map(() => 0);
  const wanted = new Map<string, number>();
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
    setUps.add(`${at}/${j.group}`);
    used[at] = (used[at] ?? 0) + (j.minutes[shift.person] ?? 0);
    for (const lag of p.retuneLags)
      if (shift.day + lag < p.days) {
        const key = `${j.site}/${shift.day + lag}`;
        wanted.set(key, (wanted.get(key) ?? 0) + 1);
      }
  });
  for (const key of setUps) {
    const at = Number(key.split('/')[0]);
    used[at] = (used[at] ?? 0) + p.setUpMinutes;
  }
  let missed = 0;
  for (const [key, n] of wanted) {
    const [site, day] = key.split('/').map(Number);
    const room = p.shifts.reduce((sum, s, i) => {
      if (s.site !== site || s.day !== day) return sum;
      const who = p.people[s.person];
      const counts =
        !who?.helper ||
        p.shifts.some((o) => {
          const other = p.people[o.person];
          return o.day === s.day && o.site === s.site && other?.supervisor && !other.helper;
        });
      return counts ? sum + Math.floor((s.minutes - (used[i] ?? 0)) / p.retuneMinutes) : sum;
    }, 0);
    missed += p.weights.missedRetune * Math.max(0, n - room);
  }
  const setUp = p.weights.setUp * setUps.size;
  return { tardiness, unplanned, setUp, missed, changes, total: tardiness + unplanned + setUp + missed + changes };
}
