import { gzipSync } from 'node:zlib';
import type { Response } from '@playwright/test';
import { axe, expect, heading, openBench, serve, spaceTo, test } from './app';

const PAGES = [
  '/',
  '/fleet',
  '/fleet?due=broken',
  '/instruments/SK-0185',
  '/instruments/SK-0345',
  '/instruments/new',
  '/instruments/NO-1',
  '/stock',
  '/nowhere',
];
const TRADE_PAGES = [
  '/methods',
  '/methods/steel-acoustic?tag=SK-0317',
  '/methods/violin',
  '/methods/card/cello?tag=SK-0171',
  '/calculator?tag=SK-0701',
  '/faults',
  '/faults?tag=SK-0233&symptom=flat-for-days',
  '/instruments/SK-0317/build',
  '/instruments/SK-0308/note',
];

for (const colorScheme of ['light', 'dark'] as const) {
  test(`axe finds nothing on any page, ${colorScheme}`, async ({ browser, app }) => {
    const context = await browser.newContext({ baseURL: app.url, colorScheme });
    const page = await context.newPage();
    for (const path of PAGES) {
      await page.goto(path);
      expect(await axe(page), path).toEqual([]);
    }
    await page.goto('/');
    await page.locator('#who summary').click();
    expect(await axe(page), 'person menu').toEqual([]);
    await context.close();
  });

  test(`axe finds nothing on the pages of the trade, ${colorScheme}`, async ({ browser, app }) => {
    const context = await browser.newContext({ baseURL: app.url, colorScheme });
    const page = await context.newPage();
    for (const path of TRADE_PAGES) {
      await page.goto(path);
      expect(await axe(page), path).toEqual([]);
    }
    await context.close();
  });

  test(`axe finds nothing at the bench, ${colorScheme}`, async ({ browser, app }) => {
    const context = await browser.newContext({ baseURL: app.url, colorScheme });
    const page = await context.newPage();
    await openBench(page, colorScheme === 'light' ? 'SK-0301' : 'SK-0222');
    expect(await axe(page), 'bench').toEqual([]);
    await spaceTo(page, /nut slot and turn the (post|peg)/);
    expect(await axe(page), 'bench, post').toEqual([]);
    await page.keyboard.press('m');
    expect(await axe(page), 'bench, mistakes').toEqual([]);
    await page.keyboard.press('Escape');
    await spaceTo(page, /^Which strings did you fit/);
    await expect(page.getByText(/^Strings used: \d/)).toBeVisible();
    expect(await axe(page), 'finish').toEqual([]);
    await page.getByRole('button', { name: 'Stop here, unchanged' }).click();
    await page.getByRole('button', { name: 'Yes, no string was changed' }).click();
    await page.waitForURL('**/instruments/*');
    await context.close();
  });
}

test('pages fit a tablet upright and a phone', async ({ browser, app }) => {
  for (const viewport of [
    { width: 810, height: 1080 },
    { width: 390, height: 844 },
  ]) {
    const context = await browser.newContext({ baseURL: app.url, viewport });
    const page = await context.newPage();
    for (const path of [
      '/',
      '/fleet',
      '/instruments/SK-0345',
      '/stock',
      '/instruments/new',
      '/methods',
      '/methods/twelve-string',
      '/calculator?tag=SK-0345',
      '/faults?tag=SK-0104&symptom=flat-for-days',
      '/instruments/SK-0345/build',
    ]) {
      await page.goto(path);
      expect(
        await page.evaluate(() => document.documentElement.scrollWidth - innerWidth),
        `${path} at ${viewport.width}`,
      ).toBeLessThanOrEqual(0);
    }
    await context.close();
  }
});

