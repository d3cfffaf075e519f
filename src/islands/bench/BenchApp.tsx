import { lazy, Suspense, useCallback, useEffect, useMemo, useRef, useState } from 'react';
import type { Build, Side } from '../../../core/instruments/build';
import { GATE_REASONS, gateProblems } from '../../../core/procedures/gate';
import { isLocking } from '../../../core/procedures/numbers';
import { progressOf, type StringProgress } from '../../../core/procedures/progress';
import { CAUTIONS, MISTAKES, type MistakeId } from '../../../core/procedures/reference';
import { isChange, JOB_KIND_NAMES, type Method, PHASE_NAMES, type Step } from '../../../core/procedures/types';
import { turnsOver } from '../../../core/procedures/winds';
import { postWord, sayQuantity } from '../../../core/procedures/words';
import type { StripString } from '../../../core/wear/strip';
import { tightens } from '../../../core/winding/post';
import type { FinishEntry } from '../../../server/bench/finish';
import type { Job } from '../../../server/bench/jobs';
import { PostDrawing } from '../../components/drawings/PostDrawing';
import { TailDrawing } from '../../components/drawings/TailDrawing';
import { Filled } from '../../components/Filled';
import { StringStrip } from '../../components/StringStrip';
import { stripGeometry } from '../../components/strip';
import { newKey } from '../key';
import { type Answer, post } from '../post';
import { keepLocally, readLocally } from './local';
import { Outbox, type Parcel } from './outbox';
import type { TunedString } from './Tuner';

const Tuner = lazy(() => import('./Tuner').then((m) => ({ default: m.Tuner })));
const Kit = lazy(() => import('./Kit').then((m) => ({ default: m.Kit })));
const LookForm = lazy(() => import('./LookForm').then((m) => ({ default: m.LookForm })));
const FinishForm = lazy(() => import('./FinishForm').then((m) => ({ default: m.FinishForm })));

export interface BenchPosition {
  number: number;
  note: string;
  side: Side;
  course: number;
  houseProductId: number | null;
}

export interface BenchProps {
  job: Job;
  name: string;
  parts: string;
  me: string;
  now: number;
  strip: StripString[];
  positions: BenchPosition[];
  /** What was recorded before it was taken back, to start the finish from. */
  previous: Pick<FinishEntry, 'number' | 'action' | 'productId'>[];
  choices: { id: number; name: string; gaugeMm: number; massKgPerM: number; wound: boolean }[];
  tuned: TunedString[];
  build: Pick<Build, 'head' | 'handedness' | 'tuner' | 'tailEnd' | 'stringEnd' | 'post'>;
}

type Panel =
  | { kind: 'none' }
  | { kind: 'mistakes' }
  | { kind: 'recovery'; id: MistakeId }
  | { kind: 'why' }
  | { kind: 'skip' }
  | { kind: 'gate' }
  | { kind: 'help' };

