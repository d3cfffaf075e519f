import { startTransition, useCallback, useEffect, useMemo, useReducer, useRef } from 'react';
import { count } from '../../../core/count';
import { addDays, daysBetween } from '../../../core/dates';
import { brokenByMove, costOf } from '../../../core/planning/check';
import { type Help, type Improvement, lateAndOut } from '../../../core/planning/improve';
import { type Plan, type PlanProblem, supervisedJobs, usedMinutes } from '../../../core/planning/model';
import { movedTogether } from '../../../core/planning/move';
import { repaired } from '../../../core/planning/repair';
import { clockOf, minuteOf, shiftOf } from '../../../core/planning/shifts';
import { planSummary, sayDifference } from '../../../core/planning/summary';
import { plannedVisits } from '../../../core/planning/visits';
import type { Proposal } from '../../../server/plan/night';
import type { PlanInput } from '../../../server/plan/problem';
import type { ProgrammeWeights } from '../../../server/plan/weights';
import { LONG_WORK_MS } from '../../ui/post';
import { useCommand } from '../../ui/useCommand';
import { beginning } from './begin';
import { awayKeys, type HandEvent, handOf, heldProblem, inHand, type Notice, triedProblem } from './hand';
import { jobsByShift, namesOf, type Variant } from './model';
import { search } from './search';

/** What a search found, as something done with the plan in hand. */
function eventOf(step: Improvement): HandEvent {
  switch (step.kind) {
    case 'better':
      return { does: 'bettered', plan: step.plan, progress: step.progress, done: step.done };
    case 'bound':
      return { does: 'bounded', bound: step.bound };
    case 'helps':
      return { does: 'helped', helps: step.helps };
    case 'doubt':
      return { does: 'noticed', notice: { text: step.says, bad: true } };
  }
}

