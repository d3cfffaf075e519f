import { pino } from 'pino';
import { requestNow } from './context';

/**
 * What whoever runs the server has to know, as lines of JSON on the error stream, each with its time, and with the number
 * of the request and of the person where it was written in one. How much is said is set by ARVICK_LOG: `error`, `warn`,
 * `info` (usual), `debug` (each request) or `silent`.
 */
export const log = pino(
  {
    level: process.env.ARVICK_LOG || 'info',
    base: null,
    timestamp: pino.stdTimeFunctions.isoTime,
    mixin: () => requestNow() ?? {},
  },
  pino.destination({ dest: 2, sync: true }),
);
