import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { count, plural } from '../../../core/count';
import { addDays, sayDay } from '../../../core/dates';
import { sayPlan, sayProof, sayRest } from '../../../core/planning/summary';
import type { Proposal } from '../../../server/plan/night';
import type { PlanInput } from '../../../server/plan/problem';
import { later } from '../../ui/later';
import { Opens } from '../../ui/Opens';
import { Dragging } from './Dragging';
import { InTheWay } from './InTheWay';
import { Learning } from './Learning';
import { LeftOut } from './LeftOut';
import { sayExtras } from './model';
import { Night } from './Night';
import { usePlan } from './usePlan';
import { Legend, Week } from './Week';

// What is opened from the week is loaded when it is first opened.
const AskFor = later(() => import('./AskFor').then((m) => m.AskFor));
const Beside = later(() => import('./Beside').then((m) => m.Beside));
const Helps = later(() => import('./Helps').then((m) => m.Helps));
const BeforePublishing = later(() => import('./Changes').then((m) => m.BeforePublishing));
const Changes = later(() => import('./Changes').then((m) => m.Changes));
const JobPanel = later(() => import('./JobPanel').then((m) => m.JobPanel));
const SessionPanel = later(() => import('./SessionPanel').then((m) => m.SessionPanel));
const SeveralPanel = later(() => import('./SeveralPanel').then((m) => m.SeveralPanel));
const Weights = later(() => import('./Weights').then((m) => m.Weights));
const Moved = later(() => import('./Moved').then((m) => m.Moved));
const Month = later(() => import('./Month').then((m) => m.Month));

const WEEK = 7;
const NOTHING: ReadonlySet<number> = new Set();

