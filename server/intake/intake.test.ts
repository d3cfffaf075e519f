import { readFileSync } from 'node:fs';
import { zipSync } from 'fflate';
import type { Knex } from 'knex';
import { expect, it } from 'vitest';
import { acting, NOW, shelf, smallProgramme } from '../../tests/support/small';
import { loadClasses } from '../plan/classes';
import { receive, scrap } from '../stock/moves';
import { applyIntake } from './apply';
import { readFile } from './file';
import { addFile, decide, viewIntake } from './intake';
import { undoIntake } from './undo';

const utf8 = (text: string) => new TextEncoder().encode(text);
const messy = readFileSync('tests/files/instruments-messy.csv');

/** Takes a file in; the first of its sheets as it is then. */
async function take(db: Knex, text: string | Uint8Array, name = 'list.csv') {
  const { intakes } = await addFile(db, acting(), { name, bytes: typeof text === 'string' ? utf8(text) : text });
  return see(db, intakes[0] as number);
}
const see = async (db: Knex, id: number) => {
  const view = await viewIntake(db, { id, now: NOW, show: 'all', from: 0 });
  if (!view) throw new Error('no such sheet');
  return view;
};
type View = Awaited<ReturnType<typeof see>>;
const apply = (db: Knex, view: View) => applyIntake(db, acting(), { id: view.id, expectedVersion: view.version });
const everything = async (db: Knex) => {
  const kept: Record<string, unknown> = {};
  for (const table of [
    'instrument',
    'instrument_position',
    'instrument_state',
    'use_period',
    'string_entry',
    'change_record',
    'job',
    'place',
    'person',
    'product',
    'set_item',
    'instrument_busy',
    'lot_balance',
  ] as const)
    kept[table] = await db(table).select('*');
  return kept;
};

it('reads a messy list: what it is, what is asked once, what cannot be, and changes nothing by it', async () => {
  const { db } = await smallProgramme();
  const before = await everything(db);
  let view = await take(db, messy);
  expect(view).toMatchObject({
    subject: 'instruments',
    found: { delimiter: ';', encoding: 'Windows' },
    dayStyle: 'dmy',
  });
  expect(view.fields).toEqual(['tag', 'kind', 'place', 'on', 'strings', 'hours', 'note']);
  const row = (tag: string, nth = 0) => view.rows.filter((r) => r.cells[0] === tag)[nth];
  expect(row('U-03')?.remarks[0]?.says).toContain('month only');
  expect(row('U-03', 1)).toMatchObject({ does: 'problem', remarks: [{ fixes: ['U-03b'] }] });
  expect(row('V-101')?.remarks[0]).toMatchObject({ bad: true, fixes: ['2025-11-30'] });
  // What a word means is asked once, however many rows have it.
  expect(view.questions.filter((q) => q.about === 'kind').map((q) => [q.word, q.rows, q.confidence])).toContainEqual([
    'Konzertgit. 7/8',
    2,
    'likely',
  ]);
  expect(view.questions.find((q) => q.word === 'Rm 4')).toMatchObject({
    answer: { says: 'Room 4' },
    confidence: 'likely',
  });
  expect(row('B/1')?.does).toBe('problem');
  // VN-1 is a violin of another size here.
  expect(row('VN-1')?.remarks.at(-1)?.says).toContain('on record as');
  expect(await everything(db)).toEqual(before);

  await decide(db, acting(), {
    id: view.id,
    expectedVersion: view.version,
    word: { key: 'kind:bass', value: 'bass-guitar/right/4/4' },
  });
  view = await see(db, view.id);
  expect(row('B/1')).toMatchObject({ does: 'add', says: 'Bass guitar' });
  await decide(db, acting(), {
    id: view.id,
    expectedVersion: view.version,
    cells: [
      { row: row('U-03', 1)?.row ?? 0, column: 0, value: 'U-03b' },
      { row: row('V-101')?.row ?? 0, column: 3, value: '2025-11-30' },
    ],
  });
  view = await see(db, view.id);
  expect(view.counts).toMatchObject({ add: 9, problem: 1 });
  await expect(decide(db, acting(), { id: view.id, expectedVersion: 1, usualSets: false })).rejects.toThrow(
    /Someone else has changed/,
  );
});

