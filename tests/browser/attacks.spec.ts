import { type ChildProcess, spawn, spawnSync } from 'node:child_process';
import { existsSync, mkdtempSync, readdirSync, statSync, truncateSync, writeFileSync } from 'node:fs';
import { createServer } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import Database from 'better-sqlite3';
import type { Family } from '../../core/instruments/build';
import { ENTERED_COOKIE } from '../../scripts/entered';
import { root } from '../../scripts/setup.mjs';
import { openDatabase } from '../../server/db/connection';
import { must } from '../../server/db/must';
import { type App, ask, expect, FROZEN, serve, TEMPLATE, test } from './app';

// What one request, one file or one bad start may do to the house. No page is looked at here: only what answers.
let app: App;
let keys = 0;
test.beforeAll(async () => {
  app = await serve();
});
test.afterAll(() => app.stop());

interface Answered {
  status: number;
  json: { type?: string; detail?: string; [more: string]: unknown };
}
async function send(path: string, body: unknown, url = app.url): Promise<Answered> {
  const answer = await fetch(`${url}/api${path}`, {
    method: 'POST',
    headers: {
      cookie: ENTERED_COOKIE,
      'content-type': 'application/json',
      'idempotency-key': `attack-key-${++keys}`,
    },
    body: typeof body === 'string' ? body : JSON.stringify(body),
  });
  return { status: answer.status, json: await answer.json().catch(() => ({ detail: 'no JSON' })) };
}
const calendar = (...events: string[][]) =>
  [
    'BEGIN:VCALENDAR',
    'VERSION:2.0',
    ...events.flatMap((lines, i) => ['BEGIN:VEVENT', `UID:${i}`, 'DTSTAMP:20260101T000000Z', ...lines, 'END:VEVENT']),
    'END:VCALENDAR',
  ].join('\r\n');

test('a loan without end, entered now or long ago, stops nothing', async () => {
  const loan = { tag: 'SK-0101', from: '2026-11-25', why: 'away', to: '9999-12-31' };
  const refused = await send('/plan/busy', loan);
  expect(refused.status).toBe(400);
  expect(refused.json.detail).toContain('use a date');
  expect((await send('/plan/busy', { ...loan, to: '2199-12-31' })).status).toBe(200);
  const db = await openDatabase(app.data);
  const { id } = must(await db('instrument').where({ tag: 'SK-0101' }).first());
  await db('instrument_busy').insert({
    instrument_id: id,
    from_on: '2026-01-01',
    to_on: '9999-12-31',
    why: 'for ever',
    kind: 'loan',
  });
  await db.destroy();
  for (const page of ['/plan', '/', '/plan/people', '/instruments/SK-0101', '/stock'])
    expect((await ask(app.url + page)).status, page).toBe(200);
});

test('calendars that never end, or hold more than can be, are read in words and in time, and nothing else waits', async () => {
  const draft = (text: string, about = 'lessons') => send('/plan/calendar-draft', { text, about });
  const daily = ['DTSTART:20200101T100000', 'DTEND:20200101T104500', 'RRULE:FREQ=DAILY'];
  const never = draft(calendar(['DTSTART:20200101T100000', 'RRULE:FREQ=DAILY;BYMONTH=2;BYMONTHDAY=30', 'SUMMARY:x']));
  const second = draft(calendar(['DTSTART:20200101T100000', 'RRULE:FREQ=SECONDLY', 'SUMMARY:SK-0101 ticks']));
  // While they are read the others are answered.
  expect((await ask(`${app.url}/fleet`)).status).toBe(200);
  expect((await never).json).toMatchObject({ busy: [], leftOut: [] });
  expect((await second).json).toMatchObject({
    leftOut: [{ summary: 'SK-0101 ticks', why: 'it repeats every second' }],
  });
  const long = await draft(calendar(['DTSTART:20261125T100000', 'DURATION:P9999999D', 'SUMMARY:SK-0101']), 'loans');
  expect(long.json).toMatchObject({ busy: [{ tag: 'SK-0101', from: '2026-11-25', to: '2199-12-31' }] });
  const many = Array.from({ length: 300 }, () => [...daily, 'SUMMARY:SK-0102 lesson']);
  const ordinary = await draft(calendar(...many));
  expect((ordinary.json.busy as unknown[]).length).toBeGreaterThan(300 * 27);
  const tooMuch = await draft(
    calendar(...Array.from({ length: 40 }, () => ['DTSTART:20200101T000000', 'RRULE:FREQ=HOURLY', 'SUMMARY:SK-0102'])),
  );
  expect(tooMuch).toMatchObject({ status: 422, json: { type: 'arvick:too-much' } });
  expect((await draft('hello')).json.detail).toContain('.ics');
});

