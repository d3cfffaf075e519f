import { count } from '../../../core/count';
import type { Help } from '../../../core/planning/improve';
import { clockOf, minuteOf } from '../../../core/planning/shifts';
import { sayBetter } from '../../../core/planning/summary';
import { capital } from '../../../core/sentence';
import type { PlanInput } from '../../../server/plan/problem';
import type { PlanInHand } from './usePlan';

/** What would help most, each to be tried. */
export function Helps({ input, hand, helps }: { input: PlanInput; hand: PlanInHand; helps: readonly Help[] }) {
  const { names } = hand;
  const say = (h: Help): string => {
    if ('sku' in h.what) return `${h.what.packs} more ${input.skus[h.what.sku]} now`;
    const s = input.problem.shifts[h.what.shift];
    const there = input.shifts[h.what.shift];
    // Somebody may be there twice a day: it is the hour after that session.
    return s && there
      ? `one more hour for ${names.person(s.person)} at ${names.site(s.site)} on ${names.day(s.day)}, from ${clockOf(minuteOf(there.starts) + there.minutes)}`
      : 'more time';
  };
  // Where nothing is readier or less late for it, set-ups, ways or visits are saved.
  const brings = (h: Help): string =>
    sayBetter(hand.summaryOf(h.without), hand.summaryOf(h.plan)).join(' ') ||
    `In all, about ${count(Math.round(h.points), 'day')} less lateness.`;
  if (helps.length === 0) return <p className="muted">No single extra hour or pack would change much.</p>;
  return (
    <section className="card-paper px-4 py-2" aria-labelledby="helps">
      <h2 id="helps" className="font-bold">
        What would help most
      </h2>
      <ul>
        {helps.map((h) => (
          <li key={JSON.stringify(h.what)} className="flex flex-wrap justify-between gap-2 py-0.5">
            <span>
              {capital(say(h))} would mean: <span className="muted">{brings(h)}</span>
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
      Add to the rota
    </button>
  );
}
