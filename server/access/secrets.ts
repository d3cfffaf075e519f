import { createHash, randomBytes } from 'node:crypto';
import { hash, verify } from '@node-rs/argon2';

/**
 * Argon2id with 19 MiB, two passes, one lane (OWASP Password Storage Cheat Sheet, minimum of 2023). It runs in a thread
 * of the library's own, so that the server goes on answering.
 */
const COST = { memoryCost: 19 * 1024, timeCost: 2, parallelism: 1 } as const;

export const hashPassword = (password: string): Promise<string> => hash(password.normalize('NFKC'), COST);

/** Made once, of nothing anybody knows: whoever has no password takes as long to be refused as whoever has one. */
let nobodys: Promise<string> | null = null;

/** Whether a password is the one that was kept; false, after as long a time, where none is kept. */
export async function isPassword(kept: string | null, password: string): Promise<boolean> {
  nobodys ??= hashPassword(randomBytes(24).toString('base64url'));
  const right = await verify(kept ?? (await nobodys), password.normalize('NFKC')).catch(() => false);
  return right && kept !== null;
}

/** 256 bits that nobody guesses, for a cookie or an address. */
export const newToken = (): string => randomBytes(32).toString('base64url');

/** How a token is kept. It has no pattern to be guessed by, so a plain hash is enough. */
export const tokenHash = (token: string): string => createHash('sha256').update(token).digest('base64url');

// No letters that are read as one another or as a figure (Crockford's base 32).
const CODE_SIGNS = '0123456789ABCDEFGHJKMNPQRSTVWXYZ';
const CODE_LENGTH = 12;

/** A code to be read out or written down, of 60 bits: "7KQF-2M9X-PT4H". */
export function newCode(): string {
  const signs = [...randomBytes(CODE_LENGTH)].map((b) => CODE_SIGNS[b % CODE_SIGNS.length]).join('');
  return signs.replace(/(.{4})(?=.)/g, '$1-');
}

/** A code as somebody types it: dashes, blanks and the case do not matter, nor letters taken for figures. */
export const codeHash = (typed: string): string =>
  tokenHash(typed.toUpperCase().replace(/[\s-]/g, '').replace(/O/g, '0').replace(/[IL]/g, '1'));