test('a search is one at a time, a body has a limit, and what is no request is told so', async () => {
  const first = send('/plan/propose', {});
  await new Promise((done) => setTimeout(done, 300));
  const others = await Promise.all([send('/plan/propose', {}), send('/plan/propose', {})]);
  expect(others.map((a) => a.json.type)).toEqual(['arvick:planning-already', 'arvick:planning-already']);
  expect((await ask(`${app.url}/`)).status).toBe(200);
  expect(await send('/plan/request', 'x'.repeat(1_200_000))).toMatchObject({ status: 413 });
  for (const body of ['', '{', 'null', '[]', '7', '"x"']) expect((await send('/plan/request', body)).status).toBe(400);
  expect((await send('/plan/constructor', {})).status).toBe(404);
  expect((await send('/stock/toString', {})).status).toBe(404);
  expect((await first).status).toBe(200);
});

const RULE = { school: 'use', calendarDays: 100, playHours: 40, neverOverDays: 365 };

const CLASS = {
  name: 'Nowhere',
  placeId: '',
  weekday: 3,
  fromTime: '09:00',
  toTime: '10:00',
  from: '2026-12-01',
  to: '2026-12-31',
  who: 'SK-0101',
};

/** Requests in the right shape that name what is not there, or what cannot be. */
const NOWHERE: [string, unknown][] = [
  ['/batches', { tags: ['ZZ-1', 'ZZ-2'] }],
  ['/deliveries/999/receive', { expectedVersion: 1, lines: [{ productId: 1, quantity: 1 }] }],
  ['/faults', { tag: 'ZZ-9', symptom: 'dull', cause: 'worn-out' }],
  ['/faults/999/close', { expectedVersion: 1 }],
  ['/instruments', { tag: 'AT-1', family: 'violin', size: '4/4', placeId: 999, houseSetId: 'none', hoursPerWeek: 1 }],
  ['/instruments', { tag: 'AT-2', family: 'violin', size: '4/4', placeId: 1, houseSetId: 99_999, hoursPerWeek: 1 }],
  ['/instruments/ZZ-9/player', { player: 'hard' }],
  ['/instruments/ZZ-9/strings', { productId: 1, expectedVersion: 1 }],
  ['/jobs', { tag: 'ZZ-9' }],
  ['/jobs/as-usual', { tag: 'ZZ-9' }],
  ['/jobs/99999/answers', { step: 'x', outcome: 'done', cursor: 'x' }],
  ['/jobs/99999/cancel', { expectedVersion: 1 }],
  ['/jobs/99999/depart', { expectedVersion: 1, method: {}, reason: 'why' }],
  ['/jobs/99999/preview', { entries: [] }],
  ['/orders', { supplierId: 999, placeId: 1, lines: [{ productId: 1, quantity: 1 }], note: '' }],
  ['/orders', { supplierId: 1, placeId: 999, lines: [{ productId: 1, quantity: 1 }], note: '' }],
  ['/orders', { supplierId: 1, placeId: 1, lines: [{ productId: 99_999, quantity: 1 }], note: '' }],
  ['/orders/999/send', { expectedVersion: 1 }],
  ['/orders/999/confirm', { expectedVersion: 1, expectedOn: '2026-12-01', lines: [] }],
  ['/orders/999/receive', { expectedVersion: 1, lines: [] }],
  ['/orders/999/close', { expectedVersion: 1 }],
  ['/people/desk', { placeId: 999 }],
  ['/places/999/climate', { climate: 'dry' }],
  ['/plan/availability', { personId: 999, placeId: 1, weekday: 1, minutes: 60, starts: '09:00' }],
  ['/plan/availability', { personId: 1, placeId: 999, weekday: 1, minutes: 60, starts: '09:00' }],
  ['/plan/remove', { id: 99_999 }],
  ['/plan/away', { personId: 999, on: '2026-12-01', why: 'ill' }],
  ['/plan/bench-space', { placeId: 999, instruments: 2 }],
  ['/plan/last-way', { placeId: 999, leaves: '16:20' }],
  ['/plan/travel', { fromId: 1, toId: 999, minutes: 5 }],
  ['/plan/sign-off', { personId: 999, family: 'violin', level: 1 }],
  ['/plan/sign-off', { personId: 1, family: 'violin', level: '' }],
  ['/plan/not-busy', { id: 99_999 }],
  ['/plan/no-holiday', { id: 99_999 }],
  ['/plan/no-concert', { id: 99_999 }],
  ['/plan/no-class', { id: 99_999 }],
  ['/plan/no-calendar', { source: 'nowhere.ics' }],
  ['/plan/class', { ...CLASS, placeId: 999 }],
  ['/plan/class', { ...CLASS, who: 'ZZ-9' }],
  ['/plan/class', { ...CLASS, who: '' }],
  ['/plan/class', { ...CLASS, toTime: '24:61' }],
  ['/plan/concert', { name: 'Nowhere', on: '2026-12-01', placeId: 999, who: '' }],
  ['/plan/holiday', { name: 'Nowhere', from: '2026-12-01', to: '2026-12-02', placeId: 999 }],
  ['/plan/request', { tag: 'ZZ-9', kind: 'service', dueOn: '2026-12-01', why: 'dry' }],
  ['/plan/withdraw', { id: 99_999 }],
  ['/plan/dismiss', { id: 99_999 }],
  ['/plan/publish', { basedOn: 999, items: [] }],
  ['/products/set', { sku: 'AT-S1', name: 'Nothing', family: 'violin', price: '1', items: '1=99999' }],
  ['/products/set', { sku: 'AT-S2', name: 'No string', family: 'violin', price: '1', items: '9=1' }],
  [
    '/products/hybrid',
    {
      sku: 'AT-H',
      name: 'Mix',
      family: 'violin',
      firstSetId: 99_999,
      firstNumbers: '1',
      secondSetId: 99_998,
      secondNumbers: '2',
    },
  ],
  ['/products/source', { productId: 99_999, supplierId: 1, pack: 1, price: '1' }],
  ['/products/source', { productId: 1, supplierId: 999, pack: 1, price: '1' }],
  ['/products/source', { productId: 1, supplierId: 1, pack: true, price: '1' }],
  ['/products/substitutes', { productId: 99_999, substituteIds: '1' }],
  ['/records/99999/notes', { text: 'hello' }],
  ['/records/99999/undo', { reason: '' }],
  ['/stock/transfer', { takes: [{ lotId: 99_999, placeId: 1, quantity: 1 }], toPlaceId: 1, reason: '' }],
  ['/stock/transfer', { takes: [{ lotId: 1, placeId: 1, quantity: 1 }], toPlaceId: 999, reason: '' }],
  ['/stock/scrap', { lotId: 99_999, placeId: 1, quantity: 1, reason: 'gone' }],
  ['/stock/open', { lotId: 99_999, placeId: 1, quantity: 1 }],
  ['/stock/halve', { lotId: 99_999, placeId: 1, quantity: 1 }],
  ['/stock/back', { productId: 99_999, form: 'single', quantity: 1, placeId: 1, reason: '' }],
  ['/stock/back', { productId: 1, form: 'single', quantity: 1, placeId: 999, reason: '' }],
  ['/stock/take-back', { moveId: 99_999_999, reason: '' }],
  [
    '/stock/count',
    { placeId: 999, reason: 'lost', lines: [{ productId: 1, form: 'single', expected: 0, counted: 1 }] },
  ],
  [
    '/stock/count',
    { placeId: 1, reason: 'lost', lines: [{ productId: 99_999, form: 'single', expected: 0, counted: 1 }] },
  ],
  ['/stock/receive', { productId: 99_999, quantity: 1, placeId: 1 }],
  ['/stock/receive', { productId: 1, quantity: 1, placeId: 999 }],
  ['/visits/99999/done', { expectedVersion: 1 }],
  ['/faults/999/room', { tags: ['ZZ-1'] }],
  ['/faults/999/room', { tags: [] }],
  ['/instruments/ZZ-9/facts', { asked: 'x', said: 'y' }],
  ['/instruments/ZZ-9/details', { expectedVersion: 1, newTag: 'ZZ-8', placeId: 1, holder: '', note: '' }],
  ['/instruments/SK-0101/details', { expectedVersion: 99, newTag: 'ZZ-8', placeId: 1, holder: '', note: '' }],
  ['/intervals', { scope: 'family', of: 'kazoo', rule: RULE, expectedVersion: 1, why: 'why' }],
  ['/intervals', { scope: 'instrument', of: 'ZZ-9', rule: RULE, expectedVersion: 0, why: 'why' }],
  ['/intervals', { scope: 'family', of: 'violin', rule: { ...RULE, playHours: -1 }, expectedVersion: 1, why: 'why' }],
  ['/intervals/withdraw', { scope: 'product', of: '99999', expectedVersion: 1, why: '' }],
  ['/intervals/preview', { scope: 'product', of: 'x', rule: RULE, by: '2026-12-01' }],
  ['/people/practised', { family: 'violin', asked: 2, right: 3 }],
  ['/photos?job=99999', {}],
  ['/photos?tag=ZZ-9', {}],
  ['/photos?tag=SK-0101', {}],
  ['/photos', {}],
  ['/photos/99999/remove', {}],
  ['/programme', { name: '', timeZone: 'Atlantis/Deep', a4Hz: 9, expectedVersion: 1 }],
  ['/programme/people', { name: 'No Place', role: 'technician', placeId: 999 }],
  ['/programme/people/999/edit', { name: 'No One', role: 'technician', placeId: 1, expectedVersion: 1 }],
  ['/programme/people/999/retire', { expectedVersion: 1 }],
  ['/programme/places/999/edit', { name: 'Nowhere', isStore: false, expectedVersion: 1 }],
  ['/programme/places/1/retire', { expectedVersion: 1 }],
  ['/records/past', { tags: ['ZZ-9'], on: '2026-01-01', about: false }],
  ['/records/past', { tags: ['SK-0101'], on: '2099-01-01', about: false }],
  ['/labels/take', { id: 99_999, expectedVersion: 1 }],
  ['/labels/nothing', { id: 99_999, expectedVersion: 1 }],
  ['/labels/end', { tag: 'ZZ-1' }],
  ['/records/99999/stood-by', {}],
  ['/records/1/stood-by', {}],
  ['/account/district', { personId: 999, districtName: 'nobody@district.example' }],
  [
    '/programme/trust',
    { address: 'http://127.0.0.1:4600', byLabel: true, performance: 'desk', saidDays: 30, expectedVersion: 1 },
  ],
  ['/programme/trust', { address: '', byLabel: true, performance: 'desk', saidDays: 30, expectedVersion: 1 }],
  ['/programme/erase', { name: 'Ida Marr', again: 'Ida Mar', initials: true }],
  ['/programme/erase', { name: 'Ida Marr', again: 'Ida Marr', initials: true }],
  ['/programme/erase', { name: 'Nobody Whoever', again: 'Nobody Whoever', initials: true }],
  ['/places/1/climate', { climate: 'dry', was: 'otherwise' }],
  ['/faults/999/away', { expectedVersion: 1 }],
  ['/products/suppliers/999/edit', { expectedVersion: 1, name: 'Nobody', leadDays: 3, least: '0', orderCost: '0' }],
  ['/intake?name=', {}],
  ['/intake/999/decide', { expectedVersion: 1, usualSets: true }],
  ['/intake/999/apply', { expectedVersion: 1 }],
  ['/intake/999/undo', { expectedVersion: 1 }],
  ['/intake/999/drop', { expectedVersion: 1 }],
  ['/fleet/many', { tags: ['ZZ-1'], holder: 'x' }],
  ['/fleet/many', { tags: ['SK-0101'] }],
  ['/fleet/many', { tags: ['SK-0101'], interval: { days: 0, why: 'none at all' } }],
  ['/fleet/many', { tags: ['SK-0101'], interval: { days: 30, why: '' } }],
  ['/fleet/many', { tags: ['SK-0101'], lend: { from: '2026-12-02', to: '2026-12-01', why: 'Year 4' } }],
  ['/fleet/many', { tags: ['SK-0101'], request: { kind: 'dance', dueOn: '2026-12-01', why: 'why' } }],
  ['/fleet/many', { tags: ['SK-0101'], placeId: 999 }],
  ['/fleet/many', { tags: ['SK-0101'], houseSetId: 99_999 }],
  ['/fleet/undo', { undo: 'never-was-there' }],
  ['/plan/back', { id: 99_999 }],
  ['/products/usual', { family: 'violin', size: '9/9', sku: 'VN' }],
  [
    '/products/whole-set',
    {
      sku: 'AT-W',
      name: 'Too few',
      family: 'violin',
      gauges: '10',
      core: 'steel',
      wrap: 'nickel',
      stringEnd: 'ball',
      price: '1',
    },
  ],
  ['/products/99999/edit', { expectedVersion: 1, sku: 'AT-E', name: 'Nothing', price: '1' }],
  ['/stock/opening', { placeId: 1 }],
  ['/stock/opening', { placeId: 999, 'n-1': '2' }],
  ['/stock/opening', { placeId: 1, 'n-99999': '2' }],
];

