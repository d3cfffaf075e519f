import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Page } from '@playwright/test';
import readXlsx from 'read-excel-file/node';
import { root } from '../../scripts/setup.mjs';
import { pdfText } from '../support/pdf';
import { axe, expect, heading, serve, test } from './app';

// The tasks of a coordinator's year, each as docs/guide tells it.
const saved = (page: Page, press: () => Promise<unknown>) => Promise.all([page.waitForEvent('load'), press()]);

test('a new place, and a technician who leaves', async ({ ownPage: page }) => {
  await page.goto('/programme');
  const place = page.getByRole('form', { name: 'Add a place' });
  await place.getByLabel('Name').fill('Gull Row');
  await saved(page, () => place.getByRole('button', { name: 'Add place' }).click());
  await page.goto('/fleet');
  for (const tag of ['SK-0123', 'SK-0122']) await page.getByLabel(`Choose ${tag}`).check();
  await expect(page.getByText('2 instruments chosen')).toBeVisible();
  expect(await axe(page)).toEqual([]);
  await page.getByLabel('Move to').selectOption('Gull Row');
  await expect(page.getByText('2 instruments at Gull Row.')).toBeVisible();
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByText('2 instruments at Gull Row.')).toHaveCount(0);
  await page.goto('/programme');
  await expect(page.locator('summary', { hasText: 'Gull Row' })).toContainText('0 instruments');

  await page.locator('summary', { hasText: 'Runa Fell' }).click();
  await page.getByRole('button', { name: /^Runa Fell has left/ }).click();
  // What is in her hands is said first.
  await expect(
    page
      .getByText(/^left 24 Nov/)
      .or(page.getByRole('alert'))
      .first(),
  ).toBeVisible();
});

test('an instrument lent, returned, retired and back; another one like it', async ({ ownPage: page }) => {
  await page.goto('/instruments/SK-0101');
  await page.getByText('Edit details, lend or retire').click();
  expect(await axe(page)).toEqual([]);
  const lend = page.getByRole('form', { name: 'Lend SK-0101' });
  await lend.getByLabel('until').fill('2027-02-01');
  await lend.getByLabel('Lent to').fill('summer school');
  await saved(page, () => lend.getByRole('button', { name: 'Lend' }).click());
  await expect(page.getByText('On loan: summer school, 24 Nov to 1 Feb.')).toBeVisible();
  await saved(page, () => page.getByRole('button', { name: 'Returned' }).click());
  await expect(page.getByText('On loan: summer school')).toHaveCount(0);
  await page.getByText('Edit details, lend or retire').click();
  const retire = page.getByRole('form', { name: 'Retire SK-0101' });
  await retire.locator('select').selectOption('sold');
  await saved(page, () => retire.getByRole('button', { name: 'Retire' }).click());
  await expect(heading(page)).toHaveText('No longer in the programme: sold 24 Nov');
  expect(await axe(page)).toEqual([]);
  await page.goto('/fleet?q=SK-0101');
  await expect(page.getByText('No instruments match.')).toBeVisible();
  await page.goto('/instruments/SK-0101');
  await saved(page, () => page.getByRole('button', { name: 'Put it back in the programme' }).click());
  await expect(heading(page)).toContainText('New strings due');
  // What it looks like, and who said what of it.
  const photographs = page.locator('#photographs');
  await photographs
    .locator('input[type=file]')
    .setInputFiles({ name: 'x.png', mimeType: 'image/png', buffer: Buffer.from('no') });
  await expect(photographs.getByRole('alert')).toContainText('It could not be read as a photo');
  await saved(page, async () =>
    photographs
      .locator('input[type=file]')
      .setInputFiles({ name: 'it.png', mimeType: 'image/png', buffer: await page.screenshot() }),
  );
  await expect(photographs.getByRole('img', { name: 'SK-0101, 24 Nov' })).toBeVisible();
  await page.getByText('Changes to its details').click();
  await expect(page.getByRole('list', { name: 'Changes' })).toContainText('back from a loan');
  expect(await axe(page)).toEqual([]);
  await saved(page, () => photographs.getByRole('button', { name: /^Remove the photo/ }).click());
  await expect(photographs.getByRole('img')).toHaveCount(0);
  await page.goto('/instruments/new?like=SK-0101');
  await page.getByLabel('Tag', { exact: true }).fill('SK/0199 b');
  await page.getByRole('button', { name: 'Add the instrument' }).click();
  await expect(page.locator('main a.tag').first()).toHaveText('SK/0199 b');
  await expect(page.getByText('· Violin · Old Cannery · class set')).toBeVisible();
});

