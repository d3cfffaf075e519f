import type { Locator, Page } from '@playwright/test';
import { openDatabase } from '../../server/db/connection';
import { must } from '../../server/db/must';
import { draftOrder, sendOrder } from '../../server/stock/orders';
import { twoThousandJobs } from '../support/manyJobs';
import { actAs, axe, expect, FROZEN, heading, serve, test } from './app';

/** Opens the plan and waits until it answers. */
const openPlan = async (page: Page) => {
  await page.goto('/plan');
  await expect(page.locator('[data-ready=true]')).toBeVisible({ timeout: 30_000 });
};
const board = (page: Page) => page.getByRole('table', { name: 'Sessions by person and day' });
const chips = (page: Page) => board(page).locator('button.tag');
const row = (page: Page, name: string) => board(page).locator('tr').filter({ hasText: name });
const tagOf = (text: string) => /SK-\d+/.exec(text)?.[0] ?? '';
/** What changes for whom is read before it is published; a search that goes on is waited for. */
const publish = async (page: Page) => {
  await page.getByRole('button', { name: 'Publish', exact: true }).click({ timeout: 60_000 });
  await expect(
    page.getByRole('region', { name: /^(The first plan, for|What changes for|Same as the published plan)/ }),
  ).toBeVisible();
  await page.getByRole('button', { name: 'Publish it' }).click();
};
const points = async (page: Page) => Number(await page.locator('[data-points]').getAttribute('data-points'));
/** How many jobs are in no session, as the line under the heading says it. */
const leftOut = async (page: Page) =>
  Number(/(\d+) of \d+ tasks? not planned/.exec(await page.getByText(/hours used\./).innerText())?.[1] ?? 0);
const solved = async (page: Page) => {
  await page.getByRole('button', { name: 'Find a better plan' }).click();
  await expect(page.getByText(/This is the best possible plan|A better plan could save/)).toBeVisible({
    timeout: 60_000,
  });
  await expect(page.getByRole('button', { name: 'Find a better plan' })).toBeVisible({ timeout: 60_000 });
};

/** Holds one thing by touch until it is in the hand, and puts it down on another. */
async function touchDrag(page: Page, from: Locator, to: Locator): Promise<void> {
  const cdp = await page.context().newCDPSession(page);
  const middle = async (of: Locator) => {
    const box = await of.boundingBox();
    return { x: (box?.x ?? 0) + (box?.width ?? 0) / 2, y: (box?.y ?? 0) + Math.min(40, (box?.height ?? 0) / 2) };
  };
  const touch = (type: 'touchStart' | 'touchMove' | 'touchEnd', touchPoints: { x: number; y: number }[]) =>
    cdp.send('Input.dispatchTouchEvent', { type, touchPoints });
  const [a, b] = [await middle(from), await middle(to)];
  await touch('touchStart', [a]);
  // Held still until the hand has it: then what is carried shows.
  await expect(page.locator('.shadow.border-primary')).toBeVisible();
  for (const part of [0.3, 0.7, 1])
    await touch('touchMove', [{ x: a.x + part * (b.x - a.x), y: a.y + part * (b.y - a.y) }]);
  await expect(to).toHaveAttribute('data-over');
  await touch('touchEnd', []);
}

