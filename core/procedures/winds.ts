import type { Method } from './types';

type Winding = Pick<Method, 'winds' | 'windsPlain'>;

/** How the winds of a string go on under a method: plain strings may have a way of their own. */
export const windsOf = (method: Winding, wound: boolean): Method['winds'] | 'two-over' =>
  !wound && method.windsPlain ? method.windsPlain : method.winds;

const OVER = { 'one-over': 1, 'two-over': 2, 'spiral-down': 0, 'self-lock': 0 } as const;

/** Turns above the string's own end. */
export const turnsOver = (method: Winding, wound: boolean): 0 | 1 | 2 => OVER[windsOf(method, wound)];
