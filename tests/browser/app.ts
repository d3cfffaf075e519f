import type { ChildProcess } from 'node:child_process';
import { cpSync, mkdirSync, mkdtempSync } from 'node:fs';
import { type AddressInfo, createServer } from 'node:net';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import AxeBuilder from '@axe-core/playwright';
import { test as base, expect, type Page } from '@playwright/test';
import { ENTERED_COOKIE, enteredState, enterFolder } from '../../scripts/entered';
import { FROZEN, LEAN, startServer } from '../../scripts/setup.mjs';

export const TEMPLATE = resolve('.reports/demo-template');

export interface App {
  url: string;
  data: string;
  /** Ends the server as a power cut would, and starts it on the same data. */
  killAndRestart(): Promise<void>;
  /** The server hangs, as one does whose disk does not answer; what is returned lets it go on. */
  hang(): () => void;
  /** Tells the server to stop, and waits for the code with which it leaves. */
  end(signal: NodeJS.Signals): Promise<number | null>;
  stop(): void;
}

const freePort = (): Promise<number> =>
  new Promise((done, failed) => {
    const probe = createServer().once('error', failed);
    probe.listen(0, '127.0.0.1', () => {
      const { port } = probe.address() as AddressInfo;
      probe.close(() => done(port));
    });
  });

/** Serves a copy of the demo data, an empty folder, or data that is made for it, on a port of its own. */
export async function serve(contents: 'demo' | 'nothing' | ((folder: string) => Promise<void>) = 'demo'): Promise<App> {
  const data = mkdtempSync(join(tmpdir(), 'arvick-browser-'));
  if (contents === 'demo') cpSync(TEMPLATE, data, { recursive: true });
  else if (contents !== 'nothing') {
    await contents(data);
    await enterFolder(data, Date.parse(FROZEN));
  }
  mkdirSync(data, { recursive: true });
  const port = await freePort();
  const start = async (): Promise<ChildProcess> => {
    const child = await startServer({ port, host: '127.0.0.1', data, env: { ARVICK_NOW: FROZEN, ...LEAN } });
    if (!child) throw new Error('The server did not start.');
    return child;
  };
  let child = await start();
  return {
    url: `http://127.0.0.1:${port}`,
    data,
    async killAndRestart() {
      const gone = new Promise((done) => child.once('exit', done));
      child.kill('SIGKILL');
      await gone;
      child = await start();
    },
    hang() {
      child.kill('SIGSTOP');
      return () => void child.kill('SIGCONT');
    },
    end: (signal) =>
      new Promise((done) => {
        child.once('exit', (code) => done(code));
        child.kill(signal);
      }),
    stop: () => void child.kill('SIGKILL'),
  };
}

export const test = base.extend<{ quiet: undefined; own: App; ownPage: Page }, { app: App }>({
  // For what hangs on all of the demo's data, untouched by other tests.
  // biome-ignore lint/correctness/noEmptyPattern: Playwright reads the names of the fixtures from it
  own: async ({}, use) => {
    const app = await serve();
    await use(app);
    app.stop();
  },
  ownPage: async ({ own, browser }, use) => {
    const context = await browser.newContext({ baseURL: own.url });
    const page = patient(await context.newPage());
    const errors: string[] = [];
    page.on('pageerror', (error) => errors.push(error.message));
    await use(page);
    expect(errors).toEqual([]);
    await context.close();
  },
  app: [
    // biome-ignore lint/correctness/noEmptyPattern: Playwright reads the names of the fixtures from it
    async ({}, use) => {
      const app = await serve();
      await use(app);
      app.stop();
    },
    { scope: 'worker' },
  ],
  baseURL: async ({ app }, use) => use(app.url),
  // biome-ignore lint/correctness/noEmptyPattern: Playwright reads the names of the fixtures from it
  storageState: async ({}, use) => use(enteredState),
  // An error in the page fails the test, whatever else it looks at.
  quiet: [
    async ({ page }, use) => {
      patient(page);
      const errors: string[] = [];
      page.on('pageerror', (error) => errors.push(error.message));
      await use(undefined);
      expect(errors).toEqual([]);
    },
    { auto: true },
  ],
});
export { expect, FROZEN };

/** Asks a server of the demo as the one who is signed in there. */
export const ask = (url: string, more: RequestInit = {}): Promise<Response> =>
  fetch(url, { ...more, headers: { cookie: ENTERED_COOKIE, ...(more.headers as Record<string, string>) } });