test('a plan is found, stopped, proven, moved by keyboard and by dragging, refused with the reason, published', async ({
  ownPage: page,
}) => {
  // High enough that nothing scrolls while something is dragged.
  await page.setViewportSize({ width: 1280, height: 2600 });
  await openPlan(page);
  await expect(heading(page)).toHaveText(/^\d+ of 52 can be ready for the Lantern Concert$/);
  expect(await axe(page)).toEqual([]);
  await page.getByRole('button', { name: 'Compare plans' }).click();
  const before = await points(page);
  // Stopped at once there is still a whole plan.
  await page.getByRole('button', { name: 'Find a better plan' }).click();
  await expect(page.getByText(/Looking for a better plan/)).toBeVisible();
  await page.getByRole('button', { name: 'Stop' }).click();
  expect(await points(page)).toBeLessThanOrEqual(before);
  await solved(page);
  expect(await points(page)).toBeLessThanOrEqual(before);
  await expect(page.getByRole('region', { name: 'Compare plans' }).getByRole('row')).toHaveCount(3);

  // By keyboard: choose a job, say where by number, lock it; undo takes the move back.
  const tag = tagOf(await chips(page).first().innerText());
  await chips(page).first().click();
  const panel = page.getByRole('region', { name: new RegExp(tag) });
  await expect(panel.getByRole('list', { name: 'Why' }).getByRole('listitem').first()).toBeVisible();
  expect(await axe(page)).toEqual([]);
  const stood = await panel.locator('p').first().innerText();
  await page.keyboard.press('2');
  await expect(page.getByRole('alert')).toContainText(`${tag}: `);
  await expect(panel.locator('p').first()).not.toHaveText(stood);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(panel.locator('p').first()).toHaveText(stood);
  await page.keyboard.press('l');
  await expect(panel.getByRole('button', { name: 'Unlock' })).toBeVisible();
  await solved(page);
  await expect(panel.locator('p').first()).toHaveText(stood);
  await page.keyboard.press('Escape');

  // What would break is said while the job is still in the hand; dropped there, it is not moved.
  const other = row(page, 'Nell Oske').locator('[data-shift]').filter({ hasText: 'Lantern Point' }).first();
  const from = row(page, 'Tam Reyl').locator('button.tag').filter({ hasText: 'SK-0707' }).first();
  await from.hover();
  await page.mouse.down();
  await other.hover();
  await other.hover();
  await expect(other.getByRole('status')).toContainText('is at Tarn Hall, not at Lantern Point.');
  // A hand is never quite still.
  const box = await other.boundingBox();
  for (const by of [8, 10]) await page.mouse.move((box?.x ?? 0) + 30 + by, (box?.y ?? 0) + by);
  await page.mouse.up();
  await expect(page.getByRole('alert')).toContainText(/Not moved: SK-\d+ is at Tarn Hall, not at Lantern Point\./);

  // By touch it is held for a moment, and put down among what is not planned; undo puts it back.
  const held = tagOf(await from.innerText());
  const out = page.getByRole('region', { name: /^Not planned/ });
  await touchDrag(page, from, out.locator('[data-shift]'));
  await expect(page.getByRole('alert')).toContainText(`${held}`);
  await expect(out.locator('button.tag').filter({ hasText: held })).toHaveCount(1);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(out.locator('button.tag').filter({ hasText: held })).toHaveCount(0);

  await publish(page);
  await expect(page.getByRole('region', { name: 'Published', exact: true })).toContainText(/SK-\d+/);
  // Locked where it was put, it is still there; Today and the calendar follow.
  await page.reload();
  await expect(page.getByText(/changes \d+/)).toHaveCount(0);
  await expect(board(page).getByRole('button', { name: new RegExp(`^${tag} .*locked$`) })).toBeVisible();
  await page.goto('/');
  const today = page.getByRole('region', { name: 'Planned here today' });
  await today.getByRole('button', { name: 'Start this session' }).click();
  await page.waitForURL(/\/bench\//);
  // An address for a calendar program, until it is ended; it asks for nobody's password.
  await page.goto('/plan/people');
  const make = page.getByRole('form', { name: 'Create a calendar address', exact: true });
  await make.getByRole('button').click();
  const address = page.getByRole('link', { name: /\/feeds\/[\w-]{43}\.ics$/ });
  const href = (await address.getAttribute('href')) ?? '';
  const feed = await page.request.get(href, { headers: { cookie: '' } });
  expect(feed.headers()['content-type']).toContain('text/calendar');
  expect(await feed.text()).toMatch(/BEGIN:VEVENT[\s\S]*LOCATION:/);
  await page.getByRole('button', { name: /^Remove the address for/ }).click();
  await expect(address).toHaveCount(0);
  expect((await page.request.get(href)).status()).toBe(404);
});

test('several jobs move together by press, by key and by hand; a week by place; away for days, with a helper left alone, and undone; what will not fit comes back', async ({
  ownPage: page,
}) => {
  await page.setViewportSize({ width: 1280, height: 2600 });
  await actAs(page, 'Runa Fell');
  await openPlan(page);
  const day = (name: string, n: number) => row(page, name).locator('td').nth(n).locator('button.tag');
  // On Wednesday at Ness School: chosen one by one, moved by a number, put back.
  const wednesday = day('Ida Marr', 1);
  const before = await wednesday.allInnerTexts();
  await page.getByRole('button', { name: 'Choose several' }).click();
  await wednesday.nth(0).click();
  await wednesday.nth(1).click();
  const several = page.getByRole('region', { name: '2 tasks together' });
  await expect(several.getByRole('button', { name: /^Deselect SK-/ })).toHaveCount(2);
  expect(await axe(page)).toEqual([]);
  await page.keyboard.press('1');
  await expect(page.getByRole('alert')).toContainText(/2 tasks: Wed \d+ Dec at Ness School with Ida Marr/);
  await expect(wednesday).toHaveCount(before.length - 2);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(wednesday).toHaveCount(before.length);
  // With a key held, and carried by hand: whichever of them is taken, all come along.
  await wednesday.nth(0).click();
  await wednesday.nth(1).click({ modifiers: ['ControlOrMeta'] });
  await expect(several).toBeVisible();
  const out = page.getByRole('region', { name: /^Not planned/ });
  const was = await out.locator('button.tag').count();
  await touchDrag(page, wednesday.nth(0), out.locator('[data-shift]'));
  await expect(out.locator('button.tag')).toHaveCount(was + 2);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(wednesday).toHaveCount(before.length);

  await page.getByRole('button', { name: 'By place' }).click();
  const places = page.getByRole('table', { name: 'Sessions by place and day' });
  await expect(places.locator('tr').filter({ hasText: 'Ness School' })).toContainText('Ansa Wick');
  expect(await axe(page)).toEqual([]);
  await page.getByRole('button', { name: 'By place' }).click();

  // Ansa may work only beside somebody who supervises: what was hers moves as well.
  await expect(day('Ansa Wick', 1).first()).toBeVisible();
  await page.getByRole('button', { name: 'Session of Ida Marr, Wed 25 Nov, Ness School' }).click();
  await page.getByLabel('until').selectOption({ label: 'Thu 26 Nov' });
  await page.getByRole('button', { name: 'Ida Marr is away Wed 25 Nov to Thu 26 Nov' }).click();
  await expect(page.getByRole('alert')).toContainText(/Ida Marr is away Wed 25 Nov to Thu 26 Nov: \d+ tasks moved/);
  for (const cell of [wednesday, day('Ida Marr', 2), day('Ansa Wick', 1)]) await expect(cell).toHaveCount(0);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByRole('alert')).toContainText(
    'Undone: Ida Marr is working Wed 25 Nov to Thu 26 Nov after all.',
  );
  await expect(wednesday).toHaveCount(before.length);

  // In the session itself somebody sees that a job will not fit: the plan has it back, and so has Today.
  await actAs(page, 'Ida Marr');
  await page.goto('/');
  const planned = page.getByRole('region', { name: 'Planned here today' });
  await planned.getByText('Not enough time, or already done').first().click();
  await planned.getByRole('button', { name: 'SK-0226: no time today' }).click();
  await expect(planned).toContainText('SK-0226 strings: no time today (Ida Marr).');
  await openPlan(page);
  await expect(page.getByRole('region', { name: 'Repaired' })).toContainText('SK-0226: it did not fit on Tue 24 Nov');
  await page.goto('/');
  await planned.getByRole('button', { name: 'SK-0226: put back' }).click();
  await expect(planned.getByText('no time today (Ida Marr)')).toHaveCount(0);
});

