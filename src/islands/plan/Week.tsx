import { useDraggable } from '@dnd-kit/core';
import { Lock } from 'lucide-react';
import { memo, useMemo } from 'react';
import { addDays, sayWeekday } from '../../../core/dates';
import type { PlanInput } from '../../../server/plan/problem';
import { DropHere, useDragged } from './Dragging';
import { shortOf, titleOf } from './model';
import type { PlanInHand } from './usePlan';

/** Jobs of a session that are shown before the rest is only counted: fewer where there are many of them. */
const MOST_CHIPS = { usual: 8, large: 4, largeFrom: 500 };

interface WeekProps {
  input: PlanInput;
  hand: PlanInHand;
  /** Days of the week that is shown, by number. */
  days: readonly number[];
  chosenJob: number | null;
  chosenShift: number | null;
  chooseJob: (job: number) => void;
  chooseShift: (shift: number) => void;
}

/** A week by person and day: sessions with their place, how full they are, and their jobs. */
export function Week({ input, hand, days, chosenJob, chosenShift, chooseJob, chooseShift }: WeekProps) {
  const { first, people, places, concerts, holidays } = input;
  const { open, inShift, used, visits, learners, locked } = hand;
  const most = input.jobs.length >= MOST_CHIPS.largeFrom ? MOST_CHIPS.large : MOST_CHIPS.usual;
  const { job: dragged, over } = useDragged();
  const cells = useMemo(() => {
    const map = new Map<string, number[]>();
    open.shifts.forEach((s, i) => {
      const key = `${s.person}/${s.day}`;
      map.set(key, [...(map.get(key) ?? []), i]);
    });
    return map;
  }, [open.shifts]);
  const visitsIn = useMemo(() => {
    const counts = new Map<number, number>();
    for (const v of visits) if (v.shift >= 0) counts.set(v.shift, (counts.get(v.shift) ?? 0) + 1);
    return counts;
  }, [visits]);
  /** How full each person's time is, of the term until now and the weeks ahead: what fairness looks at. */
  const loads = useMemo(
    () =>
      people.map((_, k) => {
        const who = open.people[k];
        const own = open.shifts.flatMap((s, i) => (s.person === k ? [i] : []));
        const had = (who?.hadMinutes ?? 0) + own.reduce((sum, i) => sum + (open.shifts[i]?.minutes ?? 0), 0);
        const worked = (who?.workedMinutes ?? 0) + own.reduce((sum, i) => sum + (used[i] ?? 0), 0);
        return had > 0 ? Math.round((100 * worked) / had) : null;
      }),
    [people, open, used],
  );
  const dayOf = (d: number) => addDays(first, d);
  const said = useMemo(() => days.map((d) => [d, sayWeekday(addDays(first, d))] as const), [days, first]);
  const dayWords = new Map(said);
  const head = (d: number) => {
    const on = dayOf(d);
    const concert = concerts.find((c) => c.on === on);
    const before = concerts.find((c) => c.on > on && addDays(on, c.settlingDays) >= c.on);
    const holiday = holidays.find((h) => h.from <= on && on <= h.to && h.placeId === null);
    return { on, concert, before, holiday };
  };
  return (
    <div className="card-paper overflow-x-auto">
      <table className="w-full text-left table-fixed min-w-[720px]">
        <caption className="sr-only">Sessions by person and day</caption>
        <thead>
          <tr>
            <th scope="col" className="w-[92px] px-2 py-1.5">
              <span className="sr-only">Who</span>
            </th>
            {days.map((d) => {
              const { on, concert, before, holiday } = head(d);
              return (
                <th
                  key={d}
                  scope="col"
                  className={`px-1.5 py-1.5 text-sm align-top ${concert ? 'border-l-4 border-accent' : before ? 'settling-band' : ''}`}
                >
                  {sayWeekday(on)}
                  {before && <span className="block font-normal">settling for {before.name}</span>}
                  {concert && <span className="block text-warning">{concert.name}</span>}
                  {holiday && <span className="block muted font-normal">{holiday.name}</span>}
                </th>
              );
            })}
          </tr>
        </thead>
        <tbody>
          {people.map((p, person) => (
            <tr key={p.id} className="border-t border-base-300 align-top">
              <th scope="row" className="px-2 py-1.5 text-sm">
                {p.name}
                <span className="muted font-normal block">{p.role}</span>
                {loads[person] !== null && (
                  <span className="muted font-normal block" title="Of the time of this term, with the weeks ahead">
                    {loads[person]} % full
                  </span>
                )}
              </th>
              {days.map((d) => {
                const { concert, before } = head(d);
                return (
                  <td key={d} className={`p-1 ${concert ? 'border-l-4 border-accent' : before ? 'settling-band' : ''}`}>
                    {(cells.get(`${person}/${d}`) ?? []).map((s) => {
                      const shift = open.shifts[s];
                      if (!shift) return null;
                      const there = inShift[s] ?? [];
                      const retunes = visitsIn.get(s) ?? 0;
                      const watching = there.filter((i) => learners.has(i)).length;
                      const verdict = over?.shift === s && dragged !== null ? over : null;
                      const wrongPlace = dragged !== null && open.jobs[dragged]?.site !== shift.site;
                      return (
                        <DropHere
                          key={s}
                          shift={s}
                          className={`rounded border p-1 mb-1 ${
                            verdict
                              ? verdict.says
                                ? 'border-error border-2'
                                : 'border-primary border-2'
                              : chosenShift === s
                                ? 'border-primary'
                                : 'border-base-300'
                          } ${shift.minutes === 0 || wrongPlace ? 'opacity-60' : ''}`}
                        >
                          <button
                            type="button"
                            className="block w-full text-sm leading-tight text-left"
                            aria-pressed={chosenShift === s}
                            aria-label={`Session of ${p.name}, ${dayWords.get(d)}, ${places[shift.site]?.name}, from ${input.shifts[s]?.starts}`}
                            onClick={() => chooseShift(s)}
                          >
                            <span className="font-semibold">{places[shift.site]?.name}</span>{' '}
                            <span className="muted">{input.shifts[s]?.starts}</span>
                          </button>
                          <div className="flex items-center gap-1.5 my-0.5">
                            <div className="h-1.5 grow bg-base-300 rounded" aria-hidden="true">
                              <div
                                className={`h-1.5 rounded ${(used[s] ?? 0) > shift.minutes ? 'bg-error' : 'bg-primary'}`}
                                style={{
                                  width: `${shift.minutes > 0 ? Math.min(100, (100 * (used[s] ?? 0)) / shift.minutes) : 0}%`,
                                }}
                              />
                            </div>
                            <span
                              className={`text-sm leading-none ${(used[s] ?? 0) > shift.minutes ? 'text-error font-bold' : 'muted'}`}
                            >
                              {shift.minutes === 0 ? 'away' : `${used[s]}/${shift.minutes}`}
                            </span>
                          </div>
                          {verdict && (
                            <p className={`text-sm ${verdict.says ? 'text-error' : 'text-success'}`} role="status">
                              {verdict.says ?? 'Nothing breaks here.'}
                            </p>
                          )}
                          <div className="flex flex-wrap gap-1">
                            {there.slice(0, most).map((i) => (
                              <JobChip
                                key={i}
                                job={i}
                                tag={input.jobs[i]?.tag ?? ''}
                                short={shortOf(input, i)}
                                title={titleOf(input, i)}
                                late={d > (open.jobs[i]?.due ?? 0)}
                                locked={locked.has(i)}
                                chosen={chosenJob === i}
                                choose={chooseJob}
                              />
                            ))}
                            {there.length > most && (
                              <button type="button" className="link text-sm" onClick={() => chooseShift(s)}>
                                and {there.length - most} more
                              </button>
                            )}
                          </div>
                          {(retunes > 0 || watching > 0) && (
                            <p className="muted text-sm leading-tight">
                              {retunes > 0 && `+${retunes} ${retunes === 1 ? 'retune' : 'retunes'}`}
                              {retunes > 0 && watching > 0 && ', '}
                              {watching > 0 && 'with a learner'}
                            </p>
                          )}
                        </DropHere>
                      );
                    })}
                  </td>
                );
              })}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

interface ChipProps {
  job: number;
  tag: string;
  short: string;
  title: string;
  late: boolean;
  locked: boolean;
  chosen: boolean;
  choose: (job: number) => void;
}

/** One job, to choose and to drag; by touch it is held for a moment first. */
export const JobChip = memo(
  function JobChip(p: ChipProps) {
    const { setNodeRef, listeners } = useDraggable({ id: `job-${p.job}`, data: { job: p.job } });
    return (
      <button
        type="button"
        ref={setNodeRef}
        {...listeners}
        onClick={() => p.choose(p.job)}
        aria-pressed={p.chosen}
        title={p.title}
        className={`tag text-sm px-1.5 py-0.5 rounded border select-none touch-pan-y ${p.chosen ? 'border-primary border-2' : 'border-base-300'} ${p.late ? 'text-error font-semibold' : ''}`}
      >
        {p.locked && <Lock aria-hidden="true" className="inline size-3.5 mr-1 align-[-2px]" />}
        {p.tag}
        {p.short && <span className="font-sans"> {p.short}</span>}
        {p.late && <span className="sr-only"> late</span>}
        {p.locked && <span className="sr-only"> locked</span>}
      </button>
    );
  },
  // What it does with a press or a drag is the same for every drawing of it.
  (a, b) =>
    a.job === b.job && a.late === b.late && a.locked === b.locked && a.chosen === b.chosen && a.title === b.title,
);
