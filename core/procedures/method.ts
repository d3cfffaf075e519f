import type { Family } from '../instruments/build';
import type { Method } from './types';

const GUITAR: Method = {
  atATime: 'all',
  order: 'thick-to-thin',
  slack: { kind: 'first-fret', times: 1 },
  slackPlain: { kind: 'first-fret', times: 1.5 },
  winds: 'one-over',
  hole: 'across',
  trim: { when: 'when-settled', leaveMm: 5 },
  stretchRounds: 3,
};

/** One at a time, so that a floating bridge never stands without pull. */
const FLOATING: Method = { ...GUITAR, atATime: 1, slackPlain: null, winds: 'spiral-down', stretchRounds: 2 };

/**
 * The house method a new programme starts with, by family. Common practice, no source; a programme replaces it with
 * its own choice.
 */
export const HOUSE_METHODS: Record<Family, Method> = {
  'steel-acoustic': GUITAR,
  'twelve-string': { ...GUITAR, order: 'number-down' },
  classical: { ...GUITAR, slack: { kind: 'length', mm: 60 }, slackPlain: null },
  electric: { ...GUITAR, slack: { kind: 'post-spacings', spacings: 2 } },
  'bass-guitar': { ...GUITAR, slack: { kind: 'post-spacings', spacings: 2 }, slackPlain: null },
  ukulele: {
    atATime: 1,
    order: 'number-down',
    // An inch, pulled back.
    slack: { kind: 'length', mm: 25.4 },
    slackPlain: null,
    winds: 'spiral-down',
    hole: 'across',
    trim: { when: 'when-settled', leaveMm: 5 },
    stretchRounds: 3,
  },
  banjo: { ...FLOATING, order: 'number-down' },
  mandolin: { ...FLOATING, order: 'number-down' },
  violin: FLOATING,
  viola: FLOATING,
  cello: FLOATING,
  'double-bass': FLOATING,
};
