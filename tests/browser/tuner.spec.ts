import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { chromium, type Page } from '@playwright/test';
import { PLAIN_PLUCK, synthesize } from '../../core/pitch/synth';
import { chromiumPath } from '../../scripts/chromium.mjs';
import { axe, expect, heading, ledByString, onward, openBench, spaceTo, test } from './app';

const RATE = 48_000;
const centsShown = async (page: Page): Promise<number> =>
  Number((await page.locator('[data-cents]').getAttribute('data-cents', { timeout: 15_000 })) ?? Number.NaN);

/** Strings plucked one after the other, again and again, as a 16-bit mono WAV file. */
function wav(hz: number | readonly number[], inharmonicity: number): string {
  let seed = 11;
  const rng = () => {
    seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0;
    return seed / 2 ** 32;
  };
  const scene = {
    ...PLAIN_PLUCK,
    inharmonicity,
    decayS: 2.5,
    snrDb: 30,
    humDb: null,
    humHz: 50,
    neighbour: null,
  };
  const plucks = [hz].flat().map((firstPartialHz) => synthesize({ ...scene, firstPartialHz }, RATE, 3 * RATE, rng));
  const pluck = plucks.flatMap((samples) => [...samples]);
  const data = Buffer.alloc(44 + pluck.length * 2);
  data.write('RIFF', 0);
  data.writeUInt32LE(36 + pluck.length * 2, 4);
  data.write('WAVEfmt ', 8);
  data.writeUInt32LE(16, 16);
  data.writeUInt16LE(1, 20);
  data.writeUInt16LE(1, 22);
  data.writeUInt32LE(RATE, 24);
  data.writeUInt32LE(RATE * 2, 28);
  data.writeUInt16LE(2, 32);
  data.writeUInt16LE(16, 34);
  data.write('data', 36);
  data.writeUInt32LE(pluck.length * 2, 40);
  for (const [i, v] of pluck.entries()) data.writeInt16LE(Math.round(v * 32_000), 44 + 2 * i);
  const file = join(mkdtempSync(join(tmpdir(), 'arvick-wav-')), 'pluck.wav');
  writeFileSync(file, data);
  return file;
}

/** A browser whose microphone hears a file. */
const hearing = (file: string) =>
  chromium.launch({
    executablePath: chromiumPath(),
    args: [
      '--no-sandbox',
      '--disable-gpu',
      '--disable-quic',
      '--disable-background-networking',
      '--use-fake-ui-for-media-stream',
      '--use-fake-device-for-media-stream',
      `--use-file-for-fake-audio-capture=${file}`,
    ],
  });

for (const [name, tag, hz, inharmonicity, offset, label] of [
  ['a ukulele’s C', 'SK-0228', 261.626, 6e-5, -14, 'C4 (string 3, bass side)'],
  ['a double bass’s low E', 'SK-0602', 41.203, 2e-4, -8, 'E1 (string 4, bass side)'],
] as const) {
  test(`the microphone hears ${name}: the right string and cents`, async ({ app }) => {
    const browser = await hearing(wav(hz * 2 ** (offset / 1200), inharmonicity));
    const context = await browser.newContext({ baseURL: app.url, permissions: ['microphone'] });
    const page = await context.newPage();
    await openBench(page, tag);
    // Past the kit.
    await onward(page);
    await page.keyboard.press('t');
    const tuner = page.getByRole('region', { name: 'Tuner' });
    await tuner.getByRole('button', { name: 'Listen' }).click();
    await expect(tuner.getByRole('heading')).toHaveText(label, { timeout: 20_000 });
    await expect.poll(async () => Math.abs((await centsShown(page)) - offset), { timeout: 20_000 }).toBeLessThan(1.5);
    await expect(tuner.getByText(/^Flat: tighten slowly, up to the note/)).toBeVisible();
    await browser.close();
  });
}