it('takes over what can be, leaves the rest for later, says nothing new of the same file, and is undone as a whole', async () => {
  const { db } = await smallProgramme();
  const before = await everything(db);
  const view = await take(db, messy);
  const { made, left } = await apply(db, view);
  expect(made).toMatchObject({ instruments: 6, places: 3, changes: 4 });
  expect(left).toBe(4);
  await expect(apply(db, await see(db, view.id))).rejects.toThrow(/imported or discarded/);
  const state = await db('instrument_state').where({ tag: 'E-8' }).first();
  expect(state).toMatchObject({ changed_on: '2025-08-01', place_name: 'Store' });
  const positions = await db('instrument_position').where({ instrument_id: state?.instrument_id });
  expect(positions).toHaveLength(6);
  // Its usual set was made for it, and these are on it since that day.
  expect(
    positions.every((p) => p.now_product_id !== null && p.now_fitted_at === Date.parse('2025-08-01T12:00:00Z')),
  ).toBe(true);
  // Strings of unknown age stay so, and their looks are spread over the weeks.
  const looks = await db('instrument_state')
    .whereIn('tag', ['G-015', 'VN-2'])
    .orderBy('due_on')
    .select('due_by', 'due_on');
  expect(looks.map((l) => l.due_by)).toEqual(['unknown-age', 'unknown-age']);
  expect(looks[0]?.due_on).not.toBe(looks[1]?.due_on);
  // The rows that could not be are a sheet of their own, and the file brought again says nothing new beside them.
  const waiting = await db('intake').where({ status: 'open' });
  expect(waiting).toHaveLength(1);
  const again = await take(db, messy);
  expect(again.counts).toMatchObject({ add: 0, change: 0, same: 6, problem: 4 });

  const applied = await see(db, view.id);
  const key = acting();
  await undoIntake(db, key, { id: view.id, expectedVersion: applied.version });
  await undoIntake(db, key, { id: view.id, expectedVersion: applied.version });
  expect(await everything(db)).toEqual(before);
});

it('is not undone once something stands on it, and says what', async () => {
  const { db } = await smallProgramme();
  const view = await take(db, 'Tag,Kind,Place\nX-1,Violin,Workshop\nX-2,Cello 1/2,Workshop\n');
  await apply(db, view);
  const version = (await see(db, view.id)).version;
  const x2 = await db('instrument').where({ tag: 'X-2' }).first();
  await db('instrument_busy').insert({
    instrument_id: x2?.id,
    from_on: '2026-04-01',
    to_on: '2026-04-02',
    why: 'tour',
    kind: 'loan',
  });
  const before = await everything(db);
  await expect(undoIntake(db, acting(), { id: view.id, expectedVersion: version })).rejects.toThrow(/X-2: loans/);
  expect(await everything(db)).toEqual(before);
});

it('changes what is there by what a list says and by nothing else, and puts it back', async () => {
  const { db } = await smallProgramme();
  const before = await everything(db);
  const view = await take(
    db,
    'tag;with;where;hours;last strings\nac-1;Class 7b;;3,5;1/2/2026\nUK-1;class set;Workshop;2;\n',
  );
  expect(view.counts).toMatchObject({ change: 1, same: 1, problem: 0 });
  await apply(db, view);
  expect(await db('instrument').where({ tag: 'AC-1' }).first()).toMatchObject({
    holder: 'Class 7b',
    place_id: 1,
    version: 2,
  });
  expect(await db('use_period').whereNull('to_on').orderBy('id', 'desc').first()).toMatchObject({
    hours_per_week: 3.5,
  });
  const version = (await see(db, view.id)).version;
  await undoIntake(db, acting(), { id: view.id, expectedVersion: version });
  const after = await everything(db);
  // A record that was taken back stays in the history; what counts is as it was.
  for (const table of ['instrument_position', 'use_period', 'instrument_state'])
    expect(after[table], table).toEqual(before[table]);
  expect(await db('instrument').where({ tag: 'AC-1' }).first()).toMatchObject({ holder: 'class set' });
});