test('sessions are split and merged, what-ifs stand side by side, a month at a glance, weights are kept', async ({
  ownPage: page,
}) => {
  await openPlan(page);
  await page.getByRole('button', { name: 'Session of Ida Marr, Wed 25 Nov, Ness School' }).click();
  const session = page.getByRole('region', { name: /Ida Marr at Ness School/ });
  await expect(session).toContainText(/of 150 minutes.*About a \d+ in 10 chance of finishing in time/);
  expect(await axe(page)).toEqual([]);
  await expect(row(page, 'Ida Marr').locator('td').nth(1).locator('button.tag').first()).toBeVisible();
  const was = await row(page, 'Ida Marr').locator('td').nth(1).locator('button.tag').count();
  await session.getByLabel(/^Move/).selectOption({ index: 1 });
  await session.getByRole('button', { name: /^Wed 2 Dec, Ida Marr/ }).click();
  await expect(page.getByRole('alert')).toContainText('Wed 2 Dec at Ness School with Ida Marr');
  expect(await row(page, 'Ida Marr').locator('td').nth(1).locator('button.tag').count()).toBeLessThan(was);
  await page.getByRole('button', { name: '1 Dec' }).click();
  await page.getByRole('button', { name: 'Session of Ida Marr, Wed 2 Dec, Ness School' }).click();
  await page
    .getByRole('region', { name: /Ida Marr at Ness School/ })
    .getByRole('button', { name: /^Wed 9 Dec, Ida Marr/ })
    .click();
  await expect(
    row(page, 'Ida Marr').locator('td').filter({ hasText: 'Ness School' }).locator('button.tag'),
  ).toHaveCount(0);

  await page.getByRole('button', { name: 'Month' }).click();
  await expect(page.getByRole('table', { name: 'Four weeks of sessions' })).toContainText('Lantern Concert');
  expect(await axe(page)).toEqual([]);
  await page.getByRole('button', { name: '24 Nov' }).click();

  // What would help most is tried beside the plan, and compared line by line; it cannot be published before it is real.
  await solved(page);
  const out = await leftOut(page);
  await page
    .getByRole('region', { name: 'What would help most' })
    .getByRole('button', { name: 'Try it' })
    .first()
    .click();
  await expect(page.getByText(/^A trial with/)).toBeVisible();
  await expect(page.getByRole('button', { name: 'Publish' })).toBeDisabled();
  await solved(page);
  expect(await leftOut(page)).toBeLessThan(out);
  const side = page.getByRole('region', { name: 'Compare plans' });
  await expect(side.getByRole('row').nth(1)).toContainText('with 1 more');
  await side.getByRole('button', { name: 'Plan A' }).click();
  await expect(page.getByRole('button', { name: 'Publish' })).toBeEnabled();

  await page.getByText('What matters most').click();
  await page.getByLabel('Setting up for another kind of work').fill('5');
  await page.getByRole('button', { name: 'Save for everyone' }).click();
  await expect(page.getByRole('alert')).toContainText('Saved.');
  await page.reload();
  await page.getByText('What matters most').click();
  await expect(page.getByLabel('Setting up for another kind of work')).toHaveValue('5');
});

