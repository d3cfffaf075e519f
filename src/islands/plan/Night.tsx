import { useState } from 'react';
import { count } from '../../../core/count';
import { sayDay } from '../../../core/dates';
import { sayBetter, sayProof } from '../../../core/planning/summary';
import type { Proposal } from '../../../server/plan/night';
import type { PlanInput } from '../../../server/plan/problem';
import { newKey } from '../../ui/key';
import { LONG_WORK_MS, post } from '../../ui/post';
import { useCommand } from '../../ui/useCommand';
import type { PlanInHand } from './usePlan';

/** What the server found at night, or can be asked for. */
export function Night({ input, hand, proposal }: { input: PlanInput; hand: PlanInHand; proposal: Proposal | null }) {
  const [shown, setShown] = useState(proposal);
  const { run, busy: asking, says: told } = useCommand();
  const ask = async () => {
    const found = await run('/api/plan/propose', {}, { patienceMs: LONG_WORK_MS });
    if (!found) return;
    if (found.proposalId !== null) return window.location.reload();
    hand.setNotice({ text: 'No better plan than the published one was found.', bad: false });
  };
  if (!shown)
    return (
      <p className="muted text-sm">
        A new plan is worked out every night and offered here if it is better.{' '}
        <button type="button" className="link" onClick={() => void ask()} disabled={asking}>
          {asking ? 'Working…' : 'Work one out now'}
        </button>
        {told && (
          <span role="alert" className="text-error block">
            {told}
          </span>
        )}
      </p>
    );
  const saved = Math.round(shown.costBefore - shown.cost);
  const plan = hand.planOf(shown);
  const brings = sayBetter(hand.summary, hand.summaryOf(plan));
  const moves = hand.given.jobs.flatMap((j, i) => (j.published != null && j.published !== plan[i] ? [i] : []));
  const whose = [...new Set(moves.map((i) => hand.given.shifts[hand.given.jobs[i]?.published ?? -1]?.person ?? -1))];
  return (
    <section className="card-paper border-primary px-4 py-2" aria-labelledby="night">
      <h2 id="night" className="font-bold">
        {saved > 0 ? 'A better plan is ready' : 'Another plan, as good as this one, is ready'}
      </h2>
      <p className="muted text-sm">
        Made {sayDay(shown.onDay, input.first)}
        {saved > 0 && `: it saves about ${count(saved, 'day', 'days')} of lateness in all`}.{' '}
        {shown.bound !== null && shown.bound <= shown.cost + 1e-6 && sayProof(shown.cost, shown.bound)}
      </p>
      <ul>
        {brings.map((line) => (
          <li key={line}>{line}</li>
        ))}
        <li>
          {moves.length === 0
            ? 'No published task has to move.'
            : `${count(moves.length, 'published task moves', 'published tasks move')}, for ${whose.map((k) => (k < 0 ? 'someone no longer there' : hand.names.person(k))).join(', ')}.`}
        </li>
      </ul>
      <div className="flex gap-2 mt-1">
        <button
          type="button"
          className="btn btn-sm btn-primary"
          onClick={() => {
            hand.lookAt(shown);
            setShown(null);
          }}
        >
          Open it
        </button>
        <button
          type="button"
          className="btn btn-sm"
          onClick={() => {
            void post('/api/plan/dismiss', { id: shown.id }, newKey());
            setShown(null);
          }}
        >
          Dismiss
        </button>
      </div>
    </section>
  );
}
