import type { Knex } from 'knex';
import { afterEach, beforeEach, expect, it } from 'vitest';
import { outcomeOf } from '../../tests/support/outcome';
import { acting, NOW, smallProgramme } from '../../tests/support/small';
import { openJob } from '../bench/jobs';
import { must } from '../db/must';
import { retirePerson } from '../programme/manage';
import {
  changePassword,
  closeAccount,
  deviceOf,
  endDevice,
  endOwnSession,
  enrolDevice,
  giveCode,
  nobodyCanEnter,
  setPin,
  signIn,
  takeBench,
  useCode,
} from './accounts';
import { endFeed, feedOfToken, makeFeed, openFeeds } from './feeds';
import { allowLate, endLate, mayDeliverLate } from './late';
import { codeHash, hashPassword, isPassword, newCode, newToken, tokenHash } from './secrets';
import { ownSessions, sessionOf } from './sessions';

const DAY = 86_400_000;
let db: Knex;
// Tries are counted by address: each test comes from its own.
let visits = 0;
let address = '';
beforeEach(async () => {
  ({ db } = await smallProgramme());
  visits += 1;
  address = `192.0.2.${visits}`;
});
afterEach(() => db.destroy());
const from = (more: { now?: number; deviceId?: number | null } = {}) => ({
  now: NOW,
  agent: 'test',
  address,
  deviceId: null,
  ...more,
});
const WORDS = 'three words alike';
/** Lets somebody choose a password, as they would. */
const enrol = async (personId: number, password = WORDS) =>
  useCode(db, { code: (await giveCode(db, acting(), { personId })).code, password }, from());

it('a code is used once, for a week, and only its hash is kept', async () => {
  expect(await nobodyCanEnter(db)).toBe(true);
  const key = acting();
  const { code } = await giveCode(db, key, { personId: 2 });
  expect(code).toMatch(/^[0-9A-Z]{4}(-[0-9A-Z]{4}){2}$/);
  const kept = JSON.stringify([await db('account'), await db('audit'), await db('idempotency')]);
  expect(kept).not.toContain(code);
  // A repeat of the same press has nothing to tell; a new one makes the old one none.
  expect(await outcomeOf(giveCode(db, key, { personId: 2 }))).toBe('told-once');
  const next = await giveCode(db, acting(), { personId: 2 });
  expect(await outcomeOf(useCode(db, { code, password: WORDS }, from()))).toBe('wrong');
  expect(await outcomeOf(useCode(db, { code: next.code, password: WORDS }, from({ now: NOW + 8 * DAY })))).toBe(
    'wrong',
  );
  const typed = ` ${next.code.toLowerCase().replaceAll('-', ' ').replaceAll('0', 'o').replaceAll('1', 'l')} `;
  const { token } = await useCode(db, { code: typed, password: WORDS }, from());
  expect(await sessionOf(db, token, NOW)).toMatchObject({ personId: 2, role: 'technician' });
  expect(await outcomeOf(useCode(db, { code: next.code, password: WORDS }, from()))).toBe('wrong');
  expect(await nobodyCanEnter(db)).toBe(false);
  expect(await outcomeOf(giveCode(db, acting(2), { personId: 1 }))).toBe('not-yours');
});

it('name and password let in; who guesses is slowed, by account and by address, and who is right is not', async () => {
  await enrol(2);
  const { token } = await signIn(db, { name: 'ben wy', password: WORDS }, from());
  expect(await sessionOf(db, token, NOW)).toMatchObject({ personId: 2 });
  for (const p of [
    { name: 'Ben Wy', password: `${WORDS} ` },
    { name: 'Nobody', password: WORDS },
    { name: 'Ann Ex', password: '' },
  ])
    expect(await outcomeOf(signIn(db, p, from()))).toBe('wrong');
  const tries = await Promise.all(
    Array.from({ length: 20 }, (_, i) => outcomeOf(signIn(db, { name: 'Ben Wy', password: `guess ${i}` }, from()))),
  );
  expect(tries.filter((t) => t === 'wrong').length).toBeLessThan(9);
  expect(tries.filter((t) => t === 'slow-down').length).toBeGreaterThan(11);
  // Not even the right one, for a while; the session that is open goes on.
  expect(await outcomeOf(signIn(db, { name: 'Ben Wy', password: WORDS }, from()))).toBe('slow-down');
  expect(await sessionOf(db, token, NOW)).not.toBeNull();
});