test('names of what is not there and shapes that cannot be are answered in words, never by a fault, and change nothing', async () => {
  const tables = ['instrument', 'product', 'set_item', 'purchase_order', 'stock_move', 'record_note', 'plan', 'audit'];
  const picture = async () => {
    const db = await openDatabase(app.data);
    const counts = await Promise.all(tables.map(async (t) => Number((await db(t).count({ n: '*' }).first())?.n)));
    await db.destroy();
    return counts;
  };
  const before = await picture();
  for (const [path, body] of NOWHERE) {
    const { status, json } = await send(path, body);
    const what = `${path} ${JSON.stringify(body).slice(0, 80)}: ${status} ${json.detail}`;
    expect([400, 404, 409, 422], what).toContain(status);
    expect(String(json.detail).length, what).toBeGreaterThan(10);
    expect(String(json.detail), what).not.toMatch(/SQLITE|undefined|→|✖|Invalid input/);
  }
  // Every route there is, with every kind of nonsense for a body.
  const routes = readdirSync(join(root, 'src/pages/api'), { recursive: true, encoding: 'utf8' })
    .filter((file) => file.endsWith('.ts'))
    .map((file) => `/${file.replace(/\/?index\.ts$|\.ts$/, '')}`.replace('[tag]', 'SK-0101').replace(/\[\w+\]/g, '1'));
  expect(routes.length).toBeGreaterThan(25);
  for (const route of routes)
    for (const body of [{}, [], null, 7, { expectedVersion: true, id: [], placeId: '', tag: { a: 1 }, lines: 'x' }]) {
      const { status } = await send(route, body);
      expect(status, `${route} ${JSON.stringify(body)}`).toBeLessThan(500);
    }
  expect(await picture()).toEqual(before);
});

