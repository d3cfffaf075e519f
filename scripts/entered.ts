import { tokenHash } from '../server/access/secrets';
import { openDatabase } from '../server/db/connection';

/** A token that opens the copies of data that programs of this project make for themselves. */
export const ENTERED = 'a-token-of-copies-that-programs-make-for-themselves';
export const ENTERED_COOKIE = `arvick_session=${ENTERED}`;

/** Signs the first coordinator in to a folder of data, so that pages can be asked for without a form. */
export async function enterFolder(folder: string, now: number): Promise<void> {
  const db = await openDatabase(folder);
  const person = await db('person').where({ role: 'coordinator' }).orderBy('id').first();
  await db('session')
    .where({ token_hash: tokenHash(ENTERED) })
    .del();
  await db('session').insert({
    token_hash: tokenHash(ENTERED),
    person_id: person?.id ?? 1,
    made_at: now,
    rotated_at: now,
    seen_at: now,
    until: now + 90 * 86_400_000,
  });
  await db.raw('pragma wal_checkpoint(truncate)');
  await db.destroy();
}

/** The same as the state of a browser context. */
export const enteredState = {
  cookies: [
    {
      name: 'arvick_session',
      value: ENTERED,
      domain: '127.0.0.1',
      path: '/',
      expires: -1,
      httpOnly: true,
      secure: false,
      sameSite: 'Lax' as const,
    },
  ],
  origins: [],
};
