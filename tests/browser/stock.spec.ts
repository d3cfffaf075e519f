import { actAs, axe, expect, heading, openBench, test } from './app';

test('the shelf: what lies there, what is spoken for, and a lot carried, written off and put right again', async ({
  ownPage: page,
}) => {
  await page.goto('/stock');
  expect(await axe(page)).toEqual([]);
  const row = page.getByRole('row', { name: /^Solan 10–46/ });
  const before = Number(await row.locator('[data-packs]').innerText());
  // A job sets its kit aside, with a spare.
  await openBench(page, 'SK-0701');
  await page.goto('/stock');
  await expect(row.getByRole('img')).toHaveAccessibleName(/reserved/);
  await row.getByRole('link').click();
  await expect(heading(page)).toHaveText(/^(Lasts the next 14 weeks|Short)/);
  await expect(page.getByText(/chance .* of running short/)).toBeVisible({ timeout: 20_000 });
  expect(await axe(page)).toEqual([]);

  await page.getByRole('button', { name: /^Receive at Harbour Store/ }).click();
  await expect(page.getByRole('row', { name: /received.*Solan 10–46.*\+3/ })).toHaveCount(1);
  const take = page.getByRole('button', { name: 'Undo: received Solan 10–46' }).first();
  await take.click();
  await expect(page.getByRole('row', { name: /−3.*undone/ })).toHaveCount(1);

  await page
    .locator('summary')
    .filter({ hasText: /Solan 10–46(?!,)/ })
    .last()
    .click();
  const open = page.locator('details[open]').filter({ hasText: 'Write off' });
  await open.getByRole('button', { name: 'Write off' }).click();
  await expect(open.getByRole('alert')).toContainText('Give a reason in a few words');
  await open.getByLabel(/reason for writing off/).fill('rusted in its envelope');
  await open.getByRole('button', { name: 'Write off' }).click();
  await expect(page.getByRole('row', { name: /written off.*rusted in its envelope/ })).toHaveCount(1);
  await page.goto('/stock');
  await expect(row.locator('[data-packs]')).toHaveText(String(before - 1));
});

test('a kit sheet opens what wastes least, proves it, and is carried to where the work is', async ({
  ownPage: page,
}) => {
  await actAs(page, 'Tam Reyl');
  await page.goto('/stock/kit?tags=SK-0226+SK-0233+SK-0703');
  await expect(heading(page)).toHaveText(/^Kit for 3 instruments/);
  await expect(page.getByText(/half-length strings are enough/)).toBeVisible();
  await expect(page.getByText('no cheaper way exists')).toBeVisible({ timeout: 30_000 });
  await expect(page.getByRole('region', { name: 'From Harbour Store' })).toBeVisible();
  expect(await axe(page)).toEqual([]);
  await page.getByRole('button', { name: /Move it all to Tarn Hall/ }).click();
  await expect(page.getByRole('region', { name: 'From Tarn Hall' })).toBeVisible();
  await expect(page.getByRole('region', { name: 'From Harbour Store' })).toHaveCount(0);
  await page.goto('/stock/kit?tags=SK-9999');
  await expect(page.getByRole('alert')).toContainText('SK-9999');
});

test('an order: proposed within a budget, drafted, sent, received with a difference', async ({ ownPage: page }) => {
  await page.goto('/stock/orders');
  await expect(heading(page)).toHaveText('1 delivery has arrived: check it in');
  const cello = page.getByLabel('Ganzie cello, rope core 3/4: how many');
  await expect(cello).toBeVisible({ timeout: 20_000 });
  expect(await axe(page)).toEqual([]);
  // What a cut costs is said in instruments that wait.
  await page.getByLabel('Budget').fill('60');
  await expect(page.getByText(/instruments would wait/)).toBeVisible({ timeout: 20_000 });
  await expect(page.getByText(/These wait unless the budget is raised: .*SK-0179/)).toBeVisible();
  await page.getByLabel('Budget').fill('');
  await expect(page.getByText(/none of \d+ instruments would have to wait/)).toBeVisible({ timeout: 20_000 });
  await page.getByRole('button', { name: 'Draft this order' }).first().click();
  await page.waitForURL(/\/stock\/orders\/\d+/);
  await expect(heading(page)).toContainText('draft, not sent');
  const line = page.getByLabel(/Ganzie cello, rope core 3\/4: how many/);
  await line.fill('4');
  await page.getByRole('button', { name: 'Save changes' }).click();
  await expect(line).toHaveValue('4');
  await page.getByRole('button', { name: 'Send to the simulated supplier' }).click();
  await expect(heading(page)).toContainText('confirmed, expected 8 Dec');
  await page.goto('/stock');
  await expect(page.getByRole('row', { name: /^Ganzie cello, rope core 3\/4/ }).getByRole('img')).toHaveAccessibleName(
    /4 on order/,
  );

  // The delivery that has come is counted; one set is missing.
  await page.goto('/stock/orders/1');
  await expect(heading(page)).toContainText('delivery here, count it');
  await page.getByLabel(/Kittock fluorocarbon.*: counted/).fill('2');
  await page.getByRole('button', { name: 'Receive; 1 line differs' }).click();
  await page.waitForURL(/\/stock\/labels/);
  await expect(page.getByText(/^LOT-\d+$/).first()).toBeVisible();
  await page.goto('/stock/orders/1');
  await expect(page.getByText(/not as expected: Kittock fluorocarbon, double length: 2 of 3/)).toBeVisible();
});

