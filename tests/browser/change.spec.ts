import { axe, expect, heading, keptHere, onward, openBench, recordedToday, spaceTo, test } from './app';

test('a pin-bridge acoustic, all strings off at once: from Fleet to the record and back', async ({ page }) => {
  await page.goto('/fleet');
  await page.getByLabel('Search tag, place, holder or set').fill('SK-0311');
  await expect(page.locator('tbody tr')).toHaveCount(1);
  await page.getByRole('link', { name: 'SK-0311' }).click();
  await expect(heading(page)).toContainText('New strings due');
  await expect(page.getByText(/of 60 hours played; by the calendar it would be due/)).toBeVisible();
  const dueBefore = await heading(page).innerText();

  await page.getByRole('button', { name: 'Change the strings' }).click();
  await page.waitForURL(/\/bench\/\d+/);
  const removing = await spaceTo(page, /^Bend E2/);
  // Everything is off before anything goes on, and what must be true is asked.
  expect(removing.filter((t) => /lift out /.test(t))).toHaveLength(6);
  await expect(page.getByText('6 strings off')).toBeVisible();
  await expect(page.getByText('Ball against the plate?')).toBeVisible();
  await expect(page.getByText(/Finger pressure only/)).toBeVisible();

  // A no leads to the recovery and back to the same step.
  await page.keyboard.press('n');
  await expect(page.getByRole('heading', { name: 'The pin lifts while tuning' })).toBeVisible();
  await onward(page);
  await expect(heading(page)).toContainText('Bend E2');

  await spaceTo(page, /^Pull G3/);
  await expect(heading(page)).toHaveText(
    'Pull G3 (string 3, treble side) tight through its post, pinch it at the first fret, let it back one fret (36 mm).',
  );
  await expect(page.getByText('2 winds')).toBeVisible();
  await expect(page.getByText('Do not trim yet: that comes after the last stretch.')).toBeVisible();
  await page.keyboard.press('w');
  await expect(page.getByText(/On this 648 mm scale that is 36 mm/)).toBeVisible();
  await onward(page);

  // Reload in mid-job: the bench is where it was, also one step back.
  const before = await keptHere(page);
  await page.keyboard.press('Backspace');
  await expect.poll(() => keptHere(page)).not.toBe(before);
  await expect(heading(page)).toContainText(
    'D3 (string 4, bass side): hold it in the nut slot and turn the post anticlockwise.',
  );
  await page.reload();
  await expect(heading(page)).toContainText('D3 (string 4, bass side): hold it in the nut slot');
  await page.goto('/instruments/SK-0311');
  await expect(page.getByText(/Ida Marr has had it on the bench since/)).toBeVisible();
  await page.getByRole('link', { name: 'Continue at the bench' }).click();
  await spaceTo(page, /^Pull B3/);
  await expect(heading(page)).toHaveText(
    'Pull B3 (string 2, treble side) tight through its post, pinch it at the first fret, let it back a fret and a half (55 mm).',
  );
  await onward(page);
  await expect(heading(page)).toContainText('turn the post clockwise');

  // The thin E snaps: two presses log it, and the finish counts it as used.
  await spaceTo(page, /^Bring E4/);
  await page.keyboard.press('m');
  const snaps = page.getByRole('button', { name: 'The string snaps' });
  await page.keyboard.press((await snaps.innerText()).trim().charAt(0));
  await expect(page.getByText('Take the same string from the spare set')).toBeVisible();
  await onward(page);
  await spaceTo(page, /^Trim/);
  await expect(page.getByText('Careful', { exact: true })).toBeVisible();
  await spaceTo(page, /^Which strings did you fit/);
  await expect(page.getByLabel('1 E4: strings broken while fitting')).toHaveValue('1');
  await expect(page.getByLabel('6 E2: strings broken while fitting')).toHaveValue('0');
  await expect(page.getByText(/^Strings used: 7/)).toBeVisible();
  await page.getByLabel('Notes').fill('Saddle has a sharp edge at E4');
  await expect.poll(() => keptHere(page)).toContain('sharp edge at E4');
  await page.reload();
  await expect(page.getByLabel('Notes')).toHaveValue('Saddle has a sharp edge at E4');

  await page.getByRole('button', { name: 'Record it' }).dblclick();
  await page.waitForURL('**/instruments/SK-0311?recorded');
  await expect(page.getByRole('status')).toContainText('Recorded: Fulmar light 12–53.');
  await expect(heading(page)).toHaveText('Ready by Wed 09:00');
  await expect(page.getByText('Saddle has a sharp edge at E4')).toHaveCount(1);
  await expect(recordedToday(page)).toHaveCount(1);
  await expect(page.locator('table .chip-settling')).toHaveCount(6);
  expect(await axe(page)).toEqual([]);

  // The visits wait on Today when their day has come; the instrument names them now.
  await expect(page.getByText('retune, day 1')).toBeVisible();
  await expect(page.getByText('retune, day 3')).toBeVisible();

  // Taken back: a correction stands beside it and the job is open again.
  await page.getByRole('button', { name: 'Undo' }).click();
  await page.waitForURL(/\/bench\/\d+/);
  await expect(heading(page)).toHaveText('Which strings did you fit?');
  await page.goto('/instruments/SK-0311');
  await expect(page.getByText('undone: Fulmar light 12–53')).toBeVisible();
  await expect(heading(page)).toHaveText(dueBefore);
});