/** Weeks by person and day: solved, moved by hand, explained, compared, published. */
export function PlanBoard({ input, proposal }: { input: PlanInput; proposal: Proposal | null }) {
  const { first, jobs } = input;
  const hand = usePlan(input);
  const { given, plan, cost, counts, summary, solving, bound, notice, told } = hand;
  const [view, setView] = useState<number | 'month'>(0);
  const [ready, setReady] = useState(false);
  useEffect(() => setReady(true), []);
  const [shift, setShift] = useState<number | null>(null);
  const [asking, setAsking] = useState(false);
  const notAsking = useCallback(() => setAsking(false), []);
  const [by, setBy] = useState<'person' | 'place'>('person');
  const [adding, setAdding] = useState(false);
  /** Read when a job is pressed, by chips that are not drawn anew for it. */
  const addingNow = useRef(adding);
  addingNow.current = adding;
  const [chosen, setChosen] = useState<ReadonlySet<number>>(NOTHING);
  const chooseJob = useCallback((i: number, more = false) => {
    setShift(null);
    setChosen((known) => {
      if (!more && !addingNow.current) return new Set([i]);
      const next = new Set(known);
      if (!next.delete(i)) next.add(i);
      return next;
    });
  }, []);
  const chooseShift = useCallback((s: number) => {
    setShift(s);
    setChosen(NOTHING);
  }, []);
  const leaveOut = useCallback((i: number) => chooseJob(i, true), [chooseJob]);
  const job = chosen.size === 1 ? ([...chosen][0] as number) : null;
  const several = useMemo(() => [...chosen], [chosen]);
  // What is chosen is told beside the week; else the week has all the room, and the rest stands below.
  const wide = view === 'month' || (chosen.size === 0 && shift === null);
  const closeJob = useCallback(() => {
    setChosen(NOTHING);
    setAdding(false);
  }, []);
  const closeShift = useCallback(() => setShift(null), []);
  const dayOf = (n: number) => addDays(first, n);
  const moved = given.jobs.some((j, i) => j.published != null && j.published !== plan[i]);
  const planned = jobs.length - counts.out;
  // A bound above the plan's own cost is none, and was said to be none.
  const proof = bound === null || bound > cost.total + 1e-6 ? '' : sayProof(cost.total, bound);
  const headline = given.shifts.length === 0 ? 'Nobody is on the rota yet' : sayPlan(summary, jobs.length);
  const more = sayExtras(hand.extras, input, hand.names);
  // Days on which nobody works and nothing is played are left out.
  const days = useMemo(
    () =>
      view === 'month'
        ? []
        : Array.from({ length: WEEK }, (_, d) => view * WEEK + d).filter(
            (d) =>
              d < given.days &&
              (given.shifts.some((s) => s.day === d) || input.concerts.some((c) => c.on === addDays(first, d))),
          ),
    [view, given, input.concerts, first],
  );

  return (
    <div className="grid gap-4" data-ready={ready}>
      <div className="flex flex-wrap items-end justify-between gap-3">
        <div>
          <h1 className="text-2xl font-bold">{headline}</h1>
          {input.beyond > 0 && (
            <p className="text-warning">
              {count(input.beyond, 'instrument is', 'instruments are')} also due but not in this plan: it takes the
              longest overdue first.
            </p>
          )}
          <InTheWay input={input} hand={hand} choose={chooseJob} />
          <p className="muted" role="status">
            {given.shifts.length > 0 && sayRest(summary, jobs.length)}{' '}
            {solving?.state === 'looking'
              ? `Looking for a better plan: ${Math.round(solving.progress * 100)} % done.`
              : solving?.state === 'proving'
                ? 'Checking how good it is…'
                : proof}
          </p>
        </div>
        <div className="flex flex-wrap gap-2">
          {solving === null ? (
            <button type="button" className="btn btn-primary" onClick={hand.solve} disabled={given.shifts.length === 0}>
              Find a better plan
            </button>
          ) : (
            <button type="button" className="btn" onClick={hand.stop}>
              Stop
            </button>
          )}
          <button
            type="button"
            className="btn"
            onClick={() => void hand.undo()}
            disabled={!hand.canUndo || solving !== null}
          >
            Undo
          </button>
          <button type="button" className="btn" onClick={hand.keepBeside}>
            Compare plans
          </button>
          <button
            type="button"
            className={`btn ${moved || input.planId === null ? 'btn-primary btn-outline' : ''}`}
            onClick={() => setAsking(true)}
            aria-expanded={asking}
            disabled={planned === 0 || solving !== null || more !== ''}
          >
            Publish
          </button>
        </div>
      </div>
      {hand.begun.freed.length > 0 && !told && (
        <section className="card-paper border-accent px-4 py-2" aria-label="Repaired">
          <b>The published plan no longer works. Here it is repaired with as few moves as possible.</b>
          <ul>
            {hand.begun.why.slice(0, 4).map((w) => (
              <li key={w}>{w}</li>
            ))}
          </ul>
          <p className="muted">
            {count(hand.begun.freed.length, 'task')} had to move; see the list of changes. Publish to let everyone know.
          </p>
        </section>
      )}
      {hand.begun.fresh.length > 0 && !told && (
        <p className="muted">
          {count(hand.begun.fresh.length, 'task is', 'tasks are')} new since the plan was published, and{' '}
          {plural(hand.begun.fresh.length, 'goes', 'go')} where there is room. Publish to let everyone know.
        </p>
      )}
      {more && (
        <p className="card-paper border-accent px-4 py-2">
          A trial with {more}. To publish it, first{' '}
          {hand.extras.packs.size > 0 ? (
            <a className="link" href="/stock/orders">
              order the strings
            </a>
          ) : (
            <a className="link" href="/plan/people">
              add the hours to the rota
            </a>
          )}
          .
        </p>
      )}
      {notice && (
        <p role="alert" className={`card-paper px-4 py-2 ${notice.bad ? 'border-error' : 'border-primary'}`}>
          {notice.text}
        </p>
      )}
      {told && (
        <section className="card-paper border-primary px-4 py-2" aria-label="Published">
          <b>Published.</b> {told.told.length === 0 ? '' : 'Changes sent:'}
          <Changes input={input} changes={told.told} />
          {told.done.length > 0 && <p className="muted">Already done, so left off: {told.done.join(', ')}.</p>}
        </section>
      )}
      {asking && <BeforePublishing input={input} hand={hand} close={notAsking} />}
      {hand.helps && <Helps input={input} hand={hand} helps={hand.helps} />}
      <div className="flex flex-wrap items-center gap-2">
        {Array.from({ length: Math.ceil(given.days / WEEK) }, (_, w) => {
          const from = dayOf(w * WEEK);
          return (
            <button
              key={from}
              type="button"
              className={`btn btn-sm ${w === view ? 'btn-primary' : ''}`}
              aria-pressed={w === view}
              onClick={() => setView(w)}
            >
              {sayDay(from, first)}
            </button>
          );
        })}
        <button
          type="button"
          className={`btn btn-sm ${view === 'month' ? 'btn-primary' : ''}`}
          aria-pressed={view === 'month'}
          onClick={() => setView('month')}
        >
          Month
        </button>
        {view !== 'month' && (
          <>
            <button
              type="button"
              className={`btn btn-sm ${by === 'place' ? 'btn-primary' : ''}`}
              aria-pressed={by === 'place'}
              onClick={() => setBy(by === 'place' ? 'person' : 'place')}
            >
              By place
            </button>
            <button
              type="button"
              className={`btn btn-sm ${adding ? 'btn-primary' : ''}`}
              aria-pressed={adding}
              onClick={() => setAdding(!adding)}
            >
              Choose several
            </button>
          </>
        )}
        <Legend />
        <span className="muted text-sm">
          Drag a task (on a touch screen, hold it first), or choose it and press a number;{' '}
          <kbd className="kbd-key">l</kbd> locks, <kbd className="kbd-key">x</kbd> removes it from the plan. Choose a
          session to move its tasks.
        </span>
      </div>
      <Dragging input={input} hand={hand} several={chosen.size > 1 ? chosen : NOTHING}>
        <div className={`grid gap-4 items-start ${wide ? '' : 'xl:grid-cols-[1fr_310px]'}`}>
          {view === 'month' ? (
            <Month
              input={input}
              hand={hand}
              chooseShift={(s) => {
                chooseShift(s);
                setView(Math.floor((given.shifts[s]?.day ?? 0) / WEEK));
              }}
            />
          ) : (
            <Week
              input={input}
              hand={hand}
              days={days}
              by={by}
              chosen={chosen}
              chosenShift={shift}
              chooseJob={chooseJob}
              chooseShift={chooseShift}
            />
          )}
          <aside className={`grid gap-4 items-start ${wide ? 'lg:grid-cols-2 xl:grid-cols-3' : ''}`}>
            {chosen.size > 1 && (
              <SeveralPanel input={input} hand={hand} jobs={several} leave={leaveOut} close={closeJob} />
            )}
            {job !== null && <JobPanel key={job} input={input} hand={hand} job={job} close={closeJob} />}
            {shift !== null && (
              <SessionPanel
                key={shift}
                input={input}
                hand={hand}
                shift={shift}
                chooseJob={chooseJob}
                close={closeShift}
              />
            )}
            {hand.kept.length > 0 && <Beside input={input} hand={hand} />}
            {moved && <Moved input={input} hand={hand} />}
            <LeftOut input={input} hand={hand} chosen={chosen} choose={chooseJob} />
            <Learning input={input} hand={hand} />
            <Night input={input} hand={hand} proposal={proposal} />
            <Opens says="What matters most" data-points={Math.round(cost.total)}>
              <Weights hand={hand} />
            </Opens>
            <Opens says="Request other work">
              <AskFor input={input} />
            </Opens>
          </aside>
        </div>
      </Dragging>
    </div>
  );
}