test('what cannot be is refused: another family’s set, a set of sets, half of what cannot be cut, tags alike but for case', async () => {
  const db = await openDatabase(app.data);
  const set = async (family: Family) => must(await db('product').where({ kind: 'set', family }).first());
  const [guitar, violin] = [await set('steel-acoustic'), await set('violin')];
  const fiddle = must(await db('instrument').where({ family: 'violin' }).first());
  const whole = must(await db('product').where({ kind: 'single', double_length: false }).first());
  await db.destroy();
  expect(
    await send(`/instruments/${fiddle.tag}/strings`, { productId: guitar.id, expectedVersion: fiddle.version }),
  ).toMatchObject({ status: 422, json: { type: 'arvick:other-family' } });
  const items = (id: number) => ({ sku: `AT-${id}`, name: 'Sets', family: 'violin', price: '1', items: `1=${id}` });
  expect(await send('/products/set', items(violin.id))).toMatchObject({ json: { type: 'arvick:not-a-string' } });
  const half = { productId: whole.id, form: 'half', quantity: 1, placeId: 1, reason: 'found' };
  expect(await send('/stock/back', half)).toMatchObject({ json: { type: 'arvick:no-double' } });
  const counted = { productId: whole.id, form: 'half', expected: 0, counted: 2 };
  expect(await send('/stock/count', { placeId: 1, reason: 'found', lines: [counted] })).toMatchObject({
    json: { type: 'arvick:no-double' },
  });
  const added = { family: 'violin', size: '4/4', placeId: 1, houseSetId: 'none', hoursPerWeek: 1 };
  expect((await send('/instruments', { ...added, tag: 'ab-1' })).status).toBe(200);
  expect(await send('/instruments', { ...added, tag: 'AB-1' })).toMatchObject({ json: { type: 'arvick:tag-taken' } });
  for (const tag of ['ab-1', 'AB-1', 'Ab-1']) {
    const page = await ask(`${app.url}/instruments/${tag}`);
    expect(await page.text()).toContain('>ab-1<');
  }
});

