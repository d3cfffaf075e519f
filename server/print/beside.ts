import { runApart } from '../apart';
import type { IntakeTask } from '../intake/intake.worker';
import { labelSheet } from './labels';

/** So few labels are drawn at once: that is quicker than to begin a thread for them. */
const AT_ONCE = 4;
const LIMIT_MS = 2 * 60_000;

/** As `labelSheet`, in a thread of its own where there are many: a thousand labels take seconds, and nobody waits for them. */
export async function labelSheetBeside(...drawn: Parameters<typeof labelSheet>): Promise<Uint8Array> {
  const [labels, sheet, title] = drawn;
  if (labels.length <= AT_ONCE) return labelSheet(...drawn);
  const task: IntakeTask = { task: 'labels', labels: [...labels], sheet, title };
  return runApart<Uint8Array>('intake', task, {
    ms: LIMIT_MS,
    late: {
      title: 'The labels took too long',
      detail: 'The labels took too long. Print them for fewer instruments at a time.',
    },
  });
}
