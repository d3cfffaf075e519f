import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { dropsOf, lostAt, movesOn, notedIn, type Said } from '../../../core/procedures/answers';
import { GATE_REASONS, gateProblems } from '../../../core/procedures/gate';
import { type Lead, screensOf } from '../../../core/procedures/led';
import { MISTAKES, type MistakeId } from '../../../core/procedures/mistakes';
import { progressOf, tickedSteps } from '../../../core/procedures/progress';
import { phaseTimes, type TimedAnswer } from '../../../core/procedures/times';
import { isChange, type Step } from '../../../core/procedures/types';
import type { StripString } from '../../../core/wear/strip';
import type { BenchView } from '../../../server/bench/page';
import { useCommand } from '../../ui/useCommand';
import { useHotKeys } from '../../ui/useHotKeys';
import { clockAhead } from './device';
import type { Panel } from './Panels';
import { checksOf } from './screen';
import { type LocalAnswer, useAnswers } from './useAnswers';

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

/** A job at the bench: where one is on its card, what has been said, and what each press does. */
export function useBench(props: BenchProps) {
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
  // Presses in a row, or a pedal held down, never confirm what cannot be undone: that has a key of its own.
  const confirmGate = () => (locked.length === 0 ? answer({ outcome: 'done' }, left) : false);
  const forward = () => (left.some((s) => s.gate) ? setPanel({ kind: 'gate' }) : pass());
  const onward = () => (panel.kind === 'none' ? forward() : shut());
  const offer = (next: Panel, there = true) => (there ? setPanel(next) : false);
  /** What a digit chooses, by what is open and what is on the screen. */
  const chosenBy = (digit: number): (() => void) | undefined => {
    if (panel.kind === 'mistakes') {
      const mistake = mistakes[digit - 1];
      return mistake && (() => log(mistake));
    }
    if (panel.kind === 'which') return which.includes(digit) ? () => log(panel.id, digit) : undefined;
    if (panel.kind === 'gate') {
      const passed = locked.length > 0 ? GATE_REASONS[digit - 1] : undefined;
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
      y: () => (panel.kind === 'gate' ? confirmGate() : false),
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

  return {
    steps,
    lead,
    screens,
    cursor,
    panel,
    setPanel,
    setTuner,
    setKitPassed,
    ahead,
    answers,
    saving,
    closed,
    loss,
    arrivedClose,
    device,
    started,
    heading,
    beside,
    kit,
    index,
    screen,
    step,
    ticked,
    tuner,
    go,
    answer,
    back,
    mistakes,
    log,
    no,
    noTo,
    which,
    skips,
    left,
    locked,
    onward,
    confirmGate,
    tick,
    walk,
    arrived,
    skip,
    choose,
    progress,
    strip,
    brokenAt,
    off,
    noted,
    worked,
  };
}

export type BenchInHand = ReturnType<typeof useBench>;
