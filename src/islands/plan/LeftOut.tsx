import { sayDay } from '../../../core/dates';
import type { PlanInput } from '../../../server/plan/problem';
import { DropHere, OUT } from './Dragging';
import { shortOf } from './model';
import type { PlanInHand } from './usePlan';
import { JobChip, shapeOf } from './Week';

const MOST_OUT = 40;

/** Jobs that stand in no session. */
export function LeftOut({
  input,
  hand,
  chosen,
  choose,
}: {
  input: PlanInput;
  hand: PlanInHand;
  chosen: ReadonlySet<number>;
  choose: (job: number, more?: boolean) => void;
}) {
  const out = hand.given.jobs.flatMap((_, i) => ((hand.plan[i] as number) < 0 ? [i] : []));
  return (
    <section aria-labelledby="out">
      <h2 id="out" className="font-bold mb-1">
        Not planned: {out.length}
      </h2>
      <DropHere shift={OUT} className="rounded data-over:outline-2 data-over:outline-primary">
        <ul className="card-paper px-3 py-1">
          {out.length === 0 && <li className="muted py-1">Everything is planned.</li>}
          {out.slice(0, MOST_OUT).map((i) => {
            const job = input.jobs[i];
            return (
              <li key={i} className="quiet-row py-1 @container">
                <JobChip
                  job={i}
                  tag={job?.tag ?? ''}
                  short={shortOf(input, i)}
                  title={job?.name ?? ''}
                  what={job?.name.split(',')[0] ?? ''}
                  minutes={Math.min(...(hand.given.jobs[i]?.minutes ?? [0]))}
                  shape={shapeOf(hand.given, i, hand.given.days, job?.kind)}
                  late={(hand.given.jobs[i]?.due ?? 0) < 0}
                  locked={hand.locked.has(i)}
                  chosen={chosen.has(i)}
                  choose={choose}
                />
                <span className="muted text-sm block pl-5">
                  {input.places[hand.given.jobs[i]?.site ?? 0]?.name},{' '}
                  {job?.cameBack
                    ? `not finished ${sayDay(job.cameBack.on, input.first)}`
                    : `due ${sayDay(job?.dueOn ?? input.first, input.first)}`}
                </span>
              </li>
            );
          })}
          {out.length > MOST_OUT && <li className="muted py-1">and {out.length - MOST_OUT} more</li>}
        </ul>
      </DropHere>
    </section>
  );
}