it('takes over people, places, strings, what lies on the shelf, past changes and loans', async () => {
  const { db } = await smallProgramme();
  const people = await take(db, 'Name,Role,Works at\nCy Zed,Techniker,North Hall\nAnn Ex,coordinator,Workshop\n');
  expect(people).toMatchObject({ subject: 'people', counts: { add: 1, same: 1 } });
  await apply(db, people);
  expect(await db('person').where({ name: 'Cy Zed' }).first()).toMatchObject({ role: 'technician', initials: 'CZ' });
  const places = await take(db, 'Place,Store\nEast Room,yes\nWorkshop,yes\n', 'places.csv');
  expect(places).toMatchObject({ subject: 'places', counts: { add: 1, same: 1 } });
  await apply(db, places);
  const strings = await take(
    db,
    'Code,Name,For,Gauges,Price\nXL-12,Own light,acoustic guitar,12 16 24w 32w 42w 53w,"9,50"\nXS-9,Own e,electric guitar,9,1.20\n',
  );
  expect(strings).toMatchObject({ subject: 'strings', counts: { add: 2 } });
  await apply(db, strings);
  const set = await db('product').where({ sku: 'XL-12' }).first();
  expect(set).toMatchObject({ kind: 'set', price_cents: 950, family: 'steel-acoustic' });
  expect(await db('set_item').where({ set_id: set?.id })).toHaveLength(6);
  const lying = await take(db, 'Code,Quantity,Place\nXL-12,7,Workshop\nFUL-1253,1,Workshop\n');
  expect(lying).toMatchObject({ subject: 'shelf', counts: { add: 1, same: 1 } });
  await apply(db, lying);
  expect((await shelf(db))['XL-12 set']).toBe(7);
  const changes = await take(
    db,
    'Tag,Date,By,Strings\nVN-1,3.1.2026,BW,\nUK-2,1.2.2026,somebody,"4, 1"\nUK-9,1.2.2026,,\n',
  );
  expect(changes).toMatchObject({ subject: 'changes', counts: { add: 2, problem: 1 } });
  await apply(db, changes);
  const fitted = await db('instrument_position as p')
    .join('instrument as i', 'i.id', 'p.instrument_id')
    .where({ 'i.tag': 'UK-2' })
    .whereNotNull('now_fitted_at')
    .pluck('number');
  expect(fitted.sort()).toEqual([1, 4]);
  const loans = await take(db, 'Tag,From,Until,Lent to\nUK-1,2026-03-01,2026-07-01,Class 5\n');
  expect(loans).toMatchObject({ subject: 'loans', counts: { add: 1 } });
  await apply(db, loans);
  expect((await take(db, 'Tag,From,Until,Lent to\nUK-1,2026-03-01,2026-07-01,Class 5\n')).counts).toMatchObject({
    add: 0,
    same: 1,
  });

  // Lessons have hours; what comes every week is a class that its rows share, and goes as a whole.
  const text = [
    'Tag,From,To,Class,Start time,End time,Weekly',
    'UK-1,2026-04-01,2026-06-30,Year 4,9 am,10.15,yes',
    'UK-2,2026-04-01,2026-06-30,Year 4,09:00,10:15,x',
    'AC-1,2026-04-02,,Trial,14h,15:00,',
    'VN-1,2026-04-02,,Trial,15:00,14:00,',
    'VN-1,2026-04-02,,Trial,at noon,14:00,',
    'VN-1,2026-04-02,,Trial,9:00,14:00,yes',
  ].join('\n');
  const lessons = await take(db, text);
  expect(lessons).toMatchObject({ subject: 'loans', counts: { add: 3, problem: 3 } });
  await apply(db, lessons);
  expect(await loadClasses(db, '2026-04-01')).toMatchObject([{ name: 'Year 4', weekday: 3, instruments: 2 }]);
  expect(await db('instrument_busy').where({ kind: 'lesson' })).toMatchObject([
    { from_on: '2026-04-02', to_on: '2026-04-02', from_time: '14:00', to_time: '15:00', why: 'Trial' },
  ]);
  expect((await take(db, text)).counts).toMatchObject({ add: 0, same: 3, problem: 3 });
  await undoIntake(db, acting(), { id: lessons.id, expectedVersion: (await see(db, lessons.id)).version });
  expect([await db('class'), await db('instrument_busy').where({ kind: 'lesson' })]).toEqual([[], []]);

  // Strings that were used since keep their list from being undone; before that their value goes with them.
  const version = (await see(db, lying.id)).version;
  const lot = await db('lot_balance as b')
    .join('lot as l', 'l.id', 'b.lot_id')
    .where({ 'l.product_id': set?.id })
    .first('l.id', 'b.place_id');
  await receive(db, acting(), { productId: set?.id as number, quantity: 1, placeId: 1, unitCostCents: 1 });
  await scrap(db, acting(), { lotId: lot?.id as number, placeId: 1, quantity: 1, reason: 'bent' });
  await expect(undoIntake(db, acting(), { id: lying.id, expectedVersion: version })).rejects.toThrow(/moved or used/);
});