test('a ukulele with a tie bridge, one string at a time, on halves', async ({ page }) => {
  await openBench(page, 'SK-0233');
  const seen = await spaceTo(page, /^Which strings did you fit/);
  const of = (start: string) => seen.findIndex((t) => t.startsWith(start));
  // Strung long: nothing is cut before its tie has held near pitch.
  const cut = seen.findIndex((t) => /^G4 .*: once it holds, cut off the rest/.test(t));
  expect(cut).toBeGreaterThan(of('Bring G4'));
  expect(cut).toBeLessThan(of('Slacken C4'));
  // The first is tied, wound and near pitch before the second is slackened.
  expect(of('Bring G4')).toBeLessThan(of('Slacken C4'));
  expect(of('Bring C4')).toBeLessThan(of('Slacken E4'));
  expect(seen.filter((t) => /^Tie A4 .*tuck the tail (3|three) times/.test(t))).toHaveLength(1);
  expect(seen.filter((t) => /^Tie G4 .*tuck the tail twice/.test(t))).toHaveLength(1);
  expect(seen.filter((t) => t.includes('let it back an inch (25 mm)'))).toHaveLength(4);
  await expect(page.getByText('half-length, from Harbour Store')).toHaveCount(4);
  await expect(page.getByText(/^1 half: Kittock fluorocarbon/)).not.toHaveCount(0);
  const halves = await page.getByText(/^1 half: /).allInnerTexts();
  // Enter alone records it; a Space left over from the last step does not.
  await onward(page);
  await expect(heading(page)).toHaveText('Which strings did you fit?');
  await page.keyboard.press('Enter');
  await page.waitForURL('**?recorded');
  await expect(page.getByText(', half-length').first()).toBeVisible();
  await expect(heading(page)).toHaveText('Ready by Thu 09:00');
  // The other halves lie on the shelf.
  await page.goto('/stock');
  const row = page.getByRole('row', { name: /^Kittock fluorocarbon, double length/ });
  for (const line of halves) await expect(row).toContainText(new RegExp(`${line.split(', ').at(-1)} [^·]*½`));
});

test('a banjo on a floating bridge: one string at a time, and part of it recorded', async ({ page }) => {
  await page.goto('/instruments/SK-0502');
  await expect(page.getByText(/\d+ steps, about .*your method, version 1/)).toBeVisible();
  await openBench(page, 'SK-0502');
  const seen = await spaceTo(page, /^Which strings did you fit/);
  const of = (start: string) => seen.findIndex((t) => t.startsWith(start));
  // The short fifth first, and never two off: the bridge is looked at before the next.
  expect(of('Slacken G4 (string 5')).toBeGreaterThan(0);
  expect(of('Bring G4 (string 5')).toBeLessThan(of('Slacken D3 (string 4'));
  expect(seen.filter((t) => /near pitch, check from the side: bridge still upright/.test(t))).toHaveLength(5);
  expect(seen.findIndex((t) => t.startsWith('Mark where the bridge'))).toBeLessThan(of('Slacken G4'));
  await page.getByLabel('5 G4: what happened').selectOption('kept');
  await page.getByRole('button', { name: 'Record it' }).click();
  await page.waitForURL('**?recorded');
  await expect(page.getByRole('status')).toContainText('only');
  await expect(page.getByText('bridge check within 24 hours')).toBeVisible();
  // Taken back, the finish starts from what was recorded, not from the house strings.
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByLabel('5 G4: what happened')).toHaveValue('kept');
  await expect(page.getByLabel('4 D3: what happened')).toHaveValue('fit');
});
