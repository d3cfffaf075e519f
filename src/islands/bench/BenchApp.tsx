import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { tagPath } from '../../../core/instruments/tag';
import { dropsOf, lostAt, movesOn, notedIn, type Said } from '../../../core/procedures/answers';
import { GATE_REASONS, gateProblems } from '../../../core/procedures/gate';
import { cautionsAt, LEAD_NAMES, LEADS, type Lead, type Screen, screensOf } from '../../../core/procedures/led';
import { MISTAKES, type MistakeId } from '../../../core/procedures/mistakes';
import { progressOf, tickedSteps } from '../../../core/procedures/progress';
import { phaseTimes, type TimedAnswer } from '../../../core/procedures/times';
import { isChange, JOB_KIND_NAMES, PHASES, type Step } from '../../../core/procedures/types';
import type { StripString } from '../../../core/wear/strip';
import type { BenchView } from '../../../server/bench/page';
import { later } from '../../ui/later';
import { useCommand } from '../../ui/useCommand';
import { useHotKeys } from '../../ui/useHotKeys';
import { BriefView } from './BriefView';
import { clockAhead, type Saving } from './device';
import { Elapsed } from './Elapsed';
import { Key } from './Key';
import { AsFound, NotesBox } from './Notes';
import { type Panel, PanelView } from './Panels';
import { Phases } from './Phases';
import { ScreenView } from './ScreenView';
import { BenchStrip, StepView } from './StepView';
import { checksOf } from './screen';
import { Title } from './Title';
import { type LocalAnswer, useAnswers } from './useAnswers';

const Tuner = later(() => import('./Tuner').then((m) => m.Tuner), 'Opening the tuner.');
const Kit = later(() => import('./Kit').then((m) => m.Kit), 'Opening the kit.');
const LookForm = later(() => import('./LookForm').then((m) => m.LookForm), 'Opening the finish.');
const FinishForm = later(() => import('./FinishForm').then((m) => m.FinishForm), 'Opening the finish.');
const Depart = later(() => import('./Depart').then((m) => m.Depart), 'One moment.');

export interface BenchProps extends BenchView {
  me: string;
  personId: number;
  now: number;
  /** The batch it is worked in, if any. */
  batch?: BatchTurn;
}

/** What a bench tells the batch it is part of. */
export interface BatchTurn {
  answered: (jobId: number, answers: readonly LocalAnswer[], step: string) => void;
  recorded: (jobId: number) => void;
  /** Answers given to the other jobs of the batch, for telling whose minutes they were. */
  others: readonly TimedAnswer[];
  startedAt: number;
}