test('hands free: each string near pitch is ticked as it is heard, whatever the order, and tuning walks on by itself', async ({
  app,
}) => {
  // The six strings of a guitar, a little flat, the thinnest first.
  const notes = [329.628, 246.942, 195.998, 146.832, 110, 82.407].map((hz) => hz * 2 ** (-2 / 1200));
  const browser = await hearing(wav(notes, 5e-5));
  const context = await browser.newContext({ baseURL: app.url, permissions: ['microphone'] });
  const page = await context.newPage();
  await openBench(page, 'SK-0334');
  await onward(page);
  await page.getByRole('button', { name: 'by phase', exact: true }).click();
  await heading(page).click();
  await spaceTo(page, /^Bring each string near pitch/);
  await page.keyboard.press('t');
  const tuner = page.getByRole('region', { name: 'Tuner' });
  await tuner.getByRole('button', { name: 'Listen' }).click();
  const free = tuner.getByRole('status', { name: 'Hands-free tuning' });
  await expect(free).toContainText('E2 (string 6, bass side)');
  await expect(page.getByRole('button', { name: /: done$/ })).toHaveCount(6, { timeout: 120_000 });
  await expect(free).toContainText('All near pitch');
  // Space goes on; the tuner stays open, and the fine tuning asks for each string twice.
  await heading(page).click();
  await spaceTo(page, /^Tune low to high/);
  await expect(free).toContainText('first time round');
  await expect(free).toContainText('second time round', { timeout: 120_000 });
  await browser.close();
  await ledByString(app);
});

test('the practice instrument is tuned from below, stretched, and what each pull cost is kept', async ({
  ownPage: page,
}) => {
  await openBench(page, 'SK-0311');
  await spaceTo(page, /^Stretch each string/);
  const tuner = page.getByRole('region', { name: 'Tuner' });
  await tuner.getByRole('button', { name: 'Practice instrument' }).click();
  await tuner.getByRole('button', { name: 'Pluck 2' }).click();
  await expect(tuner.getByRole('heading')).toHaveText('B3 (string 2, treble side)');
  await expect(tuner.getByText(/tighten slowly.*The post tightens clockwise/)).toBeVisible();
  const before = await centsShown(page);
  expect(before).toBeLessThan(-50);
  await tuner.getByRole('button', { name: '+20' }).click();
  await expect.poll(() => centsShown(page)).toBeGreaterThan(before + 18);
  await tuner.getByRole('button', { name: 'Stretch it' }).click();
  await expect.poll(() => centsShown(page)).toBeLessThan(before);
  await tuner.getByRole('button', { name: 'Log this drop' }).click();
  await expect(tuner.getByRole('status')).toContainText('String 2:');
  // Typed by hand: still slipping after a pull that cost more than the one before.
  await tuner.getByLabel('or enter it: string').selectOption('4');
  for (const cents of ['80', '120']) {
    await tuner.getByLabel('Cents flat').fill(cents);
    await tuner.getByRole('button', { name: 'Log it', exact: true }).click();
  }
  await expect(tuner.getByText('80, 120')).toBeVisible();
  await expect(page.getByText('all saved')).toBeVisible();
  expect(await axe(page)).toEqual([]);
  // A reload keeps what was measured.
  await page.reload();
  await expect(page.getByText('80, 120')).toBeVisible();
});

test('trimming is locked until the strings have settled, or with a reason that is kept', async ({ ownPage: page }) => {
  await openBench(page, 'SK-0332');
  await spaceTo(page, /^Stretch each string/);
  // The tuner comes into its place first: what is pressed while things move is not met.
  await expect(page.getByRole('button', { name: 'Practice instrument' })).toBeVisible();
  await page.keyboard.press('s');
  await page.getByRole('button', { name: 'Two days to settle before use' }).click();
  await expect(heading(page)).toContainText('Tune low to high');
  await onward(page);
  await expect(heading(page)).toContainText('Trim the long ends');
  await onward(page);
  await expect(page.getByRole('heading', { name: 'Locked: this cannot be undone' })).toBeVisible();
  await expect(
    page.getByText('Skipped (two days to settle before use), so not stretched and settled yet.'),
  ).toBeVisible();
  await onward(page);
  await expect(heading(page)).toContainText('Trim the long ends');
  await onward(page);
  await page.keyboard.press('3');
  await expect(heading(page)).not.toContainText('Trim the long ends');
  // Done properly it opens by itself.
  for (const was of ['Trim the long ends', 'Tune low to high', 'Stretch each string']) {
    await page.keyboard.press('Backspace');
    await expect(heading(page)).toContainText(was);
  }
  for (const next of ['Tune low to high', 'Trim the long ends']) {
    await onward(page);
    await expect(heading(page)).toContainText(next);
  }
  await expect(page.getByRole('button', { name: 'done: confirm' })).toBeVisible();
});
