import { axe, expect, heading, serve, test } from './app';

test('a programme of one’s own: people, places, an instrument, how old its strings are, and a move', async ({
  browser,
}) => {
  const app = await serve('nothing');
  const context = await browser.newContext({ baseURL: app.url });
  const page = await context.newPage();
  await page.goto('/');
  await page.getByLabel('Name of the programme').fill('Ferry Road Strings');
  await page.getByLabel('Your name').fill('Uma Tell');
  await page.getByLabel('Password').fill('three words alike');
  await page.getByLabel('Where the strings are kept').fill('Workshop');
  await page.getByLabel('Time zone').selectOption('Europe/Dublin');
  await page.getByRole('button', { name: 'Start' }).click();
  await page.waitForURL('**/programme');
  await expect(heading(page)).toHaveText('Next: who works on the strings, and where');
  expect(await axe(page)).toEqual([]);

  const place = page.getByRole('form', { name: 'Add a place' });
  await place.getByLabel('Name').fill('North School');
  await place.getByRole('button', { name: 'Add place' }).click();
  await expect(page.locator('summary', { hasText: 'North School' })).toBeVisible();
  const person = page.getByRole('form', { name: 'Add a person' });
  await person.getByLabel('Name', { exact: true }).fill('Bo Ash');
  await person.getByLabel('Works at').selectOption('North School');
  await person.getByRole('button', { name: 'Add person' }).click();
  await expect(heading(page)).toHaveText('Next: the hours people work');
  // The same name again is told, and nothing is lost.
  await person.getByLabel('Name', { exact: true }).fill('bo ash');
  await person.getByRole('button', { name: 'Add person' }).click();
  await expect(person.getByRole('alert')).toContainText('“Bo Ash” is already in use');
  await expect(person.getByLabel('Name', { exact: true })).toHaveValue('bo ash');

  await page.goto('/instruments/new');
  await page.getByLabel('Tag', { exact: true }).fill('U-1');
  await page.getByLabel('Family').selectOption('ukulele');
  await page.getByRole('button', { name: 'Add the instrument' }).click();
  await page.waitForURL('**/instruments/U-1');
  await page.getByText('Edit details, lend or retire').click();
  await page.getByRole('link', { name: 'Record a past string change' }).click();
  await expect(heading(page)).toHaveText('String age unknown for 1 instrument');
  expect(await axe(page)).toEqual([]);
  await page.getByLabel('New strings went on').fill('2026-09-01');
  await page.getByRole('form', { name: 'Past string changes' }).locator('select').selectOption('Bo Ash');
  await page.getByRole('button', { name: 'Record for all ticked' }).click();
  await expect(heading(page)).toHaveText('The age of all strings is known');
  await page.goto('/instruments/u-1');
  await expect(page.getByText(/new strings, entered later/).first()).toBeVisible();
  await page.getByText('Edit details, lend or retire').click();
  const details = page.getByRole('form', { name: 'Details of U-1' });
  await details.getByLabel('Tag', { exact: true }).fill('Bar. Uke Ü 1');
  await details.getByLabel('Place').selectOption('North School');
  await details.getByRole('button', { name: 'Save' }).click();
  await expect(page.locator('main a.tag').first()).toHaveText('Bar. Uke Ü 1');
  // Found in any case, and its bench opens.
  await page.goto('/jump?q=bar. uke ü 1');
  await expect(page.locator('main a.tag').first()).toHaveText('Bar. Uke Ü 1');
  await expect(
    page
      .getByRole('main')
      .getByText('Ukulele · North School', { exact: false })
      .or(page.getByRole('main').getByText(/· North School ·/))
      .first(),
  ).toBeVisible();

  // Who has left is not to be chosen any more, and can come back.
  await page.goto('/programme');
  await page.locator('summary', { hasText: 'Bo Ash' }).click();
  await page.getByRole('button', { name: 'Bo Ash has left' }).click();
  await expect(page.getByText('left 24 Nov')).toBeVisible();
  await page.getByRole('button', { name: 'Bring back' }).click();
  await expect(page.locator('summary', { hasText: 'Bo Ash' })).toBeVisible();
  expect(await axe(page)).toEqual([]);
  await context.close();
  app.stop();
});
