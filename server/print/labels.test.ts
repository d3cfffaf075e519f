import { expect, it } from 'vitest';
import { LabelsShape } from '../../contract/print';
import { readPdf } from '../../tests/support/pdf';
import { acting, NOW, smallProgramme } from '../../tests/support/small';
import { openJob } from '../bench/jobs';
import { recordPast } from '../bench/past';
import { reportTrouble } from '../fleet/report';
import { labelSheetBeside } from './beside';
import { labelSheet, labelsOf } from './labels';

const at = { today: '2026-03-10', now: NOW, timeZone: 'UTC' };

it('puts each label where it is on the sheet, after those that are used, on as many sheets as it takes', async () => {
  const { db } = await smallProgramme();
  const { tags, say, ...sheet } = LabelsShape.parse({ tags: 'uk-1, UK-2,XX-9,VN-1', sheet: 'a4-3x7', start: '21' });
  const labels = await labelsOf(db, { tags, say }, at);
  expect(labels.map((l) => l.tag)).toEqual(['UK-1', 'UK-2', 'VN-1']);
  const pages = await readPdf(await labelSheet(labels, sheet, 'Labels'));
  expect(pages.map((p) => p.size)).toEqual([
    [210, 297],
    [210, 297],
  ]);
  const tag = (page: number, says: string) => pages[page]?.words.find((w) => w.says === says);
  // The 21st is the last of its sheet: third column, seventh row.
  expect(tag(0, 'UK-1')).toMatchObject({ x: 142 });
  expect(tag(0, 'UK-1')?.y).toBeGreaterThan(245);
  expect(tag(1, 'UK-2')).toMatchObject({ x: 10 });
  expect(tag(1, 'VN-1')).toMatchObject({ x: 76 });
  expect(pages[1]?.words.map((w) => w.says)).toContain('Concert ukulele');
  // Many are drawn in a thread, alike.
  const many = [...labels, ...labels];
  expect((await readPdf(Buffer.from(await labelSheetBeside(many, sheet, 'Labels')))).length).toBe(2);
  const letter = LabelsShape.parse({ sheet: 'letter-3x10' });
  expect((await readPdf(await labelSheet(labels, letter, 'Labels')))[0]?.size).toEqual([216, 279]);
});

it('never says ready of strings that are broken, reported, on the bench or of unknown age', async () => {
  const { db } = await smallProgramme();
  await recordPast(db, acting(), {
    tags: ['VN-1', 'UK-1', 'UK-2'],
    on: '2026-01-05',
    about: false,
    personId: 1,
    note: '',
  });
  await reportTrouble(db, acting(), { tag: 'UK-1', kind: 'broken', numbers: [2], text: 'snapped' });
  await openJob(db, acting(), { tag: 'UK-2' });
  const labels = await labelsOf(db, { tags: ['VN-1', 'UK-1', 'UK-2', 'AC-1'], say: 'ready' }, at);
  expect(labels.map((l) => l.says)).toEqual([
    'Settled: ready to play',
    'Broken string: not ready',
    'On the bench: not ready',
    'Not inspected yet',
  ]);
});
