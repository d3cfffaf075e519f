import { createHash } from 'node:crypto';
import type { Knex } from 'knex';
import { type ChangeName, isByLabel, mayChange, type Role } from '../../contract/permissions';
import { addEntry, changedIn, NOBODY } from '../audit/entries';
import { refused, UserError } from '../errors';
import { transact } from './transact';

/** Who does something, when, and the key that makes a repeat of it count once. */
export interface Acting {
  personId: number;
  now: number;
  /** Made by the client for each intention of the user; a retry sends the same one. */
  key: string;
  /** The address it comes from, and the bench device; nothing for what the server does by itself. */
  from?: string;
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
      'Sent twice, with different contents',
      'The first version was recorded; this one differs. Reload the page and try again.',
    );
  return { result: JSON.parse(seen.response) as T };
}

const ROLE_WORDS: Record<Role, string> = {
  coordinator: 'a coordinator',
  technician: 'a technician',
  helper: 'a helper',
  teacher: 'a teacher',
};

/** Who does, of those who may: "a technician or a coordinator". */
const doneBy = (action: ChangeName): string =>
  (['technician', 'coordinator'] as const)
    .filter((role) => mayChange(role, action) === 'any')
    .map((role) => ROLE_WORDS[role])
    .join(' or ');

const notTheirs = (role: Role, action: ChangeName, whose = ''): UserError =>
  new UserError(
    'not-yours',
    403,
    'Not allowed for your role',
    `Signed in as ${ROLE_WORDS[role]}, you cannot do this${whose}. Ask ${doneBy(action)}. Nothing was changed.`,
  );

/** @throws UserError `not-yours` when nobody of their role does this, or they have left */
async function requireMay(trx: Knex, acting: Pick<Acting, 'personId'>, action: ChangeName): Promise<void> {
  if (acting.personId === NOBODY && isByLabel(action)) return;
  const person = await trx('person').where({ id: acting.personId }).whereNull('retired_on').first('role');
  if (!person)
    throw new UserError(
      'not-here',
      403,
      'No longer in this programme',
      'Nothing was changed: you are no longer in this programme.',
    );
  if (mayChange(person.role, action) === null) throw notTheirs(person.role, action);
}

/**
 * Within a change that some may make of their own alone: that it is theirs.
 * @throws UserError `not-yours` when it is somebody else's
 */
export async function requireOwn(
  trx: Knex,
  acting: Pick<Acting, 'personId'>,
  action: ChangeName,
  personId: number,
): Promise<void> {
  const person = await trx('person').where({ id: acting.personId }).first('role');
  if (person && mayChange(person.role, action) === 'own' && personId !== acting.personId)
    throw notTheirs(person.role, action, ' for other people');
}

/**
 * Runs one change of state: everything in one transaction together with its audit entry and its idempotency key. The
 * same key again returns the first answer without doing anything.
 * @throws UserError `key-reused` when the key was used for another request, `not-yours` when nobody of their role does this
 */
export async function change<T>(
  db: Knex,
  acting: Acting,
  action: ChangeName,
  request: unknown,
  work: (trx: Knex.Transaction) => Promise<Outcome<T>>,
): Promise<T> {
  // Of a change within another the other tells what it was before.
  const alone = !db.isTransaction;
  return transact(db, async (trx) => {
    await requireMay(trx, acting, action);
    const before = await answered<T>(trx, acting, action, request);
    if (before) return before.result;
    const { result, entity, entityId, detail } = await work(trx);
    await addEntry(trx, {
      at: acting.now,
      personId: acting.personId,
      action,
      entity,
      entityId,
      key: acting.key,
      from: acting.from ?? '',
      detail: JSON.stringify(detail ?? request),
      changed: alone ? await changedIn(trx, entity, entityId) : '',
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
