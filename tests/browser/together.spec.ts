import type { Page } from '@playwright/test';
import { axe, expect, heading, onward, recordedToday, serve, test } from './app';

const TAGS = ['SK-0311', 'SK-0312', 'SK-0313', 'SK-0314'];

/** Opens a batch as the button on Today does. */
async function openBatch(page: Page, tags: string[]): Promise<void> {
  await page.goto('/');
  const answer = await page.request.post('/api/batches', {
    data: { tags: tags.join(',') },
    headers: { 'idempotency-key': `batch-${tags.join('-')}` },
  });
  const { location } = await answer.json();
  await page.goto(location);
  await expect(page.locator('main[data-ready=true] h1')).toBeVisible();
}

/** A label reader: the tag typed faster than fingers can, then Enter. */
const scan = (page: Page, code: string) =>
  page.evaluate((text) => {
    for (const key of [...text, 'Enter'])
      document.body.dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true, cancelable: true }));
  }, code);

const inHand = (page: Page) => page.locator('nav[aria-label="On this bench"] [aria-current=true]');

test('a batch of four, phase by phase, with one of them taken out of turn', async ({ ownPage: page }) => {
  await openBatch(page, TAGS);
  await expect(heading(page)).toHaveText(/^Lay everything out|^Before you start/);
  const order = page.getByRole('list', { name: 'Order of work' }).getByRole('listitem');
  await expect(order.first()).toContainText(TAGS.join(', '));
  expect(await axe(page)).toEqual([]);
  await onward(page);
  await expect(heading(page)).toContainText('SK-0311');
  expect(await axe(page)).toEqual([]);
  // The third is nearest: its tag is read, and it comes into hand where it stands.
  await scan(page, 'SK-0313');
  await expect(inHand(page)).toContainText('SK-0313');
  await expect(page.getByText('SK-0313 is out of turn')).toBeVisible();
  await scan(page, 'SK-0101');
  await expect(page.getByText('SK-0101 is not in this batch.')).toBeVisible();

  const phases: string[] = [];
  let recorded = 0;
  for (let n = 0; n < 400 && recorded < TAGS.length; n++) {
    const text = await heading(page).innerText();
    if (/^(Which strings did you fit|Not in stock)/.test(text)) {
      const lay = page.getByRole('button', { name: 'Found one on the shelf: add it' });
      await page.waitForTimeout(400);
      while (await lay.count()) {
        await lay.first().click();
        await page.waitForTimeout(300);
      }
      await page.getByRole('button', { name: 'Record it' }).click();
      await expect(heading(page)).not.toHaveText(/^(Which strings did you fit|Not in stock)/);
      recorded++;
      continue;
    }
    const tag = (await inHand(page).count()) ? (await inHand(page).innerText()).slice(0, 7) : '';
    const phase = tag ? (await page.getByText(/ · step \d+ of \d+$/).innerText()).split(/[,·]/)[0]?.trim() : '';
    if (tag && phases.at(-1) !== `${phase} ${tag}`) phases.push(`${phase} ${tag}`);
    await onward(page);
    await expect(page.getByText(text, { exact: true })).toHaveCount(0);
  }
  expect(recorded).toBe(4);
  await expect(heading(page)).toHaveText('All 4 recorded');
  await expect(page.getByRole('row', { name: /^Slacken/ })).toBeVisible();
  // Cleaning is done on all four before the first of them gets its new strings.
  const cleaned = phases.flatMap((p, i) => (p.startsWith('Clean') ? [i] : []));
  const fitted = phases.flatMap((p, i) => (p.startsWith('Tail end') ? [i] : []));
  expect(cleaned).toHaveLength(4);
  expect(Math.max(...cleaned)).toBeLessThan(Math.min(...fitted));
  for (const tag of TAGS) {
    await page.goto(`/instruments/${tag}`);
    await expect(recordedToday(page)).toHaveCount(1);
  }
  await page.goto('/instruments/SK-0311/label');
  await expect(page.locator('#label')).toContainText(/Ready by/);
  expect(await axe(page)).toEqual([]);
});

test('the network cut and the server killed in mid-job: the bench goes on, reloads, and delivers everything once', async ({
  browser,
}) => {
  const app = await serve();
  const context = await browser.newContext({ baseURL: app.url, serviceWorkers: 'allow' });
  const page = await context.newPage();
  await page.goto('/');
  await page.evaluate(() => navigator.serviceWorker.ready.then(() => undefined));
  await page.goto('/');
  await page.goto('/instruments/SK-0317');
  await page.getByRole('button', { name: 'Change the strings' }).click();
  await page.waitForURL(/\/bench\/\d+/);
  const step = page.getByText(/ · step \d+ of \d+$/);
  await expect(heading(page)).toBeVisible();
  const on = async (presses: number) => {
    for (let i = 0; i < presses; i++) {
      const text = await heading(page).innerText();
      await onward(page);
      await expect(heading(page)).not.toHaveText(text);
    }
  };
  await on(4);
  await context.setOffline(true);
  await on(5);
  await expect(page.getByText(/kept here, no connection/)).toBeVisible();
  const before = await step.innerText();
  // Without a network the page is there again, where it was.
  await page.reload();
  await expect(step).toHaveText(before);
  await on(3);
  await app.killAndRestart();
  await context.setOffline(false);
  await expect(page.getByText('all saved')).toBeVisible({ timeout: 30_000 });
  await page.reload();
  await on(100).catch(() => {});
  await expect(heading(page)).toHaveText(/^Which strings did you fit/);
  // The record, too, waits for the server.
  await context.setOffline(true);
  await page.getByRole('button', { name: 'Record it' }).click();
  await expect(page.getByText(/is kept on this device and sent when the connection returns/)).toBeVisible();
  await page.goto('/');
  await expect(page.getByRole('status').filter({ hasText: 'SK-0317' })).toContainText('kept on this device');
  await context.setOffline(false);
  await expect(
    page.getByRole('status').filter({ hasText: 'Everything kept on this device has been sent' }),
  ).toBeVisible({
    timeout: 30_000,
  });
  // A server that hangs is as good as none: the page is shown as it was, says so, and offers the new one in time.
  const goOn = app.hang();
  await page.goto('/instruments/SK-0317');
  await expect(page.getByText(/^No answer from the server. This page was last updated/)).toBeVisible();
  await expect(recordedToday(page)).toHaveCount(0);
  goOn();
  // On a machine so busy that the new one is late again, it is offered again.
  await expect(async () => {
    await page.getByRole('button', { name: 'Show the latest' }).click();
    await expect(recordedToday(page)).toHaveCount(1, { timeout: 10_000 });
  }).toPass();
  await context.close();
  app.stop();
});
