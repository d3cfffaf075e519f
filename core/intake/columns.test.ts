import { expect, it } from 'vitest';
import { FIELDS, guessSubject, headingRow, mapColumns, SUBJECTS } from './columns';

it('knows its own sheets by their headings, whatever the order', () => {
  for (const subject of SUBJECTS) {
    const heads = FIELDS[subject].map((f) => f.name).reverse();
    expect(guessSubject(heads, []), subject).toBe(subject);
    expect(mapColumns(subject, heads, []).fields).toEqual(FIELDS[subject].map((f) => f.key).reverse());
  }
});

it('finds the headings below a title, and columns by what stands in them where a heading says nothing', () => {
  const rows = [
    ['Strings department', '', '', '', ''],
    ['', 'what we have', 'in', 'x', 'y'],
    ['V-1', 'Violin 1/2', 'Room 4', '14.9.25', ''],
    ['V-2', 'Violin 1/2', 'Room 4', '3.2.26', ''],
    ['C-1', 'Cello', 'Room 4', '', ''],
    ['C-2', 'Cello', 'Room 4', '1.2.26', ''],
  ];
  const at = headingRow(rows);
  expect(at).toBe(1);
  const mapped = mapColumns('instruments', rows[at] as string[], rows.slice(at + 1));
  expect(mapped.fields.slice(0, 2)).toEqual(['tag', 'kind']);
  expect(mapped.fields[3]).toBe('on');
  // Each field is one column, and a column that is nothing is left out.
  const used = mapped.fields.filter(Boolean);
  expect(new Set(used).size).toBe(used.length);
  expect(mapped.fields[4]).toBeNull();
});
