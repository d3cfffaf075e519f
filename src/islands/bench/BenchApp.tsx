import { lazy, Suspense, useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { dropsOf, GATE_REASONS, gateProblems, passWith } from '../../../core/procedures/gate';
import { progressOf } from '../../../core/procedures/progress';
import { MISTAKES, type MistakeId } from '../../../core/procedures/reference';
import { phaseTimes, type TimedAnswer } from '../../../core/procedures/times';
import { lostAt, troubleNote } from '../../../core/procedures/troubles';
import { isChange, JOB_KIND_NAMES, PHASES } from '../../../core/procedures/types';
import type { StripString } from '../../../core/wear/strip';
import type { Loss } from '../../../server/bench/losses';
import type { BenchView } from '../../../server/bench/page';
import { newKey } from '../../ui/key';
import type { ProblemAnswer } from '../../ui/post';
import { clockAhead, type Device, openDevice, type Saving } from './device';
import { Elapsed } from './Elapsed';
import { Key } from './Key';
import type { Parcel } from './keep';
import { AsFound, NotesBox, notedIn } from './Notes';
import { type Panel, PanelView } from './Panels';
import { BenchStrip, StepView } from './StepView';

const Tuner = lazy(() => import('./Tuner').then((m) => ({ default: m.Tuner })));
const Kit = lazy(() => import('./Kit').then((m) => ({ default: m.Kit })));
const LookForm = lazy(() => import('./LookForm').then((m) => ({ default: m.LookForm })));
const FinishForm = lazy(() => import('./FinishForm').then((m) => ({ default: m.FinishForm })));
const Depart = lazy(() => import('./Depart').then((m) => ({ default: m.Depart })));

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

/** An answer as the bench knows it. */
export interface LocalAnswer {
  step: string;
  outcome: string;
  note: string;
  at: number;
  key: string;
}

const wasAnswered = (a: LocalAnswer) => a.outcome === 'done' || a.outcome === 'skipped';

/** Answers of a job: those the server sent, then those only this device knows yet. */
export function mergeAnswers(server: readonly LocalAnswer[], parcels: readonly Parcel[]): LocalAnswer[] {
  const arrived = new Set(server.map((a) => a.key));
  const held = parcels.filter((p) => p.kind === 'answer' && p.state !== 'refused' && !arrived.has(p.key));
  return [...server, ...held.map((p) => ({ ...(p.body as unknown as LocalAnswer), key: p.key }))];
}

export function BenchApp(props: BenchProps) {
  const { job, positions, batch } = props;
  const steps = useMemo(() => job.procedure?.steps ?? [], [job.procedure]);
  const [cursor, setCursor] = useState<string>(job.cursor ?? 'finish');
  const [answers, setAnswers] = useState<LocalAnswer[]>(job.answers);
  const [panel, setPanel] = useState<Panel>({ kind: 'none' });
  const [saving, setSaving] = useState<Saving>({ waiting: 0, silent: false });
  const [closed, setClosed] = useState<string | null>(null);
  const [loss, setLoss] = useState<Loss | null>(null);
  const [arrivedClose, setArrivedClose] = useState<Parcel | null>(null);
  // Opened or closed by hand; null: by itself where strings are tuned.
  const [byHand, setTuner] = useState<boolean | null>(null);
  const [device, setDevice] = useState<Device | null>(null);
  // The kit comes first, until the first step has been answered or it was passed.
  const [kitPassed, setKitPassed] = useState(batch !== undefined);
  const [ahead] = useState(() => clockAhead(props.now));
  const started = job.openedAt + ahead;
  const heading = useRef<HTMLHeadingElement>(null);
  const beside = useRef<HTMLDivElement>(null);
  useEffect(() => {
    if (panel.kind !== 'none') beside.current?.scrollIntoView({ block: 'center' });
  }, [panel.kind]);

  useEffect(() => {
    let current = true;
    const arrived = (parcel: Parcel) => {
      if (!current || parcel.jobId !== job.id) return;
      if (parcel.kind === 'close') return setArrivedClose(parcel);
      if (parcel.state === 'refused') return setClosed((parcel.answer as ProblemAnswer).detail);
      if (parcel.state === 'aside')
        return setClosed(
          'The server could not keep one of your answers. It is kept on this device, and the rest goes on.',
        );
      const answer = parcel.answer as { closed: string | null; loss: Loss | null };
      setClosed(answer.closed);
      if (answer.loss) setLoss(answer.loss);
    };
    let opened: Device | null = null;
    const again = () => void opened?.outbox.flush();
    void openDevice(job.id, { changed: (s) => current && setSaving(s), arrived }).then((d) => {
      if (!current) return;
      opened = d;
      const known = mergeAnswers(job.answers, d.parcels);
      setAnswers(known);
      // Where this device stood, unless somebody went on elsewhere.
      const local = d.read<{ cursor: string; answers: number }>('cursor');
      const last = d.parcels.filter((p) => p.kind === 'answer' && p.state !== 'refused').at(-1);
      const held = known.length > job.answers.length ? (last?.body.cursor as string | undefined) : undefined;
      const to = local && local.answers === known.length ? local.cursor : held;
      if (to && (to === 'finish' || steps.some((s) => s.key === to))) setCursor(to);
      if (d.parcels.some((p) => p.kind === 'close' && p.state === 'waiting')) setCursor('finish');
      // What waits from before is not at the server, whatever the first round of sending will say.
      setSaving({ waiting: d.parcels.filter((p) => p.state === 'waiting').length, silent: false });
      setDevice(d);
      void d.outbox.flush();
    });
    window.addEventListener('online', again);
    return () => {
      current = false;
      window.removeEventListener('online', again);
    };
  }, [job.id, job.answers, steps]);

  useEffect(() => {
    device?.write('cursor', { cursor, answers: answers.length });
  }, [device, cursor, answers.length]);

  const kit = isChange(job.kind) && job.kind !== 'refit' && steps.length > 0 && answers.length === 0 && !kitPassed;
  const index = steps.findIndex((s) => s.key === cursor);
  const step = steps[index];
  const tuner = byHand ?? (step?.phase === 'tune' || step?.phase === 'stretch');
  const go = useCallback((to: string) => {
    setCursor(to);
    setPanel({ kind: 'none' });
    queueMicrotask(() => heading.current?.focus());
  }, []);

  const answer = useCallback(
    (outcome: 'done' | 'skipped' | 'trouble' | 'measured', note: string) => {
      if (!step || !device) return;
      const stays = outcome === 'trouble' || outcome === 'measured';
      const next = stays ? step.key : (steps[index + 1]?.key ?? 'finish');
      const body = { step: step.key, outcome, note, cursor: next, at: Math.round(Date.now() - ahead) };
      const key = newKey();
      void device.outbox.add({
        key,
        jobId: job.id,
        tag: job.tag,
        kind: 'answer',
        url: `/api/jobs/${job.id}/answers`,
        body,
        personId: props.personId,
        state: 'waiting',
      });
      const all = [...answers, { step: step.key, outcome, note, at: body.at, key }];
      setAnswers(all);
      if (stays) return;
      go(next);
      batch?.answered(job.id, all, step.key);
    },
    [step, steps, index, go, device, job.id, job.tag, props.personId, ahead, answers, batch],
  );
  const back = useCallback(() => {
    if (panel.kind !== 'none') return setPanel({ kind: 'none' });
    const previous = cursor === 'finish' ? steps.at(-1) : steps[index - 1];
    if (previous) go(previous.key);
  }, [panel.kind, cursor, steps, index, go]);
  const mistakes = useMemo(
    (): MistakeId[] => [...new Set([...(step?.check ? [step.check.ifNot] : []), ...(step?.mistakes ?? [])])],
    [step],
  );
  const log = useCallback(
    (id: MistakeId, number: number | null = null) => {
      // Which string it was has to be known where it is lost and the step works on several.
      const several = (step?.positions.length ?? 0) !== 1;
      if (MISTAKES[id].stringLost && several && number === null) return setPanel({ kind: 'which', id });
      setLoss(null);
      answer('trouble', troubleNote(id, number));
      setPanel({ kind: 'recovery', id });
    },
    [answer, step],
  );
  const which = step?.positions.length ? step.positions : job.numbers;

  const locked = useMemo(
    () =>
      step?.gate
        ? gateProblems(step.key, {
            steps,
            answers,
            drops: dropsOf(answers),
            strings: props.tuned,
            rounds: job.procedure?.method.stretchRounds ?? 0,
          })
        : [],
    [step, steps, answers, props.tuned, job.procedure],
  );
  // What cannot be undone is passed only when it is open, or with a reason.
  const pass = useCallback(
    () => (locked.length > 0 ? setPanel({ kind: 'gate' }) : answer('done', '')),
    [locked, answer],
  );

  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const target = event.target as HTMLElement;
      if (kit && (event.key === ' ' || event.key === 'Enter')) {
        if (event.repeat || target.closest?.('button, a, input')) return;
        event.preventDefault();
        return setKitPassed(true);
      }
      if (kit || cursor === 'finish' || !step || event.ctrlKey || event.metaKey || event.altKey) return;
      if (target.closest?.('input, textarea, select, [data-own-keys]')) return;
      const digit = /^[1-9]$/.test(event.key) ? Number(event.key) : null;
      const act = (run: () => void) => {
        event.preventDefault();
        run();
      };
      // A key held down, or a foot left on the pedal, is one press.
      if (event.repeat) return event.preventDefault();
      // A focused button keeps its own Space and Enter.
      if ((event.key === ' ' || event.key === 'Enter') && target.closest?.('button, a')) return;
      if (event.key === ' ' || event.key === 'Enter')
        return act(() => (panel.kind === 'none' ? pass() : setPanel({ kind: 'none' })));
      if (event.key === 'Backspace' || event.key === 'ArrowLeft') return act(back);
      if (event.key === 'Escape') return act(() => setPanel({ kind: 'none' }));
      if (event.key === 'm') return act(() => setPanel({ kind: 'mistakes' }));
      if (event.key === 't') return act(() => setTuner(!tuner));
      if (event.key === 'w') return act(() => setPanel({ kind: 'why' }));
      if (event.key === 'd' && isChange(job.kind)) return act(() => setPanel({ kind: 'depart' }));
      if (event.key === '?') return act(() => setPanel({ kind: 'help' }));
      if (event.key === 's' && step.skipBecause) return act(() => setPanel({ kind: 'skip' }));
      if (event.key === 'n' && step.check) return act(() => step.check && log(step.check.ifNot));
      if (digit === null) return;
      if (panel.kind === 'none' && step.choices?.[digit - 1] !== undefined)
        return act(() => answer('done', String(digit - 1)));
      const mistake = panel.kind === 'mistakes' ? mistakes[digit - 1] : undefined;
      if (mistake) return act(() => log(mistake));
      if (panel.kind === 'which' && which.includes(digit)) return act(() => log(panel.id, digit));
      const override = panel.kind === 'gate' ? GATE_REASONS[digit - 1] : undefined;
      if (override) return act(() => answer('done', passWith(override)));
      const because = panel.kind === 'skip' ? step.skipBecause?.[digit - 1] : undefined;
      if (because) return act(() => answer('skipped', because));
      const wanted =
        panel.kind === 'none' &&
        steps.find((s) => s.phase === step.phase && s.positions.length === 1 && s.positions[0] === digit);
      if (wanted) return act(() => go(wanted.key));
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [cursor, step, steps, panel, mistakes, answer, pass, back, log, go, tuner, kit, which, job.kind]);

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
    const own = answers.filter(wasAnswered).map((a) => ({ jobId: job.id, step: a.step, at: a.at }));
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
          href={`/instruments/${job.tag}`}
          className="tag font-bold text-2xl"
          title="Leave the bench; it waits for you here"
        >
          {job.tag}
        </a>
        <span>{props.name}</span>
        <span className="muted text-lg">
          {props.parts}
          {job.kind !== 'full-set' && `, ${JOB_KIND_NAMES[job.kind].toLowerCase()}`}
          {job.departure && `, not as the house does it: ${job.departure.reason}`}
        </span>
        <span className="ml-auto text-lg muted">
          {off > 0 && <b className="text-warning">{off === 1 ? '1 string' : `${off} strings`} off </b>}
          <Elapsed since={started} />
        </span>
      </header>
      {closed && cursor !== 'finish' && (
        <p role="alert" className="card-paper border-error m-4 p-4">
          {closed} What you go on to answer is kept with the job.{' '}
          <a className="link" href={`/instruments/${job.tag}`}>
            See {job.tag}
          </a>
        </p>
      )}
      <main className="grow px-7 py-4 flex flex-col" data-ready={device !== null}>
        {!device ? (
          <p className="muted">Opening the bench.</p>
        ) : kit ? (
          <Suspense fallback={<p className="muted">Opening the kit.</p>}>
            <Kit bench={props} device={device} start={() => setKitPassed(true)} heading={heading} />
          </Suspense>
        ) : cursor === 'finish' || !step ? (
          <Suspense fallback={<p className="muted">Opening the finish.</p>}>
            {isChange(job.kind) ? (
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
            ) : (
              <LookForm
                {...props}
                device={device}
                closing={arrivedClose}
                answers={answers}
                worked={worked()}
                at={() => Math.round(Date.now() - ahead)}
                back={steps.length ? back : null}
              />
            )}
          </Suspense>
        ) : (
          <>
            <BenchStrip strip={strip} positions={positions} progress={progress} now={step.positions} />
            <StepView
              step={step}
              next={steps[index + 1]}
              heading={heading}
              bench={props}
              method={job.procedure?.method}
              count={`${index + 1} of ${steps.length}`}
              choose={(i) => answer('done', String(i))}
              compact={tuner}
            />
            {step.note && (
              <NotesBox
                key={step.key}
                asks={step.note}
                noted={noted}
                note={(text) => answer('measured', text)}
                device={device}
                jobId={job.id}
                step={step.key}
              />
            )}
            {!step.note && PHASES.indexOf(step.phase) >= PHASES.indexOf('remove') && (
              <AsFound noted={noted} device={device} />
            )}
            {tuner && (
              <Suspense fallback={<p className="muted">Opening the tuner.</p>}>
                <Tuner
                  strings={props.tuned}
                  rounds={step.phase === 'stretch' ? (job.procedure?.method.stretchRounds ?? 0) : null}
                  drops={dropsOf(answers)}
                  log={(number, flat) => answer('measured', `drop ${number} ${flat.toFixed(1)}`)}
                  close={() => setTuner(false)}
                />
              </Suspense>
            )}
            <div aria-live="polite" ref={beside}>
              {panel.kind === 'depart' && job.procedure ? (
                <Suspense fallback={<p className="muted">One moment.</p>}>
                  <Depart
                    job={job}
                    method={job.procedure.method}
                    begun={answers.some(
                      (a) => wasAnswered(a) && steps.find((s) => s.key === a.step)?.phase === 'slacken',
                    )}
                    close={() => setPanel({ kind: 'none' })}
                  />
                </Suspense>
              ) : (
                <PanelView
                  panel={panel}
                  step={step}
                  mistakes={mistakes}
                  locked={locked}
                  strings={positions.filter((p) => which.includes(p.number))}
                  loss={loss}
                  override={(because) => answer('done', passWith(because))}
                  log={log}
                  skip={(because) => answer('skipped', because)}
                  close={() => setPanel({ kind: 'none' })}
                />
              )}
            </div>
          </>
        )}
      </main>
      {step && cursor !== 'finish' && !kit && device && (
        <footer className="sticky bottom-0 bg-base-100 border-t border-base-300 px-5 py-2.5 flex flex-wrap items-center gap-2 text-lg">
          <button type="button" className="btn btn-primary min-h-14 text-xl px-6" onClick={pass}>
            <kbd className="kbd-key bg-transparent">space</kbd>{' '}
            {locked.length > 0 ? 'locked: why' : step.check ? 'yes, next' : 'done, next'}
          </button>
          {step.check && (
            <button type="button" className="btn min-h-14 text-xl" onClick={() => step.check && log(step.check.ifNot)}>
              <Key>n</Key> no
            </button>
          )}
          <FootButton label="back" sign="⌫" act={back} disabled={index <= 0} />
          <FootButton label="went wrong" sign="m" act={() => setPanel({ kind: 'mistakes' })} />
          <FootButton label="tuner" sign="t" act={() => setTuner(!tuner)} pressed={tuner} />
          {step.skipBecause && <FootButton label="skip" sign="s" act={() => setPanel({ kind: 'skip' })} />}
          <FootButton label="why" sign="w" act={() => setPanel({ kind: 'why' })} />
          <FootButton label="" sign="?" name="Keys" act={() => setPanel({ kind: 'help' })} />
          <span className={`ml-auto ${saving.silent || !device.keep.lasting ? 'text-warning' : 'muted'}`} role="status">
            {sayKept(saving, device.keep.lasting)}
          </span>
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
