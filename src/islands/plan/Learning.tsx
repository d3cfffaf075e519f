import { useMemo } from 'react';
import { count } from '../../../core/count';
import { learningSuggestions } from '../../../core/planning/ladder';
import type { PlanInput } from '../../../server/plan/problem';
import type { PlanInHand } from './usePlan';

const MOST_SUGGESTIONS = 4;

/** Work on which helpers could learn, because nothing hangs on it. */
export function Learning({ input, hand }: { input: PlanInput; hand: PlanInHand }) {
  const { open, plan, names, learners } = hand;
  const busy = hand.solving !== null;
  // Not while plans come and go.
  const suggestions = useMemo(() => (busy ? [] : learningSuggestions(open, plan, 12)), [open, plan, busy]);
  const fresh = suggestions.filter((s) => learners.get(s.job) !== s.helper).slice(0, MOST_SUGGESTIONS);
  if (busy || fresh.length === 0) return null;
  return (
    <section aria-labelledby="learning">
      <h2 id="learning" className="font-bold mb-1">
        Helpers could learn
      </h2>
      <ul className="card-paper px-3 py-1 text-sm">
        {fresh.map((s) => {
          const shift = open.shifts[s.beside];
          const job = open.jobs[s.job];
          if (!shift || !job) return null;
          const what = `${names.person(s.helper)} ${s.how === 'watch' ? 'watches' : 'works, supervised by'} ${names.person(shift.person)}`;
          return (
            <li key={`${s.job}/${s.helper}`} className="quiet-row py-1.5 flex justify-between gap-2">
              <span>
                {what}
                {s.how === 'watch' ? ' with' : ','} <span className="tag">{input.jobs[s.job]?.tag}</span>{' '}
                {input.groups[job.group]}, {names.day(shift.day)}: {count(job.due - shift.day, 'day', 'days')} before it
                is due, so there is no rush.
              </span>
              <button
                type="button"
                className="btn btn-sm"
                onClick={() => (s.how === 'watch' ? hand.setLearner(s.job, s.helper) : hand.move([s.job], s.shift))}
              >
                Yes
              </button>
            </li>
          );
        })}
      </ul>
    </section>
  );
}