/** The plan in hand: what is shown, tried, locked and published, and what that costs. */
export function usePlan(input: PlanInput) {
  const { jobs, people, shifts, first } = input;
  const begun = useMemo(() => beginning(input), [input]);
  const [hand, tell] = useReducer(inHand, undefined, () =>
    handOf({
      plan: begun.plan,
      locked: new Set(input.problem.jobs.flatMap((j, i) => (j.locked ? [i] : []))),
      learners: new Map(
        jobs.flatMap((j, i): [number, number][] => {
          const who = people.findIndex((p) => p.id === j.learnerId);
          return who >= 0 ? [[i, who]] : [];
        }),
      ),
      weights: input.weights,
      basedOn: input.planId,
    }),
  );
  const { plan, past, locked, learners, extras, real, away, weights, solving } = hand;
  const given = useMemo((): PlanProblem => ({ ...input.problem, weights }), [input.problem, weights]);
  const names = useMemo(() => namesOf(input), [input]);
  const open = useMemo(() => triedProblem(given, { extras, real, away }), [given, extras, real, away]);
  const problem = useMemo(() => heldProblem(open, { plan, locked }), [open, locked, plan]);
  const cost = useMemo(() => costOf(open, plan), [open, plan]);
  const inShift = useMemo(() => jobsByShift(given.shifts.length, plan), [given, plan]);
  const used = useMemo(() => usedMinutes(given, plan), [given, plan]);
  const supervised = useMemo(() => supervisedJobs(open, plan), [open, plan]);
  /** Who makes the visits afterwards; not while plans come and go. */
  const busy = solving !== null;
  const visits = useMemo(() => (busy ? [] : plannedVisits(open, plan)), [open, plan, busy]);

  const setNotice = useCallback((notice: Notice | null) => tell({ does: 'noticed', notice }), []);
  const presence = useCommand();
  const publication = useCommand();
  const weighing = useCommand();
  // What a command could not do is told where everything else is.
  useTold(presence.says, setNotice);
  useTold(publication.says, setNotice);
  useTold(weighing.says, setNotice);

  const undo = useCallback(async () => {
    const absence = past.at(-1)?.absence;
    if (absence) {
      // Everybody else was told of it too: there it is taken back first.
      const { day, to } = absence;
      const back = { personId: people[absence.person]?.id, on: addDays(first, day), to: addDays(first, to), why: '' };
      if (!(await presence.run('/api/plan/away', back))) return;
    }
    const text = absence
      ? `Undone: ${names.person(absence.person)} is working ${absence.to > absence.day ? `${names.day(absence.day)} to ${names.day(absence.to)}` : names.day(absence.day)} after all.`
      : 'Undone.';
    tell({ does: 'undone', notice: { text, bad: false } });
  }, [past, people, first, names, presence.run]);

  const running = useRef<(() => void) | null>(null);
  const end = useCallback(() => {
    running.current?.();
    running.current = null;
  }, []);
  useEffect(() => end, [end]);
  const stop = useCallback(() => {
    end();
    tell({ does: 'stopped' });
  }, [end]);
  /** Looks for better plans from the one shown. Each better one is shown as it comes. */
  const solve = useCallback(() => {
    end();
    tell({ does: 'searched' });
    running.current = search(
      problem,
      plan,
      // The page answers to its user first; what was found is drawn when there is time.
      (step) => startTransition(() => tell(eventOf(step))),
      (trouble) =>
        tell({
          does: 'stopped',
          ...(trouble === null
            ? {}
            : {
                notice: {
                  text: `The search stopped early: ${trouble}. This is the best plan found so far.`,
                  bad: true,
                },
              }),
        }),
    );
  }, [end, plan, problem]);

  const verdict = useCallback(
    (job: number, shift: number): string | null => {
      if ((plan[job] as number) === shift) return 'It is already here.';
      if (open.shifts[shift]?.minutes === 0) return `${names.person(open.shifts[shift]?.person ?? 0)} is away.`;
      return (
        brokenByMove(open, plan, job, shift, names)
          .map((b) => b.says)
          .join(' ') || null
      );
    },
    [open, plan, names],
  );

  const verdictOfAll = useCallback(
    (which: readonly number[], shift: number): string | null => {
      if (open.shifts[shift]?.minutes === 0) return `${names.person(open.shifts[shift]?.person ?? 0)} is away.`;
      const { broken } = movedTogether(open, plan, which, shift, names);
      return broken.map((b) => b.says).join(' ') || null;
    },
    [open, plan, names],
  );

  /** Moves jobs by hand; what breaks is said, and nothing is moved. */
  const move = useCallback(
    (which: readonly number[], shift: number): boolean => {
      const { plan: next, broken } = movedTogether(open, plan, which, shift, names);
      if (broken.length > 0) {
        setNotice({ text: `Not moved: ${broken.map((b) => b.says).join(' ')}`, bad: true });
        return false;
      }
      const out = lateAndOut(open, next).out - lateAndOut(open, plan).out;
      const differs = sayDifference(open, costOf(open, plan), costOf(open, next), out);
      const s = open.shifts[shift];
      const what = which.length === 1 ? names.job(which[0] as number) : count(which.length, 'task');
      const text = `${what}: ${s ? `${names.day(s.day)} at ${names.site(s.site)} with ${names.person(s.person)}` : 'removed from the plan'}; ${differs || 'nothing else changes'}.`;
      tell({ does: 'changed', plan: next, notice: { text, bad: false } });
      return true;
    },
    [plan, open, names, setNotice],
  );

  /** Says that somebody is away, and mends the plan with as little moved as can be. */
  const sick = useCallback(
    async (person: number, day: number, to = day) => {
      const days = { on: addDays(first, day), to: addDays(first, to) };
      if (!(await presence.run('/api/plan/away', { personId: people[person]?.id, ...days, why: 'away' }))) return;
      const absence = { person, day, to };
      const without = triedProblem(given, { extras, real, away: new Set([...away, ...awayKeys(absence)]) });
      const next = repaired(without, plan);
      const out = next.freed.filter((i) => (next.plan[i] as number) < 0).length;
      const when = to > day ? `${names.day(day)} to ${names.day(to)}` : names.day(day);
      const text =
        next.freed.length === 0
          ? `${names.person(person)} is away ${when}: nothing has to move.`
          : `${names.person(person)} is away ${when}: ${count(next.freed.length, 'task')} moved, ${out === 0 ? 'all still planned' : `no room for ${out}`}. Publish this, or find a better plan.`;
      tell({ does: 'changed', plan: next.plan, absence, notice: { text, bad: out > 0 } });
    },
    [first, people, away, given, extras, real, plan, names, presence.run],
  );

  /** Says to everybody that somebody stays longer on one day; the plan in hand goes on from it. */
  const makeSo = useCallback(
    async (s: number, minutes: number) => {
      const shift = shifts[s];
      if (!shift) return;
      const hours = {
        personId: shift.personId,
        placeId: shift.placeId,
        on: shift.on,
        starts: clockOf(minuteOf(shift.starts) + shift.minutes + (real.get(s) ?? 0)),
        minutes,
      };
      if (!(await presence.run('/api/plan/once', hours))) return;
      const who = names.person(given.shifts[s]?.person ?? 0);
      const text = `${who} stays ${count(minutes, 'minute')} longer on ${names.day(given.shifts[s]?.day ?? 0)}; the rota is updated. Find a better plan with it.`;
      tell({ does: 'madeSo', shift: s, minutes, notice: { text, bad: false } });
    },
    [shifts, real, names, given, presence.run],
  );

  const toPublish = useCallback(() => {
    return jobs.flatMap((j, i) => {
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
  }, [jobs, shifts, plan, learners, given, locked, people]);
  const publish = useCallback(async (): Promise<boolean> => {
    const basis = { basedOn: hand.basedOn, items: toPublish() };
    const published = await publication.run('/api/plan/publish', basis, { patienceMs: LONG_WORK_MS });
    if (published) tell({ does: 'published', planId: published.planId, told: published });
    return Boolean(published);
  }, [toPublish, hand.basedOn, publication.run]);

  const saveWeights = useCallback(
    async (next: ProgrammeWeights) => {
      const kept = await weighing.run('/api/plan/weights', { weights: next, expectedVersion: weights.version });
      if (!kept) return;
      tell({
        does: 'weighed',
        weights: { ...next, version: kept.version },
        notice: { text: 'Saved. Find a better plan to apply it.', bad: false },
      });
    },
    [weights.version, weighing.run],
  );

  /** What the night proposes, as a plan of today's jobs and sessions; what no longer holds of it is left out. */
  const planOf = useCallback(
    (proposal: Proposal): Plan => {
      const jobAt = new Map(jobs.map((j, i) => [j.key, i]));
      const shiftAt = new Map(shifts.map((s, i) => [s.id, i]));
      const next: Plan = new Int32Array(jobs.length).fill(-1);
      for (const item of proposal.items) {
        const job = jobAt.get(`${item.instrumentId}/${item.kind}`);
        const shift = shiftAt.get(shiftOf(shifts, item)?.id ?? '');
        if (job !== undefined && shift !== undefined) next[job] = shift;
      }
      return repaired(open, next).plan;
    },
    [jobs, shifts, open],
  );
  /** Shows what the night proposes, with the plan that was shown kept beside. */
  const lookAt = useCallback((proposal: Proposal) => tell({ does: 'looked', plan: planOf(proposal) }), [planOf]);
  const summaryOf = useCallback(
    (of: Plan) =>
      planSummary(
        open,
        of,
        jobs.map((j) => j.kind),
        input.concerts.map((c) => ({ ...c, day: daysBetween(first, c.on) })),
      ),
    [open, jobs, input.concerts, first],
  );

  return {
    ...hand,
    given,
    open,
    problem,
    names,
    begun,
    setNotice,
    cost,
    counts: useMemo(() => lateAndOut(open, plan), [open, plan]),
    summary: useMemo(() => summaryOf(plan), [summaryOf, plan]),
    summaryOf,
    planOf,
    inShift,
    used,
    supervised,
    visits,
    canUndo: past.length > 0,
    undo,
    stop,
    solve,
    verdict,
    verdictOfAll,
    move,
    toggleLock: useCallback((which: readonly number[]) => tell({ does: 'locked', jobs: which }), []),
    setLearner: useCallback((job: number, who: number | null) => tell({ does: 'taught', job, who }), []),
    keepBeside: useCallback(() => tell({ does: 'kept' }), []),
    take: useCallback((variant: Variant) => tell({ does: 'took', variant }), []),
    /** Keeps the plan beside and tries one with something more. */
    tryHelp: useCallback((help: Help) => {
      const text = 'This is only a trial. Find a better plan to see what it would change.';
      tell({ does: 'tried', help, notice: { text, bad: false } });
    }, []),
    sick,
    makeSo,
    toPublish,
    publish,
    saveWeights,
    lookAt,
  };
}

export type PlanInHand = ReturnType<typeof usePlan>;

function useTold(says: string | null, tell: (notice: Notice) => void): void {
  useEffect(() => {
    if (says) tell({ text: says, bad: true });
  }, [says, tell]);
}
