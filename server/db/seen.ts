import { conflict } from '../errors';

/**
 * That what is changed is still as whoever changes it has seen it: for what is one value, and so needs no number of its
 * version. Nothing was seen where a program asks, and then nothing is compared.
 *
 * @param was what stood there, as a text; @param now what stands there; @param say the same in words
 * @throws UserError conflict with both
 */
export function requireSeen(was: string | undefined, now: string | number | null, say: string): void {
  const is = String(now ?? '');
  if (was === undefined || was === is) return;
  throw conflict(`Someone else has changed this: it is now ${say}. Reload to see it, then change it again.`, {
    seen: was,
    current: is,
  });
}