test('the horizon is moved by keys and by a typed date, and is the same in every area', async ({ page }) => {
  await page.goto('/fleet');
  const headline = heading(page);
  await expect(headline).toHaveText(/^\d+ of 261 instruments are due by 18 December$/);
  const before = Number((await headline.innerText()).split(' ')[0]);
  const marker = page.getByRole('slider', { name: 'Look ahead to' });
  await marker.focus();
  const saved = page.waitForResponse('**/api/people/horizon');
  for (let i = 0; i < 3; i++) await page.keyboard.press('PageUp');
  await expect(headline).toContainText('due by 8 January');
  expect(Number((await headline.innerText()).split(' ')[0])).toBeGreaterThan(before);
  await saved;
  await expect(marker).toHaveAttribute('aria-valuetext', /^by Fri 8 Jan/);
  await page.waitForLoadState('networkidle');
  await page.goto('/');
  await expect(page.getByRole('slider')).toContainText('by Fri 8 Jan');
  await page.getByRole('slider').click();
  await page.getByRole('textbox', { name: 'Look ahead to' }).fill('2026-12-18');
  await Promise.all([page.waitForEvent('load'), page.keyboard.press('Enter')]);
  await expect(page.getByRole('slider')).toContainText('by Fri 18 Dec');
});

test('Fleet filters, sorts and opens by keyboard alone, and the address keeps it', async ({ page }) => {
  await page.goto('/fleet');
  await page.getByLabel('Condition').selectOption('broken');
  await expect(page.getByText(/^\d shown: broken\.$/)).toBeVisible();
  for (const chip of await page.locator('tbody .chip').allInnerTexts()) expect(chip).toBe('broken');
  await page.getByLabel('Condition').selectOption('all');
  await page.getByLabel('Family').selectOption('cello');
  await expect(heading(page)).toContainText('of 18 instruments');
  await page.getByRole('button', { name: 'Tag' }).press('Enter');
  await expect(page.getByRole('columnheader', { name: 'Tag' })).toHaveAttribute('aria-sort', 'ascending');
  await expect(page).toHaveURL(/family=cello&sort=tag/);
  await page.reload();
  await expect(page.locator('tbody tr').first()).toContainText('SK-0171');
  await page.getByRole('link', { name: 'SK-0171' }).focus();
  await page.keyboard.press('Enter');
  await expect(page).toHaveURL(/SK-0171/);
  // A scanner types a tag into the jump box and ends with Enter.
  await page.keyboard.press('/');
  await page.keyboard.type('sk-0317');
  await page.keyboard.press('Enter');
  await expect(page).toHaveURL(/instruments\/SK-0317/);
});

test('Fleet brings more rows as one goes on', async ({ page }) => {
  await page.goto('/fleet?sort=tag');
  await expect(page.locator('tbody tr').first()).toContainText('SK-0101');
  const last = page.locator('tbody tr[aria-rowindex]').last();
  const lastAt = async () => Number(await last.getAttribute('aria-rowindex'));
  const table = page.getByRole('table');
  const all = Number(await table.getAttribute('aria-rowcount'));
  await expect(async () => {
    await last.scrollIntoViewIfNeeded();
    expect(await lastAt()).toBe(all);
  }).toPass();
  // However long the list, the page holds what is near the window.
  expect(await page.locator('tbody tr').count()).toBeLessThan(all / 2);
  const tags = await page.locator('tbody th').allInnerTexts();
  expect(new Set(tags).size).toBe(tags.length);
  await page.keyboard.press('Control+Home');
  await expect(page.locator('tbody tr').first()).toContainText('SK-0101');
});

test('from Today to the record with the keyboard alone', async ({ page }) => {
  await page.goto('/');
  await page.getByLabel('Where you work today').selectOption({ label: 'Ness School' });
  await expect(heading(page)).toContainText('at Ness School');
  const go = page.getByRole('button', { name: /^(Start|Continue with) SK-/ });
  for (let i = 0; i < 80; i++) {
    if (await go.evaluate((button) => button === document.activeElement)) break;
    await page.keyboard.press('Tab');
  }
  await expect(go).toBeFocused();
  await page.keyboard.press('Enter');
  await page.waitForURL(/\/bench\/\d+/);
  await spaceTo(page, /^(Which strings did you fit|Not in stock)/);
  await page.goto('/');
  await page.getByLabel('Where you work today').selectOption({ label: 'Harbour Store' });
  await expect(heading(page)).toContainText('at Harbour Store');
});

