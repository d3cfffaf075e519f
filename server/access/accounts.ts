import type { Knex } from 'knex';
import { type Acting, change } from '../db/change';
import { must } from '../db/must';
import { transact } from '../db/transact';
import { notFound, refused, UserError } from '../errors';
import { endLate } from './late';
import { slowAfterMany, type Trying, tryOnce, wasRight } from './limits';
import { codeHash, hashPassword, isPassword, newCode, newToken, tokenHash } from './secrets';
import { beginSession, endSessions } from './sessions';

/** A code is good for a week. */
const CODE_MS = 7 * 86_400_000;

/** Where a session begins. */
export interface From {
  now: number;
  /** What the browser says it is. */
  agent: string;
  /** The address that asks, for counting tries. */
  address: string;
  /** A bench that several share, where it is one. */
  deviceId: number | null;
  /** The token of the browser's own cookie, where it has one. */
  browser?: string | undefined;
}

const wrong = (detail: string) => new UserError('wrong', 401, 'Not signed in', detail);

/**
 * Begins a session by name and password.
 * @throws UserError `wrong` for whichever of the two is, `slow-down` after too many tries
 */
export async function signIn(db: Knex, p: { name: string; password: string }, from: From) {
  const row = await db('person as p')
    .join('account as a', 'a.person_id', 'p.id')
    .whereNull('p.retired_on')
    .whereRaw('lower(p.name) = ?', [p.name.toLowerCase()])
    .first('p.id', 'a.password_hash');
  const trying: Trying = { account: p.name, address: from.address, known: await knownBrowser(db, row?.id, from) };
  await tryOnce(trying);
  if (!(await isPassword(row?.password_hash ?? null, p.password)) || !row)
    throw wrong('Name and password do not match. A coordinator can give you a code to choose a new password.');
  await wasRight(trying);
  return enter(db, row.id, from);
}

/** A browser on which somebody signed in is theirs for so long after they last did. */
const KNOWN_MS = 180 * 86_400_000;

/** The browser that asks, where this person has signed in on it before. */
async function knownBrowser(db: Knex, personId: number | undefined, from: From): Promise<string | null> {
  if (personId === undefined || !from.browser) return null;
  const browser_hash = tokenHash(from.browser);
  const row = await db('known_browser')
    .where({ browser_hash, person_id: personId })
    .where('seen_at', '>', from.now - KNOWN_MS)
    .first('browser_hash');
  return row ? browser_hash : null;
}

/** Begins a session, and remembers the browser as one of theirs. */
async function enter(db: Knex, personId: number, from: From) {
  return transact(db, async (trx) => {
    if (from.browser) {
      await trx('known_browser')
        .where('seen_at', '<', from.now - KNOWN_MS)
        .del();
      await trx('known_browser')
        .insert({ browser_hash: tokenHash(from.browser), person_id: personId, seen_at: from.now })
        .onConflict(['browser_hash', 'person_id'])
        .merge();
    }
    return beginSession(trx, { personId, ...from });
  });
}

/**
 * Chooses a password by a code, which is used up by that, and begins a session; sessions from before end.
 * @throws UserError `wrong` where there is no such code, or its time is over
 */
export async function useCode(db: Knex, p: { code: string; password: string }, from: From) {
  const code_hash = codeHash(p.code);
  const byCode = (trx: Knex) =>
    trx('account as a')
      .join('person as p', 'p.id', 'a.person_id')
      .whereNull('p.retired_on')
      .where({ 'a.code_hash': code_hash })
      .where('a.code_until', '>', from.now)
      .first('a.person_id');
  const trying: Trying = { account: `code ${from.address}`, address: from.address };
  await slowAfterMany(trying);
  const noCode = () => wrong('This code is wrong, used up or more than a week old. Ask a coordinator for a new one.');
  // Hashing a password is work that only a code is worth.
  if (!(await byCode(db))) throw noCode();
  const password_hash = await hashPassword(p.password);
  return transact(db, async (trx) => {
    const account = await byCode(trx);
    if (!account) throw noCode();
    const personId = account.person_id;
    await trx('account').where({ person_id: personId }).update({ password_hash, code_hash: null, code_until: null });
    await endSessions(trx, personId);
    await wasRight(trying);
    return enter(trx, personId, from);
  });
}

/** Gives somebody a code, to be told them by hand; a code from before is none any more. */
export async function writeCode(trx: Knex, personId: number, now: number): Promise<string> {
  const person = await trx('person').where({ id: personId }).whereNull('retired_on').first();
  if (!person) throw notFound('This person');
  const code = newCode();
  const until = { code_hash: codeHash(code), code_until: now + CODE_MS };
  await trx('account')
    .insert({ person_id: personId, ...until })
    .onConflict('person_id')
    .merge(until);
  return code;
}

