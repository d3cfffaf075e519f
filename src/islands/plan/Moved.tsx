import { ArrowRight } from 'lucide-react';
import { sayWeekday } from '../../../core/dates';
import type { PlanInput } from '../../../server/plan/problem';
import { shortOf } from './model';
import type { PlanInHand } from './usePlan';

const MOST_MOVED = 12;

/** What stands elsewhere than in the plan that is published. */
export function Moved({ input, hand }: { input: PlanInput; hand: PlanInHand }) {
  const { given, plan, names } = hand;
  const moved = given.jobs.flatMap((j, i) => (j.published != null && j.published !== plan[i] ? [i] : []));
  if (moved.length === 0) return null;
  const say = (s: number | null | undefined) => {
    const shift = given.shifts[s ?? -1];
    return shift ? `${names.day(shift.day)}, ${names.person(shift.person)}` : 'not planned';
  };
  return (
    <section aria-labelledby="moved">
      <h2 id="moved" className="font-bold mb-1">
        Compared with the published plan: {moved.length} moved
      </h2>
      <ul className="card-paper px-3 py-1 text-sm">
        {moved.slice(0, MOST_MOVED).map((i) => {
          const job = input.jobs[i];
          const was = job?.cameBack ?? job?.lost;
          return (
            <li key={i} className="quiet-row py-1">
              <span className="tag">{job?.tag}</span> {shortOf(input, i)}{' '}
              {was
                ? `${sayWeekday(was.on)}, ${was.person}${job?.cameBack ? `, ${job.cameBack.aside === 'no-room' ? 'did not fit' : job.cameBack.aside === 'elsewhere' ? 'done elsewhere' : 'not finished'}` : ''}`
                : say(given.jobs[i]?.published)}{' '}
              <ArrowRight aria-label="to" className="inline size-4 align-[-3px]" /> {say(plan[i])}
            </li>
          );
        })}
        {moved.length > MOST_MOVED && <li className="muted py-1">and {moved.length - MOST_MOVED} more</li>}
      </ul>
    </section>
  );
}