/** Chooses who acts in this browser. */
export async function actAs(page: Page, name: string): Promise<void> {
  // The session that all tests of a server share goes on.
  await page.context().clearCookies({ name: 'arvick_session' });
  await page.goto('/sign-in');
  await page.getByRole('button', { name: new RegExp(`^${name}`) }).click();
  await page.waitForURL(/\/$/);
  await expect(page.locator('#who summary')).toHaveAttribute('aria-label', new RegExp(name));
}

/** Opens the bench on an instrument from its page. */
export async function openBench(page: Page, tag: string): Promise<void> {
  await page.goto(`/instruments/${tag}`);
  await page
    .getByRole('button', { name: /^(Change the strings|Record a change)$/ })
    .or(page.getByRole('link', { name: 'Continue at the bench' }))
    .click();
  await page.waitForURL(/\/bench\/\d+/);
  await expect(page.locator('main[data-ready=true]')).toBeVisible();
  // What comes first is loaded when it is needed.
  await expect(page.locator('main h1')).toBeVisible();
}

/** A page whose `goto` ends when its islands answer: on a busy machine a choice made before is lost. */
function patient(page: Page): Page {
  const goto = page.goto.bind(page);
  page.goto = async (...to) => {
    const answer = await goto(...to);
    // What never answers, as without a network, is for the test to find.
    await page
      .waitForFunction(() => document.querySelector('astro-island[ssr]') === null, null, { timeout: 8000 })
      .catch(() => {});
    return answer;
  };
  return page;
}

/** Whoever opens a page without choosing a name is led string by string again, as other tests on this server are. */
export async function ledByString(app: App): Promise<void> {
  const answer = await ask(`${app.url}/api/people/lead`, {
    method: 'POST',
    headers: { 'content-type': 'application/json', 'idempotency-key': `lead-${crypto.randomUUID()}` },
    body: JSON.stringify({ lead: 'string' }),
  });
  expect(answer.status).toBe(200);
}

/** What the browser keeps of jobs, as text: from there a reload brings it back, once it is in there. */
export const keptHere = (page: Page): Promise<string> =>
  page.evaluate(async () => {
    const ended = <T>(request: IDBRequest<T>) =>
      new Promise<T>((done, failed) => {
        request.onsuccess = () => done(request.result);
        request.onerror = () => failed(request.error);
      });
    const db = await ended(indexedDB.open('arvick'));
    const all = await ended(db.transaction('values').objectStore('values').getAll());
    db.close();
    return JSON.stringify(all);
  });

export const heading = (page: Page) => page.locator('main h1');

/** Goes on at the bench by keyboard; what cannot be undone is confirmed by a key of its own, which does nothing elsewhere. */
export async function onward(page: Page): Promise<void> {
  await page.keyboard.press('Space');
  await page.keyboard.press('y');
}

/** Presses Space through the steps up to the one whose heading fits; returns the headings on the way. */
export async function spaceTo(page: Page, until: RegExp): Promise<string[]> {
  const seen: string[] = [];
  for (let n = 0; n < 140; n++) {
    const text = await heading(page).innerText();
    if (until.test(text)) return seen;
    seen.push(text);
    await onward(page);
    // Asked in the page, so that a step takes no longer than it does; not by frames, which a busy machine may not draw.
    await page.waitForFunction((was) => document.querySelector<HTMLElement>('main h1')?.innerText !== was, text, {
      polling: 40,
    });
  }
  throw new Error(`No step fits ${until}. Last seen: ${seen.at(-1)}`);
}

/** What axe finds on the page as it stands; in the dark, what the dark can change. */
export async function axe(page: Page): Promise<string[]> {
  const dark = await page.evaluate(() => matchMedia('(prefers-color-scheme: dark)').matches);
  const runOnly: Parameters<AxeBuilder['options']>[0]['runOnly'] = dark
    ? { type: 'rule', values: ['color-contrast', 'link-in-text-block'] }
    : { type: 'tag', values: ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa', 'best-practice'] };
  // Nothing is said of what is right, which is nearly all of a long page.
  const found = await new AxeBuilder({ page })
    .setLegacyMode(true)
    .options({ runOnly, resultTypes: ['violations'] })
    .analyze();
  return found.violations.map(
    (v) =>
      `${v.id}: ${v.help} (${v.nodes
        .slice(0, 3)
        .map((n) => n.target.join(' '))
        .join('; ')})`,
  );
}

/** Entries of an instrument's history from the frozen day. */
export const recordedToday = (page: Page) =>
  page.getByRole('list', { name: 'History' }).getByRole('listitem').filter({ hasText: '24 Nov' });
