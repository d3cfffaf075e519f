import { type ChildProcess, spawn } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import { cpSync, existsSync, mkdtempSync, readdirSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import Database from 'better-sqlite3';
import sharp from 'sharp';
import { readChain } from '../server/audit/entries';
import { verifyBackup } from '../server/db/backup';
import { openReader } from '../server/db/connection';
import { DATABASE_FILE } from '../server/db/opening';
import { filesOf } from '../server/photos/files';
import { ENTERED_COOKIE, enterFolder } from './entered';
import { ensureDemo, LEAN } from './setup.mjs';

// npm run crash -- 200: kills the server at random moments while several clients change things, listen and take backups,
// and looks whether everything that was acknowledged is there once, and nothing else.

const kills = Number(process.argv[2] ?? 20);
const seed = Number(process.argv[3] ?? Date.now() % 1e9);
if (!Number.isInteger(kills) || kills < 1) {
  console.error('Say how often to kill: npm run crash -- 200 [seed]');
  process.exit(2);
}
const CLIENTS = 5;
const LISTENERS = 3;
/** A life ends in the midst of the change after this many acknowledged ones, at most; counted, since machines differ in speed. */
const MOST_CHANGES = 6;
/** Every tenth life is longer, so that a backup is taken whole as well. */
const LONG_LIFE_CHANGES = 60;
const LONG_EVERY = 10;
/** A server that acknowledges nothing for so long hangs, however slow the machine is. */
const HANGS_MS = 120_000;
const PORT = 21_000 + Math.floor(Math.random() * 20_000);
const base = `http://127.0.0.1:${PORT}`;

/** Mulberry32, by Tommy Ettinger (public domain): the same seed kills after the same times. */
let state = seed;
function chance(): number {
  state = (state + 0x6d2b79f5) | 0;
  let t = Math.imul(state ^ (state >>> 15), 1 | state);
  t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
  return ((t ^ (t >>> 14)) >>> 0) / 4_294_967_296;
}
const pick = <T>(from: readonly T[]): T => from[Math.floor(Math.random() * from.length)] as T;

/** Something a client means to be done once. */
interface Intention {
  key: string;
  kind: 'as-usual' | 'note' | 'wrong' | 'photo' | 'carry' | 'backup';
  url: string;
  body: unknown;
  bytes?: Uint8Array;
  /** Words that stand nowhere else, where it has some. */
  mark: string;
}
interface Acknowledged extends Intention {
  answer: Record<string, unknown>;
  /** When the answer came, in ms since 1970. */
  at: number;
}

const folder = mkdtempSync(join(tmpdir(), 'arvick-crash-run-'));
const env = {
  ...process.env,
  ARVICK_DATA: folder,
  ARVICK_SERVE: 'yes',
  ARVICK_LOG: 'error',
  NODE_ENV: 'production',
  PORT: String(PORT),
  HOST: '127.0.0.1',
  ...LEAN,
};
delete (env as Record<string, string | undefined>).ARVICK_NOW;

console.log(`Seed ${seed}. Making a programme ...`);
cpSync(ensureDemo(), folder, { recursive: true });
await enterFolder(folder, Date.now());

const looking = new Database(join(folder, DATABASE_FILE), { readonly: true });
const tags = looking.prepare('select tag from instrument where retired_on is null').pluck().all() as string[];
const records = looking.prepare('select id from standing_record').pluck().all() as number[];
const places = looking.prepare('select id from place').pluck().all() as number[];
const lots = looking
  .prepare(
    "select b.lot_id as lotId, b.place_id as placeId from lot_balance b join lot l on l.id = b.lot_id where b.on_hand > 3 and l.form = 'set'",
  )
  .all() as { lotId: number; placeId: number }[];
looking.close();

let count = 0;
async function intend(): Promise<Intention> {
  const key = `crash-${randomBytes(9).toString('hex')}`;
  const mark = `mark ${++count} ${key}`;
  const r = Math.random();
  if (r < 0.25)
    return { key, kind: 'as-usual', url: '/api/jobs/as-usual', body: { tag: pick(tags), note: mark }, mark };
  if (r < 0.5) return { key, kind: 'note', url: `/api/records/${pick(records)}/notes`, body: { text: mark }, mark };
  if (r < 0.62) {
    const { lotId, placeId } = pick(lots);
    const toPlaceId = pick(places.filter((p) => p !== placeId));
    const body = { takes: [{ lotId, placeId, quantity: 1 }], toPlaceId, reason: mark };
    return { key, kind: 'carry', url: '/api/stock/transfer', body, mark };
  }
  if (r < 0.66) return { key, kind: 'backup', url: '/api/programme/backup', body: {}, mark: '' };
  if (r < 0.8) {
    const bytes = await sharp(randomBytes(48 * 32 * 3), { raw: { width: 48, height: 32, channels: 3 } })
      .png()
      .toBuffer();
    const url = `/api/photos?tag=${encodeURIComponent(pick(tags))}&step=crash`;
    return { key, kind: 'photo', url, body: null, bytes: new Uint8Array(bytes), mark: '' };
  }
  const body = { dueOn: '2030-01-01', kind: 'service', tag: pick(tags), why: mark.slice(0, 100) };
  return { key, kind: 'wrong', url: '/api/plan/request', body, mark: mark.slice(0, 100) };
}

const acknowledged: Acknowledged[] = [];
/** How long the last acknowledged change took, in ms: the next one is interrupted somewhere within that. */
let lastTookMs = 20;
const refused = new Map<string, number>();
const troubles: string[] = [];
let listened = 0;

/** @returns whether it was answered, one way or the other; false where the server was gone. */
async function send(i: Intention): Promise<boolean> {
  try {
    const began = Date.now();
    const answer = await fetch(base + i.url, {
      method: 'POST',
      headers: {
        cookie: ENTERED_COOKIE,
        origin: base,
        'idempotency-key': i.key,
        'content-type': i.bytes ? 'image/png' : 'application/json',
      },
      body: i.bytes ? Buffer.from(i.bytes) : JSON.stringify(i.body),
    });
    const said = (await answer.json()) as Record<string, unknown>;
    if (answer.ok) {
      const at = Date.now();
      acknowledged.push({ ...i, answer: said ?? {}, at });
      lastTookMs = at - began;
    } else if (answer.status >= 500 && answer.status !== 503)
      troubles.push(`${i.kind}: ${answer.status} ${JSON.stringify(said)}`);
    else if (answer.status === 503) return false;
    else refused.set(`${i.kind} ${said.type}`, (refused.get(`${i.kind} ${said.type}`) ?? 0) + 1);
    return true;
  } catch {
    return false;
  }
}

/** What every client has sent and not been answered; it is sent again when the server is back. */
const waiting: (Intention | null)[] = Array.from({ length: CLIENTS }, () => null);

async function client(n: number, alive: () => boolean): Promise<void> {
  while (alive()) {
    const intention = waiting[n] ?? (await intend());
    waiting[n] = intention;
    if (await send(intention)) waiting[n] = null;
    else return;
  }
}

async function listen(alive: () => boolean): Promise<void> {
  try {
    const answer = await fetch(`${base}/api/live`, { headers: { cookie: ENTERED_COOKIE } });
    for await (const piece of answer.body as unknown as AsyncIterable<Uint8Array>) {
      if (piece.byteLength > 0) listened++;
      if (!alive()) return;
    }
  } catch {
    // The server is gone.
  }
}

async function start(): Promise<ChildProcess> {
  const child = spawn(process.execPath, ['dist/server/main.mjs'], { env, stdio: ['ignore', 'ignore', 'pipe'] });
  let says = '';
  child.stderr?.on('data', (text) => (says += text));
  for (const started = Date.now(); Date.now() - started < HANGS_MS; ) {
    if (child.exitCode !== null) throw new Error(`The server ended by itself with ${child.exitCode}: ${says}`);
    if ((await fetch(`${base}/health`).catch(() => null))?.ok) return child;
    await pause(20);
  }
  throw new Error(`The server does not answer: ${says}`);
}

const began = Date.now();
for (let kill = 1; kill <= kills; kill++) {
  const child = await start();
  let on = true;
  const alive = () => on;
  const ended = new Promise<void>((gone) => child.once('exit', () => gone()));
  const work = [...waiting.map((_, n) => client(n, alive)), ...Array.from({ length: LISTENERS }, () => listen(alive))];
  const most = kill % LONG_EVERY === 0 ? LONG_LIFE_CHANGES : MOST_CHANGES;
  const until = acknowledged.length + Math.floor(chance() * (most + 1));
  const hangsAt = Date.now() + HANGS_MS;
  while (acknowledged.length < until && child.exitCode === null) {
    if (Date.now() > hangsAt) {
      troubles.push(`Life ${kill}: nothing was acknowledged for ${HANGS_MS / 1000} s.`);
      break;
    }
    await pause(1);
  }
  await pause(chance() * 2 * lastTookMs);
  if (child.exitCode !== null) troubles.push(`Life ${kill}: the server ended by itself with ${child.exitCode}.`);
  child.kill('SIGKILL');
  await ended;
  on = false;
  await Promise.all(work);
  if (kill % 50 === 0 || kill === kills)
    console.log(`${kill} kills, ${acknowledged.length} acknowledged, ${((Date.now() - began) / 1000).toFixed(0)} s`);
}

// What was under way at the last kill is sent once more; then the server stops as it should.
const last = await start();
for (const [n, intention] of waiting.entries()) if (intention && (await send(intention))) waiting[n] = null;
const stopped = new Promise<number | null>((gone) => last.once('exit', (code) => gone(code)));
last.kill('SIGTERM');
if ((await stopped) !== 0) troubles.push('The server did not end with 0 when it was told to stop.');

if (existsSync(join(folder, `${DATABASE_FILE}-wal`)))
  troubles.push('The log was not folded in when the server stopped.');

/** Looks at one database; `until` are the changes that have to be in it. */
async function lookAt(at: string, file: string, until: readonly Acknowledged[], whole: boolean): Promise<void> {
  const db = new Database(file, { readonly: true });
  const one = (sql: string, ...args: unknown[]) =>
    db
      .prepare(sql)
      .pluck()
      .get(...args) as number | string;
  const what = (says: string) => troubles.push(`${at}: ${says}`);
  if (one('pragma integrity_check') !== 'ok') what('it is damaged');
  if (db.prepare('pragma foreign_key_check').all().length > 0) what('something refers to what is not there');
  const unbalanced = db
    .prepare(
      `select count(*) from (select lot_id, place_id, sum(q) as d, sum(worth) as v from (
        select lot_id, place_id, quantity as q, value_cents as worth from stock_move union all
        select lot_id, place_id, -on_hand, -value_cents from lot_balance) group by lot_id, place_id having d <> 0 or v <> 0)`,
    )
    .pluck()
    .get() as number;
  if (unbalanced > 0) what(`${unbalanced} lots do not add up to their moves`);
  for (const a of until) {
    const times = one('select count(*) from audit where idempotency_key = ?', a.key);
    if (times !== 1) what(`${a.kind} ${a.key} was acknowledged and is there ${times} times`);
    if (a.kind === 'note' && one('select count(*) from record_note where text = ?', a.mark) !== 1)
      what(`the note ${a.mark} is not there once`);
    if (a.kind === 'wrong' && one('select count(*) from plan_request where why = ?', a.mark) !== 1)
      what(`the request ${a.mark} is not there once`);
    if (a.kind === 'carry' && one('select count(*) from stock_move where reason = ?', a.mark) !== 2)
      what(`${a.mark} was not carried once`);
    const asUsual = "select count(*) from change_record where notes = ? and done ->> '$.asUsual'";
    if (a.kind === 'as-usual' && one(asUsual, a.mark) !== 1) what(`the change ${a.mark} is not there once`);
    if (a.kind === 'photo') {
      const hash = String(a.answer.hash);
      if (one('select count(*) from photo where hash = ?', hash) !== 1)
        what(`the photograph ${hash} is not there once`);
      if (whole && !filesOf(folder, [hash]).every((f) => existsSync(f))) what(`the photograph ${hash} has no file`);
    }
  }
  const twice = one('select count(*) from (select 1 from audit group by idempotency_key having count(*) > 1)');
  if (twice !== 0) what(`${twice} changes are there twice`);
  db.close();
}

await lookAt('The database', join(folder, DATABASE_FILE), acknowledged, true);
const reader = openReader(folder);
const chain = await readChain(reader);
if (chain.brokenAt !== null) troubles.push(`The chain of who did what is broken at ${chain.brokenAt}.`);
await reader.destroy();

// Each backup that is whole holds all that was acknowledged before it was begun.
const backupsAt = join(folder, 'backups');
const files = existsSync(backupsAt) ? readdirSync(backupsAt).filter((f) => f.endsWith('.sqlite')) : [];
for (const name of files) {
  const file = join(backupsAt, name);
  verifyBackup(file);
  const [, stamp = ''] = /arvick-(.+Z)-/.exec(name) ?? [];
  const at = Date.parse(stamp.replace(/T(\d\d)(\d\d)(\d\d)Z/, 'T$1:$2:$3Z'));
  // Answered before it was begun; its name says when to the second.
  await lookAt(
    name,
    file,
    acknowledged.filter((a) => a.at < at - 1000),
    false,
  );
}

const kinds = new Map<string, number>();
for (const a of acknowledged) kinds.set(a.kind, (kinds.get(a.kind) ?? 0) + 1);
console.log(`Acknowledged: ${[...kinds].map(([k, n]) => `${n} ${k}`).join(', ')}; told of changes ${listened} times.`);
console.log(`Refused, as they may be: ${[...refused].map(([k, n]) => `${n} ${k}`).join(', ') || 'none'}.`);
console.log(`Backups looked at: ${files.length}. Seconds: ${((Date.now() - began) / 1000).toFixed(0)}.`);
if (acknowledged.length < kills) troubles.push('Too little was done between the kills to say anything.');
if (troubles.length > 0) {
  console.error(`\n${troubles.length} things are not right after ${kills} kills (seed ${seed}):`);
  for (const t of troubles.slice(0, 30)) console.error(`- ${t}`);
  console.error(`The folder is kept: ${folder}`);
  process.exit(1);
}
rmSync(folder, { recursive: true, force: true });
console.log(`\n${kills} kills: 0 lost, 0 doubled, the ledger adds up, every backup is whole.`);
