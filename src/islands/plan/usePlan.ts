import { startTransition, useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { addDays, daysBetween, sayWeekday } from '../../../core/dates';
import { brokenByMove, brokenRules, costOf } from '../../../core/planning/check';
import { type Help, lateAndOut } from '../../../core/planning/improve';
import { type Plan, type PlanProblem, sessionMinutes } from '../../../core/planning/model';
import { quickPlan } from '../../../core/planning/quick';
import { placedAgain, repaired } from '../../../core/planning/repair';
import { shiftOf } from '../../../core/planning/shifts';
import { plannedVisits } from '../../../core/planning/visits';
import type { Proposal } from '../../../server/plan/night';
import type { PlanInput } from '../../../server/plan/problem';
import type { Told } from '../../../server/plan/publish';
import type { ProgrammeWeights } from '../../../server/plan/weights';
import { LONG_WORK_MS } from '../../ui/post';
import { useCommand } from '../../ui/useCommand';
import type { FromPlanner, ToPlanner } from '../../workers/plan.worker';
import { type Extras, jobsByShift, NO_EXTRAS, namesOf, says, type Variant, withExtras } from './model';

/** Moves to try: by how many jobs there are, some seconds at most. */
const MOVES = { perJob: 30_000, least: 400_000, most: 5_000_000 };
const BOUND_SECONDS = 12;
/** A small programme is solved outright after this; a large one gains little. */
const POLISH_SECONDS = 3;
/** Plans that can be gone back to. */
const MOST_UNDONE = 50;

/** A plan that can be gone back to, with the absence that was entered with the step after it. */
interface Past {
  plan: Plan;
  absence?: { person: number; day: number };
}

export interface Notice {
  text: string;
  bad: boolean;
}

/** Where a search is: looking, with the share that is done; proving how good its plan is. */
export type Solving = { state: 'looking'; progress: number } | { state: 'proving' };

function useTold(says: string | null, tell: (notice: Notice) => void): void {
  useEffect(() => {
    if (says) tell({ text: says, bad: true });
  }, [says, tell]);
}

/** The plan in hand: what is shown, tried, locked and published, and what that costs. */
export function usePlan(input: PlanInput) {
  const { jobs, people, shifts, first } = input;
  const [weights, setWeights] = useState<ProgrammeWeights & { version: number }>(input.weights);
  const given = useMemo((): PlanProblem => ({ ...input.problem, weights }), [input.problem, weights]);
  const names = useMemo(() => namesOf(input), [input]);
  /** The plan in force, and which of its jobs can no longer stand where they did. */
  const begun = useMemo(() => {
    const published = Int32Array.from(input.problem.jobs, (j) => j.published ?? -1);
    if (input.planId === null || published.every((s) => s < 0))
      return { plan: quickPlan(input.problem), freed: [] as number[], why: [] as string[] };
    const { plan, freed } = repaired(input.problem, published);
    const broken = brokenRules(input.problem, published, namesOf(input)).filter((b) => b.rule !== 'locked');
    const lost = input.jobs.flatMap((j) =>
      j.lost ? [`${j.lost.person} is not there on ${namesOf(input).day(dayNumber(input, j.lost.on))} any more.`] : [],
    );
    const back = input.jobs.flatMap((j, i) => (j.lost || j.cameBack ? [i] : []));
    const unfinished = new Map<string, number>();
    for (const j of input.jobs)
      if (j.cameBack) {
        const on = sayWeekday(j.cameBack.on);
        unfinished.set(on, (unfinished.get(on) ?? 0) + 1);
      }
    return {
      plan: back.length > 0 ? placedAgain(input.problem, plan, back) : plan,
      freed: [...back, ...freed],
      why: [
        ...[...unfinished].map(([on, n]) => `${says(n, 'job', 'jobs')} of ${on} came back unfinished.`),
        ...new Set([...lost, ...broken.map((b) => b.says)]),
      ],
    };
  }, [input]);

  const [plan, setPlan] = useState<Plan>(begun.plan);
  const [past, setPast] = useState<Past[]>([]);
  const [locked, setLocked] = useState<ReadonlySet<number>>(
    () => new Set(input.problem.jobs.flatMap((j, i) => (j.locked ? [i] : []))),
  );
  const [learners, setLearners] = useState<ReadonlyMap<number, number>>(
    () =>
      new Map(
        jobs.flatMap((j, i): [number, number][] => {
          const who = people.findIndex((p) => p.id === j.learnerId);
          return who >= 0 ? [[i, who]] : [];
        }),
      ),
  );
  const [extras, setExtras] = useState<Extras>(NO_EXTRAS);
  const [away, setAway] = useState<ReadonlySet<string>>(new Set());
  const [notice, setNotice] = useState<Notice | null>(null);
  const [solving, setSolving] = useState<Solving | null>(null);
  const [bound, setBound] = useState<number | null>(null);
  const [helps, setHelps] = useState<Help[] | null>(null);
  const [kept, setKept] = useState<Variant[]>([]);
  const [told, setTold] = useState<{ told: Told[]; done: string[] } | null>(null);
  /** The plan that the next one is published in the place of. */
  const [basedOn, setBasedOn] = useState(input.planId);
  const worker = useRef<Worker | null>(null);
  const presence = useCommand();
  const publication = useCommand();
  const weighing = useCommand();
  // What a command could not do is told where everything else is.
  useTold(presence.says, setNotice);
  useTold(publication.says, setNotice);
  useTold(weighing.says, setNotice);

  /** The problem as it is tried: with extras and without the days somebody was said to be away. */
  const open = useMemo((): PlanProblem => {
    const more = withExtras(given, extras);
    if (away.size === 0) return more;
    return { ...more, shifts: more.shifts.map((s) => (away.has(`${s.person}/${s.day}`) ? { ...s, minutes: 0 } : s)) };
  }, [given, extras, away]);
  /** With what is locked now where it stands. */
  const problem = useMemo(
    (): PlanProblem => ({
      ...open,
      jobs: open.jobs.map((j, i) =>
        locked.has(i) ? { ...j, locked: true, published: plan[i] as number } : { ...j, locked: false },
      ),
    }),
    [open, locked, plan],
  );
  const cost = useMemo(() => costOf(open, plan), [open, plan]);
  const inShift = useMemo(() => jobsByShift(given.shifts.length, plan), [given, plan]);
  const used = useMemo(() => inShift.map((there, s) => sessionMinutes(given, s, there)), [given, inShift]);
  /** Who makes the visits afterwards; not while plans come and go. */
  const busy = solving !== null;
  const visits = useMemo(() => (busy ? [] : plannedVisits(open, plan)), [open, plan, busy]);

  const change = useCallback((next: Plan, keep?: Plan, absence?: Past['absence']) => {
    setTold(null);
    setBound(null);
    setHelps(null);
    if (keep) setPast((p) => [...p.slice(-MOST_UNDONE), { plan: keep, ...(absence ? { absence } : {}) }]);
    setPlan(next);
  }, []);
  const undo = useCallback(async () => {
    const last = past.at(-1);
    if (!last) return;
    const { absence } = last;
    if (absence) {
      // Everybody else was told of it too: there it is taken back first.
      const back = { personId: people[absence.person]?.id, on: addDays(first, absence.day), why: '' };
      if (!(await presence.run('/api/plan/away', back))) return;
      setAway((gone) => {
        const left = new Set(gone);
        left.delete(`${absence.person}/${absence.day}`);
        return left;
      });
    }
    setPast(past.slice(0, -1));
    change(last.plan);
    setNotice({
      text: absence
        ? `Taken back: ${names.person(absence.person)} is there ${names.day(absence.day)} after all.`
        : 'Taken back.',
      bad: false,
    });
  }, [past, change, people, first, names, presence.run]);

  const stop = useCallback(() => {
    worker.current?.terminate();
    worker.current = null;
    setSolving(null);
  }, []);
  useEffect(
    () => () => {
      worker.current?.terminate();
    },
    [],
  );

  /** Looks for better plans in a worker, from the one shown. Each better one is shown as it comes. */
  const solve = useCallback(() => {
    stop();
    const w = new Worker(new URL('../../workers/plan.worker.ts', import.meta.url), { type: 'module' });
    worker.current = w;
    setSolving({ state: 'looking', progress: 0 });
    setNotice(null);
    setPast((p) => [...p.slice(-MOST_UNDONE), { plan }]);
    w.onmessage = (event: MessageEvent<FromPlanner>) => {
      const m = event.data;
      if (m.kind === 'end') return stop();
      // The page answers to its user first; what the worker found is drawn when there is time.
      startTransition(() => {
        if (m.kind === 'bound') setBound(m.bound);
        else if (m.kind === 'doubt') setNotice({ text: m.says, bad: true });
        else if (m.kind === 'helps') setHelps(m.helps);
        else {
          setTold(null);
          setPlan(m.plan);
          setSolving(m.done ? { state: 'proving' } : { state: 'looking', progress: m.progress });
        }
      });
    };
    w.onerror = (event) => {
      setNotice({ text: `The search stopped: ${event.message}. The plan shown is the best it had.`, bad: true });
      stop();
    };
    setTold(null);
    setBound(null);
    setHelps(null);
    // What is sent is copied first: after the press has been drawn, not before.
    setTimeout(() => {
      if (worker.current === w)
        w.postMessage({
          problem,
          plan,
          seed: 1,
          moves: movesFor(problem.jobs.length),
          boundSeconds: BOUND_SECONDS,
          polishSeconds: POLISH_SECONDS,
        } satisfies ToPlanner);
    });
  }, [plan, problem, stop]);

  const verdict = useCallback(
    (job: number, shift: number): string | null => {
      if ((plan[job] as number) === shift) return 'It stands here.';
      if (open.shifts[shift]?.minutes === 0) return `${names.person(open.shifts[shift]?.person ?? 0)} is away.`;
      return (
        brokenByMove(open, plan, job, shift, names)
          .map((b) => b.says)
          .join(' ') || null
      );
    },
    [open, plan, names],
  );

  /** Moves jobs by hand; what breaks is said, and nothing is moved. */
  const move = useCallback(
    (which: readonly number[], shift: number): boolean => {
      let next = plan.slice();
      for (const job of which) {
        if (next[job] === shift) continue;
        const without = next.slice();
        without[job] = -1;
        const broken = shift < 0 ? [] : brokenByMove(open, without, job, shift, names);
        if (broken.length > 0) {
          setNotice({ text: `Not moved: ${broken.map((b) => b.says).join(' ')}`, bad: true });
          return false;
        }
        next = without;
        next[job] = shift;
      }
      const by = Math.round(costOf(open, next).total - costOf(open, plan).total);
      change(next, plan);
      const s = open.shifts[shift];
      const what = which.length === 1 ? names.job(which[0] as number) : says(which.length, 'job', 'jobs');
      setNotice({
        text: `${what}: ${s ? `${names.day(s.day)} at ${names.site(s.site)} with ${names.person(s.person)}` : 'taken out'}; ${by > 0 ? `${says(by, 'point', 'points')} more` : by < 0 ? `${says(-by, 'point', 'points')} less` : 'it costs the same'}.`,
        bad: false,
      });
      return true;
    },
    [plan, open, names, change],
  );

  const toggleLock = useCallback((which: readonly number[]) => {
    setLocked((before) => {
      const next = new Set(before);
      const all = which.every((i) => next.has(i));
      for (const i of which) {
        if (all) next.delete(i);
        else next.add(i);
      }
      return next;
    });
  }, []);

  const setLearner = useCallback((job: number, who: number | null) => {
    setLearners((before) => {
      const next = new Map(before);
      if (who === null) next.delete(job);
      else next.set(job, who);
      return next;
    });
  }, []);

  const keepBeside = useCallback(() => {
    setKept((k) => [
      ...k,
      { name: `Plan ${String.fromCharCode(65 + (k.length % 26))}`, plan: plan.slice(), locked, learners, extras },
    ]);
  }, [plan, locked, learners, extras]);
  const take = useCallback(
    (v: Variant) => {
      change(v.plan.slice(), plan);
      setLocked(v.locked);
      setLearners(v.learners);
      setExtras(v.extras);
    },
    [change, plan],
  );
  /** Keeps the plan beside and tries one with something more. */
  const tryHelp = useCallback(
    (help: Help) => {
      keepBeside();
      setExtras((e) => {
        const minutes = new Map(e.minutes);
        const packs = new Map(e.packs);
        if ('shift' in help.what) minutes.set(help.what.shift, (minutes.get(help.what.shift) ?? 0) + help.what.minutes);
        else packs.set(help.what.sku, (packs.get(help.what.sku) ?? 0) + help.what.packs);
        return { minutes, packs };
      });
      setHelps(null);
      setBound(null);
      setNotice({
        text: 'A what-if: nothing of it is real yet. Find a better plan to see what it brings.',
        bad: false,
      });
    },
    [keepBeside],
  );

  /** Says that somebody is away, and mends the plan with as little moved as can be. */
  const sick = useCallback(
    async (person: number, day: number) => {
      const on = addDays(first, day);
      if (!(await presence.run('/api/plan/away', { personId: people[person]?.id, on, why: 'away' }))) return;
      const gone = new Set(away).add(`${person}/${day}`);
      setAway(gone);
      const without = {
        ...open,
        shifts: open.shifts.map((s) => (s.person === person && s.day === day ? { ...s, minutes: 0 } : s)),
      };
      const next = repaired(without, plan);
      change(next.plan, plan, { person, day });
      const out = next.freed.filter((i) => (next.plan[i] as number) < 0).length;
      setNotice({
        text:
          next.freed.length === 0
            ? `${names.person(person)} is away ${names.day(day)}: nothing has to move.`
            : `${names.person(person)} is away ${names.day(day)}: ${says(next.freed.length, 'job', 'jobs')} moved, ${out === 0 ? 'none is left out' : `${out} found no place`}; the rest stays. Publish it, or find a better plan.`,
        bad: out > 0,
      });
    },
    [first, people, away, open, plan, change, names, presence.run],
  );

  const publish = useCallback(async () => {
    const items = jobs.flatMap((j, i) => {
      const shift = shifts[plan[i] as number];
      const who = learners.get(i);
      return shift
        ? [
            {
              instrumentId: j.instrumentId,
              kind: j.kind,
              personId: shift.personId,
              placeId: shift.placeId,
              on: shift.on,
              startsAt: shift.startsAt,
              minutes: given.jobs[i]?.minutes[given.shifts[plan[i] as number]?.person ?? 0] ?? 0,
              locked: locked.has(i),
              learnerId: who === undefined ? null : (people[who]?.id ?? null),
            },
          ]
        : [];
    });
    const published = await publication.run('/api/plan/publish', { basedOn, items }, { patienceMs: LONG_WORK_MS });
    if (!published) return;
    setBasedOn(published.planId);
    setTold(published);
  }, [jobs, shifts, plan, learners, given, locked, people, basedOn, publication.run]);

  const saveWeights = useCallback(
    async (next: ProgrammeWeights) => {
      const kept = await weighing.run('/api/plan/weights', { weights: next, expectedVersion: weights.version });
      if (!kept) return;
      setWeights({ ...next, version: kept.version });
      setBound(null);
      setNotice({ text: 'Kept. Points are counted anew; find a better plan by these weights.', bad: false });
    },
    [weights.version, weighing.run],
  );

  /** Shows what the night proposes, with the plan that was shown kept beside. */
  const lookAt = useCallback(
    (proposal: Proposal) => {
      keepBeside();
      const jobAt = new Map(jobs.map((j, i) => [j.key, i]));
      const shiftAt = new Map(shifts.map((s, i) => [s.id, i]));
      const next: Plan = new Int32Array(jobs.length).fill(-1);
      for (const item of proposal.items) {
        const job = jobAt.get(`${item.instrumentId}/${item.kind}`);
        const shift = shiftAt.get(shiftOf(shifts, item)?.id ?? '');
        if (job !== undefined && shift !== undefined) next[job] = shift;
      }
      change(repaired(open, next).plan, plan);
    },
    [keepBeside, jobs, shifts, change, open, plan],
  );

  return {
    given,
    open,
    problem,
    names,
    plan,
    begun,
    locked,
    learners,
    extras,
    notice,
    setNotice,
    solving,
    bound,
    helps,
    kept,
    told,
    weights,
    cost,
    counts: useMemo(() => lateAndOut(open, plan), [open, plan]),
    inShift,
    used,
    visits,
    canUndo: past.length > 0,
    undo,
    stop,
    solve,
    verdict,
    move,
    toggleLock,
    setLearner,
    keepBeside,
    take,
    tryHelp,
    sick,
    publish,
    saveWeights,
    lookAt,
  };
}

export type PlanInHand = ReturnType<typeof usePlan>;

const movesFor = (jobs: number): number => Math.min(MOVES.most, Math.max(MOVES.least, MOVES.perJob * jobs));

const dayNumber = (input: PlanInput, on: string): number => daysBetween(input.first, on);
