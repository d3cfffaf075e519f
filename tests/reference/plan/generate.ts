import { seededChance } from '../../../core/chance';
import type { PlanProblem } from '../../../core/planning/model';

/**
 * A whole programme of the same kind as the neutral instances, of any size and the same for the same seed: people who
 * differ in speed and skill, helpers, places, walls, packs that arrive.
 */
export function generatedProgramme(jobs: number, seed: number): PlanProblem {
  const chance = seededChance(seed);
  const pick = (n: number) => Math.floor(chance() * n);
  const people = Math.max(2, Math.round(jobs / 180));
  const days = 40;
  const sites = 5;
  const base = [15, 20, 25, 30, 40, 35, 45, 60];
  const speeds = Array.from({ length: people }, () => 0.85 + 0.4 * chance());
  return {
    days,
    sites,
    people: speeds.map((_, k) => ({
      helper: k > 1 && k % 4 === 3,
      supervisor: k % 2 === 0,
      skill: base.map(() => 1 + pick(3)),
    })),
    shifts: Array.from({ length: Math.round(jobs / 5) }, (_, id) => ({
      id,
      person: pick(people),
      day: pick(days),
      site: pick(sites),
      minutes: 90 + 15 * pick(11),
    })),
    jobs: Array.from({ length: jobs }, (_, id) => {
      const group = pick(base.length);
      const release = pick(30);
      const due = release - 3 + pick(20);
      return {
        id,
        site: pick(sites),
        group,
        sku: group * 4 + pick(4),
        minutes: speeds.map((v) => Math.max(5, Math.round(((base[group] as number) * v) / 5) * 5)),
        release,
        due,
        latest: pick(8) === 0 ? Math.min(days - 1, Math.max(release, due) + 4) : null,
        weight: 1 + pick(3),
      };
    }),
    skillNeeded: base.map((_, g) => (g > 4 ? 2 : 1)),
    stock: Array.from({ length: base.length * 4 }, () => ({
      initial: pick(Math.ceil(jobs / 40)),
      arrivals: [{ day: pick(days), packs: 1 + pick(Math.ceil(jobs / 40)) }],
    })),
    setUpMinutes: 10,
    retuneMinutes: 5,
    retuneLags: [1, 3],
    weights: { setUp: 3, missedRetune: 2, change: 0, unplannedDays: 20, wall: 3 },
  };
}
