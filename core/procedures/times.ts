import type { Phase, Step } from './types';

/** An answer with its time, of one of the jobs somebody works on at the same time. */
export interface TimedAnswer {
  jobId: number;
  step: string;
  /** Instant in ms. */
  at: number;
}

export interface PhaseTime {
  jobId: number;
  phase: Phase;
  minutes: number;
}

/** A gap this much longer than the step is expected to take is a pause. */
const PAUSE_TIMES = 4;
/** A gap shorter than this is never a pause: people think. */
const PAUSE_AT_LEAST_MINUTES = 4;

/**
 * Minutes of work by job and phase from the times of the answers, over all jobs a person has in hand: each gap belongs
 * to the answer that ends it. A gap over four times what its step is expected to take, and over four minutes, was a
 * pause: the step then counts as it is expected to.
 *
 * @param startedAt when the first of the jobs was begun, in ms
 */
export function phaseTimes(
  steps: ReadonlyMap<number, readonly Pick<Step, 'key' | 'phase' | 'minutes'>[]>,
  answers: readonly TimedAnswer[],
  startedAt: number,
): { times: PhaseTime[]; pausedMinutes: number } {
  const sums = new Map<string, PhaseTime>();
  let before = startedAt;
  let pausedMinutes = 0;
  const known = answers.flatMap((answer) => {
    const step = steps.get(answer.jobId)?.find((s) => s.key === answer.step);
    return step ? [{ ...answer, phase: step.phase, expected: step.minutes }] : [];
  });
  // What one press answered was done one after the other: its time is shared as the steps are long.
  const presses = new Map<string, typeof known>();
  for (const a of known) {
    const press = `${a.jobId}/${a.at}`;
    presses.set(press, [...(presses.get(press) ?? []), a]);
  }
  for (const press of [...presses.values()].sort((a, b) => (a[0]?.at ?? 0) - (b[0]?.at ?? 0))) {
    const at = press[0]?.at ?? before;
    const expected = press.reduce((sum, a) => sum + a.expected, 0);
    const gap = Math.max(0, at - before) / 60_000;
    before = Math.max(before, at);
    const paused = gap > Math.max(PAUSE_TIMES * expected, PAUSE_AT_LEAST_MINUTES);
    const minutes = paused ? expected : gap;
    pausedMinutes += gap - minutes;
    for (const a of press) {
      const key = `${a.jobId}/${a.phase}`;
      const so = sums.get(key) ?? { jobId: a.jobId, phase: a.phase, minutes: 0 };
      const share = expected > 0 ? a.expected / expected : 1 / press.length;
      sums.set(key, { ...so, minutes: so.minutes + minutes * share });
    }
  }
  return { times: [...sums.values()], pausedMinutes };
}