/** A coordinator gives somebody a code, as an invitation or because the password was forgotten. It is told once. */
export async function giveCode(db: Knex, acting: Acting, p: { personId: number }): Promise<{ code: string }> {
  let told = '';
  const done = await change(db, acting, 'account.code', p, async (trx) => {
    told = await writeCode(trx, p.personId, acting.now);
    // What is kept of the answer is not the code.
    return { result: { given: true }, entity: 'person', entityId: p.personId };
  });
  if (done.given && !told)
    throw refused('told-once', 'The code was shown once', 'Give a new code: the earlier one is not kept anywhere.');
  return { code: told };
}

/** Somebody cannot sign in any more; whatever they are signed in to ends. */
export async function closeAccount(db: Knex, acting: Acting, p: { personId: number }): Promise<{ ended: number }> {
  return change(db, acting, 'account.close', p, async (trx) => {
    if (p.personId === acting.personId)
      throw refused(
        'yourself',
        'You cannot lock yourself out',
        'You cannot lock yourself out. Another coordinator has to do that.',
      );
    await trx('account').where({ person_id: p.personId }).del();
    const ended = await endSessions(trx, p.personId);
    return { result: { ended }, entity: 'person', entityId: p.personId };
  });
}

async function requireOwnPassword(
  db: Knex,
  personId: number,
  p: { password: string; address: string; sessionId: number },
): Promise<void> {
  const trying: Trying = { account: `own ${personId}`, address: p.address, known: `session ${p.sessionId}` };
  await tryOnce(trying);
  const account = await db('account').where({ person_id: personId }).first();
  if (!(await isPassword(account?.password_hash ?? null, p.password)))
    throw refused('wrong-password', 'Wrong password', 'That is not your current password. Nothing was changed.');
  await wasRight(trying);
}

/** Chooses another password; everywhere else one has to sign in anew. */
export async function changePassword(
  db: Knex,
  acting: Acting,
  p: { current: string; password: string; sessionId: number; address: string },
): Promise<{ ended: number }> {
  await requireOwnPassword(db, acting.personId, { ...p, password: p.current });
  const password_hash = await hashPassword(p.password);
  return change(db, acting, 'account.password', {}, async (trx) => {
    await trx('account').where({ person_id: acting.personId }).update({ password_hash });
    const ended = await endSessions(trx, acting.personId, p.sessionId);
    return { result: { ended }, entity: 'person', entityId: acting.personId };
  });
}

/** Chooses the digits by which one takes a bench that several share; none: one does not. */
export async function setPin(
  db: Knex,
  acting: Acting,
  p: { password: string; pin: string; sessionId: number; address: string },
): Promise<{ set: boolean }> {
  await requireOwnPassword(db, acting.personId, p);
  const pin_hash = p.pin === '' ? null : await hashPassword(p.pin);
  return change(db, acting, 'account.pin', { set: pin_hash !== null }, async (trx) => {
    await trx('account').where({ person_id: acting.personId }).update({ pin_hash });
    return { result: { set: pin_hash !== null }, entity: 'person', entityId: acting.personId };
  });
}

/**
 * Takes a bench that several share, by PIN: only where a coordinator has enrolled the device.
 * @throws UserError `wrong`, `slow-down`, `no-device`
 */
export async function takeBench(db: Knex, p: { personId: number; pin: string }, from: From) {
  await requireDigits(db, p, from);
  return enter(db, p.personId, from);
}

/**
 * That somebody is at a shared bench: by their digits, which do nowhere else.
 * @throws UserError `wrong`, `slow-down`, `no-device`
 */
export async function requireDigits(
  db: Knex,
  p: { personId: number; pin: string },
  from: Pick<From, 'deviceId' | 'address'>,
): Promise<void> {
  if (from.deviceId === null)
    throw refused(
      'no-device',
      'Not a shared bench',
      'A PIN works only on a device that a coordinator has made a shared bench.',
    );
  const trying: Trying = { account: `pin ${p.personId}`, address: from.address, known: `bench ${from.deviceId}` };
  await tryOnce(trying);
  const row = await db('account as a')
    .join('person as p', 'p.id', 'a.person_id')
    .where({ 'a.person_id': p.personId })
    .whereNull('p.retired_on')
    .first('a.pin_hash');
  if (!(await isPassword(row?.pin_hash ?? null, p.pin))) throw wrong('That is not this person’s PIN.');
  await wasRight(trying);
}

/** Makes the device that asks one that several share. Its token is told once. */
export async function enrolDevice(
  db: Knex,
  acting: Acting,
  p: { name: string },
): Promise<{ deviceId: number; token: string }> {
  let token = '';
  const { deviceId } = await change(db, acting, 'device.enrol', p, async (trx) => {
    token = newToken();
    const [row] = await trx('bench_device')
      .insert({ token_hash: tokenHash(token), name: p.name, enrolled_by: acting.personId, at: acting.now })
      .returning('id');
    const id = (row as { id: number }).id;
    return { result: { deviceId: id }, entity: 'bench_device', entityId: id };
  });
  return { deviceId, token };
}

