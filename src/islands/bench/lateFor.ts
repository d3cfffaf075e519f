/**
 * Whose work it is that is delivered, by the job it was done on; this browser's own cookie proves that it was done here.
 * @example `lateFor({ personId: 5, jobId: 120 })` is `{ 'late-for': '5.120' }`
 */
export const lateFor = (of: { personId: number; jobId: number }): Record<string, string> => ({
  'late-for': `${of.personId}.${of.jobId}`,
});
