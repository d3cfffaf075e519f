import { readdirSync, readFileSync, statSync } from 'node:fs';
import { join } from 'node:path';
import type { Page } from '@playwright/test';
import Database from 'better-sqlite3';
import sharp from 'sharp';
import { restore } from '../../server/db/backup';
import { must } from '../../server/db/must';
import { type App, actAs, axe, expect, heading, serve, test } from './app';

let app: App;
test.beforeAll(async () => {
  app = await serve();
});
test.afterAll(() => app.stop());

const read = <T>(sql: string, ...args: unknown[]): T => {
  const db = new Database(join(app.data, 'arvick.sqlite'), { readonly: true });
  try {
    return db.prepare(sql).get(...args) as T;
  } finally {
    db.close();
  }
};

test('a label is read by a phone without an account, it comes to Today, and the phone is told what became of it', async ({
  browser,
}) => {
  const office = await (await browser.newContext({ baseURL: app.url })).newPage();
  await actAs(office, 'Ida Marr');
  // Printing the label gives its code.
  await office.goto('/instruments/SK-0102/label');
  const link = read<{ token: string }>(
    "select token from label_link l join instrument i on i.id = l.instrument_id where i.tag = 'SK-0102'",
  );
  const phone = await (
    await browser.newContext({
      baseURL: app.url,
      storageState: { cookies: [], origins: [] },
      viewport: { width: 390, height: 844 },
    })
  ).newPage();
  await phone.goto(`/r/${link.token}`);
  await expect(heading(phone)).toHaveText(/^SK-0102: /);
  expect(await axe(phone)).toEqual([]);
  // Nobody's name, whoever it is with.
  const holder = read<{ holder: string }>("select holder from instrument where tag = 'SK-0102'").holder;
  if (holder !== 'class set') await expect(phone.locator('main')).not.toContainText(holder);
  await phone.getByLabel('A crack, an open seam or a part that has come loose').check();
  await phone.getByLabel(/^Anything to add/).fill('<b onclick=x>along the side</b>');
  await phone.getByLabel(/^Your name or class/).fill('6 C');
  const picture = await sharp({ create: { width: 2400, height: 900, channels: 3, background: '#824' } })
    .withExif({ IFD3: { GPSLatitude: '60/1 9/1 0/1', GPSLatitudeRef: 'N' } })
    .jpeg()
    .toBuffer();
  await phone.getByLabel(/^Photo/).setInputFiles({ name: 'x.jpg', mimeType: 'image/jpeg', buffer: picture });
  await phone.getByRole('button', { name: 'Report it' }).click();
  await phone.waitForURL(/said=crack/);
  await expect(phone.getByRole('status')).toContainText('Until then:');
  await expect(phone.getByText('waiting to be read')).toBeVisible();
  // A reload says it once.
  await phone.reload();
  expect(read<{ n: number }>('select count(*) as n from said where wrong = ?', 'crack').n).toBe(1);
  const { hash } = read<{ hash: string }>('select hash from said where wrong = ?', 'crack');
  const kept = await sharp(readFileSync(join(app.data, 'photos', hash.slice(0, 2), `${hash}.jpg`))).metadata();
  expect(kept).toMatchObject({ format: 'jpeg', width: 1600 });
  expect(kept.exif).toBeUndefined();

  await office.goto('/');
  const said = office.getByRole('region', { name: 'Reports from labels' });
  await expect(said).toContainText('<b onclick=x>along the side</b>');
  await expect(said).toContainText('6 C');
  await said.getByRole('button', { name: 'Accept the report on SK-0102' }).click();
  await expect(said.getByText('SK-0102')).toHaveCount(0);
  await phone.goto(`/r/${link.token}`);
  await expect(heading(phone)).toHaveText('SK-0102: Needs a repairer: not ready');
  await expect(phone.getByText('waiting for a qualified repairer')).toBeVisible();
  await office.goto('/instruments/SK-0102');
  await expect(office.locator('#photographs img')).toHaveCount(1);

  // Its code is ended: the phone is told, and says nothing any more.
  await Promise.all([
    office.waitForEvent('load'),
    office.getByRole('form', { name: 'Code on the label of SK-0102' }).getByRole('button').click(),
  ]);
  await phone.goto(`/r/${link.token}`);
  await expect(heading(phone)).toHaveText('This label no longer works');
});