test('a visit is ticked off on Today, once', async ({ page }) => {
  await page.goto('/');
  const done = page.getByRole('button', { name: 'SK-0308: retuned' });
  await done.dblclick();
  await expect(page.getByRole('button', { name: 'SK-0308: retuned' })).toHaveCount(0);
});

test('an empty programme starts with a first-run page and takes its first instrument', async ({ browser }) => {
  const app = await serve('nothing');
  const context = await browser.newContext({ baseURL: app.url });
  const page = await context.newPage();
  await page.goto('/fleet');
  await expect(page).toHaveURL(/welcome/);
  expect(await axe(page)).toEqual([]);
  await page.getByLabel('Name of the programme').fill('Three Rivers Strings');
  await page.getByLabel('Your name').fill('Mo Arden');
  await page.getByLabel('Password').fill('three words alike');
  await page.getByLabel('Where the strings are kept').fill('Back room');
  await page.getByLabel('Time zone').selectOption('UTC');
  await page.getByRole('button', { name: 'Start' }).click();
  await page.waitForURL('**/programme');
  await page.goto('/');
  await expect(heading(page)).toContainText('at Back room: nothing due');
  await page.goto('/fleet');
  await expect(heading(page)).toHaveText('No instruments yet');
  await page.getByRole('link', { name: 'Add an instrument' }).click();
  await page.getByLabel('Tag', { exact: true }).fill('TR-1');
  await page.getByLabel('Family').selectOption('ukulele');
  await page.getByLabel('Size').selectOption('tenor');
  await page.getByRole('button', { name: 'Add the instrument' }).click();
  await expect(page).toHaveURL(/instruments\/TR-1/);
  await expect(heading(page)).toHaveText('Inspect it first: nobody knows how old the strings are');
  await context.close();
  app.stop();
});

test('no page brings more than 130 kB of scripts, compressed', async ({ page }) => {
  // What follows changes never ends; without it a page is through when nothing more is asked for.
  await page.route('**/api/live', (route) => route.abort());
  await openBench(page, 'SK-0318');
  const bench = new URL(page.url()).pathname;
  const heavy: string[] = [];
  for (const path of [
    '/',
    '/fleet',
    '/instruments/SK-0317',
    bench,
    '/plan',
    '/stock/kit',
    '/stock/orders',
    '/methods/steel-acoustic?tag=SK-0317',
    '/methods/violin',
    '/methods/intervals',
    '/calculator?tag=SK-0317',
  ]) {
    const scripts = new Map<string, Promise<number>>();
    const count = (answer: Response) => {
      // What computes beside the page, in a thread of its own, keeps nobody waiting.
      if (!/\.js($|\?)/.test(answer.url()) || answer.url().includes('.worker')) return;
      scripts.set(
        answer.url(),
        answer.body().then((body) => gzipSync(body).byteLength),
      );
    };
    page.on('response', count);
    await page.goto(path);
    await page.waitForLoadState('networkidle');
    page.off('response', count);
    const kB = (await Promise.all(scripts.values())).reduce((sum, size) => sum + size, 0) / 1000;
    expect(kB).toBeGreaterThan(10);
    if (kB > 130) heavy.push(`${path}: ${kB.toFixed(0)} kB`);
  }
  expect(heavy).toEqual([]);
});

test('a part of a page that does not come says so, and takes nothing else with it', async ({ page }) => {
  await page.route('**/_astro/Chosen.*.js', (route) => route.abort());
  await page.goto('/fleet');
  await page
    .getByRole('checkbox', { name: /^Choose SK-/ })
    .first()
    .check();
  await expect(page.getByRole('alert')).toContainText('did not load. Reload the page');
  await page.getByLabel('Search tag, place, holder or set').fill('SK-0123');
  await expect(page.getByRole('row')).toHaveCount(2);
});
