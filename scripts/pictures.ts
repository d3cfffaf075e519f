import type { ChildProcess } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { chromium, type Page } from '@playwright/test';
import { loadDemo } from '../demo/load';
import { openDatabase } from '../server/db/connection';
import { chromiumPath } from './chromium.mjs';
import { enteredState, enterFolder } from './entered';
import { ensureBuilt, root, startServer } from './setup.mjs';

/** Takes the pictures of docs/screenshots from the demo data: npm run pictures */
const NOW = '2026-11-24T09:00:00Z';
process.env.ARVICK_NOW = NOW;
ensureBuilt();
const data = mkdtempSync(join(tmpdir(), 'arvick-pictures-'));
const db = await openDatabase(data);
await loadDemo(db, Date.parse(NOW));
await db.destroy();
await enterFolder(data, Date.now());
const server = (await startServer({ port: 4851, host: '127.0.0.1', data })) as ChildProcess | null;
if (!server) throw new Error('The server did not start.');
const browser = await chromium.launch({
  executablePath: chromiumPath(),
  args: ['--no-sandbox', '--disable-gpu', '--disable-quic', '--disable-background-networking'],
});

const open = async (colorScheme: 'light' | 'dark', size: { width: number; height: number }): Promise<Page> => {
  const context = await browser.newContext({
    baseURL: 'http://127.0.0.1:4851',
    viewport: size,
    colorScheme,
    locale: 'en-GB',
    storageState: enteredState,
  });
  return context.newPage();
};
const desk = { width: 1280, height: 800 };
const take = async (page: Page, name: string, folder = 'screenshots') => {
  // A worker that is ended in the middle of loading keeps the network from being called idle.
  await page.waitForLoadState('networkidle', { timeout: 4000 }).catch(() => {});
  // What moves into its place is there.
  await page.waitForTimeout(400);
  await page.screenshot({ path: join(root, `docs/${folder}/${name}.png`) });
  console.log(name);
};
const bench = async (page: Page, tag: string, until: RegExp) => {
  await page.goto(`/instruments/${tag}`);
  await page
    .getByRole('button', { name: 'Change the strings' })
    .or(page.getByRole('link', { name: 'Continue at the bench' }))
    .click();
  await page.waitForURL(/bench/);
  await page.waitForSelector('main[data-ready=true]');
  while (!until.test((await page.locator('main h1').textContent()) ?? '')) {
    await page.keyboard.press('Space');
    await page.waitForTimeout(40);
  }
};

