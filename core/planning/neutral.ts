import type { PlanProblem } from './model';

/** The neutral benchmark's own form, so that figures compare. */
export interface NeutralInstance {
  days: number;
  sites: number;
  setupMin: number;
  retuneMin: number;
  retuneLags: number[];
  costs: { setup: number; missedRetune: number; unplannedDays?: number; latestFactor?: number };
  families: { id: number; reqSkill: number }[];
  skus: { id: number; initial: number; arrivals: { day: number; qty: number }[] }[];
  techs: { id: number; helper: boolean; supervisor: boolean; skill: number[] }[];
  shifts: { id: number; tech: number; day: number; site: number; minutes: number }[];
  jobs: {
    id: number;
    site: number;
    family: number;
    sku: number;
    dur: number[];
    release: number;
    due: number;
    latest: number | null;
    weight: number;
  }[];
}

/** A neutral instance as a plan problem: the same rules and the same points. */
export function fromNeutral(n: NeutralInstance): PlanProblem {
  return {
    days: n.days,
    sites: n.sites,
    people: n.techs.map((t) => ({ helper: t.helper, supervisor: t.supervisor, skill: t.skill })),
    shifts: n.shifts.map((s) => ({ id: s.id, person: s.tech, day: s.day, site: s.site, minutes: s.minutes })),
    jobs: n.jobs.map((j) => ({
      id: j.id,
      site: j.site,
      group: j.family,
      sku: j.sku,
      minutes: j.dur,
      release: j.release,
      due: j.due,
      latest: j.latest,
      weight: j.weight,
    })),
    skillNeeded: n.families.map((f) => f.reqSkill),
    stock: n.skus.map((s) => ({
      initial: s.initial,
      arrivals: s.arrivals.map((a) => ({ day: a.day, packs: a.qty })),
    })),
    setUpMinutes: n.setupMin,
    retuneMinutes: n.retuneMin,
    retuneLags: n.retuneLags,
    weights: { setUp: n.costs.setup, missedRetune: n.costs.missedRetune, change: 0, unplannedDays: 20, wall: 3 },
  };
}