test('a change waits while another program writes, and says so when that takes too long', async () => {
  const other = new Database(join(app.data, 'arvick.sqlite'));
  const request = (why: string) => send('/plan/request', { tag: 'SK-0103', kind: 'service', dueOn: '2026-12-20', why });
  other.exec('begin immediate');
  const waiting = request('while it waits');
  await new Promise((done) => setTimeout(done, 700));
  // Reading goes on meanwhile.
  expect((await ask(`${app.url}/fleet`)).status).toBe(200);
  other.exec('rollback');
  expect((await waiting).status).toBe(200);
  other.exec('begin immediate');
  expect(await send('/plan/withdraw', { id: 1 })).toMatchObject({ status: 503, json: { type: 'arvick:busy' } });
  other.exec('rollback');
  other.close();
});

/** Starts the server in a process of its own and waits for how it ends, or that it answers. */
function start(
  env: Record<string, string>,
  command: readonly string[] = [process.execPath, join(root, 'dist/server/main.mjs')],
): { child: ChildProcess; says: () => string } {
  let text = '';
  const [program = '', ...rest] = command;
  const child = spawn(program, rest, {
    cwd: root,
    stdio: ['ignore', 'pipe', 'pipe'],
    env: { ...process.env, ARVICK_NOW: FROZEN, ARVICK_SERVE: 'yes', NODE_ENV: 'production', ...env },
  });
  child.stdout?.on('data', (chunk) => {
    text += chunk;
  });
  child.stderr?.on('data', (chunk) => {
    text += chunk;
  });
  return { child, says: () => text };
}
const ended = (child: ChildProcess): Promise<number | null> =>
  new Promise((done) => (child.exitCode !== null ? done(child.exitCode) : child.once('exit', (code) => done(code))));
