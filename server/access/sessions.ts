import type { Knex } from 'knex';
import { addEntry } from '../audit/entries';
import { transact } from '../db/transact';
import { untilWritten } from '../db/written';
import type { Person } from '../programme/programme';
import { endLate } from './late';
import { newToken, tokenHash } from './secrets';

const HOUR = 3_600_000;
/** A session ends so long after it was last used, and so long after it began; sooner on a bench that several share. */
const IDLE_MS = 14 * 24 * HOUR;
const LONGEST_MS = 90 * 24 * HOUR;
const SHARED_MS = 12 * HOUR;
/** A token is replaced when it is so old; the one before counts for a moment, since requests cross each other. */
const ROTATE_MS = 24 * HOUR;
const CROSSING_MS = 60_000;
/** That it was used is written down at most so often. */
const SEEN_MS = 5 * 60_000;
/** Sessions of one person at once; one more ends the one that was not used for longest. */
const MOST_SESSIONS = 12;

export interface Session {
  id: number;
  personId: number;
  role: Person['role'];
  deviceId: number | null;
  until: number;
  /** A fresh token for the cookie, where the old one was replaced. */
  token: string | null;
}

/** Begins a session. Its token is told once, here. */
export async function beginSession(
  db: Knex,
  p: { personId: number; deviceId: number | null; agent: string; now: number; address?: string },
): Promise<{ token: string; sessionId: number; until: number }> {
  return transact(db, (trx) => begin(trx, p));
}

async function begin(
  db: Knex,
  p: Parameters<typeof beginSession>[1],
): Promise<{ token: string; sessionId: number; until: number }> {
  const token = newToken();
  const until = p.now + (p.deviceId === null ? LONGEST_MS : SHARED_MS);
  const [row] = await db('session')
    .insert({
      token_hash: tokenHash(token),
      person_id: p.personId,
      device_id: p.deviceId,
      made_at: p.now,
      rotated_at: p.now,
      seen_at: p.now,
      until,
      agent: p.agent.slice(0, 200),
    })
    .returning('id');
  const own: number[] = await db('session').where({ person_id: p.personId }).orderBy('seen_at', 'desc').pluck('id');
  if (own.length > MOST_SESSIONS) await db('session').whereIn('id', own.slice(MOST_SESSIONS)).del();
  await db('session').where('until', '<', p.now).del();
  await addEntry(db, {
    at: p.now,
    personId: p.personId,
    action: 'session.begin',
    entity: 'person',
    entityId: p.personId,
    key: `session/${(row as { id: number }).id}`,
    from: `${p.address ?? ''}${p.deviceId === null ? '' : `, bench ${p.deviceId}`}`,
    detail: JSON.stringify({ agent: p.agent.slice(0, 200) }),
    changed: '',
  });
  return { token, sessionId: (row as { id: number }).id, until };
}

/**
 * The session of a token: null where there is none, it ended, or its person has left. Its token is replaced when it has
 * been used for a day.
 */
export async function sessionOf(db: Knex, token: string | undefined, now: number): Promise<Session | null> {
  if (!token) return null;
  const hash = tokenHash(token);
  const sessions = () =>
    db('session as s').join('person as p', 'p.id', 's.person_id').whereNull('p.retired_on').first('s.*', 'p.role');
  const row =
    (await untilWritten(
      db,
      `session/${hash}`,
      async () => (await sessions().where({ 's.token_hash': hash })) ?? null,
    )) ?? (await sessions().where({ 's.before_hash': hash }).where('s.before_until', '>', now));
  if (!row || row.until <= now || row.seen_at + IDLE_MS <= now) return null;
  const session: Session = {
    id: row.id,
    personId: row.person_id,
    role: row.role,
    deviceId: row.device_id,
    until: row.until,
    token: null,
  };
  if (row.token_hash === hash && row.rotated_at + ROTATE_MS <= now) {
    const fresh = newToken();
    // Of two requests at once one replaces it; the other goes on with the old one for a moment.
    // Where nothing can be written the old one goes on.
    const replaced = await db('session')
      .where({ id: row.id, token_hash: hash })
      .update({
        token_hash: tokenHash(fresh),
        before_hash: hash,
        before_until: now + CROSSING_MS,
        rotated_at: now,
        seen_at: now,
      })
      .catch(() => 0);
    if (replaced) session.token = fresh;
  } else if (row.seen_at + SEEN_MS <= now)
    await db('session')
      .where({ id: row.id })
      .update({ seen_at: now })
      .catch(() => 0);
  return session;
}

export const endSession = async (db: Knex, sessionId: number): Promise<void> => {
  await db('session').where({ id: sessionId }).del();
};

/**
 * Ends the sessions of somebody, but for one, and withdraws what may be delivered late for them.
 * @returns how many sessions ended
 */
export async function endSessions(db: Knex, personId: number, but: number | null = null): Promise<number> {
  await endLate(db, personId);
  return db('session')
    .where({ person_id: personId })
    .whereNot('id', but ?? -1)
    .del();
}

export interface OwnSession {
  id: number;
  madeAt: number;
  seenAt: number;
  agent: string;
  shared: string | null;
}

/** Where somebody is signed in, the latest used first. */
export async function ownSessions(db: Knex, personId: number, now: number): Promise<OwnSession[]> {
  const rows = await db('session as s')
    .leftJoin('bench_device as d', 'd.id', 's.device_id')
    .where({ 's.person_id': personId })
    .where('s.until', '>', now)
    .where('s.seen_at', '>', now - IDLE_MS)
    .orderBy('s.seen_at', 'desc')
    .select('s.id', 's.made_at', 's.seen_at', 's.agent', 'd.name');
  return rows.map((r) => ({ id: r.id, madeAt: r.made_at, seenAt: r.seen_at, agent: r.agent, shared: r.name }));
}
