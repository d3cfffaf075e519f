import { expect, heading, onward, openBench, spaceTo, test } from './app';

/** Whole jobs through the real interface, one for each kind of build, with what its card must say. */
const JOBS: { name: string; tag: string; first: RegExp[]; never: RegExp; off: number }[] = [
  {
    name: 'a classical guitar with twelve holes',
    tag: 'SK-0410',
    first: [
      /^Slacken all six strings/,
      /^Tie E2 .*through the low hole/,
      /turn the roller over the top/,
      /^Trim the long ends/,
    ],
    never: /\bpin\b|\bball\b|peg/,
    off: 6,
  },
  {
    name: 'a wrap-around electric with locking posts',
    tag: 'SK-0707',
    first: [
      /^Tape the bridge in place/,
      /^Loosen the thumb screws/,
      /The bridge is loose now/,
      /wrap it over the top/,
      /tight through its post and tighten the lock/,
    ],
    never: /\bpin\b|let it back/,
    off: 6,
  },
  {
    name: 'a bass guitar under a string tree',
    tag: 'SK-0722',
    first: [/^Lay out/, /^Feed A1/, /^Feed E1/, /^Measure A1|^Measure E1/, /^Push .* end-first/],
    never: /\bpin\b|peg/,
    off: 4,
  },
  {
    name: 'a violin',
    tag: 'SK-0106',
    first: [
      /soundpost up/,
      /^Measure from nut to bridge/,
      /^Mark where the bridge/,
      /^Slacken G3/,
      /towards the pegbox wall/,
      /^Bring G3/,
      /^Slacken D4/,
    ],
    never: /Trim|\bfret/,
    off: 1,
  },
];

for (const { name, tag, first, never, off } of JOBS)
  test(`${name}: the whole job, from the first look to the record`, async ({ page }) => {
    await openBench(page, tag);
    const most = page.locator('header b').filter({ hasText: ' off' });
    let worst = 0;
    let steps = 0;
    const seen: string[] = [];
    for (let n = 0; n < 130; n++) {
      const text = await heading(page).innerText();
      if (/^(Which strings did you fit|Not in stock)/.test(text)) break;
      seen.push(text);
      const place = page.getByText(/step \d+ of \d+$/);
      if (await place.count()) steps = Number((await place.innerText()).split(' ').at(-1));
      if (await most.count()) worst = Math.max(worst, Number((await most.innerText()).split(' ')[0]));
      await onward(page);
      await expect(heading(page)).not.toHaveText(text);
    }
    // What must be said, in this order; what this build does not have is never said.
    let from = -1;
    for (const say of first) {
      const at = seen.findIndex((t, i) => i > from && say.test(t));
      expect(at, `${say} after step ${from}: ${seen.slice(from + 1).join(' | ')}`).toBeGreaterThan(from);
      from = at;
    }
    expect(seen.filter((t) => never.test(t))).toEqual([]);
    expect(worst).toBe(off);
    // One press for the kit, one for each step; one more records it.
    expect(seen.length).toBe(steps + 1);
    const lay = page.getByRole('button', { name: 'Found one on the shelf: add it' });
    for (let n = await lay.count(); n > 0; n--) {
      await lay.first().click();
      await expect(lay).toHaveCount(n - 1);
    }
    await page.getByRole('button', { name: 'Record it' }).click();
    await page.waitForURL('**?recorded');
    await expect(heading(page)).toContainText('Ready by');
    await page.getByRole('link', { name: 'Note for the player', exact: true }).click();
    await expect(page.getByText(/on the first day.*This is normal/)).toBeVisible();
  });

test('a double bass is strung in pairs from the nut, in either order of its pegs', async ({ page }) => {
  const order = async () => {
    await openBench(page, 'SK-0603');
    const seen = await spaceTo(page, /^(Which strings did you fit|Not in stock)/);
    await page.getByRole('button', { name: 'Stop here, unchanged' }).click();
    await page.getByRole('button', { name: 'Yes, no string was changed' }).click();
    await page.waitForURL('**/instruments/*');
    return seen.filter((t) => t.startsWith('Slacken')).map((t) => t.slice(8, 10));
  };
  expect(await order()).toEqual(['E1', 'A1', 'G2', 'D2']);
  await page.goto('/instruments/SK-0603/build');
  for (const [string, mm] of [
    ['4 E1', '190'],
    ['3 A1', '150'],
    ['2 D2', '110'],
    ['1 G2', '70'],
  ] as const)
    await page.getByLabel(`${string}, nut to post`).fill(mm);
  await page.getByRole('button', { name: 'Save the build' }).click();
  await page.waitForURL('**/instruments/SK-0603');
  expect(await order()).toEqual(['G2', 'D2', 'E1', 'A1']);
});

test('an instrument left without strings is on everybody’s Today', async ({ page }) => {
  await openBench(page, 'SK-0413');
  await spaceTo(page, /^Wipe the top/);
  await expect(page.getByText('all saved')).toBeVisible();
  // It stands at Ness School; the desk is at the workshop.
  await page.goto('/');
  await expect(page.getByLabel('On the bench')).toContainText('at Ness School');
  await expect(page.getByText('unstrung: finish today')).toBeVisible();
});