const answers = async (url: string): Promise<boolean> =>
  fetch(`${url}/welcome`, { redirect: 'manual' }).then(
    () => true,
    () => false,
  );
const folderWith = (make: (file: string, folder: string) => void): string => {
  const folder = mkdtempSync(join(tmpdir(), 'arvick-start-'));
  make(join(folder, 'arvick.sqlite'), folder);
  return folder;
};
let port = 20_000 + (process.pid % 20_000);

test('data that cannot be opened is said in words at the start, with a code, and stays as it is', async () => {
  const fresh = async (): Promise<string> => {
    const folder = mkdtempSync(join(tmpdir(), 'arvick-start-'));
    await (await openDatabase(folder)).destroy();
    return folder;
  };
  const damaged = await fresh();
  const file = join(damaged, 'arvick.sqlite');
  truncateSync(file, Math.floor(statSync(file).size / 2 / 4096) * 4096);
  const newer = await fresh();
  const later = new Database(join(newer, 'arvick.sqlite'));
  later.exec("insert into knex_migrations (name, batch, migration_time) values ('9999-later', 9, 0)");
  later.close();
  const cases: [string, RegExp][] = [
    [folderWith((db) => writeFileSync(db, '')), /is empty \(0 bytes\)/],
    [folderWith((db) => writeFileSync(db, 'x'.repeat(9000))), /is not a database/],
    [folderWith((db) => new Database(db).exec('create table x (y)').close()), /not an Arvick one/],
    [damaged, /is damaged/],
    [newer, /newer version of Arvick \(9999-later\)/],
    [app.data, /Another process is already serving/],
    [
      join(
        folderWith(() => {}),
        'a-file-not-a-folder',
      ),
      /is a file/,
    ],
  ];
  writeFileSync(cases.at(-1)?.[0] as string, 'x');
  for (const [folder, says] of cases) {
    const size = existsSync(join(folder, 'arvick.sqlite')) ? statSync(join(folder, 'arvick.sqlite')).size : 0;
    const run = start({ ARVICK_DATA: folder, PORT: String(++port), HOST: '127.0.0.1' });
    expect(await ended(run.child), run.says()).toBe(3);
    expect(run.says()).toMatch(says);
    expect(run.says()).not.toMatch(/ {4}at /);
    if (folder !== app.data && size > 0) expect(statSync(join(folder, 'arvick.sqlite')).size).toBe(size);
  }
});

