import { zipSync } from 'fflate';
import { expect, it } from 'vitest';
import { runInProcess } from '../apart';
import type { CalendarTask } from '../plan/calendar.worker';
import { readFile } from './file';
import type { IntakeTask } from './intake.worker';

const utf8 = (text: string) => new TextEncoder().encode(text);
/** A workbook of one sheet with these cells, as small as it can be. */
const workbook = (cells: string, sheet = '<sheet name="List" sheetId="1" r:id="rId1"/>') =>
  zipSync({
    '[Content_Types].xml': utf8('<Types/>'),
    'xl/workbook.xml': utf8(`<workbook><sheets>${sheet}</sheets></workbook>`),
    'xl/_rels/workbook.xml.rels': utf8(
      '<Relationships><Relationship Id="rId1" Type="worksheet" Target="worksheets/sheet1.xml"/></Relationships>',
    ),
    'xl/worksheets/sheet1.xml': utf8(`<worksheet><sheetData>${cells}</sheetData></worksheet>`),
  });
const cell = (at: string) => `<row r="1"><c r="${at}" t="inlineStr"><is><t>x</t></is></c></row>`;
const told = (p: Promise<unknown>) =>
  p.then(
    () => 'read',
    (e) => e.type ?? String(e),
  );

it('a workbook that asks for more room than there is, is refused before any is made', async () => {
  const files: [string, Uint8Array][] = [
    ['unreadable', workbook(cell('ZZZZZZ99999999999'))],
    ['too-large', workbook(cell('XFD1048576'))],
    ['too-large', workbook(`<row r="1048576"/>${cell('CV1')}`)],
    ['too-large', workbook('<c r="A1"/>'.repeat(1_500_001))],
    ['unreadable', workbook(cell('A1'), '<sheet '.repeat(100_000))],
    ['unreadable', workbook(cell('A1'), `<sheet ${' name='.repeat(100_000)}`)],
  ];
  for (const [type, bytes] of files)
    expect([bytes.length, await told(readFile('list.xlsx', bytes))]).toEqual([bytes.length, type]);
});

it('a list with rows or columns without end is refused', async () => {
  expect(await told(readFile('list.csv', utf8('a,'.repeat(500_000))))).toBe('unreadable');
  expect(await told(readFile('list.csv', utf8('a\n'.repeat(400_000))))).toBe('too-many-rows');
  expect(await told(readFile('list.csv', utf8(`tag\n"${'x'.repeat(1_000_000)}"`)))).toBe('unreadable');
});

it('what reads a stranger’s file may take so much memory and so long, and no more', async () => {
  const limit = { ms: 20_000, megabytes: 200, late: { title: 'late', detail: 'late' } };
  const read = (text: string, more = {}) =>
    told(
      runInProcess('intake', { task: 'read', name: 'list.csv', bytes: utf8(text) } satisfies IntakeTask, {
        ...limit,
        ...more,
      }),
    );
  expect(await read('tag,family\nA-1,violin\n')).toBe('read');
  expect(await read('tag,family\nA-1,violin\n'.repeat(20_000), { megabytes: 8 })).toBe('too-large');
  expect(await read('tag\nA-1\n', { ms: 1 })).toBe('took-too-long');
  const endless = [
    'BEGIN:VCALENDAR',
    'BEGIN:VTIMEZONE',
    'TZID:Own/Endless',
    'BEGIN:STANDARD',
    'DTSTART:19700101T000000',
    'TZOFFSETFROM:+0000',
    'TZOFFSETTO:+0100',
    'RRULE:FREQ=SECONDLY',
    'END:STANDARD',
    'END:VTIMEZONE',
    'BEGIN:VEVENT',
    'UID:1',
    'DTSTART;TZID=Own/Endless:20261124T090000',
    'SUMMARY:Lesson',
    'END:VEVENT',
    'END:VCALENDAR',
  ].join('\r\n');
  const task: CalendarTask = { text: endless, from: '2026-11-24', until: '2026-12-24', timeZone: 'UTC' };
  expect(await told(runInProcess('calendar', task, limit))).toBe('not-a-calendar');
});