test('a price changes, a set is renamed, a list is brought and undone, everything is found', async ({
  ownPage: page,
}) => {
  await page.goto('/');
  await page.keyboard.press('/');
  await page.keyboard.type('fulmar light 12');
  const list = page.getByRole('listbox', { name: 'Search results' });
  await expect(list.getByRole('option').first()).toContainText('Fulmar light 12–53');
  expect(await axe(page)).toEqual([]);
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('Enter');
  await page.waitForURL('**/stock/products/*');
  await page.getByText('Edit name, code, price, size').click();
  const form = page.getByRole('form', { name: 'Change Fulmar light 12–53' });
  await form.getByLabel('Price').fill('11,90');
  await form.getByLabel('Name').fill('Fulmar light, new wrap');
  await saved(page, () => form.getByRole('button', { name: 'Save' }).click());
  await page.getByText('Edit name, code, price, size').click();
  await expect(page.getByRole('form', { name: 'Change Fulmar light, new wrap' }).getByLabel('Price')).toHaveValue(
    '11.90',
  );
  expect(await axe(page)).toEqual([]);

  // The fleet as a list: changed in a spreadsheet and brought back, it changes just that, and is undone as a whole.
  const csv = await (await page.request.get('/api/export/instruments.csv?place=2')).text();
  const rows = csv.split('\r\n');
  const file = join(mkdtempSync(join(tmpdir(), 'arvick-guide-')), 'fleet.csv');
  writeFileSync(
    file,
    [
      rows[0],
      (rows[1] as string).replace(/,class set,/, ',Class 6c,').replace(/,"?loan[^,"]*(?:, [^,"]*)?"?,/, ',Class 6c,'),
      ...rows.slice(2),
    ].join('\r\n'),
  );
  await page.goto('/programme/import');
  await page.getByLabel('Choose a list, or drop it here').setInputFiles(file);
  await page.waitForURL(/import\/\d+$/);
  await expect(heading(page)).toHaveText('fleet.csv: 1 instrument is ready');
  await page.waitForFunction(() => document.querySelector('astro-island[ssr]') === null);
  await page.getByRole('button', { name: 'Import 1' }).click();
  await expect(heading(page)).toContainText('imported: 1 entry changed');
  await page.getByRole('button', { name: 'Undo the import' }).click();
  await expect(heading(page)).toHaveText('fleet.csv: import undone');
});

test('a wrong record is undone; something is wrong and is at the repairer’s until it is back', async ({
  ownPage: page,
}) => {
  await page.goto('/instruments/SK-0102');
  const history = page.getByRole('list', { name: 'History' });
  await history.getByRole('button', { name: 'Undo this change' }).first().click();
  await page.waitForURL(/\/bench\/\d+/);
  await expect(heading(page)).toBeVisible();
  await page.goto('/report?tag=SK-0103');
  expect(await axe(page)).toEqual([]);
  await page.getByLabel('A crack, an open seam or a part that has come loose').check();
  await page.getByLabel('Anything to add').fill('at the lower rib');
  await page.getByRole('button', { name: 'Report it' }).click();
  await expect(page.getByRole('status')).toContainText('to be checked by a qualified repairer');
  await expect(page.getByText('Slacken all strings evenly')).toBeVisible();
  await page.goto('/instruments/SK-0103');
  await page.getByRole('link', { name: 'Open the case' }).first().click();
  await page.waitForURL('**/faults/cases/*');
  // The note that goes along with it, on paper.
  const referral = await pdfText(await page.pdf({ format: 'Letter' }));
  for (const says of ['SK-0103', 'at the lower rib', 'Checked by:']) expect(referral).toContain(says);
  await saved(page, () => page.getByRole('button', { name: 'Sent to a qualified repairer' }).click());
  await expect(page.getByText(/With a qualified repairer since 24 Nov/)).toBeVisible();
  expect(await axe(page)).toEqual([]);
  await page.getByLabel('Checked by').fill('Mo Fel');
  await page.getByRole('button', { name: 'Back and playable: close the case' }).click();
  await page.waitForURL('**/instruments/SK-0103');
  await expect(page.getByText('On loan:')).toHaveCount(0);
});

test('a sheet of labels, an order form, and a new laptop: everything taken along is the same there', async ({
  own,
  ownPage: page,
}) => {
  await page.goto('/instruments/labels?tags=SK-0101,SK-0102,SK-0331&say=ready');
  await expect(heading(page)).toHaveText('3 labels on 1 sheet');
  await expect(page.getByText('Broken string: not ready')).toBeVisible();
  expect(await axe(page)).toEqual([]);
  const pdf = await page.request.get(
    (await page.getByRole('link', { name: 'Open the PDF to print' }).getAttribute('href')) ?? '',
  );
  expect((await pdf.body()).subarray(0, 5).toString()).toBe('%PDF-');
  await page.goto('/stock/orders/1/form');
  expect(await axe(page)).toEqual([]);
  await expect(page.getByRole('link', { name: 'Send by email' })).toHaveAttribute('href', /^mailto:/);

  await page.goto('/programme/take');
  expect(await axe(page)).toEqual([]);
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('link', { name: 'Download the programme' }).click(),
  ]);
  const folder = mkdtempSync(join(tmpdir(), 'arvick-laptop-'));
  const file = join(folder, 'programme.json');
  await download.saveAs(file);
  const data = join(folder, 'data');
  const run = (script: string, of: string) =>
    execFileSync('npm', ['run', '-s', script, '--', file], {
      cwd: root,
      env: { ...process.env, ARVICK_DATA: of },
      encoding: 'utf8',
    });
  expect(run('import', data)).toContain('rows and 0 photographs');
  const there = join(folder, 'again.json');
  execFileSync('npm', ['run', '-s', 'export', '--', there], { cwd: root, env: { ...process.env, ARVICK_DATA: data } });
  execFileSync('npm', ['run', '-s', 'export', '--', file], {
    cwd: root,
    env: { ...process.env, ARVICK_DATA: own.data },
  });
  execFileSync('cmp', [file, there]);

  // The same without a shell: a fresh one is brought its programme in the browser, and refuses a file that was cut short.
  const fresh = await serve('nothing');
  const other = await page.context().browser()?.newPage({ baseURL: fresh.url });
  if (!other) throw new Error('no browser');
  await other.goto('/');
  await other.locator('#file').setInputFiles({
    name: 'half.json',
    mimeType: 'application/json',
    buffer: readFileSync(file).subarray(0, 200_000),
  });
  await expect(other.locator('#told')).toContainText('cut short');
  await other.locator('#file').setInputFiles(file);
  // Passwords are not taken along: the first coordinator chooses one by the code that is told.
  await expect(other.locator('#told')).toContainText(/chooses a password with this code: [0-9A-Z-]{14}/);
  const code = /code: ([0-9A-Z-]{14})/.exec(await other.locator('#told').innerText())?.[1] ?? '';
  await other.getByRole('link', { name: 'Go on' }).click();
  await other.getByLabel('The code you were given').fill(code);
  await other.getByLabel('Your new password').fill('three words alike');
  await other.getByRole('button', { name: 'Save and sign in' }).click();
  await other.waitForURL(`${fresh.url}/`);
  await expect(other.getByText('Skerrow Sound Music Service').first()).toBeVisible();
  execFileSync('npm', ['run', '-s', 'export', '--', there], {
    cwd: root,
    env: { ...process.env, ARVICK_DATA: fresh.data },
  });
  // That somebody has signed in there is the one thing that is new.
  const brought = (path: string) => {
    const { log: _, ...whole } = JSON.parse(readFileSync(path, 'utf8')) as {
      log: unknown;
      tables: { audit: { action: string }[] };
    };
    whole.tables.audit = whole.tables.audit.filter((e) => e.action !== 'session.begin');
    return JSON.stringify(whole);
  };
  expect(brought(there) === brought(file)).toBe(true);
  await other.close();
  fresh.stop();
});

