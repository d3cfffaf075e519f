import { cpSync, mkdirSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import { seededChance } from '../core/chance';
import { hashPassword, tokenHash } from '../server/access/secrets';
import { openDatabase } from '../server/db/connection';
import { DATABASE_FILE } from '../server/db/opening';
import { startServer } from './setup.mjs';

/** Sixty people at once: who they are, and what they open in a day, the frequent things more often. */
const PEOPLE = [
  { role: 'coordinator', count: 4 },
  { role: 'technician', count: 12 },
  { role: 'helper', count: 10 },
  { role: 'teacher', count: 34 },
] as const;
type Role = (typeof PEOPLE)[number]['role'];

const WORKSHOP = ['/', '/', '/fleet', '/api/fleet?place=2&due=horizon', '/instruments/TAG', '/stock', '/plan'] as const;
const OPENED: Record<Role, readonly string[]> = {
  teacher: ['/', '/', '/', '/teaching', '/instruments/TAG', '/fleet', '/api/find?q=loan+cello'],
  helper: [...WORKSHOP, '/methods', '/stock/products/1'],
  technician: [...WORKSHOP, '/api/find?q=cello', '/stock/products/1', '/stock/orders', '/stock/count', '/methods'],
  coordinator: [
    ...WORKSHOP,
    '/plan/people',
    '/plan/learning',
    '/stock/orders',
    '/programme',
    '/programme/audit',
    '/api/find?q=runa',
  ],
};
/** Reads on purpose long and rare, which others must not feel. */
const RARE = ['/programme/names?name=Ida+Marr', '/api/export/instruments.csv'] as const;

const REST_MS = [3000, 9000] as const;
/** A page that lies open is made anew so long after it was told of a change, and what the server adds, as pages do it. */
const PAUSE_MS = 1000;
const LEAST_BETWEEN_MS = 5000;
/** Kinds of changes that show nowhere on a teacher's page, of those that are made here. */
const UNMOVED_TEACHERS = ['stock'];
const CHANGE_EVERY_MS = 2000;
const SIGN_IN_EVERY_MS = 15_000;
const LOOK_EVERY_MS = 5000;
const METRICS = 'a-word-of-the-bench-alone';
const PASSWORD = 'seven lanterns on a rope';

export interface CrowdResult {
  minutes: number;
  people: number;
  /** Milliseconds of each answer, sorted, by what was opened. */
  times: Map<string, number[]>;
  /** The same pages, one after the other, before the others came. */
  alone: Map<string, number[]>;
  changes: number[];
  signIns: number[];
  /** Pages made anew because they were told of a change. */
  anew: number;
  /** The longest hold of the server's event loop in each few seconds, in ms. */
  holds: number[];
  /** Resident memory in bytes, every few seconds. */
  memory: number[];
  failed: string[];
}

/**
 * Sixty people on a copy of a programme, each with a session of their own: they open pages, keep one open that follows
 * changes, change things at the bench and in the store, say what is wrong, and sign in.
 */
export async function crowd(p: { folder: string; port: number; minutes: number }): Promise<CrowdResult> {
  const folder = mkdtempSync(join(tmpdir(), 'arvick-crowd-'));
  try {
    mkdirSync(folder, { recursive: true });
    cpSync(join(p.folder, DATABASE_FILE), join(folder, DATABASE_FILE));
    return await within(folder, p);
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}

interface One {
  role: Role;
  cookie: string;
}

async function addPeople(folder: string): Promise<{ people: One[]; tags: string[]; names: string[] }> {
  const db = await openDatabase(folder);
  const now = Date.now();
  const password_hash = await hashPassword(PASSWORD);
  const placeIds: number[] = await db('place').pluck('id');
  const people: One[] = [];
  const names: string[] = [];
  for (const { role, count } of PEOPLE)
    for (let n = 0; n < count; n++) {
      const token = `a-token-of-the-crowd-${role}-${n}`;
      const name = `Crowd ${role} ${n}`;
      const [person] = await db('person')
        .insert({ name, initials: 'CR', role, place_id: placeIds[n % placeIds.length] })
        .returning('id');
      if (!person) throw new Error(`${name} was not added.`);
      await db('account').insert({ person_id: person.id, password_hash });
      const at = { made_at: now, rotated_at: now, seen_at: now, until: now + 86_400_000 };
      await db('session').insert({ token_hash: tokenHash(token), person_id: person.id, ...at });
      people.push({ role, cookie: `arvick_session=${token}` });
      names.push(name);
    }
  const tags: string[] = await db('instrument').whereNull('retired_on').orderBy('id').limit(20_000).pluck('tag');
  await db.raw('pragma wal_checkpoint(truncate)');
  await db.destroy();
  return { people, tags, names };
}

async function within(folder: string, p: { port: number; minutes: number }): Promise<CrowdResult> {
  const { people, tags, names } = await addPeople(folder);
  const base = `http://127.0.0.1:${p.port}`;
  const server = await startServer({
    port: p.port,
    host: '127.0.0.1',
    data: folder,
    env: { ARVICK_METRICS: METRICS, ARVICK_LOG: 'error' },
  });
  if (!server) throw new Error('The server did not start.');
  const chance = seededChance(60);
  const between = ([from, to]: readonly [number, number]) => from + (to - from) * chance();
  const pick = <T>(from: readonly T[]): T => from[Math.floor(chance() * from.length)] as T;
  const said: CrowdResult = {
    minutes: p.minutes,
    people: people.length,
    times: new Map(),
    alone: new Map(),
    changes: [],
    signIns: [],
    anew: 0,
    holds: [],
    memory: [],
    failed: [],
  };
  const open = async (one: One, page: string, to: Map<string, number[]> | null) => {
    const started = performance.now();
    const answer = await fetch(base + page.replace('TAG', pick(tags)), { headers: { cookie: one.cookie } });
    await answer.arrayBuffer();
    if (!answer.ok) said.failed.push(`${page} as ${one.role}: ${answer.status}`);
    to?.set(page, [...(to.get(page) ?? []), performance.now() - started]);
  };
  const change = async (one: One, path: string, body: object, n: string): Promise<number> => {
    const started = performance.now();
    const answer = await fetch(base + path, {
      method: 'POST',
      headers: { cookie: one.cookie, origin: base, 'content-type': 'application/json', 'idempotency-key': n },
      body: JSON.stringify(body),
    });
    const text = await answer.text();
    // An instrument that somebody has on the bench already is refused, as it should be.
    if (!answer.ok && answer.status !== 409) said.failed.push(`${path}: ${answer.status} ${text.slice(0, 200)}`);
    return performance.now() - started;
  };
  const byRole = (role: Role) => people.filter((one) => one.role === role);
  try {
    for (const { role } of PEOPLE)
      for (const page of new Set(OPENED[role]))
        for (let n = 0; n < 8; n++) await open(byRole(role)[0] as One, page, n < 3 ? null : said.alone);

    const until = performance.now() + p.minutes * 60_000;
    const going = () => performance.now() < until;
    const stop = new AbortController();
    const opens = async (one: One) => {
      while (going()) {
        await pause(between(REST_MS));
        await open(one, pick(OPENED[one.role]), said.times);
      }
    };
    const follows = async (one: One) => {
      let last = 0;
      while (going()) {
        try {
          const answer = await fetch(`${base}/api/live`, { headers: { cookie: one.cookie }, signal: stop.signal });
          let waits = false;
          for await (const piece of answer.body as unknown as AsyncIterable<Uint8Array>) {
            const data = /data: \S+ (\S*) (\d+)/.exec(new TextDecoder().decode(piece));
            const told = data?.[1]?.split(',');
            if (!told || waits || !going()) continue;
            if (one.role === 'teacher' && told.every((area) => UNMOVED_TEACHERS.includes(area))) continue;
            waits = true;
            const soonest = last + LEAST_BETWEEN_MS - performance.now();
            void pause(Math.max(PAUSE_MS, soonest) + between([0, Number(data?.[2])])).then(async () => {
              waits = false;
              last = performance.now();
              if (!going()) return;
              said.anew++;
              await open(one, '/', said.times).catch((error) => said.failed.push(`/ anew: ${error}`));
            });
          }
        } catch (error) {
          if (!stop.signal.aborted) said.failed.push(`/api/live: ${error}`);
        }
      }
    };
    const changes = async () => {
      const day = new Date(Date.now() + 7 * 86_400_000).toISOString().slice(0, 10);
      for (let n = 0; going(); n++) {
        await pause(CHANGE_EVERY_MS);
        const one = pick([...byRole('technician'), ...byRole('coordinator')]);
        const kind = n % 4;
        const key = `crowd-change-${n}`;
        if (kind === 0) said.changes.push(await change(one, '/api/jobs/as-usual', { tag: pick(tags) }, key));
        else if (kind === 1)
          said.changes.push(await change(one, '/api/stock/receive', { productId: 1, placeId: 1, quantity: 1 }, key));
        else if (kind === 2)
          said.changes.push(
            await change(
              one,
              '/api/plan/request',
              { dueOn: day, kind: 'service', tag: pick(tags), why: 'buzzes on the D' },
              key,
            ),
          );
        else said.changes.push(await change(one, '/api/people/horizon', { horizonOn: day }, key));
      }
    };
    const signsIn = async () => {
      for (let n = 0; going(); n++) {
        await pause(SIGN_IN_EVERY_MS);
        const body = { name: names[n % names.length], password: PASSWORD };
        said.signIns.push(await change({ role: 'teacher', cookie: '' }, '/api/sign/in', body, `crowd-in-${n}`));
      }
    };
    const rarely = async () => {
      const one = byRole('coordinator')[0] as One;
      for (let n = 0; going(); n++) {
        await pause(60_000);
        if (going()) await open(one, RARE[n % RARE.length] as string, said.times);
      }
    };
    const looks = async () => {
      await look(base);
      while (going()) {
        await pause(LOOK_EVERY_MS);
        const { hold, memory } = await look(base);
        said.holds.push(hold);
        said.memory.push(memory);
      }
    };
    const work = [...people.map(opens), changes(), signsIn(), rarely(), looks()];
    const followed = people.map(follows);
    await Promise.all(work);
    stop.abort();
    await Promise.all(followed);
    for (const list of [...said.times.values(), ...said.alone.values(), said.changes, said.signIns])
      list.sort((a, b) => a - b);
    return said;
  } finally {
    server.kill('SIGTERM');
    await new Promise((gone) => server.once('exit', gone));
  }
}

/** What the server tells of itself since it was asked last. */
async function look(base: string): Promise<{ hold: number; memory: number }> {
  const answer = await fetch(`${base}/metrics`, { headers: { authorization: `Bearer ${METRICS}` } });
  const text = await answer.text();
  const of = (name: string) => Number(new RegExp(`^${name} (\\S+)`, 'm').exec(text)?.[1] ?? Number.NaN);
  return { hold: of('nodejs_eventloop_lag_max_seconds') * 1000, memory: of('process_resident_memory_bytes') };
}
