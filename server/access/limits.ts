import { setTimeout } from 'node:timers/promises';
import { RateLimiterMemory, RateLimiterRes } from 'rate-limiter-flexible';
import { UserError } from '../errors';

const QUARTER_HOUR_S = 15 * 60;
/** Wrong tries of one account from one place: a handful for a person who mistypes, none for a program that guesses. */
const PAIR = new RateLimiterMemory({ points: 8, duration: QUARTER_HOUR_S, blockDuration: QUARTER_HOUR_S });
/**
 * Wrong tries of one account from all places, and from one place at all accounts. Beyond these, tries from there are
 * slow but never refused, so that nobody is locked out by somebody else's guesses.
 */
const MANY = {
  account: new RateLimiterMemory({ points: 100, duration: QUARTER_HOUR_S }),
  address: new RateLimiterMemory({ points: 60, duration: QUARTER_HOUR_S }),
};
const SLOW_MS = 1500;

// By the codes on labels, without signing in: a class that stands before a shelf, not a program that fills a list.
const BY_LABEL = {
  looks: new RateLimiterMemory({ points: 300, duration: 15 * 60 }),
  words: new RateLimiterMemory({ points: 30, duration: 3600 }),
  wrongCodes: new RateLimiterMemory({ points: 40, duration: 15 * 60, blockDuration: 15 * 60 }),
};

/**
 * Counts what somebody does by the code on a label from an address.
 * @throws UserError `slow-down`
 */
export async function countByLabel(what: keyof typeof BY_LABEL, address: string): Promise<void> {
  await BY_LABEL[what].consume(address).catch((told: unknown) => {
    throw told instanceof RateLimiterRes
      ? new UserError(
          'slow-down',
          429,
          'Too many requests from here',
          `Too many requests from here. Wait about ${Math.max(1, Math.ceil(told.msBeforeNext / 60_000))} min, or tell someone from the programme.`,
          { retryAfter: Math.ceil(told.msBeforeNext / 1000) },
        )
      : told;
  });
}

const later = (ms: number): UserError =>
  new UserError(
    'slow-down',
    429,
    'Too many attempts',
    `Too many attempts. Wait about ${Math.max(1, Math.ceil(ms / 60_000))} min, then try again. A coordinator can give you a code in the meantime.`,
    { retryAfter: Math.ceil(ms / 1000) },
  );

/** What somebody tries to enter as, and from where. */
export interface Trying {
  account: string;
  address: string;
  /** The device, where this person has signed in on it before: it is slowed by nobody else's tries. */
  known?: string | null;
}

const accountOf = (t: Trying): string => t.account.toLowerCase();
const pairOf = (t: Trying): string => `${accountOf(t)} ${t.known ? `device ${t.known}` : t.address}`;

/**
 * Counts a try before it is looked at, so that many at once count as many, and waits a moment where very many come from
 * that place or are for that account.
 * @throws UserError `slow-down` after eight wrong tries of the account from there
 */
export async function tryOnce(t: Trying): Promise<void> {
  await PAIR.consume(pairOf(t)).catch((told: unknown) => {
    throw told instanceof RateLimiterRes ? later(told.msBeforeNext) : told;
  });
  if (!t.known) await slowAfterMany(t);
}

/** Counts a try at something that nobody guesses, as a code of 60 bits: slow after very many, never refused. */
export async function slowAfterMany(t: Trying): Promise<void> {
  const many = (told: unknown): boolean => {
    if (told instanceof RateLimiterRes) return true;
    throw told;
  };
  const within = () => false;
  const slow = await Promise.all([
    MANY.account.consume(accountOf(t)).then(within, many),
    MANY.address.consume(t.address).then(within, many),
  ]);
  if (slow.includes(true)) await setTimeout(SLOW_MS);
}

/** It was right: the wrong tries of the account from there are forgotten, and this one everywhere. */
export async function wasRight(t: Trying): Promise<void> {
  await PAIR.delete(pairOf(t));
  if (t.known) return;
  await MANY.account.reward(accountOf(t), 1);
  await MANY.address.reward(t.address, 1);
}