export function BenchApp(props: BenchProps) {
  const { job, positions } = props;
  const steps = job.procedure?.steps ?? [];
  const [cursor, setCursor] = useState<string>(job.cursor ?? 'finish');
  const [answers, setAnswers] = useState<{ step: string; outcome: string; note: string }[]>(job.answers);
  const [panel, setPanel] = useState<Panel>({ kind: 'none' });
  const [saving, setSaving] = useState<{ waiting: number; stuck: boolean }>({ waiting: 0, stuck: false });
  const [closed, setClosed] = useState<string | null>(null);
  // Opened or closed by hand; null: by itself where strings are tuned.
  const [byHand, setTuner] = useState<boolean | null>(null);
  const [ready, setReady] = useState(false);
  // The kit comes first, until the first step has been answered or it was passed.
  const [kitPassed, setKitPassed] = useState(false);
  const [started] = useState(() => Date.now() - (props.now - job.openedAt));
  const outbox = useRef<Outbox | null>(null);
  const heading = useRef<HTMLHeadingElement>(null);

  useEffect(() => {
    const box = new Outbox(
      localStorage,
      `arvick.outbox.${job.id}`,
      async (parcel) => {
        const answer: Answer<{ closed: string | null }> = await post(
          `/api/jobs/${job.id}/answers`,
          parcel.body,
          parcel.key,
        );
        if (answer.ok) {
          setClosed(answer.value.closed);
          return 'taken';
        }
        // The server is there but in trouble: keep the answer and try again.
        if (answer.problem === null || answer.problem.status >= 500) return 'no-answer';
        setClosed(answer.problem.detail);
        return 'refused';
      },
      (waiting, stuck) => setSaving({ waiting, stuck }),
    );
    outbox.current = box;
    // What this browser still holds is newer than what the server sent.
    // An answer may have arrived although this browser does not know it yet.
    const arrived = new Set(job.answers.map((a) => a.key));
    const held = box.waiting.filter((p: Parcel) => !arrived.has(p.key)).map((p) => p.body);
    if (held.length) setAnswers((known) => [...known, ...held]);
    const local = readLocally<{ cursor: string; answers: number }>(`arvick.cursor.${job.id}`);
    const latest = held.at(-1)?.cursor;
    if (local && local.answers === job.answers.length + held.length) setCursor(local.cursor);
    else if (latest) setCursor(latest);
    setSaving({ waiting: held.length, stuck: false });
    void box.flush();
    setReady(true);
    const again = () => void box.flush();
    window.addEventListener('online', again);
    return () => window.removeEventListener('online', again);
  }, [job.id, job.answers]);

  useEffect(() => {
    if (ready) keepLocally(`arvick.cursor.${job.id}`, { cursor, answers: answers.length });
  }, [ready, cursor, answers.length, job.id]);

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
      if (!step) return;
      const stays = outcome === 'trouble' || outcome === 'measured';
      const next = stays ? step.key : (steps[index + 1]?.key ?? 'finish');
      const body = { step: step.key, outcome, note, cursor: next };
      outbox.current?.add({ key: newKey(), body });
      setAnswers((known) => [...known, body]);
      if (!stays) go(next);
    },
    [step, steps, index, go],
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
    (id: MistakeId) => {
      answer('trouble', id);
      setPanel({ kind: 'recovery', id });
    },
    [answer],
  );

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
      if (kit && (event.key === ' ' || event.key === 'Enter')) {
        if (event.repeat || (event.target as HTMLElement).closest('button, a, input')) return;
        event.preventDefault();
        return setKitPassed(true);
      }
      if (kit || cursor === 'finish' || !step || event.ctrlKey || event.metaKey || event.altKey) return;
      const target = event.target as HTMLElement;
      if (target.closest('input, textarea, select')) return;
      const digit = /^[1-9]$/.test(event.key) ? Number(event.key) : null;
      const act = (run: () => void) => {
        event.preventDefault();
        run();
      };
      // A key held down, or a foot left on the pedal, is one press.
      if (event.repeat) return event.preventDefault();
      // A focused button keeps its own Space and Enter.
      if ((event.key === ' ' || event.key === 'Enter') && target.closest('button, a')) return;
      if (event.key === ' ' || event.key === 'Enter')
        return act(() => (panel.kind === 'none' ? pass() : setPanel({ kind: 'none' })));
      if (event.key === 'Backspace' || event.key === 'ArrowLeft') return act(back);
      if (event.key === 'Escape') return act(() => setPanel({ kind: 'none' }));
      if (event.key === 'm') return act(() => setPanel({ kind: 'mistakes' }));
      if (event.key === 't') return act(() => setTuner(!tuner));
      if (event.key === 'w') return act(() => setPanel({ kind: 'why' }));
      if (event.key === '?') return act(() => setPanel({ kind: 'help' }));
      if (event.key === 's' && step.skipBecause) return act(() => setPanel({ kind: 'skip' }));
      if (event.key === 'n' && step.check) return act(() => step.check && log(step.check.ifNot));
      if (digit === null) return;
      if (panel.kind === 'none' && step.choices?.[digit - 1] !== undefined)
        return act(() => answer('done', String(digit - 1)));
      const mistake = panel.kind === 'mistakes' ? mistakes[digit - 1] : undefined;
      if (mistake) return act(() => log(mistake));
      const override = panel.kind === 'gate' ? GATE_REASONS[digit - 1] : undefined;
      if (override) return act(() => answer('done', `all the same: ${override}`));
      const because = panel.kind === 'skip' ? step.skipBecause?.[digit - 1] : undefined;
      if (because) return act(() => answer('skipped', because));
      const wanted =
        panel.kind === 'none' &&
        steps.find((s) => s.phase === step.phase && s.positions.length === 1 && s.positions[0] === digit);
      if (wanted) return act(() => go(wanted.key));
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [cursor, step, steps, panel, mistakes, answer, pass, back, log, go, tuner, kit]);

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
  const brokenAt = answers
    .filter((a) => a.outcome === 'trouble' && MISTAKES[a.note as MistakeId]?.stringLost)
    .flatMap((a) => steps.find((s) => s.key === a.step)?.positions.slice(0, 1) ?? []);
  const off = [...progress.values()].filter((p) => p === 'off').length;

  return (
    <div className="min-h-screen flex flex-col text-[22px]">
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
      <main className="grow px-7 py-4 flex flex-col" data-ready={ready}>
        {!ready ? (
          <p className="muted">Opening the bench.</p>
        ) : kit ? (
          <Suspense fallback={<p className="muted">Opening the kit.</p>}>
            <Kit bench={props} start={() => setKitPassed(true)} heading={heading} />
          </Suspense>
        ) : cursor === 'finish' || !step ? (
          <Suspense fallback={<p className="muted">Opening the finish.</p>}>
            {isChange(job.kind) ? (
              <FinishForm {...props} brokenAt={brokenAt} startedAt={started} back={steps.length ? back : null} />
            ) : (
              <LookForm {...props} answers={answers} startedAt={started} back={steps.length ? back : null} />
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
            <div aria-live="polite">
              <PanelView
                panel={panel}
                step={step}
                mistakes={mistakes}
                locked={locked}
                override={(because) => answer('done', `all the same: ${because}`)}
                log={log}
                skip={(because) => answer('skipped', because)}
                close={() => setPanel({ kind: 'none' })}
              />
            </div>
          </>
        )}
      </main>
      {step && cursor !== 'finish' && !kit && (
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
          <button type="button" className="btn btn-ghost min-h-14 text-lg px-3" onClick={back} disabled={index <= 0}>
            <Key>⌫</Key> back
          </button>
          <button
            type="button"
            className="btn btn-ghost min-h-14 text-lg px-3"
            onClick={() => setPanel({ kind: 'mistakes' })}
          >
            <Key>m</Key> went wrong
          </button>
          <button
            type="button"
            className="btn btn-ghost min-h-14 text-lg px-3"
            onClick={() => setTuner(!tuner)}
            aria-pressed={tuner}
          >
            <Key>t</Key> tuner
          </button>
          {step.skipBecause && (
            <button
              type="button"
              className="btn btn-ghost min-h-14 text-lg px-3"
              onClick={() => setPanel({ kind: 'skip' })}
            >
              <Key>s</Key> skip
            </button>
          )}
          <button
            type="button"
            className="btn btn-ghost min-h-14 text-lg px-3"
            onClick={() => setPanel({ kind: 'why' })}
          >
            <Key>w</Key> why
          </button>
          <button
            type="button"
            className="btn btn-ghost min-h-14 text-lg px-3"
            onClick={() => setPanel({ kind: 'help' })}
            aria-label="Keys"
          >
            <Key>?</Key>
          </button>
          <span className={`ml-auto ${saving.stuck ? 'text-warning' : 'muted'}`} role="status">
            {saving.waiting === 0
              ? 'saved at the server'
              : saving.stuck
                ? `${saving.waiting} kept here, server silent`
                : `sending ${saving.waiting}`}
          </span>
        </footer>
      )}
    </div>
  );
}

/** Drops kept in the answers, by string, in the order they were taken: "drop 6 112.0". */
function dropsOf(answers: readonly { outcome: string; note: string }[]): Map<number, number[]> {
  const drops = new Map<number, number[]>();
  for (const { outcome, note } of answers) {
    const [, number, flat] = (outcome === 'measured' && /^drop (\d+) ([\d.]+)$/.exec(note)) || [];
    if (number && flat) drops.set(Number(number), [...(drops.get(Number(number)) ?? []), Number(flat)]);
  }
  return drops;
}

const lowerFirst = (text: string) => text.charAt(0).toLowerCase() + text.slice(1);

function Key({ children }: { children: string }) {
  return <kbd className="kbd-key text-base">{children}</kbd>;
}

function Elapsed({ since }: { since: number }) {
  const [text, setText] = useState('');
  useEffect(() => {
    const tick = () => {
      const minutes = Math.max(0, Math.floor((Date.now() - since) / 60_000));
      setText(minutes < 600 ? `${minutes} min` : 'open since before today');
    };
    tick();
    const timer = setInterval(tick, 20_000);
    return () => clearInterval(timer);
  }, [since]);
  return <span className="tag">{text}</span>;
}

function BenchStrip({
  strip,
  positions,
  progress,
  now,
}: {
  strip: StripString[];
  positions: BenchPosition[];
  progress: Map<number, StringProgress>;
  now: number[];
}) {
  const height = Math.min(150, Math.max(74, positions.length * 21));
  const courses = positions.map((p) => p.course);
  const lines = stripGeometry(strip, 1000, height, courses).lines;
  const single = now.length === 1;
  const words: Record<StringProgress, string> = { old: '', off: 'off', on: 'on' };
  const tone = (n: number) => (single && now.includes(n) ? 'font-bold text-warning' : 'muted');
  const column = (width: string, text: (p: BenchPosition) => string, hidden: boolean) => (
    <ol
      className={`text-base leading-none relative shrink-0 ${width}`}
      style={{ height }}
      aria-hidden={hidden}
      aria-label={hidden ? undefined : 'Strings'}
    >
      {positions.map((p, i) => (
        <li
          key={p.number}
          className={`absolute -translate-y-1/2 whitespace-nowrap ${tone(p.number)}`}
          style={{ top: lines[i]?.y }}
        >
          {text(p)}
        </li>
      ))}
    </ol>
  );
  return (
    <div className="flex items-stretch gap-3 max-w-[1180px]">
      {column('w-14 tag', (p) => `${p.number} ${p.note}`, false)}
      <div className="grow min-w-0 overflow-hidden" style={{ height }}>
        <StringStrip strings={strip} width={1000} height={height} courses={courses} lit={single ? now : []} stretch />
      </div>
      {column('w-12', (p) => (single && now.includes(p.number) ? 'now' : words[progress.get(p.number) ?? 'old']), true)}
    </div>
  );
}

function StepView({
  step,
  next,
  heading,
  bench,
  method,
  count,
  choose,
  compact,
}: {
  step: Step;
  next: Step | undefined;
  heading: React.RefObject<HTMLHeadingElement | null>;
  bench: BenchProps;
  method: Method | undefined;
  count: string;
  choose: (answer: number) => void;
  /** Only what has to be seen beside the tuner. */
  compact: boolean;
}) {
  const only = step.positions.length === 1 ? bench.positions.find((p) => p.number === step.positions[0]) : undefined;
  const shown = Object.entries(step.numbers ?? {}).filter(([name]) => name !== 'count');
  const winds = step.numbers?.winds;
  const product = bench.choices.find((c) => c.id === only?.houseProductId);
  return (
    <div className="grid gap-x-8 lg:grid-cols-[1fr_330px] mt-4 grow content-start">
      <section>
        <p className="muted text-lg">
          {PHASE_NAMES[step.phase]}
          {only ? `, string ${only.number} ${only.note}, ${only.side} side` : ''} · step {count}
        </p>
        <h1
          ref={heading}
          tabIndex={-1}
          className={`text-[30px] ${compact ? 'sm:text-[32px] max-w-[34em]' : 'sm:text-[42px] max-w-[24em]'} leading-tight font-bold mt-1 outline-none`}
        >
          <Filled text={step.title} numbers={step.numbers} />
        </h1>
        {step.detail && (
          <p className="mt-3 text-[24px] leading-snug max-w-[34em]">
            <Filled text={step.detail} numbers={step.numbers} />
          </p>
        )}
        <div className={`flex flex-wrap gap-3 mt-4 ${compact ? 'hidden' : ''}`}>
          {shown.map(([name, q]) => (
            <div key={name} className="card-paper px-4 py-2 min-w-36">
              <span className="muted text-base block">{q.label}</span>
              <b className="text-[28px]">{name === 'stack' ? q.value.toFixed(q.digits) : sayQuantity(q)}</b>
              {name === 'stack' && <span className="muted"> of {q.to?.toFixed(1)} mm</span>}
            </div>
          ))}
          {step.notYet && (
            <div className="card-paper border-accent px-4 py-2">
              <span className="muted text-base block">Not yet</span>
              {step.notYet}
            </div>
          )}
          {!step.undoable && (
            <div className="card-paper border-error px-4 py-2">
              <span className="muted text-base block">Careful</span>
              Cannot be undone{step.gate ? `. Only when: ${lowerFirst(step.gate)}` : ''}
            </div>
          )}
        </div>
        {step.check && (
          <div className="mt-4 border-l-4 border-primary pl-4">
            <p className="font-bold text-[26px]">{step.check.question}</p>
            <p className="muted">{step.check.good}</p>
          </div>
        )}
        {step.choices && (
          <div className="flex flex-wrap gap-3 mt-4">
            {step.choices.map((text, i) => (
              <button key={text} type="button" className="btn min-h-14 text-xl" onClick={() => choose(i)}>
                <Key>{String(i + 1)}</Key> {text}
              </button>
            ))}
          </div>
        )}
        {step.stopIf && (
          <div className="mt-4 card-paper border-error px-4 py-2 max-w-[44em]">
            <span className="font-bold text-error text-base block">Stop if</span>
            <ul className="text-lg">
              {step.stopIf.map((line) => (
                <li key={line}>{line}</li>
              ))}
            </ul>
          </div>
        )}
        {step.note && (
          <p className="mt-3 text-lg max-w-[44em]">
            <b>Write down:</b> {step.note.join('; ')}.
          </p>
        )}
        {step.cautions?.map((id) => (
          <p key={id} className="mt-3 text-lg text-warning flex gap-2 max-w-[44em]">
            <span aria-hidden="true" className="font-bold">
              △
            </span>{' '}
            {CAUTIONS[id]}
          </p>
        ))}
        {next && !compact && (
          <p className="muted text-lg mt-4 max-w-[40em]">
            after: <Filled text={next.title} numbers={next.numbers} />
          </p>
        )}
      </section>
      {step.drawing && !compact && (
        <div className="grid place-items-center" aria-hidden={undefined}>
          {step.drawing === 'post' && winds && method ? (
            <PostDrawing
              kind={postWord(bench.build)}
              turns={winds.value}
              gaugeMm={product?.gaugeMm ?? 0.8}
              diameterMm={bench.build.post.diameterMm}
              over={turnsOver(method, product?.wound ?? true)}
              selfLock={method.winds === 'self-lock'}
              locking={isLocking(bench.build)}
              slotted={bench.build.tuner === 'slotted-post'}
              rotation={only ? tightens(bench.build.head, only.side, bench.build.handedness) : 'over-the-top'}
              stackMm={winds.value * (product?.gaugeMm ?? 0.8)}
              roomMm={bench.build.post.roomUnderHoleMm}
              away={step.numbers?.away?.value ?? 0}
            />
          ) : step.drawing === 'tail' ? (
            <TailDrawing
              tailEnd={bench.build.tailEnd}
              stringEnd={bench.build.stringEnd}
              turns={step.numbers?.turns?.value ?? 2}
            />
          ) : null}
        </div>
      )}
    </div>
  );
}

function PanelView({
  panel,
  step,
  mistakes,
  locked,
  override,
  log,
  skip,
  close,
}: {
  panel: Panel;
  step: Step;
  mistakes: MistakeId[];
  locked: string[];
  override: (because: string) => void;
  log: (id: MistakeId) => void;
  skip: (because: string) => void;
  close: () => void;
}) {
  if (panel.kind === 'none') return null;
  const choice = 'btn justify-start text-left h-auto min-h-14 py-2 text-xl font-normal';
  return (
    <section className="card-paper border-primary p-5 mt-4 max-w-4xl" aria-label={panel.kind}>
      {panel.kind === 'mistakes' && (
        <>
          <h2 className="font-bold mb-2">What went wrong?</h2>
          {mistakes.length === 0 && <p>Nothing usual at this step. Go back a step, or note it at the finish.</p>}
          <div className="grid gap-2">
            {mistakes.map((id, i) => (
              <button key={id} type="button" className={choice} onClick={() => log(id)}>
                <Key>{String(i + 1)}</Key> {MISTAKES[id].happens}
              </button>
            ))}
          </div>
        </>
      )}
      {panel.kind === 'recovery' && (
        <>
          <h2 className="font-bold">{MISTAKES[panel.id].happens}</h2>
          <p className="muted">
            {MISTAKES[panel.id].cause}. It happens to everyone
            {MISTAKES[panel.id].stringLost ? '.' : '; nothing is lost while the string is uncut.'}
          </p>
          <ol className="list-decimal pl-6 my-3">
            {MISTAKES[panel.id].recovery.map((line) => (
              <li key={line}>{line}</li>
            ))}
          </ol>
        </>
      )}
      {panel.kind === 'why' && (
        <>
          <h2 className="font-bold mb-2">Why</h2>
          <p className="mb-2">{step.reason}</p>
          {Object.values(step.numbers ?? {}).map((q) => (
            <p key={q.label} className="mb-1">
              <b>
                {q.label}: {sayQuantity(q)}.
              </b>{' '}
              {q.why}
            </p>
          ))}
        </>
      )}
      {panel.kind === 'gate' && (
        <>
          <h2 className="font-bold">Locked: this cannot be undone</h2>
          <ul className="list-disc pl-6 my-2">
            {locked.map((line) => (
              <li key={line}>{line}</li>
            ))}
          </ul>
          <p className="muted mb-2">Go back and finish that, or say why it is done all the same:</p>
          <div className="grid gap-2">
            {GATE_REASONS.map((because, i) => (
              <button key={because} type="button" className={choice} onClick={() => override(because)}>
                <Key>{String(i + 1)}</Key> {because}
              </button>
            ))}
          </div>
        </>
      )}
      {panel.kind === 'skip' && (
        <>
          <h2 className="font-bold mb-2">Skipped because</h2>
          <div className="grid gap-2">
            {step.skipBecause?.map((because, i) => (
              <button key={because} type="button" className={choice} onClick={() => skip(because)}>
                <Key>{String(i + 1)}</Key> {because}
              </button>
            ))}
          </div>
        </>
      )}
      {panel.kind === 'help' && (
        <>
          <h2 className="font-bold mb-2">Keys</h2>
          <dl className="grid grid-cols-[auto_1fr] gap-x-4 gap-y-1">
            {[
              ['space', 'done or yes, and next'],
              ['⌫', 'a step back; nothing is lost'],
              ['n', 'no to the question: shows the recovery'],
              ['1–9', 'go to that string within this phase'],
              ['m', 'something went wrong'],
              ['t', 'the tuner, open or closed'],
              ['s', 'skip because, where a step may be skipped'],
              ['w', 'why this step and these numbers'],
              ['esc', 'close this'],
            ].map(([key, does]) => (
              <div key={key} className="contents">
                <dt>
                  <Key>{key as string}</Key>
                </dt>
                <dd>{does}</dd>
              </div>
            ))}
          </dl>
        </>
      )}
      <button type="button" className="btn min-h-14 mt-3 text-lg" onClick={close}>
        <Key>space</Key> back to the step
      </button>
    </section>
  );
}