test('settings that cannot be are told apart; told to stop it ends what is under way and folds its log in; nothing is left behind', async () => {
  const data = mkdtempSync(join(tmpdir(), 'arvick-start-'));
  const taken = createServer().listen(++port, '127.0.0.1');
  await new Promise((done) => taken.once('listening', done));
  const settings: [Record<string, string>, RegExp][] = [
    [{ PORT: String(port), HOST: '127.0.0.1' }, /Port \d+ on 127\.0\.0\.1 is taken/],
    [{ PORT: 'eighty', HOST: '127.0.0.1' }, /PORT is “eighty”/],
    [{ PORT: String(++port), HOST: '203.0.113.7' }, /no address 203\.0\.113\.7/],
    [{ PORT: String(++port), HOST: '127.0.0.1', ARVICK_NOW: 'noon' }, /ARVICK_NOW is “noon”/],
  ];
  for (const [env, says] of settings) {
    const run = start({ ARVICK_DATA: data, ...env });
    expect(await ended(run.child), run.says()).toBe(2);
    expect(run.says()).toMatch(says);
  }
  taken.close();

  const own = await serve();
  const under = send('/plan/request', { tag: 'SK-0104', kind: 'service', dueOn: '2026-12-20', why: 'last' }, own.url);
  expect((await under).status).toBe(200);
  const slow = send('/plan/propose', {}, own.url).catch(() => undefined);
  await new Promise((done) => setTimeout(done, 200));
  expect(await own.end('SIGTERM')).toBe(0);
  // Long work is told that it was stopped, or that the server went; it never hangs.
  expect([200, 503, undefined]).toContain((await slow)?.status);
  expect(
    existsSync(join(own.data, 'arvick.sqlite-wal')) && statSync(join(own.data, 'arvick.sqlite-wal')).size > 0,
  ).toBe(false);
  const kept = new Database(join(own.data, 'arvick.sqlite'), { readonly: true });
  expect(kept.prepare("select count(*) from plan_request where why = 'last'").pluck().get()).toBe(1);
  kept.close();

  // The launcher is the server: killed, it leaves nobody who listens.
  const launched = start({ ARVICK_DATA: data, PORT: String(++port), HOST: '127.0.0.1' }, [
    process.execPath,
    join(root, 'scripts/serve.mjs'),
  ]);
  const url = `http://127.0.0.1:${port}`;
  await expect.poll(() => answers(url), { timeout: 60_000 }).toBe(true);
  launched.child.kill('SIGKILL');
  await ended(launched.child);
  expect(await answers(url)).toBe(false);
});