test('a teacher says it in their own name, sees it on their Today, and somebody else’s page is told at once', async ({
  browser,
}) => {
  const of = async (name: string): Promise<Page> => {
    const page = await (await browser.newContext({ baseURL: app.url })).newPage();
    await actAs(page, name);
    return page;
  };
  const [teacher, bench] = await Promise.all([of('Jo Kestrin'), of('Nell Oske')]);
  await expect(heading(teacher)).toContainText('can be played');
  expect(await axe(teacher)).toEqual([]);
  await teacher.getByRole('link', { name: 'Report a fault' }).click();
  await teacher.getByLabel('Tag on the label').fill('sk-0413');
  await teacher.getByRole('button', { name: 'Next' }).click();
  await teacher.getByLabel('It buzzes or rattles').check();
  // Leaving with this entered asks; staying keeps it.
  const asked = teacher.waitForEvent('dialog');
  const left = teacher.goto('/').catch(() => {});
  const dialog = await asked;
  expect(dialog.type()).toBe('beforeunload');
  await dialog.dismiss();
  await left;
  await expect(teacher.getByLabel('It buzzes or rattles')).toBeChecked();
  await bench.goto('/');
  await expect(bench.getByText('It buzzes or rattles')).toHaveCount(0);
  await teacher.getByRole('button', { name: 'Report it' }).click();
  await expect(teacher.getByRole('status')).toHaveText(/^Thank you/);
  // The page that lies open elsewhere shows it without being touched.
  await expect(bench.getByRole('region', { name: 'Reported by teachers' })).toContainText('It buzzes or rattles', {
    timeout: 15_000,
  });
  await teacher.goto('/');
  await expect(teacher.getByRole('region', { name: 'Your reports' })).toContainText(
    'accepted; the work is still to be done',
  );
});

test('what somebody changed meanwhile is not overwritten by who did not see it; both are told', async ({ browser }) => {
  const [one, two] = await Promise.all(
    ['Ida Marr', 'Tam Reyl'].map(async (name) => {
      const page = await (await browser.newContext({ baseURL: app.url })).newPage();
      // A page that is told of a change shows it, and then nobody has missed it.
      await page.route('**/api/live', (route) => route.abort());
      await actAs(page, name);
      await page.goto('/instruments/SK-0122');
      return page;
    }),
  );
  if (!one || !two) throw new Error('two pages');
  const player = (page: Page) => page.getByLabel('How hard it is played');
  // Only what the server has answered was first.
  const first = one.waitForResponse((r) => r.url().endsWith('/player') && r.request().method() === 'POST');
  await player(one).selectOption({ index: 2 });
  expect((await first).ok()).toBe(true);
  await player(two).selectOption({ index: 0 });
  await expect(two.getByRole('alert').filter({ hasText: 'Someone else has changed this' })).toBeVisible();
  await two.reload();
  await expect(player(two).locator('option').nth(2)).toHaveAttribute('selected', '');
});

test('who entered something else finds both in the form: what only they changed, and what both did', async ({
  browser,
}) => {
  const [one, two] = await Promise.all(
    ['Ida Marr', 'Tam Reyl'].map(async (name) => {
      const page = await (await browser.newContext({ baseURL: app.url })).newPage();
      // A page that is told of a change shows it, and then nobody has missed it.
      await page.route('**/api/live', (route) => route.abort());
      await actAs(page, name);
      await page.goto('/instruments/SK-0123');
      await page.getByText('Edit details, lend or retire').click();
      return page;
    }),
  );
  if (!one || !two) throw new Error('two pages');
  const form = (page: Page) => page.getByRole('form', { name: 'Details of SK-0123' });
  const holder = (page: Page) => form(page).locator('[name=holder]');
  await holder(one).fill('orchestra A');
  await form(one).locator('[name=serial]').fill('A-77');
  await Promise.all([
    one.waitForEvent('load'),
    form(one)
      .getByRole('button', { name: /Save|Keep/ })
      .click(),
  ]);
  await holder(two).fill('orchestra B');
  await form(two).locator('[name=note]').fill('case handle loose');
  await form(two)
    .getByRole('button', { name: /Save|Keep/ })
    .click();
  const told = form(two).getByRole('alert');
  await expect(told).toContainText('yours “orchestra B”, theirs “orchestra A”');
  await expect(form(two).locator('[name=serial]')).toHaveValue('A-77');
  await told.getByRole('button', { name: 'Use theirs' }).click();
  await expect(holder(two)).toHaveValue('orchestra A');
  await Promise.all([
    two.waitForEvent('load'),
    form(two)
      .getByRole('button', { name: /Save|Keep/ })
      .click(),
  ]);
  expect(read("select holder, serial, note from instrument where tag = 'SK-0123'")).toEqual({
    holder: 'orchestra A',
    serial: 'A-77',
    note: 'case handle loose',
  });
});

