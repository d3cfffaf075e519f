import { actAs, expect, heading, keptHere, onward, openBench, recordedToday, serve, spaceTo, test } from './app';

test('stock too low: nothing is recorded until it is said what is true', async ({ page }) => {
  await openBench(page, 'SK-0179');
  await spaceTo(page, /^(Which strings did you fit|Not in stock)/);
  await expect(heading(page)).toHaveText(/Not in stock:/);
  await expect(page.getByRole('button', { name: 'Record it' })).toBeDisabled();
  const choices = page.getByRole('button', { name: 'Found one on the shelf: add it' });
  const short = await choices.count();
  expect(short).toBeGreaterThan(0);
  await choices.first().click();
  await expect(page.getByText('added at the bench')).toHaveCount(1);
  for (let left = short - 1; left > 0; left--) {
    await expect(choices).toHaveCount(left);
    await page.getByRole('button', { name: 'Old string kept' }).first().click();
  }
  await expect(heading(page)).toHaveText('Which strings did you fit?');
  await page.getByRole('button', { name: 'Record it' }).click();
  await page.waitForURL('**?recorded');
  // No figure of the shelf is below nothing.
  await page.goto('/stock');
  expect(await page.locator('main').innerText()).not.toMatch(/[-−]\d/);
});

test('two people finish the same job: the second sees who did it and loses nothing', async ({ page, browser, app }) => {
  await actAs(page, 'Ida Marr');
  await openBench(page, 'SK-0304');
  const other = await browser.newContext({ baseURL: app.url });
  const second = await other.newPage();
  await actAs(second, 'Tam Reyl');
  await openBench(second, 'SK-0304');
  expect(second.url()).toBe(page.url());
  await spaceTo(page, /^Which strings did you fit/);
  await spaceTo(second, /^Which strings did you fit/);
  await second.getByLabel('Notes').fill('I did the bass side');
  await page.getByRole('button', { name: 'Record it' }).click();
  await page.waitForURL('**?recorded');
  await second.getByRole('button', { name: 'Record it' }).click();
  await expect(second.getByText(/Ida Marr has already recorded this/)).toBeVisible();
  await expect(second.getByLabel('Notes')).toHaveValue('I did the bass side');
  await second.getByRole('button', { name: 'Save mine as a note on that record' }).click();
  await second.waitForURL('**?recorded');
  await expect(second.getByText(/Tam Reyl: Also recorded by Tam Reyl: .*I did the bass side/)).toBeVisible();
  await expect(recordedToday(second)).toHaveCount(1);
  await other.close();
});

test('a finish whose answer is lost counts once, however often it is pressed', async ({ page }) => {
  await openBench(page, 'SK-0226');
  await spaceTo(page, /^Which strings did you fit/);
  let lost = 0;
  await page.route('**/finish', async (route) => {
    if (lost++ > 0) return route.continue();
    await route.fetch();
    await route.abort();
  });
  await page.getByRole('button', { name: 'Record it' }).click();
  await expect(page.getByText(/is kept on this device and sent when the connection returns/)).toBeVisible();
  // It goes out again by itself; another press on the way changes nothing.
  await page.keyboard.press('Enter');
  await page.waitForURL('**?recorded');
  await expect(recordedToday(page)).toHaveCount(1);
});

test('answers given while the server is silent are kept and delivered', async ({ page, browser, app }) => {
  await openBench(page, 'SK-0317');
  await page.route('**/answers', (route) => route.abort());
  await spaceTo(page, /lift out .*D3/);
  await expect(page.getByText(/kept here, no connection/)).toBeVisible();
  await page.unroute('**/answers');
  await page.reload();
  await expect(heading(page)).toContainText(/lift out .*D3/);
  await expect(page.getByText('all saved')).toBeVisible();
  // Another browser sees where the job stands.
  const other = await browser.newContext({ baseURL: app.url });
  const second = await other.newPage();
  await second.goto(page.url());
  await expect(heading(second)).toContainText(/lift out .*D3/);
  await other.close();
});

test('the server killed right after an acknowledged finish has the record when it is back', async ({ browser }) => {
  const app = await serve();
  const context = await browser.newContext({ baseURL: app.url });
  const page = await context.newPage();
  await openBench(page, 'SK-0236');
  await spaceTo(page, /^Which strings did you fit/);
  const answered = page.waitForResponse('**/finish');
  await page.getByRole('button', { name: 'Record it' }).click();
  expect((await answered).status()).toBe(200);
  await app.killAndRestart();
  await page.goto('/instruments/SK-0236');
  await expect(heading(page)).toHaveText('Ready by Thu 09:00');
  await expect(recordedToday(page)).toHaveCount(1);
  await expect(page.getByText('Sounds dull beside the others.')).toHaveCount(0);
  await context.close();
  app.stop();
});

test('a request without a key, or with nonsense in it, is refused in words', async ({ request }) => {
  const noKey = await request.post('/api/jobs', { data: { tag: 'SK-0301' } });
  expect(noKey.status()).toBe(400);
  expect(noKey.headers()['content-type']).toBe('application/problem+json');
  const unknown = await request.post('/api/jobs', {
    data: { tag: 'SK-9999' },
    headers: { 'idempotency-key': 'some-key-1' },
  });
  expect(unknown.status()).toBe(404);
  expect((await unknown.json()).detail).toContain('SK-9999');
  const wrong = await request.post('/api/jobs/1/finish', {
    data: { entries: 'all' },
    headers: { 'idempotency-key': 'some-key-2' },
  });
  expect(await wrong.json()).toMatchObject({ type: 'arvick:invalid', status: 400 });
});

