import type { Locator } from '@playwright/test';
import { pdfText } from '../support/pdf';
import { axe, expect, heading, serve, test } from './app';

test('from nothing but a messy workbook to a published week, a printed kit and a finished job, in under ten minutes of presses', async ({
  browser,
}) => {
  test.slow();
  const app = await serve('nothing');
  const context = await browser.newContext({ baseURL: app.url });
  const page = await context.newPage();
  const errors: string[] = [];
  page.on('pageerror', (error) => errors.push(error.message));
  let presses = 0;
  const press = async (what: Locator) => {
    presses += 1;
    await what.click();
  };
  const say = async (what: Locator, text: string) => {
    // A hand types three letters in a second or so.
    presses += 1 + Math.ceil(text.length / 3);
    await what.fill(text);
  };
  const pick = async (what: Locator, option: string) => {
    presses += 2;
    await what.selectOption({ label: option });
  };
  const button = (name: string | RegExp) => page.getByRole('button', { name });

  await page.goto('/');
  await say(page.getByLabel('Name of the programme'), 'Ferry Road Strings');
  await say(page.getByLabel('Your name'), 'Uma Tell');
  await say(page.getByLabel('Password'), 'three words alike');
  await say(page.getByLabel('Where the strings are kept'), 'Store');
  await page.getByLabel('Time zone').selectOption('Europe/Dublin');
  await press(button('Start'));
  await page.waitForURL('**/programme');

  await press(page.getByRole('link', { name: 'Import a list' }).first());
  await page.waitForURL('**/import');
  expect(await axe(page)).toEqual([]);
  await page.waitForFunction(() => document.querySelector('astro-island[ssr]') === null);
  await page.getByLabel('Choose a list, or drop it here').setInputFiles('tests/files/programme-messy.xlsx');
  await page.waitForURL(/import\/\d+$/);
  await expect(heading(page)).toHaveText('programme-messy.xlsx: 72 instruments are ready, 12 need sorting out');
  expect(await axe(page)).toEqual([]);
  await page.waitForFunction(() => document.querySelector('astro-island[ssr]') === null);
  // Each word is asked once.
  await pick(page.getByLabel('What “Bass” means'), 'Double bass, 3/4');
  await expect(heading(page)).toHaveText('programme-messy.xlsx: 82 instruments are ready, 2 need sorting out');
  await press(button('2 to sort out'));
  // The second press comes while the first is still being read back: both count.
  await page.route(/\/api\/intake\/\d+\?show/, async (route) => {
    await new Promise((resolve) => setTimeout(resolve, 800));
    await route.continue();
  });
  await press(button('2025-11-30?'));
  await press(button('V-012b?'));
  await expect(heading(page)).toHaveText('programme-messy.xlsx: 84 instruments are ready');
  await page.unrouteAll({ behavior: 'wait' });
  // What was decided is there after a reload.
  await page.reload();
  await expect(heading(page)).toHaveText('programme-messy.xlsx: 84 instruments are ready');
  await page.waitForFunction(() => document.querySelector('astro-island[ssr]') === null);
  await press(button('Import 84'));
  await expect(heading(page)).toContainText('imported: 84 instruments');
  await press(page.getByRole('link', { name: /^Leute: 2 rows wait/ }));
  await expect(heading(page)).toHaveText('programme-messy.xlsx: 2 people are ready');
  await page.waitForFunction(() => document.querySelector('astro-island[ssr]') === null);
  await press(button('Import 2'));
  await expect(heading(page)).toContainText('imported: 2 people');
  await press(page.getByRole('link', { name: 'Continue' }));
  await expect(heading(page)).toHaveText('Next: the hours people work');

  await press(page.getByRole('link', { name: 'Enter hours' }));
  await page.waitForURL('**/plan/people');
  const hours = page.locator('form[data-api="/api/plan/availability"]');
  for (const [who, day, where] of [
    ['Bo Ash', 'Tuesday', 'Store'],
    ['Bo Ash', 'Wednesday', 'Room 4'],
    ['Uma Tell', 'Thursday', 'Old Gym'],
  ] as const) {
    await pick(hours.locator('[name=personId]'), who);
    await pick(hours.locator('[name=weekday]'), day);
    await pick(hours.locator('[name=placeId]'), where);
    await say(hours.locator('[name=minutes]'), '240');
    presses += 1;
    await Promise.all([page.waitForEvent('load'), hours.getByRole('button', { name: 'Add' }).click()]);
  }

  await page.goto('/programme');
  await expect(heading(page)).toHaveText('Next: what is in stock');
  await press(page.getByRole('link', { name: 'Enter opening stock' }));
  await page.waitForURL('**/stock/opening');
  expect(await axe(page)).toEqual([]);
  const fields = page.getByRole('form', { name: 'Opening stock' }).locator('details').first().locator('input');
  for (let n = 0; n < (await fields.count()); n++) await say(fields.nth(n), '6');
  await press(button('Add to the stock record'));
  await page.waitForURL('**/stock');

  await page.goto('/programme');
  await expect(heading(page)).toHaveText('Next: the first plan');
  await press(page.getByRole('link', { name: 'Plan the week' }));
  await page.waitForURL('**/plan');
  await page.waitForFunction(() => document.querySelector('astro-island[ssr]') === null);
  await expect(button('Publish')).toBeEnabled();
  await press(page.getByRole('button', { name: 'Publish', exact: true }));
  await expect(page.getByRole('region', { name: 'The first plan, for 2 people' })).toContainText(/all new: [A-Z]/);
  await press(button('Publish it'));
  await expect(page.getByRole('region', { name: 'Published', exact: true })).toContainText('Uma Tell');
  // The way in is done with, and gone.
  await page.goto('/programme');
  await expect(page.getByRole('list', { name: 'First steps' })).toHaveCount(0);

  await page.goto('/');
  const today = page.getByRole('region', { name: 'Planned here today' });
  await expect(today).toContainText('Bo Ash');
  // On paper: what is taken, and the week of a person, on A4 and in words.
  await page.goto('/stock/kit');
  await page
    .getByText(/no cheaper way exists|Nothing has to be opened/)
    .first()
    .waitFor({ timeout: 60_000 });
  const kit = await pdfText(await page.pdf({ format: 'A4' }));
  expect(kit).toMatch(/cello|violin|guitar|ukulele|mandolin/i);
  await page.goto('/plan/sheet');
  await page.locator('select[name=of]').selectOption({ label: 'Bo Ash' });
  presses += 3;
  await button('Show').click();
  await expect(heading(page)).toContainText('Bo Ash: 2 sessions');
  expect(await axe(page)).toEqual([]);
  const sheet = await pdfText(await page.pdf({ format: 'A4' }));
  expect(sheet).toContain('Bring');
  expect(sheet).toMatch(/Tue 24 Nov \d\d:\d\d to \d\d:\d\d · Store/);
  expect(sheet).not.toContain('Back to the plan');

  // A job of this week, to its end.
  const { tag } = (await (await page.request.get('/api/fleet?sort=due&limit=200')).json()).rows.find(
    (r: { dueBy: string; name: string }) => r.dueBy !== 'unknown-age' && r.name === 'Steel-string acoustic',
  );
  await page.goto(`/instruments/${tag}`);
  await press(button('Change the strings'));
  await page.waitForURL(/\/bench\/\d+/);
  await expect(page.locator('main[data-ready=true]')).toBeVisible();
  for (let n = 0; n < 200 && !/^Which strings did you fit/.test(await heading(page).innerText()); n++) {
    const was = await heading(page).innerText();
    presses += 1;
    await page.keyboard.press('Space');
    const gate = page.getByRole('heading', { name: 'This cannot be undone' });
    await expect(async () =>
      expect((await gate.isVisible()) || (await heading(page).innerText()) !== was).toBe(true),
    ).toPass();
    if (!(await gate.isVisible())) continue;
    // What cannot be undone has a press of its own.
    presses += 1;
    await page.keyboard.press('y');
    await expect(heading(page)).not.toHaveText(was);
  }
  presses += 1;
  await page.keyboard.press('Enter');
  await page.waitForURL('**?recorded');
  await expect(heading(page)).toContainText('Ready by');
  expect(errors).toEqual([]);
  expect(presses).toBeLessThan(600);
  console.log(`${presses} presses`);
  await context.close();
  app.stop();
});
