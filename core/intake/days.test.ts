import fc from 'fast-check';
import { expect, it } from 'vitest';
import { addDays, isLocalDate } from '../dates';
import { type DayStyle, dayStyleOf, readDay, readNumber, readTime, shareOfDays } from './days';

const on = (text: string, style: DayStyle = 'dmy') => {
  const read = readDay(text, style);
  return read.kind === 'day'
    ? `${read.on} ${read.exact}`
    : read.kind === 'wrong'
      ? `wrong ${read.meant ?? ''}`.trim()
      : 'none';
};

it('reads days as people write them', () => {
  const written: [string, string, DayStyle?][] = [
    ['14.9.25', '2025-09-14 day'],
    ['14. 9. 2025', '2025-09-14 day'],
    ['1/2/2026', '2026-02-01 day'],
    ['1/2/2026', '2026-01-02 day', 'mdy'],
    ['2026-02-01', '2026-02-01 day', 'mdy'],
    ['2026/2/1 10:30', '2026-02-01 day'],
    ['26-02-01', '2026-02-01 day', 'ymd'],
    ['14.9.25', '2025-09-14 day', 'ymd'],
    ['3 Sept 2025', '2025-09-03 day'],
    ['3. März 25', '2025-03-03 day'],
    ['Oct 3rd 2025', '2025-10-03 day'],
    ['1 août 2024', '2024-08-01 day'],
    ['03/2024', '2024-03-01 month'],
    ['2024-03', '2024-03-01 month'],
    ['Sept. 2025', '2025-09-01 month'],
    ['ca. Mai 24', '2024-05-01 month'],
    ['2023', '2023-01-01 year'],
    ['45931', '2025-10-01 serial'],
    ['31.11.25', 'wrong 2025-11-30'],
    ['29.2.2025', 'wrong 2025-02-28'],
    ['5.13.25', 'wrong'],
    ['next week', 'wrong'],
    ['', 'none'],
    ['?', 'none'],
    ['n/a', 'none'],
  ];
  for (const [text, is, style] of written) expect(on(text, style), `${text} ${style ?? ''}`).toBe(is);
});

it('a day written in any of these ways is read as that day; whatever else is written never as one that cannot be', () => {
  const day = fc.integer({ min: 0, max: 40_000 }).map((n) => addDays('1990-01-01', n));
  fc.assert(
    fc.property(day, (d) => {
      const [y, m, t] = d.split('-') as [string, string, string];
      const ways: [string, DayStyle][] = [
        [d, 'mdy'],
        [`${Number(t)}.${Number(m)}.${y}`, 'dmy'],
        [`${m}/${t}/${y}`, 'mdy'],
        [`${y}/${m}/${t}`, 'dmy'],
      ];
      for (const [text, style] of ways) expect(on(text, style)).toBe(`${d} day`);
    }),
  );
  fc.assert(
    fc.property(
      fc.oneof(fc.string(), fc.stringMatching(/^[0-9./ -]{1,12}$/)),
      fc.constantFrom<DayStyle>('dmy', 'mdy', 'ymd'),
      (text, style) => {
        const read = readDay(text, style);
        if (read.kind === 'day') expect(isLocalDate(read.on)).toBe(true);
        if (read.kind === 'wrong' && read.meant) expect(isLocalDate(read.meant)).toBe(true);
      },
    ),
  );
});

it('tells in which order a column is written, and says when it cannot', () => {
  expect(dayStyleOf(['13/2/26', '1/2/26'])).toEqual({ style: 'dmy', sure: true });
  expect(dayStyleOf(['2/13/26', '1/2/26'])).toEqual({ style: 'mdy', sure: true });
  expect(dayStyleOf(['1/2/26', '3/4/26'])).toEqual({ style: 'dmy', sure: false });
  expect(dayStyleOf(['1.2.26', '3.4.26'])).toEqual({ style: 'dmy', sure: true });
  expect(dayStyleOf(['1/1/26', '2/2/26'])).toEqual({ style: 'dmy', sure: true });
  expect(shareOfDays(['1.2.26', 'soon', '', '?'])).toBe(0.5);
  expect([readNumber('2,5'), readNumber('3 h'), readNumber('1.25'), readNumber('two'), readNumber('1,2,3')]).toEqual([
    2.5,
    3,
    1.25,
    null,
    null,
  ]);
});

it('reads times of the day as people write them', () => {
  const said = {
    '9:30': '09:30',
    '09.05': '09:05',
    '14h': '14:00',
    '12 pm': '12:00',
    '12am': '00:00',
    '9 Uhr': '09:00',
  };
  for (const [text, time] of Object.entries(said)) expect([text, readTime(text)]).toEqual([text, time]);
  for (const text of ['', 'noon', '25:00', '24:01', '13 pm', '0 am', '9:60', '9:3']) expect(readTime(text)).toBeNull();
  const minute = fc.integer({ min: 0, max: 24 * 60 });
  fc.assert(
    fc.property(minute, (m) => {
      const text = `${String(Math.floor(m / 60)).padStart(2, '0')}:${String(m % 60).padStart(2, '0')}`;
      expect(readTime(text)).toBe(text);
    }),
  );
});
