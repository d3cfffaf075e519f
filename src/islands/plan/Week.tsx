import { useDraggable } from '@dnd-kit/core';
import { Lock } from 'lucide-react';
import { memo, useMemo } from 'react';
import { count } from '../../../core/count';
import { addDays, sayWeekday } from '../../../core/dates';
import { isVisit, type PlanKind } from '../../../core/planning/kinds';
import type { PlanProblem } from '../../../core/planning/model';
import type { PlanInput } from '../../../server/plan/problem';
import { DropHere, useDragged } from './Dragging';
import { lostToOthers, shortOf, titleOf } from './model';
import type { PlanInHand } from './usePlan';

/** Jobs of a session that are shown before the rest is only counted: fewer where there are many of them. */
const MOST_CHIPS = { usual: 8, large: 4, largeFrom: 500 };

interface WeekProps {
  input: PlanInput;
  hand: PlanInHand;
  /** Days of the week that is shown, by number. */
  days: readonly number[];
  /** A row for each person, or for each place. */
  by: 'person' | 'place';
  chosen: ReadonlySet<number>;
  chosenShift: number | null;
  chooseJob: (job: number, more?: boolean) => void;
  chooseShift: (shift: number) => void;
}

/** A week by person or place and day: sessions, how full they are, and their jobs. */
export function Week({ input, hand, days, by, chosen, chosenShift, chooseJob, chooseShift }: WeekProps) {
  const { first, people, places, concerts, holidays } = input;
  const { open, inShift, used, supervised, visits, learners, locked } = hand;
  const most = input.jobs.length >= MOST_CHIPS.largeFrom ? MOST_CHIPS.large : MOST_CHIPS.usual;
  const { job: dragged, over } = useDragged();
  const cells = useMemo(() => {
    const map = new Map<string, number[]>();
    open.shifts.forEach((s, i) => {
      const key = `${by === 'person' ? s.person : s.site}/${s.day}`;
      map.set(key, [...(map.get(key) ?? []), i]);
    });
    return map;
  }, [open.shifts, by]);
  const rows = useMemo(() => {
    if (by === 'person') return people.map((p) => ({ id: p.id, name: p.name, beside: p.role }));
    const used = new Set(open.shifts.map((s) => s.site));
    return places.map((p, i) => ({ id: p.id, name: p.name, beside: used.has(i) ? '' : 'nobody' }));
  }, [by, people, places, open.shifts]);
  /** Minutes of standing by for others, by session. */
  const supervising = useMemo(() => {
    const minutes = new Map<number, number>();
    for (const x of supervised) minutes.set(x.by, (minutes.get(x.by) ?? 0) + x.minutes);
    return minutes;
  }, [supervised]);
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
        <caption className="sr-only">Sessions by {by} and day</caption>
        <thead>
          <tr>
            <th scope="col" className="w-[92px] px-2 py-1.5">
              <span className="sr-only">{by === 'person' ? 'Who' : 'Where'}</span>
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
          {rows.map((r, row) => (
            <tr key={r.id} className="border-t border-base-300 align-top">
              <th scope="row" className="px-2 py-1.5 text-sm">
                {r.name}
                {r.beside && <span className="muted font-normal block">{r.beside}</span>}
                {by === 'person' && loads[row] !== null && (
                  <span className="muted font-normal block" title="Of this term’s time, including the weeks ahead">
                    {loads[row]} % full
                  </span>
                )}
              </th>
              {days.map((d) => {
                const { concert, before } = head(d);
                return (
                  <td key={d} className={`p-1 ${concert ? 'border-l-4 border-accent' : before ? 'settling-band' : ''}`}>
                    {(cells.get(`${row}/${d}`) ?? []).map((s) => {
                      const shift = open.shifts[s];
                      if (!shift) return null;
                      const who = people[shift.person]?.name;
                      const there = inShift[s] ?? [];
                      const retunes = visitsIn.get(s) ?? 0;
                      const given = supervising.get(s) ?? 0;
                      const watching = there.filter((i) => learners.has(i)).length;
                      const verdict = over?.shift === s && dragged !== null ? over : null;
                      const wrongPlace = dragged !== null && open.jobs[dragged]?.site !== shift.site;
                      return (
                        <DropHere
                          key={s}
                          shift={s}
                          className={`@container rounded border p-1 mb-1 ${
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
                            aria-label={`Session of ${who}, ${dayWords.get(d)}, ${places[shift.site]?.name}, from ${input.shifts[s]?.starts}`}
                            onClick={() => chooseShift(s)}
                          >
                            <span className="font-semibold">{by === 'person' ? places[shift.site]?.name : who}</span>{' '}
                            <span className="muted whitespace-nowrap">
                              {input.shifts[s]?.starts}
                              {input.shifts[s] &&
                                `–${endOf(input.shifts[s].starts, shift.minutes + lostToOthers(input, s))}`}
                            </span>
                          </button>
                          <TimeBar input={input} hand={hand} shift={s} jobs={there} used={used[s] ?? 0} given={given} />
                          {verdict && (
                            <p className={`text-sm ${verdict.says ? 'text-error' : 'text-success'}`} role="status">
                              {verdict.says ?? 'It can go here.'}
                            </p>
                          )}
                          <div className="grid grid-cols-[minmax(0,1fr)]">
                            {there.slice(0, most).map((i) => (
                              <JobChip
                                key={i}
                                job={i}
                                tag={input.jobs[i]?.tag ?? ''}
                                short={shortOf(input, i)}
                                title={titleOf(input, i)}
                                what={input.jobs[i]?.name.split(',')[0] ?? ''}
                                minutes={open.jobs[i]?.minutes[shift.person] ?? 0}
                                shape={shapeOf(open, i, d, input.jobs[i]?.kind)}
                                late={d > (open.jobs[i]?.due ?? 0)}
                                locked={locked.has(i)}
                                chosen={chosen.has(i)}
                                choose={chooseJob}
                              />
                            ))}
                            {there.length > most && (
                              <button type="button" className="link text-sm" onClick={() => chooseShift(s)}>
                                and {there.length - most} more
                              </button>
                            )}
                          </div>
                          {shift.minutes > 0 && (
                            <p
                              className={`text-sm leading-tight text-right ${(used[s] ?? 0) > shift.minutes ? 'text-error font-bold' : 'muted'}`}
                            >
                              {(used[s] ?? 0) > shift.minutes
                                ? `${(used[s] ?? 0) - shift.minutes} min over`
                                : `${shift.minutes - (used[s] ?? 0)} min free`}
                            </p>
                          )}
                          {shift.minutes === 0 && <p className="text-sm muted">away</p>}
                          {given > 0 && <p className="muted text-sm leading-tight">+{given} min supervising</p>}
                          {(retunes > 0 || watching > 0) && (
                            <p className="muted text-sm leading-tight">
                              {retunes > 0 && `+${count(retunes, 'retune')}`}
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

/** "09:00" and minutes: "12:00". */
function endOf(starts: string, minutes: number): string {
  const [h = 0, m = 0] = starts.split(':').map(Number);
  const end = h * 60 + m + minutes;
  return `${String(Math.floor(end / 60) % 24).padStart(2, '0')}:${String(end % 60).padStart(2, '0')}`;
}

/** What a job is at a glance: by a shape, and by a tint beside it. */
const SHAPES = {
  late: { sign: '■', words: 'late', ink: 'text-error', fill: 'bg-error/55' },
  concert: { sign: '▲', words: 'for a concert or a lesson', ink: 'text-warning', fill: 'bg-accent/60' },
  visit: { sign: '◇', words: 'follow-up', ink: 'text-info', fill: 'bg-info/45' },
  look: { sign: '○', words: 'inspection', ink: 'muted', fill: 'bg-base-content/25' },
  plain: { sign: '', words: '', ink: '', fill: 'bg-primary/45' },
} as const;
type Shape = keyof typeof SHAPES;

export function shapeOf(p: PlanProblem, job: number, day: number, kind?: PlanKind): Shape {
  const j = p.jobs[job];
  if (!j) return 'plain';
  if (day > j.due && !(kind && isVisit(kind))) return 'late';
  if (kind && isVisit(kind)) return 'visit';
  if (j.latest !== null) return 'concert';
  return kind === 'inspection' ? 'look' : 'plain';
}

/** A session as time: its real length, set-ups grey, each job by its minutes, the room that is left open. */
function TimeBar({
  input,
  hand,
  shift,
  jobs,
  used,
  given,
}: {
  input: PlanInput;
  hand: PlanInHand;
  shift: number;
  jobs: readonly number[];
  used: number;
  /** Minutes of standing by for others. */
  given: number;
}) {
  const s = hand.open.shifts[shift];
  if (!s || s.minutes === 0) return null;
  const whole = Math.max(s.minutes, used);
  const work = jobs.reduce((sum, i) => sum + (hand.open.jobs[i]?.minutes[s.person] ?? 0), 0);
  const part = (minutes: number) => `${(100 * minutes) / whole}%`;
  return (
    <div
      className="flex h-2.5 my-1 rounded-xs border border-base-content/50 overflow-hidden bg-base-200"
      aria-hidden="true"
    >
      <div className="bg-base-300 shrink-0" style={{ width: part(used - work - given) }} />
      {jobs.map((i) => (
        <div
          key={i}
          className={`shrink-0 border-r border-base-200 ${SHAPES[shapeOf(hand.open, i, s.day, input.jobs[i]?.kind)].fill}`}
          style={{ width: part(hand.open.jobs[i]?.minutes[s.person] ?? 0) }}
        />
      ))}
      {given > 0 && (
        <div
          className="shrink-0 bg-[repeating-linear-gradient(45deg,currentColor_0_1px,transparent_1px_4px)]"
          style={{ width: part(given) }}
        />
      )}
    </div>
  );
}

/** What the shapes mean, for who sees them for the first time. */
export const Legend = () => (
  <p className="text-sm flex flex-wrap gap-x-4">
    {(['late', 'concert', 'visit', 'look'] as const).map((s) => (
      <span key={s}>
        <span className={SHAPES[s].ink} aria-hidden="true">
          {SHAPES[s].sign}
        </span>{' '}
        {SHAPES[s].words}
      </span>
    ))}
    <span className="muted">grey: setting up; hatched: supervising; empty: time left</span>
  </p>
);

interface ChipProps {
  job: number;
  tag: string;
  short: string;
  /** What it is, such as "violin". */
  what: string;
  minutes: number;
  shape: Shape;
  title: string;
  late: boolean;
  locked: boolean;
  chosen: boolean;
  choose: (job: number, more?: boolean) => void;
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
        onClick={(e) => p.choose(p.job, e.ctrlKey || e.metaKey || e.shiftKey)}
        aria-pressed={p.chosen}
        title={p.title}
        className={`tag text-sm w-full flex items-baseline gap-1 px-0.5 py-0.5 rounded border text-left select-none touch-pan-y hover:bg-base-100 ${p.chosen ? 'border-primary' : 'border-transparent'}`}
      >
        <span className={`w-3 shrink-0 text-center ${SHAPES[p.shape].ink}`} aria-hidden="true">
          {SHAPES[p.shape].sign}
        </span>
        {p.locked && <Lock aria-hidden="true" className="inline size-3.5 mr-1 align-[-2px]" />}
        <span className={`truncate shrink-0 max-w-[calc(100%-1rem)] ${p.late ? 'text-error font-semibold' : ''}`}>
          {p.tag}
          {p.short && <span className="font-sans font-normal"> {p.short}</span>}
        </span>
        <span className="font-sans truncate grow hidden @min-[11rem]:inline">{!p.short && p.what}</span>
        <span className="font-sans muted ml-auto whitespace-nowrap hidden @min-[9.5rem]:inline">{p.minutes} min</span>
        {p.late && <span className="sr-only"> late</span>}
        {p.shape !== 'late' && p.shape !== 'plain' && <span className="sr-only"> {SHAPES[p.shape].words}</span>}
        {p.locked && <span className="sr-only"> locked</span>}
      </button>
    );
  },
  // What it does with a press or a drag is the same for every drawing of it.
  (a, b) =>
    a.job === b.job &&
    a.late === b.late &&
    a.shape === b.shape &&
    a.minutes === b.minutes &&
    a.locked === b.locked &&
    a.chosen === b.chosen &&
    a.title === b.title,
);
