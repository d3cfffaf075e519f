import { RateLimiterMemory, RateLimiterRes } from 'rate-limiter-flexible';
import { UserError } from '../errors';

// Wrong tries: a handful for a person who mistypes, none for a program that guesses; and more of an account from
// everywhere together, so that nobody is locked out by somebody else's guesses from one place.
const LIMITS = {
  everywhere: new RateLimiterMemory({ points: 100, duration: 15 * 60, blockDuration: 15 * 60 }),
  account: new RateLimiterMemory({ points: 8, duration: 15 * 60, blockDuration: 15 * 60 }),
  address: new RateLimiterMemory({ points: 60, duration: 15 * 60, blockDuration: 15 * 60 }),
};

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
}

const keyOf = (t: Trying): string => `${t.account.toLowerCase()} ${t.address}`;

/** Counts a try before it is looked at, so that many at once count as many. @throws UserError `slow-down` */
export async function tryOnce(t: Trying): Promise<void> {
  for (const [limit, key] of [
    [LIMITS.address, t.address],
    [LIMITS.account, keyOf(t)],
    [LIMITS.everywhere, t.account.toLowerCase()],
  ] as const)
    await limit.consume(key).catch((told: unknown) => {
      throw told instanceof RateLimiterRes ? later(told.msBeforeNext) : told;
    });
}

/** It was right: the account's wrong tries are forgotten, and this one of the address. */
export async function wasRight(t: Trying): Promise<void> {
  await LIMITS.account.delete(keyOf(t));
  await LIMITS.everywhere.reward(t.account.toLowerCase(), 1);
  await LIMITS.address.reward(t.address, 1);
}