try {
  const light = await open('light', desk);
  for (const [name, path] of [
    ['today', '/'],
    ['fleet', '/fleet'],
    ['instrument', '/instruments/SK-0317'],
    ['stock', '/stock'],
    ['methods', '/methods/steel-acoustic?tag=SK-0317'],
    ['calculator', '/calculator?tag=SK-0701'],
    ['fault-desk', '/faults?tag=SK-0308&symptom=flat-for-days'],
  ] as const) {
    await light.goto(path);
    await take(light, name);
  }
  await light.goto('/methods/intervals');
  await light.getByRole('button', { name: 'Change the interval for Ukulele' }).click();
  await light.getByLabel('Days', { exact: true }).fill('180');
  await light.locator('[data-effect] b').waitFor();
  await take(light, 'intervals');
  await light.goto('/stock/kit');
  await light.getByText('no cheaper way exists').waitFor({ timeout: 60_000 });
  await take(light, 'kit-sheet');
  await light.goto('/plan');
  await light.getByRole('button', { name: 'Find a better plan' }).click();
  await light.getByText(/This is the best possible plan|A better plan could save/).waitFor({ timeout: 60_000 });
  const solved = async () => {
    await light.getByText(/This is the best possible plan|A better plan could save/).waitFor({ timeout: 60_000 });
    await light.getByRole('button', { name: 'Find a better plan' }).waitFor({ timeout: 60_000 });
  };
  await solved();
  await take(light, 'plan');
  await light.locator('table button.tag').nth(3).click();
  await take(light, 'plan-why', 'guide/pictures');
  await light.keyboard.press('Escape');
  await light.getByRole('button', { name: 'Publish', exact: true }).click();
  await light.getByRole('heading', { name: /^What changes for/ }).waitFor();
  await take(light, 'before-publishing', 'guide/pictures');
  await light.getByRole('button', { name: 'Not yet' }).click();
  await light.getByRole('button', { name: 'Month' }).click();
  await take(light, 'plan-month');
  await light.getByRole('button', { name: '24 Nov' }).click();
  await light.getByRole('button', { name: 'Try it' }).first().click();
  await light.getByRole('button', { name: 'Find a better plan' }).click();
  await solved();
  await take(light, 'plan-what-if');
  await light.goto('/plan');
  await light.getByRole('button', { name: 'Work one out now' }).click();
  const proposal = light.getByRole('region', { name: /^(A better plan is ready|Another plan)/ });
  await proposal.waitFor({ timeout: 240_000 });
  await proposal.scrollIntoViewIfNeeded();
  await take(light, 'plan-proposal', 'guide/pictures');
  const upright = await open('light', { width: 810, height: 1080 });
  await upright.goto('/plan');
  await upright.locator('[data-ready=true]').waitFor();
  await take(upright, 'plan-tablet', 'guide/pictures');
  const phone = await open('light', { width: 390, height: 844 });
  await phone.goto('/');
  await take(phone, 'today-phone');
  await bench(light, 'SK-0317', /^Pull each string tight/);
  for (const number of ['6', '5']) await light.keyboard.press(number);
  await light.getByRole('button', { name: 'A2: done' }).waitFor();
  await take(light, 'bench');
  await light.getByRole('button', { name: 'brief', exact: true }).click();
  await light.getByRole('button', { name: 'brief', exact: true, pressed: true }).waitFor();
  await take(light, 'bench-brief');
  // The way is kept for the person: the pictures after this one are by phase again.
  await light.getByRole('button', { name: 'by phase', exact: true }).click();
  await light.getByRole('button', { name: 'by phase', exact: true, pressed: true }).waitFor();
  const dark = await open('dark', desk);
  await dark.goto('/instruments/SK-0185');
  await dark.getByRole('button', { name: 'Found slack: follow the steps' }).click();
  await dark.waitForURL(/bench/);
  await dark.waitForSelector('main[data-ready=true] h1');
  await take(dark, 'found-slack');
  const tablet = await open('light', { width: 810, height: 1080 });
  await bench(tablet, 'SK-0304', /^Bend each string/);
  await take(tablet, 'bench-tablet');
  await bench(light, 'SK-0330', /^Tune low/);
  await light.getByRole('button', { name: 'Practice instrument' }).click();
  await light.getByRole('button', { name: 'Pluck 3' }).click();
  await light.waitForSelector('[data-cents]');
  await take(light, 'tuner');
  // The guide's own pictures.
  const guide = (name: string) => take(light, name, 'guide/pictures');
  await light.goto('/programme/import');
  await light.waitForFunction(() => document.querySelector('astro-island[ssr]') === null);
  await light
    .getByLabel('Choose a list, or drop it here')
    .setInputFiles(join(root, 'tests/files/programme-messy.xlsx'));
  await light.waitForURL(/import\/\d+$/);
  await guide('import');
  await light.goto('/fleet');
  await light.waitForFunction(() => document.querySelector('astro-island[ssr]') === null);
  for (const tag of ['SK-0123', 'SK-0122', 'SK-0303']) await light.getByLabel(`Choose ${tag}`).check();
  await guide('several-at-once');
  await light.goto('/instruments/SK-0101');
  await light.getByText('Edit details, lend or retire').click();
  await guide('instrument-edited');
  await light.goto('/instruments/labels?tags=SK-0101,SK-0102,SK-0303,SK-0331,SK-0317&say=ready&start=3');
  await guide('labels');
  await light.goto('/stock/usual?family=electric');
  await guide('usual-sets');
  await light.goto('/programme/take');
  await guide('take');
  await phone.goto('/report?tag=SK-0101');
  await take(phone, 'report-phone', 'guide/pictures');
  await light.goto('/programme/audit');
  await guide('audit');
  await light.goto('/programme');
  await light.locator('#people-section summary', { hasText: 'Bo Lask' }).click();
  await light.locator('#people-section').scrollIntoViewIfNeeded();
  await guide('people-roles');
  const codes = await openDatabase(data);
  const label = (await codes('label_link').first('token'))?.token;
  await codes.destroy();
  // Whoever holds the phone is not signed in.
  await phone.context().clearCookies();
  await phone.goto(`/r/${label}`);
  await take(phone, 'label-phone', 'guide/pictures');
  await phone.goto('/sign-in');
  await phone.setViewportSize(desk);
  await take(phone, 'sign-in', 'guide/pictures');
  await phone.getByRole('button', { name: /Rikard Ost/ }).click();
  await phone.getByRole('heading', { name: 'Lessons in the next few days' }).waitFor();
  await take(phone, 'today-teacher', 'guide/pictures');
  const fresh = mkdtempSync(join(tmpdir(), 'arvick-pictures-'));
  const other = (await startServer({ port: 4852, host: '127.0.0.1', data: fresh })) as ChildProcess | null;
  try {
    await light.goto('http://127.0.0.1:4852/welcome');
    await light.getByLabel('Name of the programme').fill('Gull Row Strings');
    await light.getByLabel('Your name').fill('Uma Tell');
    await light.getByLabel('Password').fill('three words alike');
    await light.getByLabel('Where the strings are kept').fill('Store');
    await light.getByLabel('Time zone').selectOption('UTC');
    await light.getByRole('button', { name: 'Start' }).click();
    await light.waitForURL('**/programme');
    await guide('way-in');
  } finally {
    other?.kill('SIGKILL');
    rmSync(fresh, { recursive: true, force: true });
  }
  const paper = await open('light', { width: 794, height: 1123 });
  await paper.emulateMedia({ media: 'print' });
  await paper.goto('/methods/card/classical?tag=SK-0401');
  await take(paper, 'card');
} finally {
  await browser.close();
  server.kill('SIGKILL');
  rmSync(data, { recursive: true, force: true });
}