test('somebody is away, a delivery is late: the plan in force is mended with little moved, and says what moved', async ({
  own,
  ownPage: page,
  browser,
}) => {
  // The set that a cello waits for is ordered, and comes in time for the concert.
  const db = await openDatabase(own.data);
  const set = must(await db('product').where({ sku: 'GAN-C-34' }).first());
  const by = (key: string) => ({ personId: 4, now: Date.parse(FROZEN), key });
  const lines = [{ productId: set.id, quantity: 2 }];
  const { orderId } = await draftOrder(db, by('test-draft'), {
    supplierId: set.supplier_id ?? -1,
    placeId: 1,
    lines,
    note: '',
  });
  await sendOrder(db, by('test-send'), { orderId, expectedVersion: 1 });
  await db.destroy();
  await openPlan(page);
  await solved(page);
  await publish(page);
  await expect(page.getByRole('region', { name: 'Published', exact: true })).toBeVisible();
  await page.reload();
  await expect(page.getByRole('region', { name: /Compared with the published plan/ })).toHaveCount(0);

  const session = page.getByRole('button', { name: 'Session of Nell Oske, Tue 24 Nov, Lantern Point' });
  const hers = row(page, 'Nell Oske').locator('td').first().locator('button.tag');
  await expect(hers.first()).toBeVisible();
  const jobs = await hers.count();
  await session.click();
  await page.getByRole('button', { name: 'Nell Oske is away Tue 24 Nov' }).click();
  await expect(page.getByRole('alert')).toContainText(
    `Nell Oske is away Tue 24 Nov: ${jobs} ${jobs === 1 ? 'task' : 'tasks'} moved`,
  );
  await expect(row(page, 'Nell Oske').locator('td').first().locator('button.tag')).toHaveCount(0);
  // Taken back, it is taken back for everybody; away again, it is told again, and published from the same page.
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByRole('alert')).toContainText('Undone: Nell Oske is working Tue 24 Nov after all.');
  await expect(row(page, 'Nell Oske').locator('td').first().locator('button.tag')).toHaveCount(jobs);
  const other = await browser.newPage({ baseURL: own.url });
  await openPlan(other);
  await expect(row(other, 'Nell Oske').locator('td').first().locator('button.tag')).toHaveCount(jobs);
  await other.close();
  await session.click();
  await page.getByRole('button', { name: 'Nell Oske is away Tue 24 Nov' }).click();
  await expect(row(page, 'Nell Oske').locator('td').first().locator('button.tag')).toHaveCount(0);
  const moved = page.getByRole('region', { name: /Compared with the published plan: \d+ moved/ });
  await expect(moved.getByRole('listitem')).toHaveCount(jobs);
  // Whoever comes after and has not heard of it sees it mended, and why.
  await page.reload();
  await expect(page.getByRole('region', { name: 'Repaired' })).toContainText(
    'Nell Oske is no longer working on Tue 24 Nov.',
  );
  await expect(moved.getByRole('listitem')).toHaveCount(jobs);
  await publish(page);
  await expect(page.getByRole('region', { name: 'Published', exact: true })).toContainText(
    /Nell Oske.*(new:|removed:|nothing left)/,
  );
  // What was just published is what the next plan of this page stands on.
  await page.getByRole('button', { name: 'Find a better plan' }).click();
  await publish(page);
  await expect(page.getByRole('region', { name: 'Published', exact: true })).toBeVisible();
  await expect(page.getByText(/published a plan since you started/)).toHaveCount(0);
  await page.goto('/plan/people');
  expect(await axe(page)).toEqual([]);
  await page.getByRole('button', { name: 'Nell Oske is back on 24 Nov after all' }).click();
  await expect(page.getByText('Nell Oske, Tue 24 Nov: away')).toHaveCount(0);

  // The order is put off: the cello that waits for it cannot be done before the concert any more.
  await page.goto(`/stock/orders/${orderId}`);
  await page.getByLabel('Supplier’s new delivery date').fill('2026-12-28');
  await Promise.all([page.waitForEvent('load'), page.getByRole('button', { name: 'Save the date' }).click()]);
  await openPlan(page);
  await expect(page.getByRole('region', { name: 'Repaired' })).toContainText(
    /\d+ needed by .*, only \d+ in stock by then\./,
  );
  await expect(moved.getByRole('listitem').filter({ hasText: 'SK-0179' })).toContainText('not planned');
});