test('on a full disk people can still read, and are told that nothing was kept; on one without room or right to begin it says so', async () => {
  const disk = mkdtempSync(join(tmpdir(), 'arvick-disk-'));
  const can = spawnSync('unshare', ['-rm', 'mount', '-t', 'tmpfs', 'tmpfs', disk]);
  test.skip(can.status !== 0, 'A disk of its own needs a system that lets a process mount one.');
  // The process gets a small disk that only it sees, prepared by a line of shell.
  const on = (prepare: string): { child: ChildProcess; says: () => string } =>
    start({ ARVICK_DATA: join(disk, 'data'), PORT: String(++port), HOST: '127.0.0.1' }, [
      'unshare',
      '-rm',
      'sh',
      '-c',
      `mount -t tmpfs -o size=24m tmpfs ${disk} && mkdir ${disk}/data && ${prepare}; exec ${process.execPath} dist/server/main.mjs`,
    ]);
  const fill = `cat /dev/zero > ${disk}/ballast 2>/dev/null`;
  for (const [prepare, says] of [
    [fill, /is full/],
    [`mount -o remount,ro ${disk}`, /read-only/],
    [`cp ${TEMPLATE}/arvick.sqlite ${disk}/data; mount -o remount,ro ${disk}`, /read-only/],
  ] as const) {
    const run = on(prepare);
    expect(await ended(run.child), run.says()).toBe(3);
    expect(run.says()).toMatch(says);
    expect(run.says()).not.toMatch(/ {4}at /);
  }
  const full = on(`cp ${TEMPLATE}/arvick.sqlite ${disk}/data; ${fill}`);
  const url = `http://127.0.0.1:${port}`;
  await expect.poll(() => answers(url), { timeout: 60_000 }).toBe(true);
  for (const page of ['/', '/fleet', '/instruments/SK-0101', '/plan', '/stock']) {
    const answer = await ask(url + page);
    expect(answer.status, page).toBe(200);
    expect(await answer.text()).toContain('Skerrow Sound');
  }
  const refused = await send(
    '/plan/request',
    { tag: 'SK-0101', kind: 'service', dueOn: '2026-12-20', why: 'worn frets' },
    url,
  );
  expect(refused).toMatchObject({ status: 507, json: { type: 'arvick:disk-full' } });
  const backup = await send('/programme/backup', {}, url);
  expect(backup).toMatchObject({ status: 507, json: { type: 'arvick:disk-full' } });
  expect(backup.json.detail).toContain('The disk for backups is full');
  full.child.kill('SIGTERM');
  expect(await ended(full.child)).toBe(0);
});
