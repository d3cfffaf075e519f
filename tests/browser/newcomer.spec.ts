import { axe, expect, heading, serve, test } from './app';

test('a programme of one’s own orders on paper: nothing answers or comes by itself, and what comes in parts is entered on any day', async ({
  browser,
}) => {
  const app = await serve('nothing');
  const page = await (await browser.newContext({ baseURL: app.url })).newPage();
  const press = (name: string) =>
    Promise.all([page.waitForEvent('load'), page.getByRole('button', { name, exact: true }).click()]);
  await page.goto('/welcome');
  await page.getByLabel('Name of the programme').fill('Three Rivers Strings');
  await page.getByLabel('Your name').fill('Mo Arden');
  await page.getByLabel('Password').fill('three words alike');
  await page.getByLabel('Where the strings are kept').fill('Back room');
  await page.getByLabel('Time zone').selectOption('UTC');
  await press('Start');
  await page.goto('/stock/orders');
  await expect(page.getByText('simulated')).toHaveCount(0);
  await page.getByText('Add a supplier').click();
  await page.getByLabel('Name').fill('Brine & Sons');
  await page.getByLabel('Delivery time, days').fill('6');
  await press('Add');
  await page.goto('/stock/new');
  const single = page.getByRole('form', { name: 'A single string' });
  await single.getByLabel('Code').fill('BR-E');
  await single.getByLabel('Price').fill('1.80');
  await single.getByLabel('Name').fill('Brine plain, E4');
  await single.getByLabel('Gauge, thousandths of an inch').fill('12');
  await press('Add the string');
  await page.goto('/stock');
  await page.getByRole('link', { name: 'Brine plain, E4' }).first().click();
  await page.getByLabel('Supplier').selectOption('Brine & Sons, 6 days');
  await press('Save');
  await page.getByLabel('Brine plain, E4: how many to order').fill('12');
  await page.getByRole('button', { name: 'Add to an order' }).click();
  await page.waitForURL(/\/stock\/orders\/1$/);
  await expect(heading(page)).toHaveText('Brine & Sons: draft, not sent');
  await press('Mark as ordered');
  // Nobody has confirmed it: only its usual days are known.
  await expect(heading(page)).toHaveText('Brine & Sons: ordered, not confirmed; usually takes 6 days, so about 30 Nov');
  expect(await axe(page)).toEqual([]);
  // A first parcel is there before anybody expected it.
  await page.getByLabel('Brine plain, E4: counted').fill('5');
  await page.getByRole('button', { name: 'Receive what arrived; the rest is to follow' }).click();
  await page.waitForURL(/\/stock\/labels/);
  await page.goto('/stock/orders/1');
  await expect(heading(page)).toContainText('part delivered');
  await page.getByText('Supplier’s confirmation').click();
  await page.getByLabel('Supplier’s order number').fill('B-771');
  await page.getByLabel('Expected delivery date').fill('2026-12-14');
  await page.getByLabel('Brine plain, E4: how many they will send').fill('10');
  await press('Save the confirmation');
  await expect(heading(page)).toContainText('14 Dec');
  await expect(page.getByText('supplier’s ref. B-771')).toBeVisible();
  await page.getByRole('button', { name: 'Receive all' }).click();
  await page.waitForURL(/\/stock\/labels/);
  await page.goto('/stock/orders/1');
  await expect(heading(page)).toHaveText('Brine & Sons: received');
  await page.goto('/stock');
  await expect(
    page
      .getByRole('row', { name: /^Brine plain, E4/ })
      .or(page.getByText(/Brine plain, E4.*10/))
      .first(),
  ).toContainText('10');
  app.stop();
});
