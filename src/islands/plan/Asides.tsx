import { ArrowRight } from 'lucide-react';
import { useMemo, useState } from 'react';
import { sayDay, sayWeekday } from '../../../core/dates';
import { learningSuggestions } from '../../../core/planning/ladder';
import { sayBetter, sayProof } from '../../../core/planning/summary';
import type { Proposal } from '../../../server/plan/night';
import type { PlanInput } from '../../../server/plan/problem';
import type { ProgrammeWeights } from '../../../server/plan/weights';
import { newKey } from '../../ui/key';
import { LONG_WORK_MS, post } from '../../ui/post';
import { useCommand } from '../../ui/useCommand';
import { DropHere, OUT } from './Dragging';
import { says, shortOf } from './model';
import type { PlanInHand } from './usePlan';
import { JobChip, shapeOf } from './Week';

const MOST_MOVED = 12;
const MOST_OUT = 40;
const MOST_SUGGESTIONS = 4;

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
        Against the published plan: {moved.length} moved
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
          {out.length === 0 && <li className="muted py-1">Nothing is left out.</li>}
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
          const what = `${names.person(s.helper)} ${s.how === 'watch' ? 'watches' : 'does, supervised by'} ${names.person(shift.person)}`;
          return (
            <li key={`${s.job}/${s.helper}`} className="quiet-row py-1.5 flex justify-between gap-2">
              <span>
                {what}
                {s.how === 'watch' ? ' with' : ','} <span className="tag">{input.jobs[s.job]?.tag}</span>{' '}
                {input.groups[job.group]}, {names.day(shift.day)}: {says(job.due - shift.day, 'day', 'days')} before it
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
    <details className="card-paper px-4 py-2">
      <summary className="link w-fit">What matters most</summary>
      <p className="muted text-sm mt-1">In points; a day late of an ordinary job is 1, of a broken one 3.</p>
      <p className="text-sm mt-1" data-points={Math.round(hand.cost.total)}>
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
    </details>
  );
}

/** What the server found at night, or can be asked for. */
export function Night({ input, hand, proposal }: { input: PlanInput; hand: PlanInHand; proposal: Proposal | null }) {
  const [shown, setShown] = useState(proposal);
  const { run, busy: asking, says: told } = useCommand();
  const ask = async () => {
    const found = await run('/api/plan/propose', {}, { patienceMs: LONG_WORK_MS });
    if (!found) return;
    if (found.proposalId !== null) return window.location.reload();
    hand.setNotice({ text: 'The server found nothing better than the plan in force.', bad: false });
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
        {saved > 0 && `: it saves as much as ${says(saved, 'day', 'days')} of lateness, all jobs together`}.{' '}
        {shown.bound !== null && shown.bound <= shown.cost + 1e-6 && sayProof(shown.cost, shown.bound)}
      </p>
      <ul>
        {brings.map((line) => (
          <li key={line}>{line}</li>
        ))}
        <li>
          {moves.length === 0
            ? 'Nothing that is published has to move.'
            : `${says(moves.length, 'published job moves', 'published jobs move')}: of ${whose.map((k) => (k < 0 ? 'nobody there any more' : hand.names.person(k))).join(', ')}.`}
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

/** Work that no due date brings: asked for by hand. */
export function AskFor({ input }: { input: PlanInput }) {
  return (
    <details className="card-paper px-4 py-2">
      <summary className="link w-fit">Ask for other work</summary>
      <form data-api="/api/plan/request" className="grid gap-2 mt-1">
        <label className="grid gap-0.5">
          <span className="muted text-sm">Instrument</span>
          <input name="tag" className="input input-sm" placeholder="tag" required />
        </label>
        <label className="grid gap-0.5">
          <span className="muted text-sm">What</span>
          <select name="kind" className="select select-sm">
            <option value="inspection">a look at it</option>
            <option value="service">its yearly service</option>
            <option value="refit">strings off and on again, for other work</option>
          </select>
        </label>
        <label className="grid gap-0.5">
          <span className="muted text-sm">By</span>
          <input
            name="dueOn"
            type="date"
            className="input input-sm"
            min={input.first}
            defaultValue={input.first}
            required
          />
        </label>
        <label className="grid gap-0.5">
          <span className="muted text-sm">Why</span>
          <input name="why" className="input input-sm" minLength={2} required />
        </label>
        <button type="submit" className="btn btn-sm justify-self-start">
          Ask for it
        </button>
      </form>
    </details>
  );
}
