import { useState } from 'react';
import type { ProgrammeWeights } from '../../../server/plan/weights';
import type { PlanInHand } from './usePlan';

const WEIGHT_WORDS: { key: keyof ProgrammeWeights; says: string }[] = [
  { key: 'wall', says: 'Missing a concert or lesson, multiplied by' },
  { key: 'unplannedDays', says: 'Leaving a task out, in days late' },
  { key: 'missedRetune', says: 'Missing a retune' },
  { key: 'setUp', says: 'Setting up for another kind of work' },
  { key: 'travel', says: 'An hour of travel' },
  { key: 'fairness', says: 'An hour of uneven workload' },
  { key: 'change', says: 'Moving a published task' },
];

const POINTS_OF = [
  ['late', 'tardiness'],
  ['not planned', 'unplanned'],
  ['follow-ups missed', 'missed'],
  ['set-ups', 'setUp'],
  ['travel', 'travel'],
  ['uneven workload', 'fairness'],
  ['changes', 'changes'],
] as const;

/** What matters most, in the order in which it counts; a day late of an ordinary job is one point. */
export function Weights({ hand }: { hand: PlanInHand }) {
  const [draft, setDraft] = useState<Record<string, string>>(() =>
    Object.fromEntries(WEIGHT_WORDS.map(({ key }) => [key, String(hand.weights[key])])),
  );
  const numbers = Object.fromEntries(WEIGHT_WORDS.map(({ key }) => [key, Number(draft[key])])) as ProgrammeWeights;
  const wrong = WEIGHT_WORDS.find(({ key }) => draft[key] === '' || !(numbers[key] >= (key === 'wall' ? 1 : 0)));
  return (
    <>
      <p className="muted text-sm mt-1">Compared with one ordinary task one day late (1); a broken string counts 3.</p>
      <p className="text-sm mt-1">
        Score of this plan: {Math.round(hand.cost.total)}
        {POINTS_OF.flatMap(([what, key]) =>
          Math.round(hand.cost[key]) > 0 ? [`${what} ${Math.round(hand.cost[key])}`] : [],
        )
          .map((part, n) => `${n === 0 ? ': ' : ', '}${part}`)
          .join('')}
        .
      </p>
      <form
        className="grid gap-1 mt-1"
        onSubmit={(e) => {
          e.preventDefault();
          if (!wrong) void hand.saveWeights(numbers);
        }}
      >
        {WEIGHT_WORDS.map(({ key, says: label }) => (
          <label key={key} className="flex justify-between items-center gap-2 text-sm">
            <span>{label}</span>
            <input
              className="input input-sm w-20 text-right"
              type="number"
              min={key === 'wall' ? 1 : 0}
              max={1000}
              step="any"
              value={draft[key]}
              onChange={(e) => setDraft({ ...draft, [key]: e.currentTarget.value })}
            />
          </label>
        ))}
        {wrong && (
          <p className="text-error text-sm">“{wrong.says}” needs a number, not below 0 (the first one not below 1).</p>
        )}
        <button type="submit" className="btn btn-sm justify-self-start" disabled={Boolean(wrong)}>
          Save for everyone
        </button>
      </form>
    </>
  );
}
