import { explainJob } from '../../../core/planning/explain';
import type { PlanInput } from '../../../server/plan/problem';
import { says } from './model';
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
  const next = hand.summary.concerts.find((c) => c.instruments > 0);
  if (!next || next.ready === next.instruments) return null;
  const { waiting, looks, referred } = next;
  // What can be bought is bought from here.
  const sells = (job: number, help: string) => {
    const sku = input.skus[input.problem.jobs[job]?.sku ?? -1];
    return sku !== undefined && help.includes(sku);
  };
  return (
    <ul className="text-lg leading-snug">
      {waiting.slice(0, MOST_NAMED).map((job) => {
        const { because, wouldHelp } = explainJob(hand.open, hand.plan, job, hand.names);
        return (
          <li key={job}>
            <button type="button" className="tag link" onClick={() => choose(job)}>
              {input.jobs[job]?.tag}
            </button>
            : {because.find((b) => !b.startsWith('It has to be done by')) ?? because[0] ?? 'It has no session.'}{' '}
            {wouldHelp[0] && <span className="text-success font-semibold">{wouldHelp[0]} </span>}
            {sells(job, wouldHelp[0] ?? '') && (
              <a className="link" href="/stock/orders">
                Order it
              </a>
            )}
          </li>
        );
      })}
      {waiting.length > MOST_NAMED && (
        <li>{says(waiting.length - MOST_NAMED, 'other waits', 'others wait')} too, under Not planned.</li>
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
          {looks.length > MOST_NAMED && ` and ${looks.length - MOST_NAMED} more`}: nobody knows how old their strings
          are; look at {looks.length === 1 ? 'it' : 'them'} first.
        </li>
      )}
      {referred > 0 && <li>{says(referred, 'waits', 'wait')} for somebody qualified.</li>}
    </ul>
  );
}
