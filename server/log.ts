import { pino } from 'pino';

/**
 * What whoever runs the server has to know, as lines of JSON on the error stream, each with its time. How much is said
 * is set by ARVICK_LOG: `error`, `warn`, `info` (usual) or `silent`.
 */
export const log = pino(
  { level: process.env.ARVICK_LOG || 'info', base: null, timestamp: pino.stdTimeFunctions.isoTime },
  pino.destination({ dest: 2, sync: true }),
);
