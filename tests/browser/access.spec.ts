import { readdirSync, readFileSync } from 'node:fs';
import { ROLES } from '../../contract/people';
import { mayOpen, ROUTES, type Role } from '../../contract/permissions';
import { type App, axe, expect, heading, openBench, serve, test } from './app';

let app: App;
test.beforeAll(async () => {
  app = await serve();
});
test.afterAll(() => app.stop());

/** Every page and endpoint there is, by Astro's name of its route, and whether it is asked or sent to. */
const routes = readdirSync('src/pages', { recursive: true, encoding: 'utf8' })
  .filter((file) => /\.(astro|ts)$/.test(file))
  .map((file) => ({
    route: `/${file.replace(/\.(astro|ts)$/, '')}`.replace(/\/index$/, '') || '/',
    sends: file.endsWith('.ts') && /export const POST/.test(readFileSync(`src/pages/${file}`, 'utf8')),
  }));

const SAMPLES: Record<string, string> = {
  '[tag]': 'SK-0104',
  '[family]': 'violin',
  '[file]': 'instruments.csv',
  '[action]': 'nothing',
  '[token]': 'nothing',
  '[hash]': 'nothing',
  '[id]': '1',
};
const addressOf = (route: string) => route.replace(/\[\w+\]/g, (name) => SAMPLES[name] ?? '1');

const send = (path: string, body: unknown, headers: Record<string, string> = {}) =>
  fetch(app.url + path, {
    method: 'POST',
    headers: { 'content-type': 'application/json', ...headers },
    body: JSON.stringify(body),
  });

/** Enters the demo as somebody of a role, or with a password; the cookie that a browser would keep. */
async function cookieOf(personId: number): Promise<string> {
  const answer = await send('/api/sign/demo', { personId }, { origin: app.url });
  expect(answer.status).toBe(200);
  const cookie = answer.headers.getSetCookie().find((c) => c.startsWith('arvick_session=')) ?? '';
  expect(cookie).toMatch(/^arvick_session=[\w-]{43}; .*HttpOnly; SameSite=Lax/);
  return cookie.split(';')[0] as string;
}

const PEOPLE: Record<Role, number> = { coordinator: 4, technician: 2, helper: 5, teacher: 7 };

test('every page and endpoint is in the table, and opens for those it names: by role, signed out, ended', async () => {
  expect(routes.map((r) => r.route).filter((r) => !(r in ROUTES))).toEqual([]);
  expect(Object.keys(ROUTES).filter((r) => !routes.some((x) => x.route === r))).toEqual([]);
  const ended = await cookieOf(2);
  await send('/api/sign/out', {}, { cookie: ended });
  const visitors: [string, Role | null, string][] = [
    ...(await Promise.all(ROLES.map(async (r) => [r, r, await cookieOf(PEOPLE[r])] as [string, Role, string]))),
    ['nobody', null, ''],
    ['ended', null, ended],
  ];
  const wrong: string[] = [];
  for (const [name, role, cookie] of visitors)
    for (const { route, sends } of routes) {
      // What ends or begins a session, or makes an error of its own, is looked at elsewhere.
      if (['/500', '/api/welcome/bring', '/not-yours'].includes(route)) continue;
      const answer = await fetch(app.url + addressOf(route), {
        method: sends ? 'POST' : 'GET',
        headers: { 'content-type': 'application/json', ...(cookie ? { cookie } : {}) },
        redirect: 'manual',
        ...(sends ? { body: '{}' } : {}),
      });
      // What tells of changes does not end.
      if (route === '/api/live') await answer.body?.cancel();
      else await answer.arrayBuffer();
      const out = answer.status === 401 || (answer.headers.get('location') ?? '').startsWith('/sign-in');
      const refused = answer.status === 403;
      const right = mayOpen(role, route) ? !out && !refused : role === null ? out : refused;
      if (!right || answer.status >= 500) wrong.push(`${name} ${route}: ${answer.status}`);
    }
  expect(wrong).toEqual([]);
});