test('a count: what differs becomes a move with its reason, and a label read counts one', async ({
  ownPage: page,
  browser,
  own,
}) => {
  await page.goto('/stock/count');
  const line = page.getByLabel('Tystie nylon normal, sets: counted');
  await line.fill('1');
  const button = page.getByRole('button', { name: /^Save/ });
  await expect(button).toBeDisabled();
  await page.getByLabel(/Why\?/).fill('used but not recorded');
  // Meanwhile somebody receives some: nothing is booked over it.
  const other = await browser.newContext({ baseURL: own.url });
  const second = await other.newPage();
  await second.goto('/stock');
  await second.getByRole('link', { name: 'Tystie nylon normal' }).click();
  // Rows of earlier deliveries say nothing of this one.
  await Promise.all([
    second.waitForResponse((r) => r.request().method() === 'POST' && r.ok()),
    second.getByRole('button', { name: /^Receive at/ }).click(),
  ]);
  await other.close();
  await button.click();
  await expect(page.getByRole('alert')).toContainText('Someone moved stock while you were counting');
  await page.reload();
  await line.fill('2');
  await page.getByLabel(/Why\?/).fill('used but not recorded');
  await button.click();
  await expect(page.getByText(/counted .* by Ida Marr/).first()).toBeVisible();
  await page.goto('/stock');
  await page.getByRole('link', { name: 'Tystie nylon normal' }).click();
  await expect(page.getByRole('row', { name: /counted.*used but not recorded/ }).first()).toBeVisible();
  const lot = /lot (\d+)/.exec(
    await page.locator('summary').filter({ hasText: 'Tystie nylon normal' }).last().innerText(),
  )?.[1];
  await page.goto('/stock/count');
  await page.getByLabel('Solan 10–46, sets: counted').fill('1');
  await expect(page.getByRole('button', { name: 'Save 1 line' })).toBeVisible();
  await page.evaluate((code) => {
    for (const key of [...code, 'Enter'])
      document.body.dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true, cancelable: true }));
  }, `LOT-${lot}`);
  await expect(line).toHaveValue('1');
  expect(await axe(page)).toEqual([]);
});

test('an own programme adds strings, a set and a hybrid, and an instrument asks for them', async ({
  ownPage: page,
}) => {
  await page.goto('/stock/new');
  expect(await axe(page)).toEqual([]);
  const hybrid = page.locator('form').filter({ hasText: 'A hybrid of two sets' });
  await hybrid.getByLabel('Code').fill('OWN-1');
  await hybrid.getByLabel('Name').fill('Own mix');
  await hybrid.getByLabel('For').selectOption('electric');
  await hybrid.locator('[name=firstSetId]').selectOption({ label: 'Solan light 9–42' });
  await hybrid.locator('[name=secondSetId]').selectOption({ label: 'Solan 10–46' });
  await hybrid.getByRole('button', { name: 'Add the hybrid' }).click();
  await expect(heading(page)).toHaveText('A hybrid of Solan light 9–42 and Solan 10–46');
  await page.goto('/instruments/SK-0704');
  await page.getByText('Choose another set').click();
  await page.getByLabel('Use from now on').selectOption({ label: 'Own mix' });
  await page.getByRole('button', { name: 'Use from now on' }).click();
  await expect(page.getByRole('link', { name: 'Own mix' })).toBeVisible();
});
