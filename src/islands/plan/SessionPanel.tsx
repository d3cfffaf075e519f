import { group } from 'd3-array';
import { useEffect, useMemo, useRef, useState } from 'react';
import { count } from '../../../core/count';
import { chanceWithin } from '../../../core/planning/effort';
import { setUpOf } from '../../../core/planning/model';
import type { PlanInput } from '../../../server/plan/problem';
import { useHotKeys } from '../../ui/useHotKeys';
import { lostToOthers, shortOf } from './model';
import type { PlanInHand } from './usePlan';

/** One session: what is in it, whether it will be done in time, and how to split it or merge it with another. */
export function SessionPanel({
  input,
  hand,
  shift,
  chooseJob,
  close,
}: {
  input: PlanInput;
  hand: PlanInHand;
  shift: number;
  chooseJob: (job: number) => void;
  close: () => void;
}) {
  const { open, names, locked, inShift, used, visits, supervised } = hand;
  const heading = useRef<HTMLHeadingElement>(null);
  useEffect(() => heading.current?.focus(), []);
  const [part, setPart] = useState<number | 'all'>('all');
  const [until, setUntil] = useState(-1);
  const s = open.shifts[shift];
  const there = inShift[shift] ?? [];
  const groups = useMemo(() => [...new Set(there.map((i) => open.jobs[i]?.group ?? -1))], [there, open]);
  const chosen = part === 'all' ? there : there.filter((i) => open.jobs[i]?.group === part);
  const movable = chosen.filter((i) => !locked.has(i));
  /** Other sessions at the place, from today on, nearest first. */
  const targets = useMemo(
    () =>
      open.shifts
        .map((o, i) => ({ o, i }))
        .filter(({ o, i }) => i !== shift && o.site === s?.site && o.minutes > 0)
        .sort((a, b) => Math.abs(a.o.day - (s?.day ?? 0)) - Math.abs(b.o.day - (s?.day ?? 0)) || a.i - b.i)
        .slice(0, 6)
        .map(({ o, i }) => ({ i, o, why: movable.map((j) => hand.verdict(j, i)).find((w) => w !== null) ?? null })),
    [open, shift, s, movable, hand.verdict],
  );
  useHotKeys({ Escape: close });
  if (!s) return null;
  const fixed = groups.reduce((sum, g) => sum + setUpOf(open, g).minutes, 0);
  const means = there.map((i) => open.jobs[i]?.minutes[s.person] ?? 0);
  const stoodBy = supervised.filter((x) => x.by === shift);
  const supervising = stoodBy.reduce((sum, x) => sum + x.minutes, 0);
  const helped = supervised.filter((x) => there.includes(x.job));
  const chance = chanceWithin(means, fixed + supervising, input.spread, s.minutes);
  const retunes = visits.filter((v) => v.shift === shift);
  return (
    <section className="card-paper border-primary px-4 py-3" aria-labelledby="session">
      <div className="flex justify-between gap-2">
        <h2 id="session" ref={heading} tabIndex={-1} className="font-bold outline-none">
          {names.person(s.person)} at {names.site(s.site)}, {names.day(s.day)}, from {input.shifts[shift]?.starts}
        </h2>
        <button type="button" className="link text-sm" onClick={close}>
          close
        </button>
      </div>
      {s.minutes === 0 ? (
        <p>Away that day.</p>
      ) : (
        <p>
          {used[shift]} of {count(s.minutes, 'minute')}, including {fixed} for setting up
          {supervising > 0 && ` and ${supervising} for supervising`}.
          {there.length > 0 && ` About a ${Math.round(chance * 10)} in 10 chance of finishing in time.`}
        </p>
      )}
      {lostToOthers(input, shift) > 0 && s.minutes > 0 && (
        <p className="muted">
          {count(lostToOthers(input, shift), 'minute is', 'minutes are')} not counted: the bench is shared with others
          then.
        </p>
      )}
      {(s.travelMinutes ?? 0) > 0 && <p className="muted">Travel: {count(s.travelMinutes ?? 0, 'minute')}.</p>}
      <ul className="mt-1">
        {groups.map((g) => (
          <li key={g}>
            <b>{input.groups[g]}</b>:{' '}
            {there
              .filter((i) => open.jobs[i]?.group === g)
              .map((i, n) => (
                <span key={i}>
                  {n > 0 && ', '}
                  <button type="button" className="link tag" onClick={() => chooseJob(i)}>
                    {input.jobs[i]?.tag}
                  </button>
                  {shortOf(input, i) && ` ${shortOf(input, i)}`}
                  {locked.has(i) && ' locked'}
                </span>
              ))}
          </li>
        ))}
        {there.length === 0 && <li className="muted">Nothing planned.</li>}
        {[...group(stoodBy, (x) => open.shifts[hand.plan[x.job] as number]?.person ?? -1)].map(([learner, jobs]) => (
          <li key={learner}>
            Supervises {names.person(learner)} with{' '}
            {jobs.map((x, n) => (
              <span key={x.job}>
                {n > 0 && ', '}
                <button type="button" className="link tag" onClick={() => chooseJob(x.job)}>
                  {input.jobs[x.job]?.tag}
                </button>{' '}
                ({x.minutes} min)
              </span>
            ))}
          </li>
        ))}
        {helped.length > 0 && (
          <li className="muted">
            Under supervision:{' '}
            {helped
              .map((x) => `${input.jobs[x.job]?.tag} (${names.person(open.shifts[x.by]?.person ?? -1)})`)
              .join(', ')}
          </li>
        )}
        {retunes.length > 0 && (
          <li className="muted">
            Retunes after string changes: {[...new Set(retunes.map((v) => input.jobs[v.job]?.tag))].join(', ')}
          </li>
        )}
      </ul>
      {there.length > 0 && (
        <>
          <div className="flex flex-wrap gap-2 my-2">
            <button type="button" className="btn btn-sm" onClick={() => hand.toggleLock(there)}>
              {there.every((i) => locked.has(i)) ? 'Unlock all' : 'Lock all'}
            </button>
          </div>
          <h3 className="font-semibold">Move tasks</h3>
          <label className="flex items-center gap-2">
            <span className="muted">Move</span>
            <select
              className="select select-sm"
              value={String(part)}
              onChange={(e) => setPart(e.currentTarget.value === 'all' ? 'all' : Number(e.currentTarget.value))}
            >
              <option value="all">all {there.length}</option>
              {groups.length > 1 &&
                groups.map((g) => (
                  <option key={g} value={g}>
                    the {input.groups[g]} ({there.filter((i) => open.jobs[i]?.group === g).length})
                  </option>
                ))}
            </select>
            <span className="muted">to</span>
          </label>
          <ul className="mt-1">
            {targets.map(({ i, o, why }) => (
              <li key={i}>
                {why === null && movable.length > 0 ? (
                  <button type="button" className="link text-left" onClick={() => hand.move(movable, i) && close()}>
                    {names.day(o.day)}, {names.person(o.person)}
                    {(inShift[i]?.length ?? 0) > 0 ? `, joining ${count(inShift[i]?.length ?? 0, 'task')}` : ''}
                  </button>
                ) : (
                  <span className="muted text-sm">
                    {names.day(o.day)}, {names.person(o.person)}: {why ?? 'all tasks are locked'}
                  </span>
                )}
              </li>
            ))}
            {targets.length === 0 && <li className="muted">No other session at this place.</li>}
          </ul>
        </>
      )}
      {s.minutes > 0 && (
        <div className="flex flex-wrap items-end gap-2 mt-3">
          <button
            type="button"
            className="btn btn-sm"
            onClick={() => void hand.sick(s.person, s.day, Math.max(s.day, until))}
          >
            {names.person(s.person)} is away{' '}
            {until > s.day ? `${names.day(s.day)} to ${names.day(until)}` : names.day(s.day)}
          </button>
          <label className="flex items-center gap-2">
            <span className="muted">until</span>
            <select
              className="select select-sm"
              value={Math.max(s.day, until)}
              onChange={(e) => setUntil(Number(e.currentTarget.value))}
            >
              {Array.from({ length: open.days - s.day }, (_, n) => s.day + n).map((d) => (
                <option key={d} value={d}>
                  {names.day(d)}
                </option>
              ))}
            </select>
          </label>
        </div>
      )}
    </section>
  );
}
