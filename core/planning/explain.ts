import { count, plural, sayList } from '../count';
import {
  availableByDay,
  countingShifts,
  type Plan,
  type PlanProblem,
  sessionMinutes,
  skusOf,
  supervisedJobs,
} from './model';

/** How the numbers of a problem are called. */
export interface PlanNames {
  job: (n: number) => string;
  person: (n: number) => string;
  site: (n: number) => string;
  sku: (n: number) => string;
  group: (n: number) => string;
  day: (n: number) => string;
  /** Why a job cannot be had before its release, such as "on loan"; empty where it can. */
  releaseWhy: (n: number) => string;
  /** Why a job cannot be in a shift that is closed to it. */
  closedWhy: (job: number, shift: number) => string;
  /** Why a job has a last day; empty where it has none. */
  wallWhy: (n: number) => string;
}

export interface Explanation {
  /** Where it stands, in words. */
  stands: string;
  /** The reasons that bind, each a sentence. */
  because: string[];
  /** The reason that binds: the first that is not the last day itself; null where there is none. */
  binds: string | null;
  /** What would let it be done, or done earlier. */
  wouldHelp: string[];
  /** Whether what would help first is to buy the strings. */
  buys: boolean;
}

/**
 * Why a job stands where it does and not earlier, or why it is not planned: every shift before that one is looked at,
 * and the reasons it could not be there are gathered.
 */
export function explainJob(p: PlanProblem, plan: Plan, job: number, names: PlanNames): Explanation {
  const j = p.jobs[job];
  if (!j) throw new RangeError('There is no such job.');
  const at = plan[job] as number;
  const here = p.shifts[at];
  const counts = countingShifts(p);
  const before = here ? here.day : p.days;
  const by = p.shifts[supervisedJobs(p, plan).find((x) => x.job === job)?.by ?? -1];
  const supervisor = by ? `, supervised by ${names.person(by.person)}` : '';
  const because: string[] = [];
  const wouldHelp: string[] = [];
  if (j.release > 0 && j.release <= before)
    because.push(`It is not available before ${names.day(j.release)}: ${names.releaseWhy(job)}.`);
  const wall = j.latest === null ? null : `It has to be done by ${names.day(j.latest)}: ${names.wallWhy(job)}.`;
  if (wall !== null) because.push(wall);
  const earlier = p.shifts
    .map((s, i) => ({ s, i }))
    .filter(({ s, i }) => s.site === j.site && s.day < before && i !== at);
  const inReach = earlier.filter(({ s }) => s.day >= j.release && (j.latest === null || s.day <= j.latest));
  const taken = inReach.filter(({ i }) => j.closed?.includes(i));
  if (taken.length > 0)
    because.push(
      `Not available in ${count(taken.length, 'session')} ${here ? 'before' : 'there'}: ${[...new Set(taken.map(({ i }) => names.closedWhy(job, i)))].join(', ')}.`,
    );
  const usable = inReach.filter(({ i }) => !j.closed?.includes(i));
  const able = usable.filter(({ s, i }) => {
    const who = p.people[s.person];
    return counts[i] && (who?.skill[j.group] ?? 0) >= (p.skillNeeded[j.group] ?? 0);
  });
  if (here && here.day <= j.release) because.push('This is the first day it can be done.');
  else if (usable.length === 0) {
    const next = p.shifts.filter((s) => s.site === j.site).sort((a, b) => a.day - b.day)[0];
    because.push(
      here
        ? `There is no earlier shift at ${names.site(j.site)} from ${names.day(j.release)} on.`
        : next
          ? `Nobody works at ${names.site(j.site)} on any day it could be done.`
          : `Nobody is on the rota at ${names.site(j.site)}.`,
    );
    wouldHelp.push(
      `A shift at ${names.site(j.site)} ${j.latest === null ? `on or after ${names.day(j.release)}` : `between ${names.day(j.release)} and ${names.day(j.latest)}`}.`,
    );
  } else if (able.length === 0) {
    const who = [
      ...new Set(
        p.people
          .map((person, k) =>
            (person.skill[j.group] ?? 0) >= (p.skillNeeded[j.group] ?? 0) && !person.helper ? names.person(k) : '',
          )
          .filter(Boolean),
      ),
    ];
    because.push(
      who.length > 0
        ? `Only ${sayList(who)} may do ${names.group(j.group)}, and ${plural(who.length, 'is', 'are')} not there any earlier.`
        : `Nobody is signed off for ${names.group(j.group)}.`,
    );
    const when = j.latest === null ? `on or after ${names.day(j.release)}` : `by ${names.day(j.latest)}`;
    wouldHelp.push(
      who.length > 0
        ? `A shift for ${who.length === 1 ? who[0] : 'one of them'} at ${names.site(j.site)} ${when}.`
        : `Someone signed off for ${names.group(j.group)} at ${names.site(j.site)} ${when}.`,
    );
  }
  // The pack: by when it is there for one more.
  let pack: string | undefined;
  const packFrom = j.sku < 0 ? 0 : firstPackDay(p, plan, job);
  if (packFrom > j.release && able.some(({ s }) => s.day < packFrom)) {
    const arrival = p.stock[j.sku]?.arrivals.find((a) => a.day === packFrom);
    because.push(
      packFrom >= p.days
        ? `${names.sku(j.sku)}: everything in stock and on order is reserved.`
        : arrival
          ? `${names.sku(j.sku)} arrives ${names.day(packFrom)}.`
          : `${names.sku(j.sku)} is reserved for other work until ${names.day(packFrom)}.`,
    );
    pack = `One more ${names.sku(j.sku)} before ${names.day(Math.max(0, Math.min(packFrom, p.days - 1)))}.`;
    wouldHelp.push(pack);
  }
  const open = able.filter(({ s }) => s.day >= packFrom);
  const full = open.filter(({ i }) => minutesLeft(p, plan, i, job) < 0);
  if (open.length > 0 && full.length === open.length) {
    const byPerson = new Map<number, number>();
    for (const { s } of full) byPerson.set(s.person, Math.max(byPerson.get(s.person) ?? 0, s.day));
    because.push(
      `${sayList([...byPerson.keys()].map(names.person))} ${plural(byPerson.size, 'is', 'are')} fully booked at ${names.site(j.site)} until ${names.day(Math.max(...byPerson.values()))}.`,
    );
    const least = Math.min(...full.map(({ i }) => -minutesLeft(p, plan, i, job)));
    wouldHelp.push(`${least} more ${plural(least, 'minute')} at ${names.site(j.site)} before then.`);
  } else if (open.length > full.length) {
    const free = open.find(({ i }) => minutesLeft(p, plan, i, job) >= 0);
    // In no session although there is room: nobody has looked since.
    if (free && !here) wouldHelp.push('A better plan: there is room for it.');
    if (free)
      because.push(
        here && here.day <= j.due
          ? 'It is on time where it is. Moving it earlier would push others back or need another set-up.'
          : `${names.person(free.s.person)} has time on ${names.day(free.s.day)}; the plan keeps it for follow-ups or more urgent work.`,
      );
  }
  return {
    stands: here
      ? `${names.day(here.day)} at ${names.site(here.site)} with ${names.person(here.person)}${supervisor}${here.day > j.due ? `, ${count(here.day - j.due, 'day')} late` : ', on time'}`
      : 'not planned',
    because: because.length > 0 ? because : ['Nothing earlier is free there.'],
    binds: because.find((reason) => reason !== wall) ?? null,
    wouldHelp,
    buys: wouldHelp[0] !== undefined && wouldHelp[0] === pack,
  };
}