test('the edge: other names, other sites, frames, what a library brings along', async () => {
  const cookie = await cookieOf(4);
  const ask = (path: string, more: RequestInit = {}) =>
    fetch(app.url + path, { redirect: 'manual', ...more, headers: { cookie, ...(more.headers as object) } });
  const page = await ask('/');
  const policy = page.headers.get('content-security-policy') ?? '';
  expect(/script-src ([^;]+)/.exec(policy)?.[1]).not.toMatch(/'unsafe-inline'|'unsafe-eval'|\*|http/);
  expect(policy).toContain("frame-ancestors 'none'");
  expect(Object.fromEntries(page.headers)).toMatchObject({
    'x-content-type-options': 'nosniff',
    'x-frame-options': 'DENY',
    'referrer-policy': 'same-origin',
    'cache-control': 'no-store',
  });
  expect(page.headers.get('permissions-policy')).toContain('microphone=(self)');
  expect((await ask('/_image?href=%2Ficon.svg&f=png')).status).toBe(404);

  // A name of somebody else's that leads here.
  const { port } = new URL(app.url);
  const named = await new Promise<number>((done) => {
    import('node:http').then(({ request }) =>
      request({ host: '127.0.0.1', port, path: '/', headers: { host: 'evil.example', cookie } }, (r) =>
        done(r.statusCode ?? 0),
      ).end(),
    );
  });
  expect(named).toBe(421);

  // A page of somebody else's that sends: whatever it says it sends.
  const before = await (await ask('/api/fleet')).text();
  for (const type of [
    'application/json',
    'text/plain',
    'application/x-www-form-urlencoded',
    'application/octet-stream',
  ])
    for (const from of [
      { origin: 'http://evil.example' },
      { origin: 'null' },
      { origin: app.url.replace('http:', 'https:').replace(port, '1') },
      { 'sec-fetch-site': 'cross-site' },
    ]) {
      const answer = await ask('/api/fleet/many', {
        method: 'POST',
        headers: { 'content-type': type, 'idempotency-key': 'from-elsewhere', ...(from as object) },
        body: JSON.stringify({ tags: ['SK-0101'], holder: 'elsewhere' }),
      });
      expect(answer.status).toBe(403);
    }
  expect(await (await ask('/api/fleet')).text()).toBe(before);

  // A session that somebody else chose is none, and entering makes a new one.
  const planted = 'arvick_session=planted-by-somebody-else-planted-by-somebody-';
  const fixed = await send('/api/sign/demo', { personId: 5 }, { cookie: planted });
  expect(fixed.headers.getSetCookie().join()).not.toContain('planted');
  expect((await fetch(`${app.url}/fleet`, { headers: { cookie: planted }, redirect: 'manual' })).status).toBe(302);
  // Nobody says who they are in a header.
  for (const headers of [
    { 'acting-pass': '4.99999999999999.made-up' },
    { 'acting-person': '4' },
    { 'late-for': '4.1' },
  ]) {
    const answer = await send(
      '/api/programme/places',
      { name: 'Nowhere', isStore: false },
      { cookie: await cookieOf(5), 'idempotency-key': 'somebody-else', ...(headers as object) },
    );
    expect(answer.status).toBe(403);
  }
  // Afterwards one goes on within the programme, nowhere else.
  for (const next of ['//evil.example', 'https://evil.example', '/\\evil.example', '/\t/evil.example'])
    expect(await (await send('/api/sign/demo', { personId: 5, next })).json()).toEqual({ location: '/' });
  // Tries are counted by the socket, whatever address a request says it comes from.
  const tries = [];
  for (let i = 0; i < 10; i++)
    tries.push(
      await send(
        '/api/sign/in',
        { name: 'Nobody Here', password: `guess ${i}` },
        { 'x-forwarded-for': `198.51.100.${i}`, 'x-forwarded-proto': 'https' },
      ),
    );
  expect(tries.map((t) => t.status)).toEqual([...Array(8).fill(401), 429, 429]);
  expect(tries.some((t) => t.headers.has('strict-transport-security'))).toBe(false);
  const long = await send('/api/sign/in', { name: 'x'.repeat(20_000), password: 'x' });
  expect(long.status).toBe(413);
});

