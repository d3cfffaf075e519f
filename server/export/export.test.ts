import { mkdtempSync, readFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Readable } from 'node:stream';
import { Ajv2020 } from 'ajv/dist/2020.js';
import fc from 'fast-check';
import { expect, it } from 'vitest';
import { FAMILIES, SIZES } from '../../core/instruments/build';
import { SUBJECTS } from '../../core/intake/columns';
import { guessKind, sayKind } from '../../core/intake/kinds';
import { acting, NOW, smallProgramme } from '../../tests/support/small';
import { openDatabase } from '../db/connection';
import { readFile } from '../intake/file';
import { addFile, viewIntake } from '../intake/intake';
import { asKept } from '../photos/files';
import { bringProgramme, programmeJson } from './programme';
import { exportTable, toCsv } from './tables';
import { toXlsx } from './xlsx';

const whole = async (folder: string): Promise<string> => {
  let text = '';
  for await (const piece of programmeJson(folder)) text += piece;
  return text;
};
const fresh = () => mkdtempSync(join(tmpdir(), 'arvick-brought-'));

/** Text as it may stand in any field: quotes, delimiters, formulas, other scripts, blanks. */
const said = fc.oneof(
  fc.string({ maxLength: 40 }),
  fc.constantFrom(
    '=1+1',
    '+44 1',
    '-',
    '?',
    '"quoted"',
    'a;b,c\td',
    "it's",
    '@you',
    'Ærø ß Łódź',
    '日本',
    ' x  y ',
    '00123',
    '1.5',
    'true',
    "'=x",
  ),
);

it('every kind of instrument that is written is read as the same again', () => {
  for (const family of FAMILIES)
    for (const size of SIZES[family])
      for (const handedness of ['left', 'right'] as const) {
        const kind = { family, size, handedness };
        const read = guessKind(sayKind(kind));
        expect(read.best, sayKind(kind)).toEqual(kind);
        expect(read.confidence, sayKind(kind)).toBe('sure');
      }
});

it('bringing back a list that was taken along changes nothing, whatever stands in it', async () => {
  const { db } = await smallProgramme();
  await fc.assert(
    fc.asyncProperty(
      fc.array(said, { minLength: 8, maxLength: 8 }),
      async ([holder, note, maker, model, serial, place, who, why]) => {
        const plain = (text = '', most = 60) =>
          text
            .replace(/[\p{Cc}\p{Cf}]/gu, ' ')
            .trim()
            .slice(0, most)
            .trim();
        await db('instrument')
          .where({ tag: 'UK-1' })
          .update({
            holder: plain(holder),
            note: plain(note, 900),
            maker: plain(maker),
            model: plain(model),
            serial: plain(serial),
          });
        await db('place')
          .where({ id: 1 })
          .update({ name: plain(place) || 'Workshop' });
        await db('person')
          .where({ id: 2 })
          .update({ name: plain(who) || 'Ben Wy' });
        await db('instrument_busy').del();
        await db('instrument_busy').insert({
          instrument_id: 1,
          from_on: '2026-04-01',
          to_on: '2199-12-31',
          why: plain(why, 100) || 'x',
          kind: 'loan',
        });
        await db('instrument_busy').insert({
          instrument_id: 2,
          from_on: '2026-04-02',
          to_on: '2026-04-03',
          from_time: '22:30',
          to_time: '01:00',
          why: plain(who, 100) || 'x',
          kind: 'lesson',
        });
        await db('class_instrument').del();
        await db('class').del();
        await db('class').insert({
          id: 7,
          name: plain(why, 100) || 'x',
          weekday: 3,
          from_time: '09:00',
          to_time: '10:00',
          from_on: '2026-04-02',
          to_on: '2026-06-30',
        });
        await db('class_instrument').insert([1, 2].map((instrument_id) => ({ class_id: 7, instrument_id })));
        for (const subject of SUBJECTS) {
          const table = await exportTable(db, subject);
          if (table.rows.length === 0) continue;
          const bytes = new TextEncoder().encode(toCsv(table));
          const { intakes } = await addFile(db, acting(), { name: `${subject}.csv`, bytes });
          const view = await viewIntake(db, { id: intakes[0] as number, now: NOW, show: 'all', from: 0 });
          expect(view?.subject, subject).toBe(subject);
          expect(view?.counts, `${subject}: ${JSON.stringify(view?.rows.filter((r) => r.does !== 'same'))}`).toEqual({
            add: 0,
            change: 0,
            out: 0,
            problem: 0,
            same: table.rows.length,
          });
        }
      },
    ),
    { numRuns: 12 },
  );
  // Nothing in it is run as a formula, and a workbook says the same as the text.
  const table = await exportTable(db, 'instruments');
  const evil = { ...table, rows: [...table.rows, ['=cmd()', '@x', '+1', '-2', 'ok', '', '', 3, '', '', '', '']] };
  expect(toCsv(evil)).toContain("'=cmd(),'@x,'+1,'-2,ok");
  const [sheet] = await readFile('x.xlsx', await toXlsx(evil, 'instruments'));
  expect(sheet?.rows.at(-1)?.slice(0, 5)).toEqual(['=cmd()', '@x', '+1', '-2', 'ok']);
  expect(sheet?.rows[0]).toEqual(table.heads);
  // Signs that no workbook can hold are left out of it, and the rest is there.
  const odd = {
    ...table,
    rows: [['a\u0000b\u001f\ud800c\ufffe\udc00d\u{1f3bb}', 'valueOf', '__proto__', ...Array(9).fill('')]],
  };
  const [read] = await readFile('x.xlsx', await toXlsx(odd, 'instruments'));
  expect(read?.rows[1]?.slice(0, 3)).toEqual(['abcd\u{1f3bb}', 'valueOf', '__proto__']);
});

it('a whole programme is the same on another machine: taken along again it is the same bytes, photographs and all', async () => {
  const { db, folder } = await smallProgramme();
  const { keepFile } = await import('../photos/files');
  const hash = await keepFile(folder, await asKept(readFileSync('docs/screenshots/fleet.png')));
  await db('photo').insert({ hash, instrument_id: 1, bytes: 1, person_id: 1, at: NOW, step: '' });
  const text = await whole(folder);
  const other = fresh();
  expect(await bringProgramme(other, Readable.from([text]))).toMatchObject({ photos: 1 });
  expect(await whole(other)).toBe(text);
  const there = await openDatabase(other);
  expect(await there('instrument').count({ n: '*' }).first()).toEqual({ n: 4 });
  await there.destroy();
  // What is written is what docs/formats says.
  const schema = JSON.parse(readFileSync('docs/formats/programme.schema.json', 'utf8'));
  const validate = new Ajv2020({ strict: false }).compile(schema);
  expect(validate(JSON.parse(text)), JSON.stringify(validate.errors?.slice(0, 3))).toBe(true);

  const refused: [string, RegExp][] = [
    [text, /already/],
    [text.slice(0, text.length / 2), /cut short|changed/],
    [text.replace(/"schema":"[^"]+"/, '"schema":"9999-later"'), /newer version of Arvick/],
    ['{"hello":1}', /not an Arvick programme/],
    ['', /cut short/],
    [text.replace('"instrument_position":[', '"no_such_table":['), /does not know/],
    [text.replaceAll('"place_id":1,', '"place_id":77,'), /not consistent/],
  ];
  for (const [bytes, says] of refused)
    await expect(
      bringProgramme(says.source === 'already' ? other : fresh(), Readable.from([bytes])),
      says.source,
    ).rejects.toThrow(says);
});
