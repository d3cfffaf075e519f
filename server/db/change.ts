import { createHash } from 'node:crypto';
import type { Knex } from 'knex';
import { refused } from '../errors';
import { transact } from './transact';

/** Who does something, when, and the key that makes a repeat of it count once. */
export interface Acting {
  personId: number;
  now: number;
  /** Made by the client for each intention of the user; a retry sends the same one. */
  key: string;
}

export interface Outcome<T> {
  result: T;
  entity: string;
  entityId: number;
  detail?: unknown;
}

/** What a request is known by beside its key. */
const hashOf = (action: string, request: unknown): string =>
  createHash('sha256')
    .update(`${action}\n${JSON.stringify(request)}`)
    .digest('base64url');

/**
 * What the same request was answered before, by its key; null when it is new. For changes that need long work before
 * they begin.
 * @throws UserError `key-reused` when the key was used for another request
 */
export async function answered<T>(
  db: Knex,
  acting: Pick<Acting, 'key'>,
  action: string,
  request: unknown,
): Promise<{ result: T } | null> {
  const seen = await db('idempotency').where({ key: acting.key }).first();
  if (!seen) return null;
  if (seen.request_hash !== hashOf(action, request))
    throw refused(
      'key-reused',
      'Sent twice with different contents',
      'Reload the page and try again; the first one was recorded.',
    );
  return { result: JSON.parse(seen.response) as T };
}

/**
 * Runs one change of state: everything in one transaction together with its audit entry and its idempotency key. The
 * same key again returns the first answer without doing anything.
 * @throws UserError `key-reused` when the key was used for another request
 */
export async function change<T>(
  db: Knex,
  acting: Acting,
  action: string,
  request: unknown,
  work: (trx: Knex.Transaction) => Promise<Outcome<T>>,
): Promise<T> {
  return transact(db, async (trx) => {
    const before = await answered<T>(trx, acting, action, request);
    if (before) return before.result;
    const { result, entity, entityId, detail } = await work(trx);
    await trx('audit').insert({
      at: acting.now,
      person_id: acting.personId,
      action,
      entity,
      entity_id: entityId,
      idempotency_key: acting.key,
      detail: JSON.stringify(detail ?? request),
    });
    await trx('idempotency').insert({
      key: acting.key,
      action,
      person_id: acting.personId,
      request_hash: hashOf(action, request),
      response: JSON.stringify(result ?? null),
      at: acting.now,
    });
    return result;
  });
}

/** The id of a freshly inserted row. */
export async function insertId(trx: Knex, table: string, row: Record<string, unknown>): Promise<number> {
  const [inserted] = await trx(table).insert(row).returning('id');
  return inserted.id as number;
}