test('helpers learn step by step; holidays, concerts and calendars shape the weeks; other work is asked for', async ({
  ownPage: page,
}) => {
  await openPlan(page);
  const learning = page.getByRole('region', { name: 'Helpers could learn' });
  await learning.getByRole('button', { name: 'Yes' }).first().click();
  await page.getByText('Request other work').click();
  await page.getByLabel('Instrument').fill('SK-0308');
  await page.locator('select[name=kind]').selectOption('yearly service');
  await page.getByLabel('Reason').fill('dry board');
  await Promise.all([page.waitForEvent('load'), page.getByRole('button', { name: 'Add the request' }).click()]);
  // What came since the plan was published stands where there is room, and is told when it is published.
  await expect(page.getByText(/new since the plan was published/)).toBeVisible();
  const asked = page.locator('button.tag').filter({ hasText: 'SK-0308 service' });
  await expect(page.getByRole('region', { name: /^Not planned/ }).locator(asked)).toHaveCount(0);
  await publish(page);
  await expect(page.getByRole('region', { name: 'Published', exact: true })).toContainText('SK-0308');

  await page.goto('/plan/learning');
  expect(await axe(page)).toEqual([]);
  const choice = page.getByLabel('Bo Lask, Violin');
  await Promise.all([page.waitForEvent('load'), choice.selectOption('under supervision')]);
  await expect(page.getByLabel('Bo Lask, Violin')).toHaveValue('2');

  await page.goto('/plan/people');
  await page.getByLabel('Calendar file (.ics) of').selectOption('holidays');
  await page.locator('input[type=file]').setInputFiles({
    name: 'school.ics',
    mimeType: 'text/calendar',
    buffer: Buffer.from(
      'BEGIN:VCALENDAR\r\nVERSION:2.0\r\nBEGIN:VEVENT\r\nUID:1\r\nDTSTAMP:20260101T000000Z\r\nDTSTART;VALUE=DATE:20261125\r\nSUMMARY:Training day at Ness School\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n',
    ),
  });
  await expect(page.getByText('Training day at Ness School, 25 Nov, Ness School')).toBeVisible();
  await page.getByRole('button', { name: 'Import' }).click();
  await expect(page.getByRole('alert')).toContainText('Imported 1 entry');
  await openPlan(page);
  await expect(page.getByRole('button', { name: /^Session of Ida Marr, Wed 25 Nov/ })).toHaveCount(0);
  await page.goto('/plan/people');
  const concerts = page.locator('form[data-api="/api/plan/concert"]');
  await concerts.getByLabel('Name', { exact: true }).fill('Carols');
  await concerts.getByLabel('On').fill('2026-12-05');
  await concerts.getByLabel(/^Instruments: tags/).fill('SK-0330, nobody');
  await concerts.getByRole('button', { name: 'Add' }).click();
  await expect(page.getByText('No instrument, group or name matches: nobody.')).toBeVisible();
  await concerts.getByLabel(/^Instruments: tags/).fill('SK-0330');
  await Promise.all([page.waitForEvent('load'), concerts.getByRole('button', { name: 'Add' }).click()]);
  await expect(page.getByText('Carols', { exact: true }).last()).toBeVisible();
  await openPlan(page);
  await page.getByRole('button', { name: '1 Dec' }).click();
  await expect(board(page)).toContainText('Carols');

  // With the last ferry before the day begins, nobody from elsewhere works there.
  const there = board(page).locator('[data-shift]').filter({ hasText: 'Old Cannery' });
  await openPlan(page);
  await expect(there.first()).toBeVisible();
  await page.goto('/plan/people');
  const last = page.locator('form[data-api="/api/plan/last-way"]').last();
  await last.getByLabel('From').selectOption('Old Cannery');
  await last.getByLabel('Leaves at').fill('08:00');
  await Promise.all([page.waitForEvent('load'), last.getByRole('button', { name: 'Save' }).click()]);
  await expect(page.getByText('Old Cannery, 08:00')).toBeVisible();
  await openPlan(page);
  await expect(there).toHaveCount(0);
  await page.goto('/plan/people');
  const forget = page.getByRole('button', { name: 'Remove the last ferry or bus from Old Cannery' });
  await Promise.all([page.waitForEvent('load'), forget.click()]);
  await openPlan(page);
  await expect(there.first()).toBeVisible();
});