export function BenchApp(props: BenchProps) {
  const { job, positions, batch } = props;
  const steps = useMemo(() => job.procedure?.steps ?? [], [job.procedure]);
  const [lead, setLead] = useState<Lead>(props.lead);
  const screens = useMemo(() => (job.procedure ? screensOf(job.procedure, lead) : []), [job.procedure, lead]);
  const [cursor, setCursor] = useState<string>(job.cursor ?? 'finish');
  const [panel, setPanel] = useState<Panel>({ kind: 'none' });
  // Opened or closed by hand; null: by itself where strings are tuned.
  const [byHand, setTuner] = useState<boolean | null>(null);
  // The kit comes first, until the first step has been answered or it was passed.
  const [kitPassed, setKitPassed] = useState(batch !== undefined);
  const [ahead] = useState(() => clockAhead(props.now));
  const { answers, say, saving, closed, loss, forgetLoss, arrivedClose, device } = useAnswers({
    job,
    steps,
    personId: props.personId,
    ahead,
    resume: setCursor,
  });
  const { run } = useCommand();
  const started = job.openedAt + ahead;
  const heading = useRef<HTMLHeadingElement>(null);
  const beside = useRef<HTMLDivElement>(null);
  useEffect(() => {
    if (panel.kind !== 'none') beside.current?.scrollIntoView({ block: 'center' });
  }, [panel.kind]);

  useEffect(() => {
    device?.write('cursor', { cursor, answers: answers.length });
  }, [device, cursor, answers.length]);

  const kit = isChange(job.kind) && job.kind !== 'refit' && steps.length > 0 && answers.length === 0 && !kitPassed;
  const index = screens.findIndex((s) => s.steps.some((x) => x.key === cursor));
  const screen = screens[index];
  const step = screen?.steps[0];
  const ticked = useMemo(() => tickedSteps(answers, steps), [answers, steps]);
  const tuner = byHand ?? (step?.phase === 'tune' || step?.phase === 'stretch');
  const go = useCallback((to: string) => {
    setCursor(to);
    setPanel({ kind: 'none' });
    queueMicrotask(() => heading.current?.focus());
  }, []);

  /** Says something of steps of the screen; what moves on goes to the next screen when this one is through. */
  const answer = useCallback(
    (said: Said, of: readonly Step[], stay = false) => {
      if (!screen || !device) return;
      const stays = stay || !movesOn(said);
      const next = stays ? screen.key : (screens[index + 1]?.key ?? 'finish');
      const all = say(
        said,
        of.map((s) => s.key),
        next,
      );
      if (stays) return;
      go(next);
      const last = screen.steps.at(-1);
      if (last) batch?.answered(job.id, all, last.key);
    },
    [screen, screens, index, device, say, go, batch, job.id],
  );
  const back = useCallback(() => {
    if (panel.kind !== 'none') return setPanel({ kind: 'none' });
    const previous = cursor === 'finish' ? screens.at(-1) : screens[index - 1];
    if (previous) go(previous.key);
  }, [panel.kind, cursor, screens, index, go]);
  const mistakes = useMemo(
    (): MistakeId[] => [
      ...new Set(screen?.steps.flatMap((s) => [...(s.check ? [s.check.ifNot] : []), ...(s.mistakes ?? [])]) ?? []),
    ],
    [screen],
  );
  const log = useCallback(
    (id: MistakeId, number: number | null = null, at?: Step) => {
      if (!screen) return;
      // Which string it was has to be known where it is lost, or done again, and the screen works on several.
      const several = screen.positions.length !== 1;
      if (number === null && !at && several && (MISTAKES[id].stringLost || screen.kind === 'strings'))
        return setPanel({ kind: 'which', id });
      const own = number === null ? screen.steps : screen.steps.filter((s) => s.positions.includes(number));
      const of =
        at ?? own.find((s) => s.check?.ifNot === id || s.mistakes?.includes(id)) ?? own[0] ?? (screen.steps[0] as Step);
      forgetLoss();
      answer({ outcome: 'trouble', mistake: id, ...(number === null ? {} : { number }) }, [of]);
      setPanel({ kind: 'recovery', id });
    },
    [answer, screen, forgetLoss],
  );
  /** No to the question, or to one of several. */
  const no = useCallback(() => {
    const asked = screen?.steps.filter((s) => s.check) ?? [];
    const [first] = asked;
    if (!screen || !first?.check) return;
    if (screen.kind === 'strings') {
      const questions = checksOf(screen);
      if (questions.length > 1) setPanel({ kind: 'no', steps: questions.flatMap((q) => q.steps.slice(0, 1)) });
      else log(first.check.ifNot);
    } else if (asked.length > 1) setPanel({ kind: 'no', steps: asked });
    else log(first.check.ifNot, null, first);
  }, [screen, log]);
  const noTo = useCallback(
    (s: Step) => s.check && log(s.check.ifNot, null, screen?.kind === 'strings' ? undefined : s),
    [log, screen],
  );
  const which = screen?.positions.length ? screen.positions : job.numbers;
  const skips = useMemo(
    () => screen?.steps.flatMap((s) => (s.skipBecause ?? []).map((because) => ({ step: s, because }))) ?? [],
    [screen],
  );
  const left = useMemo(
    () => (screen?.kind === 'step' ? screen.steps : (screen?.steps.filter((s) => !ticked.has(s.key)) ?? [])),
    [screen, ticked],
  );

  const locked = useMemo(
    () => [
      ...new Set(
        left
          .filter((s) => s.gate)
          .flatMap((s) =>
            gateProblems(s.key, {
              steps,
              answers,
              drops: dropsOf(answers),
              strings: props.tuned,
              rounds: job.procedure?.method.stretchRounds ?? 0,
            }),
          ),
      ),
    ],
    [left, steps, answers, props.tuned, job.procedure],
  );
  // What cannot be undone is passed only when it is open, or with a reason.
  const pass = useCallback(() => {
    if (locked.length > 0) return setPanel({ kind: 'gate' });
    if (left.length > 0) return answer({ outcome: 'done' }, left);
    const last = screen?.steps.at(-1);
    go(screens[index + 1]?.key ?? 'finish');
    if (last) batch?.answered(job.id, answers, last.key);
  }, [locked, left, answer, go, screen, screens, index, batch, job.id, answers]);
  const tick = useCallback(
    (of: readonly Step[]) => {
      const rest = of.filter((s) => !ticked.has(s.key));
      const screenOf = screens.find((s) => s.steps.some((x) => x.key === rest[0]?.key));
      // What cannot be undone is not ticked in passing: its screen is opened.
      if (rest.some((s) => s.gate)) {
        if (screenOf && screenOf !== screen) return go(screenOf.key);
        if (locked.length > 0) return setPanel({ kind: 'gate' });
      }
      if (rest.length === 0) return;
      say(
        { outcome: 'done' },
        rest.map((s) => s.key),
        cursor,
      );
    },
    [ticked, screens, screen, locked, go, say, cursor],
  );
  /** Hands free: what the tuner leads through on this screen. */
  const walk = useMemo(() => {
    if (!screen) return null;
    const near = screen.steps.filter((s) => s.id === 'near-pitch.string');
    if (near.length > 0)
      return { step: screen.key, goal: 'near' as const, order: near.flatMap((s) => s.positions.slice(0, 1)) };
    if (!screen.steps.some((s) => s.id === 'tune.all')) return null;
    const lowFirst = [...props.tuned].sort((a, b) => a.hz - b.hz).map((t) => t.number);
    return { step: screen.key, goal: 'tune' as const, order: lowFirst };
  }, [screen, props.tuned]);
  const arrived = useCallback(
    (number: number | null) => {
      if (!screen) return;
      // A screen of one step is passed by hand, or by the pedal.
      if (screen.kind === 'step') return;
      const of = screen.steps.filter((s) =>
        number === null ? s.id === 'tune.all' : s.id === 'near-pitch.string' && s.positions[0] === number,
      );
      if (of.length > 0) tick(of);
    },
    [screen, tick],
  );
  const skip = useCallback(
    (of: Step, because: string) => {
      const all = screen?.kind === 'step';
      answer({ outcome: 'skipped', because }, [of], !all);
      if (!all) setPanel({ kind: 'none' });
    },
    [answer, screen],
  );
  const choose = useCallback(
    async (to: Lead) => {
      setLead(to);
      setPanel({ kind: 'none' });
      await run('/api/people/lead', { lead: to });
    },
    [run],
  );

  const passKit = () => setKitPassed(true);
  useHotKeys({ Space: passKit, Enter: passKit }, kit);
  const shut = () => setPanel({ kind: 'none' });
  const onward = () => (panel.kind === 'none' ? pass() : shut());
  const offer = (next: Panel, there = true) => (there ? setPanel(next) : false);
  /** What a digit chooses, by what is open and what is on the screen. */
  const chosenBy = (digit: number): (() => void) | undefined => {
    if (panel.kind === 'mistakes') {
      const mistake = mistakes[digit - 1];
      return mistake && (() => log(mistake));
    }
    if (panel.kind === 'which') return which.includes(digit) ? () => log(panel.id, digit) : undefined;
    if (panel.kind === 'gate') {
      const passed = GATE_REASONS[digit - 1];
      return passed === undefined ? undefined : () => answer({ outcome: 'done', passed }, left);
    }
    if (panel.kind === 'skip') {
      const skipped = skips[digit - 1];
      return skipped && (() => skip(skipped.step, skipped.because));
    }
    if (panel.kind === 'no') {
      const refused = panel.steps[digit - 1];
      return refused && (() => noTo(refused));
    }
    if (panel.kind !== 'none' || !step || !screen) return undefined;
    if (step.choices?.[digit - 1] !== undefined) return () => answer({ outcome: 'done', choice: digit - 1 }, [step]);
    const ofDigit = (positions: readonly number[]) => positions.length === 1 && positions[0] === digit;
    if (screen.kind === 'strings') return () => tick(screen.steps.filter((s) => ofDigit(s.positions)));
    const row = screen.kind === 'step' ? undefined : screen.steps[digit - 1];
    if (row) return () => tick([row]);
    const wanted = screens.find((s) => s.phase === screen.phase && ofDigit(s.positions));
    return wanted && (() => go(wanted.key));
  };
  useHotKeys(
    {
      Space: onward,
      Enter: onward,
      Backspace: back,
      ArrowLeft: back,
      Escape: shut,
      m: () => setPanel({ kind: 'mistakes' }),
      t: () => setTuner(!tuner),
      w: () => setPanel({ kind: 'why' }),
      d: () => offer({ kind: 'depart' }, isChange(job.kind)),
      '?': () => setPanel({ kind: 'help' }),
      s: () => offer({ kind: 'skip' }, skips.length > 0),
      n: no,
      '([1-9])': (digit) => chosenBy(Number(digit))?.(),
    },
    !kit && cursor !== 'finish' && step !== undefined,
  );

  const progress = useMemo(
    () =>
      progressOf(
        positions.map((p) => p.number),
        steps,
        answers,
      ),
    [answers, positions, steps],
  );
  const strip = props.strip.map((s): StripString => {
    const at = progress.get(s.number);
    if (at === 'old') return s;
    return { ...s, state: at === 'on' ? 'settling' : 'off' };
  });
  const brokenAt = useMemo(() => lostAt(answers, steps), [answers, steps]);
  const off = [...progress.values()].filter((p) => p === 'off').length;
  const noted = notedIn(answers);

  /** Minutes of work on this job, pauses and other instruments of the batch left out; null under a minute. */
  const worked = (): number | null => {
    const own = answers.filter(movesOn).map((a) => ({ jobId: job.id, step: a.step, at: a.at }));
    const { times } = phaseTimes(
      new Map([[job.id, steps]]),
      [...own, ...(batch?.others ?? [])],
      batch?.startedAt ?? job.openedAt,
    );
    const minutes = times.reduce((sum, t) => sum + t.minutes, 0);
    return minutes >= 1 ? Math.round(minutes) : null;
  };

  return (
    <div className={`${batch ? 'grow' : 'min-h-screen'} flex flex-col text-[22px]`}>
      <header className="flex flex-wrap items-baseline gap-x-5 gap-y-1 px-7 py-3 border-b border-base-300">
        <a
          href={`/instruments/${tagPath(job.tag)}`}
          className="tag font-bold text-2xl"
          title="Leave the bench; it waits for you here"
        >
          {job.tag}
        </a>
        <span>{props.name}</span>
        <span className="muted text-lg truncate max-w-[34rem]">
          {props.parts}
          {job.kind !== 'full-set' && `, ${JOB_KIND_NAMES[job.kind].toLowerCase()}`}
          {job.departure && `, not as the house does it: ${job.departure.reason}`}
        </span>
        {screen && cursor !== 'finish' && !kit && device && (
          <div className="ml-auto flex flex-wrap items-center gap-x-3 text-base">
            <fieldset className="flex text-base" aria-label="How you are led">
              {LEADS.map((way) => (
                <button
                  key={way}
                  type="button"
                  className={`btn btn-ghost min-h-11 px-2 text-base ${way === lead ? 'font-bold' : 'font-normal'}`}
                  aria-pressed={way === lead}
                  onClick={() => void choose(way)}
                >
                  {LEAD_NAMES[way]}
                </button>
              ))}
            </fieldset>
          </div>
        )}
        {screen && lead !== 'string' && <Phases screens={screens} index={index} />}
        <span className="ml-auto text-lg muted flex flex-wrap items-baseline gap-x-4">
          {screen && cursor !== 'finish' && !kit && device && (
            <span
              className={`text-base ${saving.silent || !device.keep.lasting ? 'text-warning' : 'muted'}`}
              role="status"
            >
              {sayKept(saving, device.keep.lasting)}
            </span>
          )}
          {off > 0 && <b className="text-warning">{off === 1 ? '1 string' : `${off} strings`} off </b>}
          <Elapsed since={started} />
        </span>
      </header>
      {closed && cursor !== 'finish' && (
        <p role="alert" className="card-paper border-error m-4 p-4">
          {closed} What you go on to answer is kept with the job.{' '}
          <a className="link" href={`/instruments/${tagPath(job.tag)}`}>
            See {job.tag}
          </a>
        </p>
      )}
      <main className="grow px-7 py-2 flex flex-col" data-ready={device !== null}>
        {!device ? (
          <p className="muted">Opening the bench.</p>
        ) : kit ? (
          <Kit bench={props} device={device} start={() => setKitPassed(true)} heading={heading} />
        ) : (cursor === 'finish' || !step) && isChange(job.kind) ? (
          <FinishForm
            {...props}
            device={device}
            closing={arrivedClose}
            brokenAt={brokenAt}
            worked={worked()}
            at={() => Math.round(Date.now() - ahead)}
            saving={saving}
            back={steps.length ? back : null}
          />
        ) : cursor === 'finish' || !step ? (
          <LookForm
            {...props}
            device={device}
            closing={arrivedClose}
            answers={answers}
            worked={worked()}
            at={() => Math.round(Date.now() - ahead)}
            back={steps.length ? back : null}
          />
        ) : (
          <>
            {lead === 'string' || (lead === 'phase' && screen.kind === 'step') ? (
              <BenchStrip strip={strip} positions={positions} progress={progress} now={step.positions} />
            ) : null}
            {lead === 'brief' && !screen.steps.some((s) => s.note || s.choices) ? (
              <BriefView
                screens={screens}
                index={index}
                bench={props}
                method={job.procedure?.method}
                heading={heading}
                ticked={ticked}
                tick={tick}
                compact={tuner}
              />
            ) : screen.kind === 'step' ? (
              <StepView
                step={step}
                cautions={lead === 'string' ? (step.cautions ?? []) : cautionsAt(screens, index)}
                next={screens[index + 1] && <Title screen={screens[index + 1] as Screen} bench={props} />}
                heading={heading}
                bench={props}
                method={job.procedure?.method}
                count={`${index + 1} of ${screens.length}`}
                choose={(i) => answer({ outcome: 'done', choice: i }, [step])}
                compact={tuner}
              />
            ) : (
              <ScreenView
                screens={screens}
                index={index}
                bench={props}
                method={job.procedure?.method}
                heading={heading}
                ticked={ticked}
                tick={tick}
                compact={tuner}
              />
            )}
            {props.marks && screen.steps.some((s) => s.id === 'prepare.layout') && (
              <p className="mt-3 text-lg">
                <span className="muted">Marks on the envelopes or ball ends: </span>
                {props.marks}
              </p>
            )}
            {step.note && (
              <NotesBox
                key={step.key}
                asks={step.note}
                noted={noted}
                note={(asked, said) => answer({ outcome: 'measured', noted: { asked, said } }, [step])}
                before={props.before}
                tag={job.tag}
                today={props.today}
                device={device}
                jobId={job.id}
                personId={props.personId}
                step={step.key}
              />
            )}
            {!step.note && PHASES.indexOf(step.phase) >= PHASES.indexOf('remove') && (
              <AsFound noted={noted} before={props.before} device={device} />
            )}
            {tuner && (
              <Tuner
                strings={props.tuned}
                rounds={step.phase === 'stretch' ? (job.procedure?.method.stretchRounds ?? 0) : null}
                drops={dropsOf(answers)}
                walk={walk}
                arrived={arrived}
                log={(number, flat) =>
                  answer({ outcome: 'measured', drop: { number, cents: Math.round(flat * 10) / 10 } }, [step])
                }
                close={() => setTuner(false)}
              />
            )}
            <div aria-live="polite" ref={beside}>
              {panel.kind === 'depart' && job.procedure ? (
                <Depart
                  job={job}
                  method={job.procedure.method}
                  begun={answers.some((a) => movesOn(a) && steps.find((s) => s.key === a.step)?.phase === 'slacken')}
                  measured={steps.every((s) => s.id !== 'fit-post.thread' || s.numbers?.slack?.label === 'Let back')}
                  close={() => setPanel({ kind: 'none' })}
                />
              ) : (
                <PanelView
                  panel={panel}
                  steps={screen.steps}
                  mistakes={mistakes}
                  locked={locked}
                  strings={positions.filter((p) => which.includes(p.number))}
                  loss={loss}
                  override={(because) => answer({ outcome: 'done', passed: because }, left)}
                  log={log}
                  skips={skips}
                  skip={skip}
                  noTo={noTo}
                  close={() => setPanel({ kind: 'none' })}
                />
              )}
            </div>
          </>
        )}
      </main>
      {screen && cursor !== 'finish' && !kit && device && (
        <footer className="sticky bottom-0 bg-base-100 border-t border-base-300 px-5 py-2.5 flex flex-wrap items-center gap-2 text-lg">
          <button type="button" className="btn btn-primary min-h-14 text-xl px-6" onClick={pass}>
            <kbd className="kbd-key bg-transparent">space</kbd>{' '}
            {locked.length > 0
              ? 'locked: why'
              : screen.steps.some((s) => s.check)
                ? screen.steps.length > 1
                  ? 'all yes, next'
                  : 'yes, next'
                : screen.steps.length > 1
                  ? 'all done, next'
                  : 'done, next'}
          </button>
          {screen.steps.some((s) => s.check) && (
            <button type="button" className="btn min-h-14 text-xl" onClick={no}>
              <Key>n</Key> {screen.steps.length > 1 ? 'no, which?' : 'no'}
            </button>
          )}
          <FootButton label="back" sign="⌫" act={back} disabled={index <= 0} />
          <FootButton label="went wrong" sign="m" act={() => setPanel({ kind: 'mistakes' })} />
          <FootButton label="tuner" sign="t" act={() => setTuner(!tuner)} pressed={tuner} />
          {skips.length > 0 && <FootButton label="skip" sign="s" act={() => setPanel({ kind: 'skip' })} />}
          <FootButton label="why" sign="w" act={() => setPanel({ kind: 'why' })} />
          {isChange(job.kind) && <FootButton label="differently" sign="d" act={() => setPanel({ kind: 'depart' })} />}
          <FootButton label="" sign="?" name="Keys" act={() => setPanel({ kind: 'help' })} />
        </footer>
      )}
    </div>
  );
}

/** What is kept where, in few words. */
function sayKept({ waiting, silent }: Saving, lasting: boolean): string {
  if (waiting === 0) return 'saved at the server';
  if (!lasting) return `${waiting} only on this page: this browser keeps nothing`;
  return silent ? `${waiting} kept here, server silent` : `sending ${waiting}`;
}

function FootButton(p: {
  label: string;
  sign: string;
  act: () => void;
  name?: string;
  disabled?: boolean;
  pressed?: boolean;
}) {
  return (
    <button
      type="button"
      className="btn btn-ghost min-h-14 text-lg px-3"
      onClick={p.act}
      disabled={p.disabled}
      aria-label={p.name}
      aria-pressed={p.pressed}
    >
      <Key>{p.sign}</Key> {p.label}
    </button>
  );
}
