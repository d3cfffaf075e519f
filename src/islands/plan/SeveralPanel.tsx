import { useEffect, useMemo, useRef } from 'react';
import { count } from '../../../core/count';
import type { PlanInput } from '../../../server/plan/problem';
import { useHotKeys } from '../../ui/useHotKeys';
import { shortOf } from './model';
import type { PlanInHand } from './usePlan';

const MOST_TARGETS = 9;

/** Several jobs at once: where all of them could go, by number, locked or taken out together. */
export function SeveralPanel({
  input,
  hand,
  jobs,
  leave,
  close,
}: {
  input: PlanInput;
  hand: PlanInHand;
  jobs: readonly number[];
  leave: (job: number) => void;
  close: () => void;
}) {
  const { open, names, locked } = hand;
  const heading = useRef<HTMLHeadingElement>(null);
  useEffect(() => heading.current?.focus(), []);
  const sites = useMemo(() => [...new Set(jobs.map((i) => open.jobs[i]?.site))], [jobs, open]);
  const targets = useMemo(
    () =>
      sites.length === 1
        ? open.shifts
            .map((s, i) => ({ s, i }))
            .filter(({ s, i }) => s.site === sites[0] && s.minutes > 0 && jobs.some((j) => hand.plan[j] !== i))
            .sort((a, b) => a.s.day - b.s.day)
            .slice(0, 14)
            .map(({ s, i }) => ({ i, s, why: hand.verdictOfAll(jobs, i) }))
        : [],
    [sites, open, jobs, hand.plan, hand.verdictOfAll],
  );
  const fits = targets.filter((t) => t.why === null).slice(0, MOST_TARGETS);
  const { move, toggleLock } = hand;
  useHotKeys({
    Escape: close,
    l: () => toggleLock(jobs),
    x: () => move(jobs, -1) && close(),
    '([1-9])': (digit) => {
      const target = fits[Number(digit) - 1];
      return target ? move(jobs, target.i) && close() : false;
    },
  });
  return (
    <section className="card-paper border-primary px-4 py-3" aria-labelledby="several">
      <div className="flex justify-between gap-2">
        <h2 id="several" ref={heading} tabIndex={-1} className="font-bold outline-none">
          {count(jobs.length, 'task')} together
        </h2>
        <button type="button" className="link text-sm" onClick={close}>
          close
        </button>
      </div>
      <ul className="flex flex-wrap gap-x-3">
        {jobs.map((i) => (
          <li key={i}>
            <button type="button" className="link tag" aria-label={`Deselect ${names.job(i)}`} onClick={() => leave(i)}>
              {input.jobs[i]?.tag}
            </button>{' '}
            {shortOf(input, i)}
            {locked.has(i) && ' locked'}
          </li>
        ))}
      </ul>
      <div className="flex flex-wrap gap-2 my-2">
        <button type="button" className="btn btn-sm" onClick={() => toggleLock(jobs)}>
          {jobs.every((i) => locked.has(i)) ? 'Unlock all' : 'Lock all'}
        </button>
        <button type="button" className="btn btn-sm" onClick={() => move(jobs, -1) && close()}>
          Remove all from plan
        </button>
      </div>
      <h3 className="muted text-sm">Sessions with room for all</h3>
      {sites.length > 1 && <p>They are at {count(sites.length, 'place')}: choose tasks at one place.</p>}
      <ul>
        {fits.map((t, n) => (
          <li key={t.i}>
            <button type="button" className="link text-left" onClick={() => move(jobs, t.i) && close()}>
              <kbd className="kbd-key">{n + 1}</kbd> {names.day(t.s.day)}, {names.person(t.s.person)}
            </button>
          </li>
        ))}
        {fits.length === 0 && sites.length === 1 && <li className="muted">No session has room for all of them.</li>}
      </ul>
      {targets.some((t) => t.why !== null) && (
        <details className="mt-1">
          <summary className="link text-sm w-fit">Why not other sessions</summary>
          <ul className="text-sm">
            {targets
              .filter((t) => t.why !== null)
              .map((t) => (
                <li key={t.i}>
                  {names.day(t.s.day)}, {names.person(t.s.person)}: {t.why}
                </li>
              ))}
          </ul>
        </details>
      )}
    </section>
  );
}