test('what a browser may deliver late for somebody is their work at the bench alone, until they sign out', async () => {
  const [coordinator, technician] = [await cookieOf(4), await cookieOf(2)];
  const { jobId } = await (
    await send('/api/jobs', { tag: 'SK-0101' }, { cookie: coordinator, 'idempotency-key': 'late-open' })
  ).json();
  // The page has nothing that a script could send elsewhere; the browser's own cookie is for no script.
  const page = await fetch(`${app.url}/bench/${jobId}`, { headers: { cookie: coordinator } });
  const html = await page.text();
  const [kept = ''] = page.headers.getSetCookie().filter((c) => c.startsWith('arvick_browser='));
  expect(kept).toContain('HttpOnly');
  const browser = kept.split(';')[0] as string;
  expect(html).not.toContain(browser.split('=')[1]);
  const step = /"step"|&quot;key&quot;:\[0,&quot;([^&]+)&quot;/.exec(html)?.[1] ?? '';
  const answer = { step, cursor: step, outcome: 'done' };
  let key = 0;
  const late = (path: string, body: object, cookies: string, job = jobId) =>
    send(path, body, { cookie: cookies, 'late-for': `4.${job}`, 'idempotency-key': `late-key-${key++}` });

  // On the same browser, by whoever holds it now: their own work on that job, and nothing else.
  const both = `${technician}; ${browser}`;
  expect((await late(`/api/jobs/${jobId}/answers`, answer, both)).status).toBe(200);
  for (const [path, body] of [
    ['/api/account/code', { personId: 4 }],
    ['/api/programme/places', { name: 'Nowhere', isStore: false }],
    [`/api/jobs/${jobId}/cancel`, { expectedVersion: 1 }],
  ] as const)
    expect([path, [403, 410].includes((await late(path, body, both)).status)]).toEqual([path, true]);
  expect((await late(`/api/jobs/${jobId + 1}/answers`, answer, both)).status).toBe(410);
  expect((await late(`/api/jobs/${jobId}/answers`, answer, both, jobId + 1)).status).toBe(410);
  expect((await late(`/api/jobs/${jobId}/answers`, answer, technician)).status).toBe(410);
  await send('/api/sign/out', {}, { cookie: `${coordinator}; ${browser}` });
  expect((await late(`/api/jobs/${jobId}/answers`, answer, both)).status).toBe(410);
});

test('a code, a password, digits at a shared bench, signing out; a helper is told why not', async ({ browser }) => {
  const own = await serve();
  const office = await (
    await browser.newContext({ baseURL: own.url, storageState: { cookies: [], origins: [] } })
  ).newPage();
  await office.goto('/programme');
  await expect(heading(office)).toHaveText('Sign in to Skerrow Sound Music Service');
  expect(await axe(office)).toEqual([]);
  await office.getByRole('button', { name: /Runa Fell/ }).click();
  await office.waitForURL('**/programme');
  await office.locator('summary', { hasText: 'Bo Lask' }).click();
  const give = office.getByRole('form', { name: 'Code for Bo Lask' });
  await give.getByRole('button', { name: 'Create a sign-in code' }).click();
  const code = /[0-9A-Z]{4}-[0-9A-Z]{4}-[0-9A-Z]{4}/.exec(await give.getByRole('alert').innerText())?.[0] ?? '';

  // On the tablet of the bench, which the coordinator enrols.
  const tablet = await (
    await browser.newContext({ baseURL: own.url, storageState: { cookies: [], origins: [] } })
  ).newPage();
  await tablet.goto('/code');
  expect(await axe(tablet)).toEqual([]);
  await tablet.getByLabel('The code you were given').fill(code);
  await tablet.getByLabel('Your new password').fill('salt lamp harbour');
  await tablet.getByRole('button', { name: 'Save and sign in' }).click();
  await tablet.waitForURL(/\/$/);
  await tablet.goto('/me');
  expect(await axe(tablet)).toEqual([]);
  await expect(heading(tablet)).toHaveText('Bo Lask, helper: signed in on this device only');
  const pin = tablet.getByRole('form', { name: 'PIN for a shared bench' });
  await pin.getByLabel('Your password').fill('salt lamp harbour');
  await pin.getByLabel(/^New PIN|^PIN/).fill('2580');
  await Promise.all([tablet.waitForEvent('load'), pin.getByRole('button', { name: 'Save the PIN' }).click()]);
  await expect(tablet.getByText('You have one.')).toBeVisible();
  const signOut = async () => {
    await tablet.locator('#who summary').click();
    await tablet.locator('#who').getByRole('button', { name: 'Sign out' }).click();
    await tablet.waitForURL('**/sign-in');
  };
  await signOut();
  await tablet.getByRole('button', { name: /Runa Fell/ }).click();
  await tablet.waitForURL(/\/$/);
  await tablet.goto('/me');
  await tablet.getByLabel('Name').fill('Tablet at the bench');
  await Promise.all([
    tablet.waitForEvent('load'),
    tablet.getByRole('button', { name: 'Make this device a shared bench' }).click(),
  ]);
  await expect(tablet.getByText('Tablet at the bench')).toBeVisible();
  await signOut();
  await expect(heading(tablet)).toHaveText('Who is at Tablet at the bench?');
  expect(await axe(tablet)).toEqual([]);
  const take = tablet.getByRole('form', { name: 'Use this bench' });
  await take.getByLabel('PIN').fill('0000');
  await take.getByRole('button', { name: 'Use this bench' }).click();
  await expect(take.getByRole('alert')).toHaveText('That is not this person’s PIN.');
  await take.getByLabel('PIN').fill('2580');
  await take.getByRole('button', { name: 'Use this bench' }).click();
  await tablet.waitForURL(/\/$/);

  // A helper: not the office, not a violin before somebody has signed them off, a ukulele.
  await expect(tablet.getByRole('navigation', { name: 'Areas' }).getByRole('link', { name: 'Programme' })).toHaveCount(
    0,
  );
  await tablet.goto('/programme');
  await expect(heading(tablet)).toHaveText('This page is not for a helper');
  expect(await axe(tablet)).toEqual([]);
  await tablet.goto('/instruments/SK-0122');
  await tablet.getByRole('button', { name: /^(Change the strings|Record a change)$/ }).click();
  await expect(tablet.getByText(/^Violin: Bo Lask is not signed off yet/)).toBeVisible();
  await openBench(tablet, 'SK-0228');
  await expect(tablet).toHaveURL(/\/bench\//);

  // A name and a wrong password; then locked out while it is open.
  await office.goto('/programme');
  await office.locator('summary', { hasText: 'Bo Lask' }).click();
  await Promise.all([
    office.waitForEvent('load'),
    office.getByRole('form', { name: 'Lock Bo Lask out' }).getByRole('button').click(),
  ]);
  await tablet.goto('/');
  await tablet.waitForURL(/\/sign-in/);
  const enter = tablet.getByRole('form', { name: 'Sign in' });
  await enter.getByLabel('Name').fill('Bo Lask');
  await enter.getByLabel('Password').fill('salt lamp harbour');
  await enter.getByRole('button', { name: 'Sign in' }).click();
  await expect(enter.getByRole('alert')).toContainText('do not match');
  own.stop();
});

test('after signing out nothing of the pages is kept on the device', async ({ browser }) => {
  const context = await browser.newContext({
    baseURL: app.url,
    storageState: { cookies: [], origins: [] },
    serviceWorkers: 'allow',
  });
  const page = await context.newPage();
  await page.goto('/');
  await page.getByRole('button', { name: /Ida Marr/ }).click();
  await page.waitForURL(/\/$/);
  await page.evaluate(() => navigator.serviceWorker.ready);
  await page.goto('/instruments/SK-0104');
  const kept = () =>
    page.evaluate(async () => {
      const texts: string[] = [];
      for (const name of await caches.keys()) {
        const cache = await caches.open(name);
        for (const request of await cache.keys()) texts.push((await (await cache.match(request))?.text()) ?? '');
      }
      return texts.some((t) => t.includes('A. Fell'));
    });
  await expect.poll(kept).toBe(true);
  await page.locator('#who summary').click();
  await page.locator('#who').getByRole('button', { name: 'Sign out' }).click();
  await page.waitForURL('**/sign-in');
  expect(await kept()).toBe(false);
  await context.close();
});
