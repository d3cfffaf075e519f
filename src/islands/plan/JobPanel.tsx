import { useEffect, useMemo, useRef } from 'react';
import { count } from '../../../core/count';
import { tagPath } from '../../../core/instruments/tag';
import { explainJob, minutesLeft } from '../../../core/planning/explain';
import { capital } from '../../../core/sentence';
import type { PlanInput } from '../../../server/plan/problem';
import { useHotKeys } from '../../ui/useHotKeys';
import { cameBackSays } from './model';
import type { PlanInHand } from './usePlan';

/** One job: why it stands there, and where else it could go, by number. */
export function JobPanel({
  input,
  hand,
  job,
  close,
}: {
  input: PlanInput;
  hand: PlanInHand;
  job: number;
  close: () => void;
}) {
  const { open, plan, names, locked, learners } = hand;
  const heading = useRef<HTMLHeadingElement>(null);
  useEffect(() => heading.current?.focus(), []);
  const why = useMemo(() => explainJob(open, plan, job, names), [open, plan, job, names]);
  const choices = useMemo(() => {
    const own = open.jobs[job];
    return open.shifts
      .map((s, i) => ({ s, i }))
      .filter(({ s, i }) => s.site === own?.site && i !== plan[job])
      .sort((a, b) => a.s.day - b.s.day)
      .slice(0, 14)
      .map(({ s, i }) => ({ shift: i, s, broken: hand.verdict(job, i), left: minutesLeft(open, plan, i, job) }));
  }, [open, plan, job, hand.verdict]);
  const fits = choices.filter((c) => c.broken === null).slice(0, 9);
  const { toggleLock, move } = hand;
  const own = input.problem.jobs[job];
  const about = input.jobs[job];
  const learner = learners.get(job);
  useHotKeys({
    Escape: close,
    l: () => toggleLock([job]),
    x: () => move([job], -1),
    '([1-9])': (digit) => {
      const choice = fits[Number(digit) - 1];
      return choice ? move([job], choice.shift) : false;
    },
  });
  if (!about || !own) return null;
  const takes = own.minutes[open.shifts[plan[job] as number]?.person ?? 0] ?? 0;
  return (
    <section className="card-paper border-primary px-4 py-3" aria-labelledby="job">
      <div className="flex justify-between gap-2">
        <h2 id="job" ref={heading} tabIndex={-1} className="font-bold outline-none">
          <a className="link tag" href={`/instruments/${tagPath(about.tag)}`}>
            {about.tag}
          </a>{' '}
          {about.name}
        </h2>
        <button type="button" className="link text-sm" onClick={close}>
          close
        </button>
      </div>
      <p>{capital(why.stands)}.</p>
      {about.cameBack && <p className="text-warning">Back in the plan: {cameBackSays(about.cameBack)}.</p>}
      <ul className="mt-1" aria-label="Why">
        {why.because.map((line) => (
          <li key={line}>{line}</li>
        ))}
        {about.awayWhy && <li>Not available on some days: {about.awayWhy}.</li>}
        {about.closed.map(({ why, shifts }) => (
          <li key={why}>
            Not available in {count(shifts.length, 'session', 'sessions')}: {why}.
          </li>
        ))}
      </ul>
      {why.wouldHelp.length > 0 && <p className="muted mt-1">What would help: {why.wouldHelp.join(' ')}</p>}
      <p className="muted mt-1">
        About {takes} min
        {about.range.high - about.range.low > 1 &&
          `, usually ${Math.round(about.range.low)} to ${Math.round(about.range.high)}`}
        .
      </p>
      {learner !== undefined && (
        <p className="mt-1">
          {names.person(learner)} is learning alongside.{' '}
          <button type="button" className="link" onClick={() => hand.setLearner(job, null)}>
            Not this time
          </button>
        </p>
      )}
      <div className="flex flex-wrap gap-2 my-2">
        <button type="button" className="btn btn-sm" onClick={() => toggleLock([job])} aria-pressed={locked.has(job)}>
          {locked.has(job) ? 'Unlock' : 'Lock here'}
        </button>
        <button type="button" className="btn btn-sm" onClick={() => move([job], -1)}>
          Remove from plan
        </button>
      </div>
      <h3 className="muted text-sm">Other sessions with room</h3>
      <ul>
        {fits.map((c, n) => (
          <li key={c.shift}>
            <button type="button" className="link text-left" onClick={() => move([job], c.shift)}>
              <kbd className="kbd-key">{n + 1}</kbd> {names.day(c.s.day)}, {names.person(c.s.person)}, {c.left} min left
            </button>
          </li>
        ))}
        {fits.length === 0 && <li className="muted">No other session has room.</li>}
      </ul>
      {choices.some((c) => c.broken) && (
        <details className="mt-1">
          <summary className="link text-sm w-fit">Why not other sessions</summary>
          <ul className="text-sm">
            {choices
              .filter((c) => c.broken)
              .map((c) => (
                <li key={c.shift}>
                  {names.day(c.s.day)}, {names.person(c.s.person)}: {c.broken}
                </li>
              ))}
          </ul>
        </details>
      )}
    </section>
  );
}