test('several at once are lent, asked for and given an interval; a class comes every week; done as usual in one press', async ({
  ownPage: page,
}) => {
  await page.goto('/fleet');
  const choose = async () => {
    for (const tag of ['SK-0123', 'SK-0122']) await page.getByLabel(`Choose ${tag}`).check();
    await expect(page.getByText('2 instruments chosen')).toBeVisible();
  };
  const undo = async (says: string) => {
    await expect(page.getByText(says)).toBeVisible();
    await page.getByRole('button', { name: 'Undo' }).click();
    await expect(page.getByText(says)).toHaveCount(0);
  };
  await choose();
  await page.getByLabel('More', { exact: true }).selectOption('Lend');
  expect(await axe(page)).toEqual([]);
  await page.getByLabel('Lend to (name or class)').fill('Year 4');
  await page.getByLabel('To', { exact: true }).fill('2027-01-15');
  await page.getByRole('button', { name: 'Lend them' }).click();
  await undo('2 instruments lent to Year 4.');
  await choose();
  await page.getByLabel('More', { exact: true }).selectOption('Request work');
  await page.getByLabel('Due by').fill('2026-12-10');
  await page.getByLabel('Reason').fill('before the exams');
  await page.getByRole('button', { name: 'Request', exact: true }).click();
  await undo('2 instruments with work requested.');
  await choose();
  await page.getByLabel('More', { exact: true }).selectOption('Set interval');
  await page.getByLabel('Days between string changes').fill('500');
  await page.getByLabel('Reason').fill('hardly played');
  await page.getByRole('button', { name: 'Set', exact: true }).last().click();
  await expect(page.getByText('2 instruments with an interval of')).toBeVisible();
  await page.goto('/fleet?q=SK-0123');
  await page.getByLabel('Choose SK-0123').check();
  await page.getByLabel('More', { exact: true }).selectOption('Needed for a class');
  await page.getByRole('link', { name: 'Add a class with these 1' }).click();
  const form = page.getByRole('form', { name: 'Add a class' });
  await expect(form.locator('[name=who]')).toHaveValue('SK-0123');
  await form.locator('[name=name]').fill('Quartet');
  await form.locator('[name=weekday]').selectOption('Wednesday');
  await form.locator('[name=toTime]').fill('10:30');
  await form.locator('[name=to]').fill('2027-03-31');
  await saved(page, () => form.getByRole('button', { name: 'Add' }).click());
  await expect(page.getByText('Quartet, Wednesday 09:00 to 10:30, until 31 Mar: 1 instrument')).toBeVisible();
  await saved(page, () => page.getByRole('button', { name: 'Remove Quartet' }).click());
  await expect(page.getByText('Quartet, Wednesday')).toHaveCount(0);

  await page.goto('/instruments/SK-0303');
  await saved(page, () => page.getByRole('button', { name: 'Done as usual' }).click());
  await expect(page.getByText(/^Recorded: /)).toBeVisible();
  await expect(heading(page)).toContainText('Ready by');
});

