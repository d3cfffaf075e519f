import { axe, expect, heading, openBench, spaceTo, test } from './app';

test('as found: photographs wait for a network, are the instrument’s, and are there for the next technician', async ({
  page,
  context,
}) => {
  await openBench(page, 'SK-0117');
  await spaceTo(page, /^Measure from nut to bridge/);
  const box = page.getByRole('region', { name: 'What to note' });
  const picture = { name: 'bridge.png', mimeType: 'image/png', buffer: await page.screenshot() };
  await context.setOffline(true);
  await box.getByLabel('Take a photo', { exact: true }).setInputFiles(picture);
  await expect(box.getByRole('status')).toHaveText('1 on this device only; sent when you are back online.');
  await context.setOffline(false);
  await expect(box.getByRole('status')).toHaveText('Saved with the instrument.');
  await box
    .getByLabel('Take a photo', { exact: true })
    .setInputFiles({ name: 'x.jpg', mimeType: 'image/jpeg', buffer: Buffer.from('no') });
  await expect(box.getByRole('alert')).toContainText('it is not an image');
  // What was measured is kept as this instrument's, and its noted length.
  await box.getByLabel(/^String length from nut to bridge/).fill('327.5, on their marks');
  await box.getByLabel(/^String length from nut to bridge/).press('Enter');
  await box.getByRole('button', { name: 'Always the case: save it for SK-0117' }).click();
  await expect(box.getByText('Saved for SK-0117.')).toBeVisible();
  expect(await axe(page)).toEqual([]);

  await page.reload();
  await expect(heading(page)).toHaveText(/^Measure from nut to bridge/);
  await expect(box.getByRole('status')).toHaveText('Saved with the instrument.');
  await spaceTo(page, /^Which strings did you fit/);
  await page.getByRole('button', { name: 'Stop here, unchanged' }).click();
  await page.getByRole('button', { name: 'Yes, no string was changed' }).click();
  await page.waitForURL('**/instruments/*');

  await openBench(page, 'SK-0117');
  await spaceTo(page, /^Measure from nut to bridge/);
  await expect(
    box.getByText(/On record for this instrument: 327.5, on their marks \(24 Nov, Ida Marr\)/),
  ).toBeVisible();
  await expect(page.getByText('On record for this instrument: 328 mm.')).toBeVisible();
  const before = box.getByRole('img', { name: /24 Nov/ });
  await expect(before).toBeVisible();
  expect(await before.evaluate((img: HTMLImageElement) => img.complete && img.naturalWidth > 100)).toBe(true);
});