test('what was not finished comes back; the server proposes a plan at the press of a button', async ({
  own,
  ownPage: page,
}) => {
  await actAs(page, 'Runa Fell');
  await openPlan(page);
  await page.getByRole('button', { name: 'Work one out now' }).click();
  const night = page.getByRole('region', { name: /^(A better plan is ready|Another plan)/ });
  await expect(night).toBeVisible({ timeout: 240_000 });
  await night.getByRole('button', { name: 'Open it' }).click();
  await publish(page);
  await expect(page.getByRole('region', { name: 'Published', exact: true })).toBeVisible();
  // A day on, nothing of the day before was done.
  const db = await openDatabase(own.data);
  const first = must(
    await db('plan_job').where({ on_day: '2026-11-24', kind: 'change' }).orderBy('instrument_id').first(),
  );
  await db('plan_job').where({ on_day: '2026-11-24' }).update({ on_day: '2026-11-23' });
  const { tag } = must(await db('instrument').where({ id: first.instrument_id }).first());
  await db.destroy();
  // Written past the server, which remembers what it read until somebody changes something.
  await own.killAndRestart();
  await openPlan(page);
  const moved = page.getByRole('region', { name: /Compared with the published plan/ });
  await expect(moved).toContainText('Mon 23 Nov');
  await page.getByRole('button', { name: 'Find a better plan' }).click();
  await expect(chips(page).filter({ hasText: tag }).first()).toBeVisible();
});

test('two thousand jobs: the page shows them, its worker finds better plans and can be stopped', async ({
  browser,
}) => {
  test.setTimeout(180_000);
  const app = await serve((folder) => twoThousandJobs(folder, Date.parse(FROZEN)));
  const context = await browser.newContext({ baseURL: app.url });
  const page = await context.newPage();
  await openPlan(page);
  await expect(page.getByText(/of 2,?\d\d\d (tasks )?not planned|All 2,?\d\d\d (tasks )?planned/)).toBeVisible({
    timeout: 30_000,
  });
  const before = await points(page);
  await page.getByRole('button', { name: 'Find a better plan' }).click();
  await expect(page.getByText(/Looking for a better plan: [1-9]|Checking how good/)).toBeVisible({ timeout: 60_000 });
  await page.getByRole('button', { name: 'Stop' }).click();
  expect(await points(page)).toBeLessThan(before);
  await context.close();
  app.stop();
});