test('the kit comes first: strings and where they are, what has no spare, tools to tick off', async ({ page }) => {
  await openBench(page, 'SK-0307');
  await expect(heading(page)).toHaveText('Lay everything out before you slacken a string.');
  await expect(page.getByRole('list', { name: 'Strings to take' }).getByRole('listitem')).toHaveCount(6);
  await expect(page.getByText('Harbour Store').first()).toBeVisible();
  await page.getByText('winder', { exact: true }).click();
  await expect.poll(() => keptHere(page)).toContain('winder');
  await page.reload();
  await expect(page.getByRole('checkbox', { name: 'winder', exact: true })).toBeChecked();
  await onward(page);
  await expect(heading(page)).toContainText('Check first');
  // What is short is said before anything is slack.
  await openBench(page, 'SK-0172');
  await expect(heading(page)).toHaveText(/^Before you start: .* not in stock|^Lay everything out/);
});

test('a key held down, or a foot left on the pedal, is one press', async ({ page }) => {
  await openBench(page, 'SK-0305');
  for (let i = 0; i < 6; i++) await page.keyboard.down('Space');
  await page.keyboard.up('Space');
  await expect(heading(page)).toHaveText('Check first: no cracks, bridge flat, nothing loose.');
});

test('however often somebody presses on, what cannot be undone waits for a press of its own', async ({ page }) => {
  await openBench(page, 'SK-0305');
  await spaceTo(page, /^Trim /);
  const step = await heading(page).innerText();
  const gate = page.getByRole('heading', { name: 'This cannot be undone' });
  for (const key of ['Space', 'Enter', 'Space', 'Space', 'Enter']) await page.keyboard.press(key);
  await expect(heading(page)).toHaveText(step);
  await expect(gate).toBeVisible();
  // Nor by the button, on which a press of Space stays.
  await page.keyboard.press('Escape');
  await page.locator('footer .btn-primary').focus();
  for (let n = 0; n < 5; n++) await page.keyboard.press('Space');
  await expect(heading(page)).toHaveText(step);
  await page.getByRole('button', { name: 'It is done' }).click();
  await expect(heading(page)).not.toHaveText(step);
});

test('a string that snaps takes its successor from the shelf at once, and is in the finish', async ({ page }) => {
  const sets = async () => {
    await page.goto('/stock');
    const row = page.getByRole('row', { name: /^Fulmar light 12–53/ });
    return Number(await row.locator('[data-packs]').innerText());
  };
  const before = await sets();
  await openBench(page, 'SK-0306');
  await spaceTo(page, /^Which strings did you fit/);
  await page.getByLabel('Notes').fill('kept');
  await page.getByRole('button', { name: 'Back to the steps' }).click();
  for (let i = 0; i < 5; i++) await page.keyboard.press('Backspace');
  await expect(heading(page)).toContainText('Bring E4');
  await page.keyboard.press('m');
  await page.getByRole('button', { name: 'The string snaps' }).click();
  await expect(page.getByText(/^Take another Fulmar light 12–53, E4 from Harbour Store/)).toBeVisible();
  await page.keyboard.press('Escape');
  // While all are stretched it has to be said which one.
  await onward(page);
  await expect(heading(page)).toContainText('Stretch each string');
  await page.keyboard.press('m');
  await page.getByRole('button', { name: 'The string snaps' }).click();
  await page.getByRole('button', { name: /B3/ }).click();
  await expect(page.getByText(/^Take another Fulmar light 12–53, B3/)).toBeVisible();
  await page.keyboard.press('Escape');
  await spaceTo(page, /^Which strings did you fit/);
  await expect(page.getByLabel('1 E4: strings broken while fitting')).toHaveValue('1');
  await expect(page.getByLabel('2 B3: strings broken while fitting')).toHaveValue('1');
  await expect(page.getByLabel('Notes')).toHaveValue('kept');
  expect(await sets()).toBeLessThan(before);
});

test('what must go back as it was is written down, photographed, and shown where it goes back', async ({ page }) => {
  await openBench(page, 'SK-0107');
  await spaceTo(page, /^Measure from nut to bridge/);
  await page.getByLabel(/String length from nut to bridge/).fill('327, feet on the nicks');
  await page.locator('input[type=file]').setInputFiles({
    name: 'bridge.png',
    mimeType: 'image/png',
    buffer: await page.screenshot(),
  });
  await expect(page.getByRole('img', { name: 'As found, 1' })).toBeVisible();
  await page.locator('main h1').click();
  await spaceTo(page, /^Ease G3|^Take G3|^Lift G3|^Draw G3|G3 out/);
  await expect(page.getByText(/As found:.*327, feet on the nicks/)).toBeVisible();
  await page.reload();
  await expect(page.getByText(/As found:.*327, feet on the nicks/)).toBeVisible();
  await expect(page.getByRole('img', { name: 'As found, 1' })).toBeVisible();
});

test('another way at the bench asks why once and makes the card anew', async ({ page }) => {
  await openBench(page, 'SK-0318');
  await spaceTo(page, /^Check first/);
  await onward(page);
  await page.keyboard.press('d');
  const make = page.getByRole('button', { name: /Nothing changed yet|Update the steps/ });
  await expect(make).toBeDisabled();
  await page.getByLabel('Rounds of stretching').selectOption('0');
  await expect(make).toBeDisabled();
  await page.getByLabel('Reason (kept in the record)').fill('for a recording');
  await make.click();
  await expect(page.locator('header')).toContainText('method changed: for a recording');
  await expect(page.getByText(/step 2 of/)).toBeVisible();
});