it('nobody is locked out by somebody else’s guesses: neither from elsewhere nor on a device they know', async () => {
  await enrol(2);
  const own = { ...from(), browser: newToken() };
  await signIn(db, { name: 'Ben Wy', password: WORDS }, own);
  const guesses = (address: string, browser?: string) =>
    Array.from({ length: 9 }, (_, i) =>
      outcomeOf(signIn(db, { name: 'Ben Wy', password: `guess ${i}` }, { ...from(), address, browser })),
    );
  // From their own address and a dozen more, by browsers that nobody knows.
  const told = await Promise.all(
    Array.from({ length: 13 }, (_, i) => guesses(i === 0 ? address : `198.51.100.${i}`, newToken())).flat(),
  );
  expect(told.filter((t) => t === 'wrong')).toHaveLength(13 * 8);
  expect(await outcomeOf(signIn(db, { name: 'Ben Wy', password: WORDS }, own))).toBe('done');
  // A device that is new to them waits a moment, at an address from which nobody guessed.
  const elsewhere = { ...from(), address: '203.0.113.5', browser: newToken() };
  expect(await outcomeOf(signIn(db, { name: 'Ben Wy', password: WORDS }, elsewhere))).toBe('done');
  // A code is never refused for other people's wrong ones.
  const wrongCodes = Array.from({ length: 20 }, () =>
    outcomeOf(useCode(db, { code: newCode(), password: WORDS }, from())),
  );
  expect(new Set(await Promise.all(wrongCodes))).toEqual(new Set(['wrong']));
  const { code } = await giveCode(db, acting(), { personId: 2 });
  expect(await outcomeOf(useCode(db, { code, password: WORDS }, from()))).toBe('done');
});

it('a session ends when it is not used, when it is old, when it is ended, and when its person leaves', async () => {
  const { token, sessionId } = await enrol(2);
  expect(await sessionOf(db, undefined, NOW)).toBeNull();
  expect(await sessionOf(db, `${token}x`, NOW)).toBeNull();
  expect(await sessionOf(db, tokenHash(token), NOW)).toBeNull();
  expect(await sessionOf(db, token, NOW + 15 * DAY)).toBeNull();
  // Used after a day it gets another token; the one before counts for a moment only.
  const turned = await sessionOf(db, token, NOW + DAY + 1);
  const fresh = turned?.token as string;
  expect(fresh).not.toBe(token);
  expect(await sessionOf(db, token, NOW + DAY + 30_000)).toMatchObject({ id: sessionId, token: null });
  expect(await sessionOf(db, token, NOW + DAY + 120_000)).toBeNull();
  expect(await sessionOf(db, fresh, NOW + DAY + 120_000)).toMatchObject({ id: sessionId });

  const other = await signIn(db, { name: 'Ben Wy', password: WORDS }, from({ now: NOW + DAY }));
  const by = { ...acting(2), now: NOW + DAY };
  expect(await ownSessions(db, 2, NOW + DAY)).toHaveLength(2);
  // Nobody ends another's.
  await endOwnSession(db, acting(), { sessionId, current: 0 });
  expect(await ownSessions(db, 2, NOW + DAY)).toHaveLength(2);
  await endOwnSession(db, by, { sessionId: 'others', current: other.sessionId });
  expect((await ownSessions(db, 2, NOW + DAY)).map((s) => s.id)).toEqual([other.sessionId]);
  expect(await sessionOf(db, fresh, NOW + DAY + 120_000)).toBeNull();
  await retirePerson(db, acting(), { id: 2, expectedVersion: 1 });
  expect(await sessionOf(db, other.token, NOW + DAY)).toBeNull();
  expect(await outcomeOf(signIn(db, { name: 'Ben Wy', password: WORDS }, from()))).toBe('wrong');
});

it('another password ends what is open elsewhere; locked out, nothing lets in', async () => {
  const here = await enrol(2);
  const there = await signIn(db, { name: 'Ben Wy', password: WORDS }, from());
  const own = { sessionId: here.sessionId, address };
  expect(await outcomeOf(changePassword(db, acting(2), { ...own, current: 'no', password: 'four other words' }))).toBe(
    'wrong-password',
  );
  await changePassword(db, acting(2), { ...own, current: WORDS, password: 'four other words' });
  expect(await sessionOf(db, there.token, NOW)).toBeNull();
  expect(await sessionOf(db, here.token, NOW)).not.toBeNull();
  expect(await outcomeOf(signIn(db, { name: 'Ben Wy', password: WORDS }, from()))).toBe('wrong');
  await closeAccount(db, acting(), { personId: 2 });
  expect(await sessionOf(db, here.token, NOW)).toBeNull();
  expect(await outcomeOf(signIn(db, { name: 'Ben Wy', password: 'four other words' }, from()))).toBe('wrong');
  expect(await outcomeOf(closeAccount(db, acting(), { personId: 1 }))).toBe('yourself');
});