/** Minutes that are left in a shift when a job is added to it; below nothing where it does not fit. */
export function minutesLeft(p: PlanProblem, plan: Plan, shift: number, job: number): number {
  const s = p.shifts[shift];
  const j = p.jobs[job];
  if (!s || !j) return Number.NEGATIVE_INFINITY;
  const there = p.jobs.flatMap((_, i) => (plan[i] === shift && i !== job ? [i] : []));
  const given = supervisedJobs(p, plan).reduce(
    (sum, x) => (x.by === shift && x.job !== job ? sum + x.minutes : sum),
    0,
  );
  return s.minutes - given - sessionMinutes(p, shift, [...there, job]);
}

/** The first day on which one more pack of a job's kind is free to the end, beside what others use. */
function firstPackDay(p: PlanProblem, plan: Plan, job: number): number {
  const own = p.jobs[job];
  if (!own) return 0;
  return Math.max(
    0,
    ...skusOf(own).map((sku) => {
      // From the end backwards, as long as one is left on each day.
      const usedBy = new Array<number>(p.days).fill(0);
      p.jobs.forEach((j, i) => {
        const shift = p.shifts[plan[i] as number];
        if (i === job || !shift || !skusOf(j).includes(sku)) return;
        for (let d = shift.day; d < p.days; d++) usedBy[d] = (usedBy[d] as number) + 1;
      });
      const packs = availableByDay(p, sku);
      let from = p.days;
      while (from > 0 && (packs[from - 1] as number) > (usedBy[from - 1] as number)) from -= 1;
      return from;
    }),
  );
}
