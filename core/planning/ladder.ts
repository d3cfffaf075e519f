import { times } from '../count';
import { areBeside, countingShifts, type Plan, type PlanProblem, sessionMinutes } from './model';

/** How far somebody is with a method, lowest first. */
export const LADDER = ['not yet', 'has watched', 'under supervision', 'alone', 'may supervise'] as const;

export const LEVEL = { notYet: 0, watched: 1, supervised: 2, alone: 3, supervises: 4 } as const;

/** What it takes to step up. Common practice, no source; whoever signs off decides. */
export const STEP_UP = { watched: 1, toSupervised: 2, toAlone: 5 } as const;

export interface Learned {
  level: number;
  /** Jobs watched, done while somebody stood by, and done again within a week because something was wrong. */
  watched: number;
  /** Cards practised, mostly right. */
  practised: number;
  done: number;
  redone: number;
  /** Jobs done of which nobody has said that they stood by: they do not count yet. */
  unseen: number;
}

/** Whether somebody could be signed off a step higher, and why, or what is still missing. */
export function nextStep(l: Learned): { ready: boolean; says: string } | null {
  if (l.level <= LEVEL.watched) {
    // Whoever was put on the step has watched once, whoever kept no record of it.
    const watched = Math.max(l.watched, l.level);
    // Practice stands for one time of watching, never for all of it.
    const stands = watched > 0 && l.practised > 0 ? 1 : 0;
    const practised = l.practised > 0 ? `, practised ${times(l.practised)}` : '';
    return watched + stands >= STEP_UP.toSupervised
      ? { ready: true, says: `watched ${times(watched)}${practised}: ready to work under supervision` }
      : {
          ready: false,
          says: `watched ${watched} of the ${STEP_UP.toSupervised} times needed to work under supervision${practised}`,
        };
  }
  if (l.level === LEVEL.supervised) {
    const good = l.done - l.redone;
    const unseen = l.unseen > 0 ? `; ${l.unseen} more without a named supervisor` : '';
    if (l.redone > 0 && l.redone * 3 > l.done)
      return { ready: false, says: `${l.redone} of ${l.done} had to be redone: go over it together first` };
    return good >= STEP_UP.toAlone
      ? { ready: true, says: `done well ${times(good)} under supervision: ready to work alone${unseen}` }
      : { ready: false, says: `done well ${good} of the ${STEP_UP.toAlone} times needed to work alone${unseen}` };
  }
  return null;
}

export interface LearningSuggestion {
  helper: number;
  job: number;
  /** `watch`: beside the person who does it; `do`: in the helper's own shift, under supervision. */
  how: 'watch' | 'do';
  /** The helper's shift, and the one of who teaches it. */
  shift: number;
  beside: number;
}

/** Days between a job and its due date from which nothing hangs on it. */
const NOT_URGENT_DAYS = 3;

/**
 * Jobs that helpers could learn on: not urgent, no concert ahead, where somebody who teaches the group does them at a
 * time at which the helper is there too. A helper watches what they may not do yet, and does what they may do under
 * supervision, as far as their time goes; at most one of each group for each helper, and one a shift.
 */
export function learningSuggestions(p: PlanProblem, plan: Plan, most: number): LearningSuggestion[] {
  const counts = countingShifts(p);
  const found: LearningSuggestion[] = [];
  const taken = new Set<string>();
  const inShift: number[][] = p.shifts.map(() => []);
  plan.forEach((s, i) => {
    inShift[s]?.push(i);
  });
  const waiting = p.skillNeeded.map(() => 0);
  for (const j of p.jobs) waiting[j.group] = (waiting[j.group] ?? 0) + 1;
  const helpers = p.shifts.flatMap((s, i) => (counts[i] && p.people[s.person]?.helper ? [i] : []));
  // What there is most of is worth learning first.
  const order = p.jobs
    .map((_, i) => i)
    .filter((i) => (plan[i] ?? -1) >= 0)
    .sort((a, b) => (waiting[p.jobs[b]?.group ?? 0] ?? 0) - (waiting[p.jobs[a]?.group ?? 0] ?? 0) || a - b);
  for (const i of order) {
    const job = p.jobs[i];
    const at = plan[i] as number;
    const shift = p.shifts[at];
    if (!job || !shift || job.latest !== null || job.locked || job.weight > 1) continue;
    if (shift.day > job.due - NOT_URGENT_DAYS || !p.people[shift.person]?.teaches?.[job.group]) continue;
    const needed = p.skillNeeded[job.group] ?? 0;
    if ((p.setUpByGroup?.[job.group] ?? 1) === 0) continue;
    for (const s of helpers) {
      const own = p.shifts[s] as PlanProblem['shifts'][number];
      const level = p.people[own.person]?.skill[job.group] ?? 0;
      if (found.length >= most) return found;
      if (!areBeside(own, shift) || level >= needed) continue;
      if (taken.has(`${own.person}/${job.group}`) || taken.has(`shift ${s}`)) continue;
      const how = level === needed - 1 ? 'do' : 'watch';
      if (how === 'do' && sessionMinutes(p, s, [...(inShift[s] as number[]), i]) > own.minutes) continue;
      if (
        how === 'watch' &&
        sessionMinutes(p, s, inShift[s] as number[]) + (job.minutes[shift.person] ?? 0) > own.minutes
      )
        continue;
      taken.add(`${own.person}/${job.group}`);
      taken.add(`shift ${s}`);
      found.push({ helper: own.person, job: i, how, shift: s, beside: at });
    }
  }
  return found;
}
