import { useMemo } from 'react';
import { costOf } from '../../../core/planning/check';
import { type Help, lateAndOut } from '../../../core/planning/improve';
import type { PlanProblem } from '../../../core/planning/model';
import { usedMinutes } from '../../../core/planning/model';
import { clockOf, minuteOf } from '../../../core/planning/shifts';
import { sayBetter } from '../../../core/planning/summary';
import type { PlanInput } from '../../../server/plan/problem';
import { type Extras, jobsByShift, says, type Variant, withExtras } from './model';
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

/** What was said to be more than there is. */
export function sayExtras(extras: Extras, input: PlanInput, hand: PlanInHand): string {
  const minutes = [...extras.minutes].map(([s, m]) => {
    const shift = input.problem.shifts[s];
    return shift
      ? `${m} minutes more of ${hand.names.person(shift.person)} at ${hand.names.site(shift.site)} ${hand.names.day(shift.day)}`
      : '';
  });
  const packs = [...extras.packs].map(([s, n]) => `${n} more ${input.skus[s]}`);
  return [...minutes, ...packs].filter(Boolean).join(', ');
}

/** The plan shown and those kept beside it, line by line. */
export function Beside({ input, hand }: { input: PlanInput; hand: PlanInHand }) {
  const rows: Variant[] = [
    { name: 'this one', plan: hand.plan, locked: hand.locked, learners: hand.learners, extras: hand.extras },
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
        Side by side
      </h2>
      <div className="card-paper overflow-x-auto">
        <table className="w-full text-left text-sm">
          <thead>
            <tr>
              <th className="px-3 py-1">Plan</th>
              <th className="text-right">late</th>
              <th className="text-right px-1.5">out</th>
              <th className="text-right">points</th>
              <th className="text-right px-1.5">hours</th>
              <th className="text-right pr-3">travel</th>
            </tr>
          </thead>
          <tbody>
            {rows.map((v, n) => {
              const f = figures[n];
              if (!f) return null;
              const more = sayExtras(v.extras, input, hand);
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

/** What would help most, each to be tried. */
export function Helps({ input, hand, helps }: { input: PlanInput; hand: PlanInHand; helps: readonly Help[] }) {
  const { names } = hand;
  const say = (h: Help): string => {
    if ('sku' in h.what) return `${h.what.packs} more ${input.skus[h.what.sku]} now`;
    const s = input.problem.shifts[h.what.shift];
    const there = input.shifts[h.what.shift];
    // Somebody may be there twice a day: it is the hour after that session.
    return s && there
      ? `one more hour of ${names.person(s.person)} at ${names.site(s.site)} on ${names.day(s.day)}, from ${clockOf(minuteOf(there.starts) + there.minutes)}`
      : 'more time';
  };
  // Where nothing is readier or less late for it, set-ups, ways or visits are saved.
  const brings = (h: Help): string =>
    sayBetter(hand.summaryOf(h.without), hand.summaryOf(h.plan)).join(' ') ||
    `All together as good as ${says(Math.round(h.points), 'day', 'days')} of lateness less.`;
  if (helps.length === 0) return <p className="muted">No single hour or pack more would change much.</p>;
  return (
    <section className="card-paper px-4 py-2" aria-labelledby="helps">
      <h2 id="helps" className="font-bold">
        Would help most
      </h2>
      <ul>
        {helps.map((h) => (
          <li key={JSON.stringify(h.what)} className="flex flex-wrap justify-between gap-2 py-0.5">
            <span>
              {say(h).charAt(0).toUpperCase() + say(h).slice(1)} brings: <span className="muted">{brings(h)}</span>
            </span>
            <span className="flex gap-2">
              <button type="button" className="btn btn-sm" onClick={() => hand.tryHelp(h)}>
                Try it
              </button>
              <MakeIt help={h} hand={hand} />
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}

/** What makes a help real: an hour is said to everybody, a pack is ordered. */
function MakeIt({ help, hand }: { help: Help; hand: PlanInHand }) {
  const { what } = help;
  if ('sku' in what)
    return (
      <a className="btn btn-sm" href="/stock/orders">
        Order it
      </a>
    );
  return (
    <button type="button" className="btn btn-sm" onClick={() => void hand.makeSo(what.shift, what.minutes)}>
      Say it is so
    </button>
  );
}