test('how money, days and lengths are written is set once and holds everywhere; what is shown is taken along', async ({
  ownPage: page,
}) => {
  await page.goto('/programme');
  const settings = page.getByRole('form', { name: 'Programme settings' });
  await settings.locator('[name=currency]').selectOption('EUR');
  await settings.locator('[name=dayStyle]').selectOption('Nov 24');
  await settings.locator('[name=weekStarts]').selectOption('Sunday');
  await settings.locator('[name=lengths]').selectOption('in');
  await settings.locator('[name=gauges]').selectOption('mm');
  await saved(page, () => settings.getByRole('button', { name: 'Save settings' }).click());
  // The island says the same as the page it came with.
  await page.goto('/fleet');
  await expect(page.getByRole('cell', { name: 'May 19' }).first()).toBeVisible();
  await page.waitForFunction(() => document.querySelector('astro-island[ssr]') === null);
  await expect(page.getByRole('cell', { name: 'May 19' }).first()).toBeVisible();
  await page.goto('/instruments/SK-0104');
  await expect(page.getByRole('cell', { name: /^0\.\d\d mm$/ }).first()).toBeVisible();
  await page.goto('/stock/orders');
  await expect(page.getByText(/\d+\.\d\d EUR in \d+ orders?/)).toBeVisible();
  // An amount in a field is one that can be sent again.
  const supplier = page.getByRole('form', { name: /^Change / }).first();
  await page.locator('details:has(form[aria-label^="Change "]) summary').first().click();
  await saved(page, () => supplier.getByRole('button', { name: 'Save' }).click());
  await page.goto('/stock');
  const rows = await page.locator('main table tbody tr').count();
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: 'Download as .xlsx' }).click(),
  ]);
  expect(download.suggestedFilename()).toBe('2026-11-24-stock.xlsx');
  const sheets = await readXlsx(await download.path());
  expect(sheets.length).toBeGreaterThan(5);
  expect(sheets.reduce((sum, s) => sum + s.data.length - 1, 0)).toBe(rows);

  // What is printed from a page says what it is for.
  await page.goto('/stock/count');
  const counted = await page.locator('main h1').innerText();
  expect(await pdfText(await page.pdf({ format: 'A4' }))).toContain(counted);
  await page.goto('/instruments/SK-0104/note');
  const note = await pdfText(await page.pdf({ format: 'Letter' }));
  for (const says of ['SK-0104', 'Thu']) expect(note).toContain(says);
});