it('digits take a bench only where the device was enrolled, for a working day, until the device is none', async () => {
  await enrol(2);
  await setPin(db, acting(2), { password: WORDS, pin: '4071', sessionId: 1, address });
  expect(await outcomeOf(takeBench(db, { personId: 2, pin: '4071' }, from()))).toBe('no-device');
  const { token } = await enrolDevice(db, acting(), { name: 'Tablet' });
  const device = (await deviceOf(db, token)) as { id: number };
  const at = from({ deviceId: device.id });
  expect(await outcomeOf(takeBench(db, { personId: 2, pin: '4072' }, at))).toBe('wrong');
  expect(await outcomeOf(takeBench(db, { personId: 1, pin: '4071' }, at))).toBe('wrong');
  const taken = await takeBench(db, { personId: 2, pin: '4071' }, at);
  expect(await sessionOf(db, taken.token, NOW + 11 * 3_600_000)).toMatchObject({ personId: 2, deviceId: device.id });
  expect(await sessionOf(db, taken.token, NOW + 13 * 3_600_000)).toBeNull();
  const again = await takeBench(db, { personId: 2, pin: '4071' }, at);
  await endDevice(db, acting(), { deviceId: device.id });
  expect(await deviceOf(db, token)).toBeNull();
  expect(await sessionOf(db, again.token, NOW)).toBeNull();
});

it('a calendar address reads until it is ended, and no other does', async () => {
  await makeFeed(db, acting(), { personId: 2 });
  await makeFeed(db, acting(2), { placeId: 1 });
  expect(await outcomeOf(makeFeed(db, acting(), { personId: 77 }))).toBe('not-found');
  const [first] = await openFeeds(db);
  expect(must(first).token.length).toBeGreaterThan(40);
  expect(await feedOfToken(db, must(first).token)).toMatchObject({ personId: 2, placeId: null });
  expect(await feedOfToken(db, '')).toBeNull();
  await endFeed(db, acting(), { feedId: must(first).id });
  expect(await feedOfToken(db, must(first).token)).toBeNull();
  expect(await openFeeds(db)).toHaveLength(1);
});

it('delivers late only from the browser, for the person and on the job it was opened for, until they end it', async () => {
  const { jobId } = await openJob(db, acting(2), { tag: 'AC-1' });
  const other = await openJob(db, acting(2), { tag: 'UK-1' });
  const allow = () => allowLate(db, { browser: 'tablet', personId: 2, jobIds: [jobId], deviceId: null, now: NOW });
  const may = (more: { browser?: string | undefined; personId?: number; jobId?: number; now?: number } = {}) =>
    mayDeliverLate(db, { browser: 'tablet', personId: 2, jobId, now: NOW, ...more });
  await allow();
  await allow();
  expect(await may()).toBe(true);
  for (const not of [
    { browser: 'laptop' },
    { browser: undefined },
    { personId: 1 },
    { jobId: other.jobId },
    { now: NOW + 15 * DAY },
  ])
    expect(await may(not), JSON.stringify(not)).toBe(false);
  // Another person's ends, and this person's on another browser, take nothing from it.
  await endLate(db, 1);
  await endLate(db, 2, 'laptop');
  expect(await may()).toBe(true);
  const ends: (() => Promise<unknown>)[] = [
    () => endLate(db, 2, 'tablet'),
    () => closeAccount(db, acting(1), { personId: 2 }),
    async () =>
      changePassword(db, acting(2), {
        current: WORDS,
        password: 'other words than these',
        sessionId: (await enrol(2)).sessionId,
        address,
      }),
    async () => {
      const { sessionId } = await enrol(2);
      await allow();
      await endOwnSession(db, acting(2), { sessionId, current: -1 });
    },
  ];
  for (const end of ends) {
    await allow();
    await end();
    expect(await may(), String(end)).toBe(false);
  }
});

it('codes cannot be made up', async () => {
  const codes = new Set(Array.from({ length: 500 }, newCode));
  expect(codes.size).toBe(500);
  for (const code of codes) expect(codeHash(code.toLowerCase().replaceAll('-', ''))).toBe(codeHash(code));
  // The same letters however a keyboard makes them (Unicode NFKC).
  const kept = await hashPassword('Caf\u00e9 und mehr');
  expect(await isPassword(kept, 'Cafe\u0301 und mehr')).toBe(true);
  expect(await isPassword(null, 'Cafe')).toBe(false);
});
