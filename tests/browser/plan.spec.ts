import { axe, expect, heading, test } from './app';

test('a plan is found, proven, moved by keyboard and by dragging, refused with the reason, kept beside and published', async ({
  ownPage: page,
}) => {
  await page.goto('/plan');
  await expect(heading(page)).toHaveText(/planned/);
  expect(await axe(page)).toEqual([]);
  await page.getByRole('button', { name: 'Keep beside' }).click();
  const points = async () => Number(/^(\d+) points/.exec(await page.getByText(/^\d+ points/).innerText())?.[1]);
  const before = await points();
  // The page answers while the search runs in its worker: no task holds the thread for long.
  await page.evaluate(() => {
    const seen: number[] = [];
    (window as unknown as { slow: number[] }).slow = seen;
    new PerformanceObserver((list) => seen.push(...list.getEntries().map((e) => e.duration))).observe({
      type: 'longtask',
    });
  });
  await page.getByRole('button', { name: 'Find a better plan' }).click();
  await expect(page.getByText(/Looking for better/)).toBeVisible();
  await page.getByRole('button', { name: '1 Dec' }).click();
  await page.getByRole('button', { name: '24 Nov' }).click();
  await expect(page.getByText(/proven: nothing is better|above the best possible/)).toBeVisible({ timeout: 60_000 });
  const slow = await page.evaluate(() => (window as unknown as { slow: number[] }).slow);
  expect(Math.max(0, ...slow), `long tasks: ${slow.map(Math.round).join(', ')}`).toBeLessThan(200);
  expect(await points()).toBeLessThanOrEqual(before);
  const side = page.getByRole('region', { name: 'Side by side' });
  await expect(side.getByRole('row')).toHaveCount(3);

  // By keyboard: choose a job, say where by number, lock it.
  const board = page.locator('table').first();
  const chip = board.locator('button.tag').first();
  const tag = /SK-\d+/.exec(await chip.innerText())?.[0] ?? '';
  await chip.click();
  const panel = page.getByRole('region', { name: new RegExp(tag) });
  await expect(panel.getByRole('list', { name: 'Why' }).getByRole('listitem').first()).toBeVisible();
  expect(await axe(page)).toEqual([]);
  await page.keyboard.press('2');
  await expect(page.getByRole('alert')).toContainText(`${tag}: `);
  await page.keyboard.press('l');
  await expect(panel.getByRole('button', { name: 'Unlock' })).toBeVisible();
  await page.keyboard.press('Escape');

  // A job dragged to another place is not moved, and it is said why.
  const from = board.locator('button.tag').filter({ hasText: 'SK-0707' }).first();
  const other = board
    .locator('tr')
    .filter({ hasText: 'Nell Oske' })
    .locator('[class*=rounded]')
    .filter({ hasText: 'Lantern Point' })
    .first();
  await from.dragTo(other);
  await expect(page.getByRole('alert')).toContainText(/Not moved: SK-\d+ is at Tarn Hall, not at Lantern Point\./);

  await page.getByRole('button', { name: 'Publish' }).click();
  await expect(page.getByRole('region', { name: 'Published' })).toContainText('Ida Marr');
  // Locked where it was put, it is still there; Today and the calendar follow.
  await page.reload();
  await expect(page.getByText(/changes \d+/)).toHaveCount(0);
  await page.goto('/');
  await expect(page.getByRole('region', { name: 'Planned here today' })).toBeVisible();
  const feed = await page.request.get('/plan/3.ics');
  expect(feed.headers()['content-type']).toContain('text/calendar');
  expect(await feed.text()).toMatch(/BEGIN:VEVENT[\s\S]*LOCATION:/);
});

test('somebody is away: the jobs of that day go elsewhere, the rest stays', async ({ ownPage: page }) => {
  await page.goto('/plan');
  await page.getByRole('button', { name: 'Nell Oske is away Tue 24 Nov' }).click();
  await expect(page.getByRole('alert')).toContainText('Nell Oske is away Tue 24 Nov');
  await page.getByRole('button', { name: 'Find a better plan' }).click();
  await expect(page.getByText(/proven: nothing is better|above the best possible/)).toBeVisible({ timeout: 60_000 });
  const row = page.locator('table').first().locator('tr').filter({ hasText: 'Nell Oske' });
  await expect(row.locator('td').first().locator('button.tag')).toHaveCount(0);
  await page.goto('/plan/people');
  await expect(page.getByText('Nell Oske, Tue 24 Nov: away')).toBeVisible();
  expect(await axe(page)).toEqual([]);
  await page
    .getByRole('button', { name: /There after all|after all/ })
    .first()
    .click();
  await expect(page.getByText('Nell Oske, Tue 24 Nov: away')).toHaveCount(0);
});
