import { useState } from 'react';
import type { ProgrammeWeights } from '../../../server/plan/weights';
import { says } from './model';
import type { PlanInHand } from './usePlan';

const WEIGHT_WORDS: { key: keyof ProgrammeWeights; says: string }[] = [
  { key: 'wall', says: 'A job with a concert or a lesson ahead, left out: times' },
  { key: 'unplannedDays', says: 'A job left out counts as late by so many days' },
  { key: 'missedRetune', says: 'A retune nobody has time for' },
  { key: 'setUp', says: 'Setting up for another kind of work' },
  { key: 'travel', says: 'An hour on the way' },
  { key: 'fairness', says: 'An hour by which loads differ' },
  { key: 'change', says: 'A job moved from where it was published' },
];

const POINTS_OF = [
  ['late', 'tardiness'],
  ['left out', 'unplanned'],
  ['visits missed', 'missed'],
  ['set-ups', 'setUp'],
  ['on the way', 'travel'],
  ['uneven loads', 'fairness'],
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
      <p className="muted text-sm mt-1">In points; a day late of an ordinary job is 1, of a broken one 3.</p>
      <p className="text-sm mt-1">
        This plan: {says(Math.round(hand.cost.total), 'point', 'points')}
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
        {wrong && <p className="text-error text-sm">“{wrong.says}” needs a number, 0 or more.</p>}
        <button type="submit" className="btn btn-sm justify-self-start" disabled={Boolean(wrong)}>
          Keep for the programme
        </button>
      </form>
    </>
  );
}