test('a page offers what its reader may do: a teacher reads an instrument, a helper does not throw strings away', async ({
  browser,
}) => {
  const page = await (await browser.newContext({ baseURL: app.url })).newPage();
  await actAs(page, 'Jo Kestrin');
  await page.goto('/instruments/SK-0122');
  await expect(page.getByRole('link', { name: 'Report a fault' })).toBeVisible();
  await expect(page.locator('main').getByRole('button')).toHaveCount(0);
  await expect(page.getByLabel('How hard it is played')).toBeDisabled();
  await expect(page.getByRole('link', { name: 'Find the cause' })).toHaveCount(0);
  await actAs(page, 'Bo Lask');
  await page.goto('/instruments/SK-0122');
  await expect(page.getByRole('link', { name: 'Find the cause' })).toBeVisible();
  await expect(page.getByRole('button', { name: 'Undo this change' })).toHaveCount(0);
});

test('who did what is read by a coordinator, the chain holds, a name is erased, a backup is taken and restored on another machine', async ({
  browser,
}) => {
  const page = await (await browser.newContext({ baseURL: app.url })).newPage();
  await actAs(page, 'Runa Fell');
  await page.goto('/programme/audit');
  expect(await axe(page)).toEqual([]);
  await page.getByLabel('What').selectOption('session.begin');
  await page.getByRole('button', { name: 'Show' }).click();
  await expect(page.getByText('Runa Fell signed in').first()).toBeVisible();
  await page.getByRole('link', { name: 'Check that the log is intact' }).click();
  await expect(page.getByRole('status').filter({ hasText: 'none that a backup knows is missing' })).toBeVisible();

  await page.goto('/programme/names?name=R.+Ost');
  expect(await axe(page)).toEqual([]);
  await expect(heading(page)).toHaveText(/^That name is in \d+ places?$/);
  const erase = page.getByRole('form', { name: 'Erase this name' });
  await erase.getByLabel('Type the name again').fill('R. Ast');
  await erase.getByRole('button').click();
  await expect(erase.getByRole('alert')).toContainText('the same name twice');
  await erase.getByLabel('Type the name again').fill('R. Ost');
  await erase.getByRole('button').click();
  await expect(heading(page)).toHaveText('The name has been erased');
  await page.goto('/programme/names?name=R.+Ost');
  await expect(heading(page)).toHaveText('Nothing is kept under that name');

  await page.goto('/programme/backups');
  expect(await axe(page)).toEqual([]);
  await page.getByRole('button', { name: 'Back up now' }).click();
  await expect(heading(page)).toHaveText(/^Last backup: .+, on request$/);

  // Another machine, which has nothing: the backup is restored there, and people enter and find what was done.
  const folder = join(app.data, 'backups');
  const newest = must(
    readdirSync(folder)
      .filter((f) => f.endsWith('.sqlite'))
      .sort((a, b) => statSync(join(folder, b)).mtimeMs - statSync(join(folder, a)).mtimeMs)[0],
  );
  const other = await serve(async (fresh) => {
    await restore(join(folder, newest), fresh, Date.now());
  });
  try {
    const stranger = { cookies: [], origins: [] };
    const there = await (await browser.newContext({ baseURL: other.url, storageState: stranger })).newPage();
    await there.goto('/');
    await expect(there).toHaveURL(/\/sign-in/);
    await actAs(there, 'Runa Fell');
    await there.goto('/programme/names?name=R.+Ost');
    await expect(heading(there)).toHaveText('Nothing is kept under that name');
    await there.goto('/programme/audit');
    await there.getByRole('link', { name: 'Check that the log is intact' }).click();
    await expect(there.getByRole('status').filter({ hasText: 'none that a backup knows is missing' })).toBeVisible();
  } finally {
    await other.stop();
  }
});
