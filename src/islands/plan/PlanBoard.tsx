import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { addDays, sayDay, sayWeekday } from '../../../core/dates';
import type { Bound } from '../../../core/planning/bound';
import { brokenRules, costOf } from '../../../core/planning/check';
import { explainJob, minutesLeft, type PlanNames } from '../../../core/planning/explain';
import type { Plan } from '../../../core/planning/model';
import { quickPlan } from '../../../core/planning/quick';
import type { Told } from '../../../server/plan/plans';
import type { PlanInput } from '../../../server/plan/problem';
import type { FromPlanner, ToPlanner } from '../../workers/plan.worker';
import { newKey } from '../key';
import { post } from '../post';

const MOVES = 3_000_000;
const BOUND_SECONDS = 12;
const WEEK = 7;
/** Days before a concert in which new strings may still be settling: drawn in front of its wall. */
const SETTLING_DAYS = 2;

/** A plan kept beside, to compare with. */
interface Kept {
  name: string;
  plan: Plan;
  locked: ReadonlySet<number>;
}

/** Weeks by person and day: solved, moved by hand, explained, compared, published. */
export function PlanBoard(input: PlanInput) {
  const { problem: given, jobs, people, places, shifts, first } = input;
  const [plan, setPlan] = useState<Plan>(() => {
    const published = given.jobs.map((j) => j.published ?? -1);
    // Where a plan is in force it is shown; what is new is put in beside it.
    return published.some((s) => s >= 0) ? Int32Array.from(published) : quickPlan(given);
  });
  const [locked, setLocked] = useState<ReadonlySet<number>>(
    () => new Set(given.jobs.flatMap((j, i) => (j.locked ? [i] : []))),
  );
  const [week, setWeek] = useState(0);
  const [chosen, setChosen] = useState<number | null>(null);
  const [notice, setNotice] = useState<{ text: string; bad: boolean } | null>(null);
  const [solving, setSolving] = useState<number | null>(null);
  const [bound, setBound] = useState<number | null>(null);
  const [helps, setHelps] = useState<string[]>([]);
  const [kept, setKept] = useState<Kept[]>([]);
  const [told, setTold] = useState<Told[] | null>(null);
  const [away, setAway] = useState<ReadonlySet<string>>(new Set());
  const worker = useRef<Worker | null>(null);
  const publishKey = useRef(newKey());

  /** With what is locked now, and without the days somebody was said to be away. */
  const problem = useMemo(
    () => ({
      ...given,
      shifts: given.shifts.map((s) => (away.has(`${s.person}/${s.day}`) ? { ...s, minutes: 0 } : s)),
      jobs: given.jobs.map((j, i) =>
        locked.has(i) ? { ...j, locked: true, published: plan[i] as number } : { ...j, locked: false },
      ),
    }),
    [given, locked, plan, away],
  );
  const dayOf = useCallback((n: number) => addDays(first, n), [first]);
  const names = useMemo(
    (): PlanNames => ({
      job: (n) => jobs[n]?.tag ?? '',
      person: (n) => people[n]?.name ?? '',
      site: (n) => places[n]?.name ?? '',
      sku: (n) => input.skus[n] ?? '',
      group: (n) => input.groups[n] ?? '',
      day: (n) => sayWeekday(dayOf(Math.max(0, n))),
      releaseWhy: (n) => jobs[n]?.releaseWhy || 'it is not free before',
      wallWhy: (n) => jobs[n]?.wallWhy ?? '',
    }),
    [jobs, people, places, input.skus, input.groups, dayOf],
  );
  const cost = useMemo(() => costOf(given, plan), [given, plan]);
  const planned = plan.reduce((n, s) => n + (s >= 0 ? 1 : 0), 0);
  const moved = given.jobs.flatMap((j, i) =>
    j.published != null && j.published >= 0 && j.published !== plan[i] ? [i] : [],
  );
  const late = given.jobs.filter(
    (j, i) => (plan[i] as number) >= 0 && (given.shifts[plan[i] as number]?.day ?? 0) > j.due,
  ).length;
  const out = given.jobs.flatMap((_, i) => ((plan[i] as number) < 0 ? [i] : []));

  /** Jobs and minutes of each shift, counted once for each plan. */
  const { inShift, used } = useMemo(() => {
    const inShift: number[][] = given.shifts.map(() => []);
    plan.forEach((s, i) => {
      inShift[s]?.push(i);
    });
    return { inShift, used: given.shifts.map((_, s) => minutesOf(given, s, inShift[s] as number[])) };
  }, [given, plan]);

  const change = useCallback((next: Plan) => {
    publishKey.current = newKey();
    setTold(null);
    setBound(null);
    setHelps([]);
    setPlan(next);
  }, []);

  const stop = useCallback(() => {
    worker.current?.terminate();
    worker.current = null;
    setSolving(null);
  }, []);
  useEffect(() => stop, [stop]);

  /** Looks for better plans in a worker, from the one shown. Each better one is shown at once. */
  const solve = useCallback(() => {
    stop();
    const w = new Worker(new URL('../../workers/plan.worker.ts', import.meta.url), { type: 'module' });
    worker.current = w;
    setSolving(0);
    setNotice(null);
    const ask = (m: ToPlanner) => w.postMessage(m);
    const usable = Int32Array.from(plan, (s, i) => {
      // A shift that is gone takes its jobs along.
      const shift = problem.shifts[s];
      return shift && (shift.minutes > 0 || locked.has(i)) ? s : -1;
    });
    const start = brokenRules(problem, usable).length === 0 ? usable : quickPlan(problem);
    w.onmessage = (event: MessageEvent<FromPlanner>) => {
      const m = event.data;
      if (m.kind === 'bound') {
        setBound(m.bound.bound);
        setHelps(whatHelps(given, m.bound, names));
        return stop();
      }
      change(m.plan);
      setSolving(m.progress);
      if (m.done) ask({ kind: 'bound', problem, plan: m.plan, seconds: BOUND_SECONDS });
    };
    w.onerror = (event) => {
      setNotice({ text: `The search stopped: ${event.message}`, bad: true });
      stop();
    };
    ask({ kind: 'search', problem, start, seed: 1, moves: MOVES });
  }, [plan, problem, locked, stop, change, given, names]);

  /** Moves a job by hand; what breaks is said and nothing is moved. */
  const move = useCallback(
    (job: number, shift: number): boolean => {
      const next = plan.slice();
      next[job] = shift;
      const before = new Set(brokenRules(given, plan).map((b) => b.says));
      const broken = brokenRules(given, next, names).filter(
        (b) => b.jobs.includes(job) && b.rule !== 'locked' && !before.has(b.says),
      );
      if (shift >= 0 && broken[0]) {
        setNotice({ text: `Not moved: ${broken.map((b) => b.says).join(' ')}`, bad: true });
        return false;
      }
      const was = costOf(given, plan).total;
      const now = costOf(given, next).total;
      change(next);
      const by = now - was;
      setNotice({
        text: `${names.job(job)}: ${shift < 0 ? 'taken out' : `${names.day(given.shifts[shift]?.day ?? 0)} with ${names.person(given.shifts[shift]?.person ?? 0)}`}; ${by > 0 ? `${by} points more` : by < 0 ? `${-by} points less` : 'it costs the same'}.`,
        bad: false,
      });
      return true;
    },
    [plan, given, names, change],
  );

  // Days on which nobody works and nothing is played are left out.
  const days = Array.from({ length: WEEK }, (_, d) => week * WEEK + d).filter(
    (d) => d < given.days && (given.shifts.some((s) => s.day === d) || input.concerts.some((c) => c.on === dayOf(d))),
  );
  const byCell = useMemo(() => {
    const map = new Map<string, number[]>();
    given.shifts.forEach((s, i) => {
      const key = `${s.person}/${s.day}`;
      map.set(key, [...(map.get(key) ?? []), i]);
    });
    return map;
  }, [given]);
  const cells = (person: number, day: number) => byCell.get(`${person}/${day}`) ?? [];
  const toggleLock = (job: number) => {
    const next = new Set(locked);
    if (!next.delete(job)) next.add(job);
    setLocked(next);
  };
  const keepBeside = () =>
    setKept([
      ...kept,
      { name: `Plan ${String.fromCharCode(65 + kept.length)}`, plan: plan.slice(), locked: new Set(locked) },
    ]);
  const publish = async () => {
    const items = given.jobs.flatMap((j, i) => {
      const shift = shifts[plan[i] as number];
      return shift
        ? [
            {
              instrumentId: j.id,
              personId: shift.personId,
              placeId: shift.placeId,
              on: shift.on,
              minutes: j.minutes[given.shifts[plan[i] as number]?.person ?? 0] ?? 0,
              locked: locked.has(i),
            },
          ]
        : [];
    });
    const answer = await post<{ planId: number; told: Told[] }>(
      '/api/plan/publish',
      { basedOn: input.planId, cost: cost.total, bound, items },
      publishKey.current,
    );
    if (answer.ok) return setTold(answer.value.told);
    setNotice({
      text: answer.problem?.detail ?? 'No answer from the server. Press again: it will count once.',
      bad: true,
    });
  };
  const sick = async (person: number, day: number) => {
    const answer = await post(
      '/api/plan/away',
      { personId: people[person]?.id, on: dayOf(day), why: 'away' },
      newKey(),
    );
    if (!answer.ok) return setNotice({ text: answer.problem?.detail ?? 'No answer from the server.', bad: true });
    setAway(new Set(away).add(`${person}/${day}`));
    const hit = plan.reduce(
      (n, s) => n + (given.shifts[s]?.person === person && given.shifts[s]?.day === day ? 1 : 0),
      0,
    );
    setNotice({
      text: `${names.person(person)} is away ${names.day(day)}; ${hit} jobs have to go elsewhere. Look for a better plan now: the rest stays as near as it can.`,
      bad: hit > 0,
    });
  };
  const gap = bound === null || cost.total === 0 ? null : Math.max(0, (cost.total - bound) / cost.total);
  const headline =
    given.shifts.length === 0
      ? 'Nobody is planned to be anywhere yet'
      : out.length === 0
        ? late === 0
          ? `All ${jobs.length} planned, all in time`
          : `All ${jobs.length} planned, ${late} late`
        : `${out.length} of ${jobs.length} not planned${late ? `, ${late} late` : ''}`;

  return (
    <div className="grid gap-4">
      <div className="flex flex-wrap items-end justify-between gap-3">
        <div>
          <h1 className="text-2xl font-bold">{headline}</h1>
          <p className="muted" role="status">
            {solving !== null
              ? solving < 1
                ? `Looking for better: ${Math.round(solving * 100)} of 100, ${cost.total} points`
                : `${cost.total} points; proving how good that is…`
              : `${cost.total} points: late ${cost.tardiness}, left out ${cost.unplanned}, set-ups ${cost.setUp}, visits missed ${cost.missed}${cost.changes ? `, changes ${cost.changes}` : ''}${
                  gap === null
                    ? ''
                    : gap < 0.001
                      ? '; proven: nothing is better'
                      : `; at most ${(gap * 100).toFixed(1)} % above the best possible`
                }`}
          </p>
        </div>
        <div className="flex flex-wrap gap-2">
          {solving === null ? (
            <button type="button" className="btn btn-primary" onClick={solve} disabled={given.shifts.length === 0}>
              Find a better plan
            </button>
          ) : (
            <button type="button" className="btn" onClick={stop}>
              Stop
            </button>
          )}
          <button type="button" className="btn" onClick={keepBeside}>
            Keep beside
          </button>
          <button
            type="button"
            className="btn"
            onClick={() => void publish()}
            disabled={planned === 0 || solving !== null}
          >
            Publish
          </button>
        </div>
      </div>
      {notice && (
        <p role="alert" className={`card-paper px-4 py-2 ${notice.bad ? 'border-error' : 'border-primary'}`}>
          {notice.text}
        </p>
      )}
      {told && (
        <section className="card-paper border-primary px-4 py-2" aria-label="Published">
          <b>Published.</b> {told.length === 0 ? 'Nothing is new for anybody.' : 'Who is told what:'}
          <ul>
            {told.map((t) => (
              <li key={t.person}>
                {t.person}: {t.jobs} jobs{t.added.length ? `; new or moved ${t.added.join(', ')}` : ''}
                {t.gone.length ? `; not any more ${t.gone.join(', ')}` : ''}
              </li>
            ))}
          </ul>
        </section>
      )}
      {helps.length > 0 && <p>Would help most: {helps.join('; ')}.</p>}
      <div className="flex flex-wrap items-center gap-2">
        {Array.from({ length: Math.ceil(given.days / WEEK) }, (_, w) => {
          const from = dayOf(w * WEEK);
          return (
            <button
              key={from}
              type="button"
              className={`btn btn-sm ${w === week ? 'btn-primary' : ''}`}
              aria-pressed={w === week}
              onClick={() => setWeek(w)}
            >
              {sayDay(from, first)}
            </button>
          );
        })}
        <span className="muted text-sm">
          Drag a job, or choose it and press a number; <kbd className="kbd-key">l</kbd> locks,{' '}
          <kbd className="kbd-key">x</kbd> takes it out.
        </span>
      </div>
      <div className="grid gap-4 xl:grid-cols-[1fr_300px] items-start">
        <div className="card-paper overflow-x-auto">
          <table className="w-full text-left table-fixed min-w-[760px]">
            <thead>
              <tr>
                <th scope="col" className="w-24 px-2 py-1.5">
                  <span className="sr-only">Who</span>
                </th>
                {days.map((d) => {
                  const concert = input.concerts.find((c) => c.on === dayOf(d));
                  const settling = input.concerts.some((c) => c.on > dayOf(d) && c.on <= dayOf(d + SETTLING_DAYS));
                  return (
                    <th
                      key={d}
                      scope="col"
                      className={`px-1 py-1.5 text-sm ${concert ? 'border-l-4 border-accent' : settling ? 'border-b-4 border-dashed border-accent' : ''}`}
                    >
                      {sayWeekday(dayOf(d))}
                      {settling && <span className="block muted font-normal">settling for the concert</span>}
                      {concert && <span className="block text-warning">{concert.name}</span>}
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
                    <a className="link font-normal block" href={`/plan/${p.id}.ics`}>
                      calendar
                    </a>
                  </th>
                  {days.map((d) => (
                    <td
                      key={d}
                      className={`p-1 ${input.concerts.some((c) => c.on === dayOf(d)) ? 'border-l-4 border-accent' : ''}`}
                    >
                      {cells(person, d).map((s) => (
                        <ShiftCell
                          key={s}
                          place={places[given.shifts[s]?.site ?? 0]?.name ?? ''}
                          minutes={problem.shifts[s]?.minutes ?? 0}
                          left={used[s] ?? 0}
                          jobs={inShift[s] ?? []}
                          label={(i) => jobs[i]?.tag ?? ''}
                          title={(i) => `${jobs[i]?.name}, due ${sayWeekday(jobs[i]?.dueOn ?? first)}`}
                          late={(i) => d > (given.jobs[i]?.due ?? 0)}
                          locked={(i) => locked.has(i)}
                          chosen={chosen}
                          choose={setChosen}
                          drop={(i) => move(i, s)}
                          away={() => void sick(person, d)}
                          awayLabel={`${p.name} is away ${sayWeekday(dayOf(d))}`}
                        />
                      ))}
                    </td>
                  ))}
                </tr>
              ))}
            </tbody>
          </table>
        </div>
        <aside className="grid gap-4">
          {chosen !== null && (
            <JobPanel
              key={chosen}
              input={input}
              plan={plan}
              job={chosen}
              names={names}
              locked={locked.has(chosen)}
              lock={() => toggleLock(chosen)}
              move={(s) => move(chosen, s)}
              close={() => setChosen(null)}
            />
          )}
          {kept.length > 0 && (
            <section aria-labelledby="beside">
              <h2 id="beside" className="font-bold mb-1">
                Side by side
              </h2>
              <table className="card-paper w-full text-left text-sm">
                <thead>
                  <tr>
                    <th className="px-3 py-1">Plan</th>
                    <th className="text-right">points</th>
                    <th className="text-right">late</th>
                    <th className="text-right">out</th>
                    <th className="text-right px-3">hours</th>
                  </tr>
                </thead>
                <tbody>
                  {[{ name: 'this one', plan, locked }, ...kept].map((k, n) => (
                    <tr key={k.name} className="border-t border-base-300">
                      <td className="px-3 py-1">
                        {n === 0 ? (
                          k.name
                        ) : (
                          <button
                            type="button"
                            className="link"
                            onClick={() => {
                              change(k.plan.slice());
                              setLocked(k.locked);
                            }}
                          >
                            {k.name}
                          </button>
                        )}
                      </td>
                      <td className="text-right">{costOf(given, k.plan).total}</td>
                      <td className="text-right">
                        {given.jobs.filter((j, i) => (given.shifts[k.plan[i] as number]?.day ?? -99) > j.due).length}
                      </td>
                      <td className="text-right">{k.plan.filter((s) => s < 0).length}</td>
                      <td className="text-right px-3">{(hoursOf(given, k.plan) / 60).toFixed(1)}</td>
                    </tr>
                  ))}
                </tbody>
              </table>
            </section>
          )}
          {moved.length > 0 && (
            <section aria-labelledby="moved">
              <h2 id="moved" className="font-bold mb-1">
                Against the published plan: {moved.length} moved
              </h2>
              <ul className="card-paper px-3 py-1 text-sm">
                {moved.slice(0, 12).map((i) => {
                  const say = (s: number | null | undefined) => {
                    const shift = given.shifts[s ?? -1];
                    return shift ? `${names.day(shift.day)}, ${names.person(shift.person)}` : 'not planned';
                  };
                  return (
                    <li key={i} className="quiet-row py-1">
                      <span className="tag">{jobs[i]?.tag}</span> {say(given.jobs[i]?.published)} → {say(plan[i])}
                    </li>
                  );
                })}
                {moved.length > 12 && <li className="muted">and {moved.length - 12} more</li>}
              </ul>
            </section>
          )}
          <section aria-labelledby="out">
            <h2 id="out" className="font-bold mb-1">
              Not planned: {out.length}
            </h2>
            <ul className="card-paper px-3 py-1">
              {out.length === 0 && <li className="muted py-1">Nothing is left out.</li>}
              {out.slice(0, 40).map((i) => (
                <li key={i} className="quiet-row py-1 flex justify-between gap-2">
                  <JobChip
                    tag={jobs[i]?.tag ?? ''}
                    title={jobs[i]?.name ?? ''}
                    late={(given.jobs[i]?.due ?? 0) < 0}
                    locked={locked.has(i)}
                    chosen={chosen === i}
                    choose={() => setChosen(i)}
                    job={i}
                  />
                  <span className="muted text-sm text-right">
                    {places[given.jobs[i]?.site ?? 0]?.name}, due {sayDay(jobs[i]?.dueOn ?? first, first)}
                  </span>
                </li>
              ))}
              {out.length > 40 && <li className="muted py-1">and {out.length - 40} more</li>}
            </ul>
          </section>
        </aside>
      </div>
    </div>
  );
}

/** What a little more of something would save, by the prices of the bound; the dearest first. */
function whatHelps(p: PlanInput['problem'], bound: Bound, names: PlanNames): string[] {
  const hours = p.shifts.map((s, i) => ({
    points: 60 * (bound.minutePrice[i] ?? 0),
    says: `one hour more with ${names.person(s.person)} at ${names.site(s.site)} ${names.day(s.day)}`,
  }));
  const packs = p.stock.map((_, i) => ({ points: bound.packPrice[i] ?? 0, says: `one ${names.sku(i)} more now` }));
  return [...hours, ...packs]
    .filter((h) => h.points >= 2)
    .sort((a, b) => b.points - a.points)
    .slice(0, 3)
    .map((h) => `${h.says} (about ${Math.round(h.points)} points)`);
}

const minutesOf = (p: PlanInput['problem'], shift: number, there: readonly number[]): number => {
  const s = p.shifts[shift];
  if (!s) return 0;
  const own = there.reduce((sum, i) => sum + (p.jobs[i]?.minutes[s.person] ?? 0), 0);
  return own + p.setUpMinutes * new Set(there.map((i) => p.jobs[i]?.group)).size;
};

const hoursOf = (p: PlanInput['problem'], plan: Plan): number => {
  const inShift: number[][] = p.shifts.map(() => []);
  plan.forEach((s, i) => {
    inShift[s]?.push(i);
  });
  return inShift.reduce((sum, there, s) => sum + minutesOf(p, s, there), 0);
};

function JobChip(p: {
  tag: string;
  title: string;
  late: boolean;
  locked: boolean;
  chosen: boolean;
  choose: () => void;
  job: number;
}) {
  return (
    <button
      type="button"
      draggable
      onDragStart={(e) => e.dataTransfer.setData('text/plain', String(p.job))}
      onClick={p.choose}
      aria-pressed={p.chosen}
      title={p.title}
      className={`tag text-sm px-1.5 py-0.5 rounded border ${p.chosen ? 'border-primary border-2' : 'border-base-300'} ${p.late ? 'text-error font-semibold' : ''}`}
    >
      {p.locked && <span aria-hidden="true">⚿ </span>}
      {p.tag}
      {p.late && <span className="sr-only"> late</span>}
      {p.locked && <span className="sr-only"> locked</span>}
    </button>
  );
}

function ShiftCell(p: {
  place: string;
  minutes: number;
  left: number;
  jobs: number[];
  label: (i: number) => string;
  title: (i: number) => string;
  late: (i: number) => boolean;
  locked: (i: number) => boolean;
  chosen: number | null;
  choose: (i: number) => void;
  drop: (i: number) => void;
  away: () => void;
  awayLabel: string;
}) {
  const [over, setOver] = useState(false);
  const share = p.minutes > 0 ? Math.min(1, p.left / p.minutes) : 1;
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: dropping has its twin on the keyboard in the job's panel
    <div
      className={`rounded border p-1 mb-1 ${over ? 'border-primary border-2' : 'border-base-300'} ${p.minutes === 0 ? 'opacity-60' : ''}`}
      onDragOver={(e) => {
        e.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(e) => {
        e.preventDefault();
        setOver(false);
        p.drop(Number(e.dataTransfer.getData('text/plain')));
      }}
    >
      <div className="flex justify-between gap-1 text-sm leading-tight">
        <span className="truncate">{p.place}</span>
        <button
          type="button"
          className="muted link shrink-0"
          onClick={p.away}
          aria-label={p.awayLabel}
          title={p.awayLabel}
        >
          {p.minutes === 0 ? 'away' : `${p.left}/${p.minutes}`}
        </button>
      </div>
      <div className="h-1 bg-base-300 rounded my-0.5" aria-hidden="true">
        <div
          className={`h-1 rounded ${p.left > p.minutes ? 'bg-error' : 'bg-primary'}`}
          style={{ width: `${share * 100}%` }}
        />
      </div>
      <div className="flex flex-wrap gap-1">
        {p.jobs.map((i) => (
          <JobChip
            key={i}
            tag={p.label(i)}
            title={p.title(i)}
            late={p.late(i)}
            locked={p.locked(i)}
            chosen={p.chosen === i}
            choose={() => p.choose(i)}
            job={i}
          />
        ))}
      </div>
    </div>
  );
}

/** One job: why it stands there, and where else it could go, by number. */
function JobPanel(p: {
  input: PlanInput;
  plan: Plan;
  job: number;
  names: PlanNames;
  locked: boolean;
  lock: () => void;
  move: (shift: number) => boolean;
  close: () => void;
}) {
  const { input, plan, job, names } = p;
  const { problem } = input;
  const heading = useRef<HTMLHeadingElement>(null);
  useEffect(() => heading.current?.focus(), []);
  const why = useMemo(() => explainJob(problem, plan, job, names), [problem, plan, job, names]);
  const choices = useMemo(() => {
    const j = problem.jobs[job];
    return problem.shifts
      .map((s, i) => ({ s, i }))
      .filter(({ s, i }) => s.site === j?.site && i !== plan[job])
      .sort((a, b) => a.s.day - b.s.day)
      .map(({ s, i }) => {
        const next = plan.slice();
        next[job] = i;
        const broken = brokenRules(problem, next, names).find((b) => b.jobs.includes(job));
        return { shift: i, s, broken: broken?.says ?? null, left: minutesLeft(problem, plan, i, job) };
      })
      .slice(0, 12);
  }, [problem, plan, job, names]);
  const fits = choices.filter((c) => c.broken === null).slice(0, 9);
  const { lock, move, close } = p;
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if ((event.target as HTMLElement).closest?.('input, select, textarea') || event.ctrlKey || event.metaKey) return;
      if (event.key === 'Escape') return close();
      if (event.key === 'l') return lock();
      if (event.key === 'x') return void move(-1);
      const choice = fits[Number(event.key) - 1];
      if (choice) move(choice.shift);
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [fits, lock, move, close]);
  const about = input.jobs[job];
  return (
    <section className="card-paper border-primary px-4 py-3" aria-labelledby="job">
      <div className="flex justify-between gap-2">
        <h2 id="job" ref={heading} tabIndex={-1} className="font-bold outline-none">
          <a className="link tag" href={`/instruments/${about?.tag}`}>
            {about?.tag}
          </a>{' '}
          {about?.name}
        </h2>
        <button type="button" className="link text-sm" onClick={close}>
          close
        </button>
      </div>
      <p>{why.stands.charAt(0).toUpperCase() + why.stands.slice(1)}.</p>
      <ul className="mt-1" aria-label="Why">
        {why.because.map((line) => (
          <li key={line}>{line}</li>
        ))}
      </ul>
      {why.wouldHelp.length > 0 && <p className="muted mt-1">Would help: {why.wouldHelp.join(' ')}</p>}
      <div className="flex flex-wrap gap-2 my-2">
        <button type="button" className="btn btn-sm" onClick={lock} aria-pressed={p.locked}>
          {p.locked ? 'Unlock' : 'Lock here'}
        </button>
        <button type="button" className="btn btn-sm" onClick={() => move(-1)}>
          Take out
        </button>
      </div>
      <h3 className="muted text-sm">Could go to</h3>
      <ul>
        {fits.map((c, n) => (
          <li key={c.shift}>
            <button type="button" className="link text-left" onClick={() => move(c.shift)}>
              <kbd className="kbd-key">{n + 1}</kbd> {names.day(c.s.day)}, {names.person(c.s.person)}, {c.left} min left
              after
            </button>
          </li>
        ))}
        {fits.length === 0 && <li className="muted">nowhere else</li>}
      </ul>
      {choices.some((c) => c.broken) && (
        <details className="mt-1">
          <summary className="link text-sm w-fit">Why not elsewhere</summary>
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