/** A device is no bench any more; whoever is signed in there is not. */
export async function endDevice(db: Knex, acting: Acting, p: { deviceId: number }): Promise<{ ended: true }> {
  return change(db, acting, 'device.end', p, async (trx) => {
    const there = await trx('bench_device')
      .where({ id: p.deviceId, revoked_at: null })
      .update({ revoked_at: acting.now });
    if (!there) throw notFound('This device');
    await trx('session').where({ device_id: p.deviceId }).del();
    await trx('late_pass').where({ device_id: p.deviceId }).del();
    return { result: { ended: true as const }, entity: 'bench_device', entityId: p.deviceId };
  });
}

/** The shared bench of a token; null where it is none. */
export async function deviceOf(db: Knex, token: string | undefined): Promise<{ id: number; name: string } | null> {
  if (!token) return null;
  const row = await db('bench_device')
    .where({ token_hash: tokenHash(token), revoked_at: null })
    .first('id', 'name');
  return row ?? null;
}

/** Ends one of one's own sessions, or all the others. */
export async function endOwnSession(
  db: Knex,
  acting: Acting,
  p: { sessionId: number | 'others'; current: number },
): Promise<{ ended: number }> {
  return change(db, acting, 'account.session-end', p, async (trx) => {
    if (p.sessionId === 'others') {
      const ended = await endSessions(trx, acting.personId, p.current);
      return { result: { ended }, entity: 'person', entityId: acting.personId };
    }
    const ended = await trx('session').where({ id: p.sessionId, person_id: acting.personId }).del();
    await endLate(trx, acting.personId);
    return { result: { ended }, entity: 'person', entityId: acting.personId };
  });
}

export interface AccountState {
  personId: number;
  hasPassword: boolean;
  hasPin: boolean;
  /** How the district's own sign-in knows them; empty: it does not. */
  districtName: string;
  /** A code was given and not used yet. */
  codeUntil: number | null;
  sessions: number;
}

/** How everybody stands with signing in. */
export async function accountStates(db: Knex, now: number): Promise<Map<number, AccountState>> {
  const rows = await db('person as p')
    .leftJoin('account as a', 'a.person_id', 'p.id')
    .select('p.id', 'a.password_hash', 'a.pin_hash', 'a.code_hash', 'a.code_until', 'a.district_name');
  const open = new Map(
    (
      (await db('session')
        .where('until', '>', now)
        .groupBy('person_id')
        .select('person_id')
        .count({ n: '*' })) as unknown as {
        person_id: number;
        n: number;
      }[]
    ).map((r) => [r.person_id, Number(r.n)]),
  );
  return new Map(
    rows.map((r) => [
      r.id,
      {
        personId: r.id,
        hasPassword: r.password_hash !== null,
        hasPin: r.pin_hash !== null,
        districtName: r.district_name ?? '',
        codeUntil: r.code_hash !== null && (r.code_until ?? 0) > now ? r.code_until : null,
        sessions: open.get(r.id) ?? 0,
      },
    ]),
  );
}

/** Whether nobody can sign in: a programme from before there were passwords, or one brought from another machine. */
export const nobodyCanEnter = async (db: Knex): Promise<boolean> =>
  !(await db('account').whereNotNull('password_hash').first('person_id'));

/** People who may take a shared bench by their digits. */
export async function benchPeople(db: Knex): Promise<{ id: number; name: string; initials: string }[]> {
  return db('person as p')
    .join('account as a', 'a.person_id', 'p.id')
    .whereNull('p.retired_on')
    .whereNotNull('a.pin_hash')
    .orderBy('p.name')
    .select('p.id', 'p.name', 'p.initials');
}

/** The password that a programme's first person chose, kept with the programme. */
export async function firstPassword(db: Knex, password: string): Promise<number> {
  const person = must(await db('person').where({ role: 'coordinator' }).orderBy('id').first());
  await db('account')
    .insert({ person_id: person.id, password_hash: await hashPassword(password) })
    .onConflict('person_id')
    .merge();
  return person.id;
}

/** A code for the programme's first coordinator, where its people came from another machine and nobody can enter yet. */
export async function codeForFirst(db: Knex, now: number): Promise<{ code: string; name: string }> {
  return transact(db, async (trx) => {
    const coordinators = trx('person').where({ role: 'coordinator' }).whereNull('retired_on');
    const person = must((await coordinators.orderBy('id').select('id', 'name'))[0]);
    return { code: await writeCode(trx, person.id, now), name: person.name };
  });
}
