import { useMemo } from 'react';
import { count, plural } from '../../../core/count';
import { inTheWay } from '../../../core/planning/inTheWay';
import type { PlanInput } from '../../../server/plan/problem';
import type { PlanInHand } from './usePlan';

/** Instruments that are named; the others are counted. */
const MOST_NAMED = 3;

/** What keeps instruments from being ready for the next concert: which, why, and what would help. */
export function InTheWay({
  input,
  hand,
  choose,
}: {
  input: PlanInput;
  hand: PlanInHand;
  choose: (job: number) => void;
}) {
  const { open, plan, summary, names } = hand;
  const waiting = useMemo(() => inTheWay(open, plan, summary, names), [open, plan, summary, names]);
  const next = summary.concerts.find((c) => c.instruments > 0);
  if (!next || next.ready === next.instruments) return null;
  const { looks, referred } = next;
  return (
    <ul className="text-lg leading-snug">
      {waiting.slice(0, MOST_NAMED).map(({ job, because, help, buys }) => (
        <li key={job}>
          <button type="button" className="tag link" onClick={() => choose(job)}>
            {input.jobs[job]?.tag}
          </button>
          : {because} {help && <span className="text-success font-semibold">{help} </span>}
          {buys && (
            <a className="link" href="/stock/orders">
              Order it
            </a>
          )}
        </li>
      ))}
      {waiting.length > MOST_NAMED && (
        <li>{count(waiting.length - MOST_NAMED, 'other waits', 'others wait')} too, under Not planned.</li>
      )}
      {looks.length > 0 && (
        <li>
          {looks.slice(0, MOST_NAMED).map((job, n) => (
            <span key={job}>
              {n > 0 && ', '}
              <button type="button" className="tag link" onClick={() => choose(job)}>
                {input.jobs[job]?.tag}
              </button>
            </span>
          ))}
          {looks.length > MOST_NAMED && ` and ${looks.length - MOST_NAMED} more`}: the age of the strings is unknown;
          inspect {plural(looks.length, 'it', 'them')} first.
        </li>
      )}
      {referred > 0 && <li>{count(referred, 'waits', 'wait')} for a qualified repairer.</li>}
    </ul>
  );
}