it('says what is wrong with a file that cannot be, and keeps nothing of it', async () => {
  const { db } = await smallProgramme();
  const bomb = zipSync(
    {
      '[Content_Types].xml': utf8('<x/>'),
      'xl/workbook.xml': utf8('<sheet name="a"/>'),
      'xl/worksheets/sheet1.xml': new Uint8Array(250_000_000),
    },
    { level: 9 },
  );
  const hostile: [Uint8Array, RegExp][] = [
    [new Uint8Array(), /empty/],
    [utf8('%PDF-1.7 ...'), /PDF/],
    [Uint8Array.from([0xd0, 0xcf, 0x11, 0xe0, 1, 2]), /\.xls /],
    [Uint8Array.from([0x50, 0x4b, 3, 4, 9, 9, 9]), /not an \.xlsx/],
    [Uint8Array.from([1, 0, 0, 2, 0, 9]), /not a list/],
    [utf8('Tag,Kind\nA-1,"Violin\nA-2,Cello\n'), /never closes/],
    [utf8(`Tag,Kind\nA-1,${'x'.repeat(5000)}\n`), /4000 characters/],
    [utf8(`Tag${',x'.repeat(200)}\nA${',1'.repeat(200)}\n`), /columns/],
    [utf8(`Tag,Kind\n${'A-1,Violin\n'.repeat(200_000)}`), /more than 50,000 rows/],
    [bomb, /too large once unpacked/],
    [zipSync({ 'content.xml': utf8('<x/>') }), /not an \.xlsx/],
  ];
  for (const [bytes, says] of hostile) await expect(readFile('x', bytes), String(says)).rejects.toThrow(says);
  await expect(addFile(db, acting(), { name: 'head.csv', bytes: utf8('Tag,Kind\n') })).rejects.toThrow(/no rows/);
  expect(await db('intake')).toEqual([]);
  // Lines of two encodings, each as it is.
  const mixed = Buffer.concat([utf8('Tag,Kind,Place\nA-1,Violin,Süd\n'), Buffer.from('A-2,Violin,Süd\n', 'latin1')]);
  expect((await readFile('m.csv', mixed))[0]?.rows.map((r) => r[2])).toEqual(['Place', 'Süd', 'Süd']);
});
