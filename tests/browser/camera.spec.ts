import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { chromium } from '@playwright/test';
import { create } from 'qrcode';
import { chromiumPath } from '../../scripts/chromium.mjs';
import { axe, expect, test } from './app';

/** A still of a label before a camera, as raw video (YUV4MPEG2, 4:2:0). */
function video(code: string): string {
  const [width, height, frames] = [640, 480, 3];
  const { modules } = create(code, { errorCorrectionLevel: 'M' });
  const cell = Math.floor(300 / modules.size);
  const left = 170;
  const top = 90;
  const luma = Buffer.alloc(width * height, 200);
  for (let y = 0; y < modules.size * cell; y++)
    for (let x = 0; x < modules.size * cell; x++)
      luma[(top + y) * width + left + x] = modules.get(Math.floor(y / cell), Math.floor(x / cell)) ? 30 : 230;
  const frame = Buffer.concat([Buffer.from('FRAME\n'), luma, Buffer.alloc((width * height) / 2, 128)]);
  const file = join(mkdtempSync(join(tmpdir(), 'arvick-video-')), 'label.y4m');
  writeFileSync(
    file,
    Buffer.concat([Buffer.from(`YUV4MPEG2 W${width} H${height} F10:1 Ip A1:1 C420\n`), ...Array(frames).fill(frame)]),
  );
  return file;
}

for (const [what, code] of [
  ['a tag', 'SK-0104'],
  ['the address of its page under another name', 'https://strings.example.org/instruments/SK-0104'],
] as const)
  test(`a label with ${what} before the camera opens its instrument`, async ({ app }) => {
    const browser = await chromium.launch({
      executablePath: chromiumPath(),
      args: [
        '--no-sandbox',
        '--disable-gpu',
        '--use-fake-ui-for-media-stream',
        '--use-fake-device-for-media-stream',
        `--use-file-for-fake-video-capture=${video(code)}`,
      ],
    });
    const context = await browser.newContext({ baseURL: app.url, permissions: ['camera'] });
    const page = await context.newPage();
    await page.goto('/stock');
    await page.getByRole('button', { name: 'Scan a label with the camera' }).click();
    await page.waitForURL('**/instruments/SK-0104');
    await browser.close();
  });

test('without a camera the reader says so', async ({ page }) => {
  await page.goto('/stock');
  await page.getByRole('button', { name: 'Scan a label with the camera' }).click();
  await expect(page.getByRole('status').filter({ hasText: /No camera found|Camera blocked/ })).toBeVisible();
  expect(await axe(page)).toEqual([]);
  await page.getByRole('button', { name: 'Close' }).click();
  await expect(page.getByRole('dialog')).toHaveCount(0);
});
