import { explainJob, type PlanNames } from './explain';
import type { Plan, PlanProblem } from './model';
import type { PlanSummary } from './summary';

/** What keeps an instrument from being ready for a concert, and what can be done about it. */
export interface Obstacle {
  job: number;
  because: string;
  /** What would help first; empty where nothing that a plan knows would. */
  help: string;
  /** Whether that is to buy what it takes. */
  buys: boolean;
}

/** What is in the way of the next concert: of each job that waits the reason that binds, and what would help. */
export function inTheWay(p: PlanProblem, plan: Plan, summary: PlanSummary, names: PlanNames): Obstacle[] {
  const next = summary.concerts.find((c) => c.instruments > 0);
  return (next?.waiting ?? []).map((job) => {
    const { because, binds, wouldHelp, buys } = explainJob(p, plan, job, names);
    return {
      job,
      because: binds ?? because[0] ?? 'It is not planned.',
      help: wouldHelp[0] ?? '',
      buys,
    };
  });
}
