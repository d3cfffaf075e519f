import { useMemo } from 'react';
import { costOf } from '../../../core/planning/check';
import { lateAndOut } from '../../../core/planning/improve';
import type { PlanProblem } from '../../../core/planning/model';
import { usedMinutes } from '../../../core/planning/model';
import type { PlanInput } from '../../../server/plan/problem';
import { jobsByShift, sayExtras, type Variant, withExtras } from './model';
import type { PlanInHand } from './usePlan';

const hours = (minutes: number): string => (minutes / 60).toFixed(1);

/** What a plan comes to, for the table side by side. */
function figuresOf(given: PlanProblem, v: Pick<Variant, 'plan' | 'extras'>) {
  const p = withExtras(given, v.extras);
  const inShift = jobsByShift(p.shifts.length, v.plan);
  const work = usedMinutes(p, v.plan).reduce((sum, m) => sum + m, 0);
  const way = inShift.reduce((sum, there, s) => sum + (there.length > 0 ? (p.shifts[s]?.travelMinutes ?? 0) : 0), 0);
  const cost = costOf(p, v.plan);
  return { ...lateAndOut(p, v.plan), points: Math.round(cost.total), work, way };
}

/** The plan shown and those kept beside it, line by line. */
export function Beside({ input, hand }: { input: PlanInput; hand: PlanInHand }) {
  const rows: Variant[] = [
    { name: 'this plan', plan: hand.plan, locked: hand.locked, learners: hand.learners, extras: hand.extras },
    ...hand.kept,
  ];
  // Those kept beside stay as they are; only the one shown is counted anew.
  const beside = useMemo(() => hand.kept.map((v) => figuresOf(hand.given, v)), [hand.kept, hand.given]);
  const figures = [figuresOf(hand.given, rows[0] as Variant), ...beside];
  const best = (key: 'late' | 'out' | 'points' | 'work' | 'way') => Math.min(...figures.map((f) => f[key]));
  const mark = (value: number, least: number) => (value === least ? 'font-bold' : '');
  return (
    <section aria-labelledby="beside">
      <h2 id="beside" className="font-bold mb-1">
        Compare plans
      </h2>
      <div className="card-paper overflow-x-auto">
        <table className="w-full text-left text-sm">
          <thead>
            <tr>
              <th className="px-3 py-1">Plan</th>
              <th className="text-right">late</th>
              <th className="text-right px-1.5">not planned</th>
              <th className="text-right">score</th>
              <th className="text-right px-1.5">hours</th>
              <th className="text-right pr-3">travel</th>
            </tr>
          </thead>
          <tbody>
            {rows.map((v, n) => {
              const f = figures[n];
              if (!f) return null;
              const more = sayExtras(v.extras, input, hand.names);
              return (
                <tr key={v.name} className="border-t border-base-300 align-top">
                  <td className="px-3 py-1">
                    {n === 0 ? (
                      v.name
                    ) : (
                      <button type="button" className="link" onClick={() => hand.take(v)}>
                        {v.name}
                      </button>
                    )}
                    {more && <span className="muted block leading-tight">with {more}</span>}
                  </td>
                  <td className={`text-right ${mark(f.late, best('late'))}`}>{f.late}</td>
                  <td className={`text-right px-1.5 ${mark(f.out, best('out'))}`}>{f.out}</td>
                  <td className={`text-right ${mark(f.points, best('points'))}`}>{f.points}</td>
                  <td className={`text-right px-1.5 ${mark(f.work, best('work'))}`}>{hours(f.work)}</td>
                  <td className={`text-right pr-3 ${mark(f.way, best('way'))}`}>{hours(f.way)}</td>
                </tr>
              );
            })}
          </tbody>
        </table>
      </div>
    </section>
  );
}
