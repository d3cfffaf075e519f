import type { Page } from '@playwright/test';
import { axe, expect, heading, ledByString, onward, openBench, test } from './app';

test.afterEach(({ app }) => ledByString(app));

const lead = async (page: Page, way: string) => {
  await page.getByRole('button', { name: way, exact: true }).click();
  await expect(page.getByRole('button', { name: way, exact: true })).toHaveAttribute('aria-pressed', 'true');
};

/** Goes on with one press until what went on is asked; returns the presses and the headings on the way. */
async function through(page: Page, press: () => Promise<void>): Promise<string[]> {
  const seen: string[] = [];
  for (let n = 0; n < 60; n++) {
    const text = await heading(page).innerText();
    if (/^(Which strings did you fit|Not in stock)/.test(text)) return seen;
    seen.push(text);
    await press();
    await page.waitForFunction((was) => document.querySelector<HTMLElement>('main h1')?.innerText !== was, text, {
      polling: 40,
    });
  }
  throw new Error(`It does not end. Last seen: ${seen.at(-1)}`);
}

const past = (page: Page) => onward(page);

for (const [tag, name, most, says] of [
  ['SK-0312', 'steel-string', 22, /pinch it at the first fret, let it back as its row shows/],
  ['SK-0401', 'classical', 22, /^Wound strings: tie each string/],
  ['SK-0501', 'banjo', 24, /^G4 \(string 5, .*old string off, new string on/],
  ['SK-0604', 'double bass', 28, /old string off, new string on/],
] as const)
  test(`${name}, by phase: a full set in ${most} presses, recorded`, async ({ page }) => {
    await openBench(page, tag);
    // The kit, the first look, then the way is chosen; it holds from there and on the next page.
    await past(page);
    await lead(page, 'by phase');
    await heading(page).click();
    const seen = await through(page, () => past(page));
    expect(seen.length + 2).toBeLessThanOrEqual(most);
    expect(seen.some((t) => says.test(t))).toBe(true);
    // No single screen for a single string where several are worked together.
    expect(new Set(seen).size).toBe(seen.length);
    await page.getByRole('button', { name: 'Record it' }).click();
    await page.waitForURL('**?recorded');
    await openBench(page, 'SK-0313');
    await past(page);
    await expect(page.getByRole('button', { name: 'by phase', exact: true })).toHaveAttribute('aria-pressed', 'true');
  });

test('one of several is ticked, or is not right, and the others stay done', async ({ page }) => {
  await openBench(page, 'SK-0314');
  await past(page);
  await lead(page, 'by phase');
  await heading(page).click();
  while (!/^Bend each string/.test(await heading(page).innerText())) {
    const was = await heading(page).innerText();
    await past(page);
    await expect(heading(page)).not.toHaveText(was);
  }
  expect(await axe(page)).toEqual([]);
  const done = page.getByRole('button', { name: /: done$/ });
  for (const key of ['6', '5', '4']) await page.keyboard.press(key);
  await expect(done).toHaveCount(3);
  // Which of them it is not is asked; what to do is said, and that one is to be done again.
  await page.keyboard.press('n');
  await expect(page.getByRole('heading', { name: /which string\?/ })).toBeVisible();
  await page.keyboard.press('5');
  await expect(page.getByRole('heading', { name: 'The pin lifts while tuning' })).toBeVisible();
  await past(page);
  await expect(done).toHaveCount(2);
  await expect(page.getByRole('button', { name: 'A2: tick' })).toBeVisible();
  // A reload finds the ticks where they were.
  await expect(page.getByRole('status').filter({ hasText: 'all saved' })).toBeVisible();
  await page.reload();
  await expect(done).toHaveCount(2);
  await heading(page).click();
  await past(page);
  await expect(heading(page)).toContainText('Reach inside and feel the balls');
  await page.keyboard.press('Backspace');
  await expect(done).toHaveCount(6);
});

test('by touch alone: ticks, a no, another way, and the whole job on one page', async ({ app, browser }) => {
  const context = await browser.newContext({
    baseURL: app.url,
    hasTouch: true,
    viewport: { width: 834, height: 1112 },
  });
  const page = await context.newPage();
  await openBench(page, 'SK-0315');
  await page.getByRole('button', { name: /start/ }).tap();
  await page.getByRole('button', { name: 'brief', exact: true }).tap();
  await expect(page.getByRole('list', { name: 'All steps' })).toBeVisible();
  expect(await axe(page)).toEqual([]);
  const rows = page.getByRole('list', { name: 'All steps' }).getByRole('listitem');
  expect(await rows.count()).toBeGreaterThan(10);
  // The numbers of all strings are on the page, none beside it.
  const beside = await rows.evaluateAll(
    (list) =>
      list.filter((li) =>
        [...li.querySelectorAll('span')].some(
          (s) => s.getBoundingClientRect().right > li.getBoundingClientRect().right + 1,
        ),
      ).length,
  );
  expect(beside).toBe(0);
  // What stops the job and what cannot be undone stand on the page.
  await expect(page.getByText(/^Stop if:/)).toBeVisible();
  await expect(page.getByText(/^Cannot be undone/)).toBeVisible();
  await page.getByRole('button', { name: 'change method' }).tap();
  await page.getByRole('button', { name: 'Keep the usual method' }).tap();
  const next = page.locator('footer .btn-primary');
  await through(page, async () => {
    await next.tap();
    const done = page.getByRole('button', { name: 'It is done' });
    if (await done.isVisible()) await done.tap();
  });
  await page.getByRole('button', { name: 'Record it' }).tap();
  await page.waitForURL('**?recorded');
  await context.close();
});

test('every screen by phase fits a tablet upright and a phone, with twelve strings too', async ({ app, browser }) => {
  for (const [tag, viewport] of [
    ['SK-0346', { width: 810, height: 1080 }],
    ['SK-0347', { width: 390, height: 844 }],
  ] as const) {
    const context = await browser.newContext({ baseURL: app.url, viewport });
    const page = await context.newPage();
    await openBench(page, tag);
    await past(page);
    await lead(page, 'by phase');
    await heading(page).click();
    await through(page, async () => {
      const over = await page.evaluate(() => document.documentElement.scrollWidth - innerWidth);
      expect(over, `${await heading(page).innerText()} at ${viewport.width}`).toBeLessThanOrEqual(0);
      await past(page);
    });
    await context.close();
  }
});

test('the printed card says what the screens say, once, on two sides of A4', async ({ page }) => {
  for (const [tag, family, says] of [
    ['SK-0312', 'steel-acoustic', /pinch it at the first fret/],
    ['SK-0401', 'classical', /The last tuck lies on the back face/],
    ['SK-0501', 'banjo', /One string at a time: G4, D3, G3, B3 and D4/],
    ['SK-0721', 'bass-guitar', /at the D string’s post/],
    ['SK-0109', 'violin', /bridge still upright/],
    ['SK-0604', 'double-bass', /nearly all of it away from the wall/],
  ] as const) {
    await page.goto(`/methods/card/${family}?tag=${tag}`);
    await expect(page.locator('main')).toContainText(says);
    // A sentence stands once, however many strings it is for.
    const lines = await page.locator('main ol li').allInnerTexts();
    expect(new Set(lines).size, lines.join('\n')).toBe(lines.length);
    expect(await page.getByRole('row').count()).toBeGreaterThan(4);
    const pdf = (await page.pdf({ format: 'A4', preferCSSPageSize: true })).toString('latin1');
    expect(pdf.match(/\/Type\s*\/Page[^s]/g)?.length, family).toBeLessThanOrEqual(2);
  }
  expect(await axe(page)).toEqual([]);
});
