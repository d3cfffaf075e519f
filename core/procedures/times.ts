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
  for (const answer of [...answers].sort((a, b) => a.at - b.at)) {
    const step = steps.get(answer.jobId)?.find((s) => s.key === answer.step);
    if (!step) continue;
    const gap = Math.max(0, answer.at - before) / 60_000;
    before = Math.max(before, answer.at);
    const paused = gap > Math.max(PAUSE_TIMES * step.minutes, PAUSE_AT_LEAST_MINUTES);
    const minutes = paused ? step.minutes : gap;
    pausedMinutes += gap - minutes;
    const key = `${answer.jobId}/${step.phase}`;
    const known = sums.get(key) ?? { jobId: answer.jobId, phase: step.phase, minutes: 0 };
    sums.set(key, { ...known, minutes: known.minutes + minutes });
  }
  return { times: [...sums.values()], pausedMinutes };
}
