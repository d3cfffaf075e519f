import { TZDate } from '@date-fns/tz';
import fc from 'fast-check';
import rrule from 'rrule';
import { describe, expect, it } from 'vitest';
import { acting, NOW, smallProgramme } from '../../tests/support/small';
import { draftCalendar, feedOf, importCalendar } from './calendar';
import { readCalendar } from './ics';

const ZONE = 'Europe/London';
const calendar = (...lines: string[]) =>
  ['BEGIN:VCALENDAR', 'VERSION:2.0', 'PRODID:-//test//test//EN', ...lines, 'END:VCALENDAR'].join('\r\n');
const event = (...lines: string[]) => ['BEGIN:VEVENT', 'UID:one', 'DTSTAMP:20260101T000000Z', ...lines, 'END:VEVENT'];
const occurrencesOf = (text: string, p: { from: string; until: string; timeZone: string }) =>
  readCalendar(text, p).occurrences;
const starts = (text: string, from: string, until: string, timeZone = ZONE) =>
  occurrencesOf(text, { from, until, timeZone }).map((o) => new Date(o.start).toISOString());

describe('reading calendars', () => {
  it('reads a local time twice there, and one that is skipped, as RFC 5545 3.3.5 says', () => {
    const at = (local: string) =>
      starts(calendar(...event(`DTSTART;TZID=America/New_York:${local}`, 'SUMMARY:x')), '2007-01-01', '2007-12-31')[0];
    expect(at('20071104T013000')).toBe('2007-11-04T05:30:00.000Z');
    expect(at('20070311T023000')).toBe('2007-03-11T07:30:00.000Z');
  });

  it('a 53rd Wednesday is only in years that have one', () => {
    // RFC 5545, 3.3.10: an ordinal counts within the year; 2025 and 2031 begin on a Wednesday.
    const yearly = (by: string) =>
      starts(
        calendar(...event('DTSTART:20250101T090000Z', `RRULE:FREQ=YEARLY;BYDAY=${by}`, 'SUMMARY:x')),
        '2025-01-02',
        '2032-01-01',
      ).map((at) => at.slice(0, 10));
    expect(yearly('53WE')).toEqual(['2025-12-31', '2031-12-31']);
    expect(yearly('1WE')).toHaveLength(6);
    expect(yearly('-1WE')).toHaveLength(7);
  });

  it('has the occurrences that a reference library computes, by the wall clock, over clock changes', () => {
    const two = (n: number) => String(n).padStart(2, '0');
    fc.assert(
      fc.property(
        fc.record({
          freq: fc.constantFrom('DAILY', 'WEEKLY', 'MONTHLY'),
          interval: fc.integer({ min: 1, max: 3 }),
          count: fc.integer({ min: 1, max: 30 }),
          byday: fc.uniqueArray(fc.constantFrom('MO', 'TU', 'WE', 'TH', 'FR', 'SA', 'SU'), { maxLength: 3 }),
          day: fc.integer({ min: 1, max: 28 }),
          month: fc.integer({ min: 1, max: 12 }),
          hour: fc.integer({ min: 3, max: 22 }),
          skip: fc.uniqueArray(fc.nat(10), { maxLength: 3 }),
        }),
        (p) => {
          const rule = `FREQ=${p.freq};INTERVAL=${p.interval};COUNT=${p.count}${p.freq === 'WEEKLY' && p.byday.length ? `;BYDAY=${p.byday.join(',')}` : ''}`;
          const local = `2026${two(p.month)}${two(p.day)}T${two(p.hour)}1500`;
          // The reference reckons in plain wall-clock time.
          const all = rrule.rrulestr(`DTSTART:${local}Z\nRRULE:${rule}`).all();
          const left = all.filter((_, i) => !p.skip.includes(i));
          const stamp = (d: Date) => d.toISOString().replace(/[-:]|\.000Z/g, '');
          const skipped = all.filter((_, i) => p.skip.includes(i)).map((d) => `EXDATE;TZID=${ZONE}:${stamp(d)}`);
          const text = calendar(
            ...event(`DTSTART;TZID=${ZONE}:${local}`, 'DURATION:PT45M', `RRULE:${rule}`, ...skipped, 'SUMMARY:lesson'),
          );
          const got = occurrencesOf(text, { from: '2026-01-01', until: '2036-01-01', timeZone: 'UTC' }).map((o) => {
            const t = new TZDate(o.start, ZONE);
            return new Date(
              Date.UTC(t.getFullYear(), t.getMonth(), t.getDate(), t.getHours(), t.getMinutes()),
            ).toISOString();
          });
          expect(got).toEqual(left.map((d) => d.toISOString()));
        },
      ),
      { numRuns: 120 },
    );
  });

  it('knows all-day events, moved and cancelled occurrences, and extra dates', () => {
    const day = occurrencesOf(calendar(...event('DTSTART;VALUE=DATE:20260405', 'SUMMARY:tour')), {
      from: '2026-04-01',
      until: '2026-04-30',
      timeZone: ZONE,
    })[0];
    expect(day).toMatchObject({ allDay: true });
    expect((day?.end ?? 0) - (day?.start ?? 0)).toBe(86_400_000);
    const text = calendar(
      ...event(
        'DTSTART;TZID=Europe/London:20260302T100000',
        'RRULE:FREQ=WEEKLY;COUNT=4',
        'RDATE;TZID=Europe/London:20260303T100000',
        'SUMMARY:class',
      ),
      ...event(
        'RECURRENCE-ID;TZID=Europe/London:20260309T100000',
        'DTSTART;TZID=Europe/London:20260310T140000',
        'SUMMARY:class, moved',
      ),
      ...event(
        'RECURRENCE-ID;TZID=Europe/London:20260316T100000',
        'DTSTART;TZID=Europe/London:20260316T100000',
        'STATUS:CANCELLED',
        'SUMMARY:class',
      ),
    );
    expect(starts(text, '2026-03-01', '2026-03-31')).toEqual([
      '2026-03-02T10:00:00.000Z',
      '2026-03-03T10:00:00.000Z',
      '2026-03-10T14:00:00.000Z',
      '2026-03-23T10:00:00.000Z',
    ]);
    expect(() => starts('hello', '2026-01-01', '2026-02-01')).toThrow();
  });

  it('takes instruments out of reach by the tags in its words, and over again in the place of what it said', async () => {
    const { db } = await smallProgramme();
    const text = calendar(
      ...event('DTSTART;VALUE=DATE:20260312', 'DTEND;VALUE=DATE:20260315', 'SUMMARY:Loan of AC-1 to a family'),
      'BEGIN:VEVENT',
      'UID:two',
      'DTSTAMP:20260101T000000Z',
      'DTSTART:20260313T090000Z',
      'SUMMARY:staff meeting',
      'END:VEVENT',
    );
    const p = { text, about: 'loans' as const, today: '2026-03-10', timeZone: 'UTC' };
    const draft = await draftCalendar(db, p);
    expect(draft.busy).toEqual([
      {
        tag: 'AC-1',
        from: '2026-03-12',
        to: '2026-03-14',
        fromTime: null,
        toTime: null,
        why: 'Loan of AC-1 to a family',
      },
    ]);
    expect(draft.unnamed).toEqual([{ summary: 'staff meeting', on: '2026-03-13' }]);
    await importCalendar(db, acting(), { ...p, source: 'loans.ics' });
    await importCalendar(db, acting(), { ...p, source: 'loans.ics' });
    expect(await db('instrument_busy')).toHaveLength(1);
    await db.destroy();
  });
});

it('a feed reads back the same: place, what is done on which instrument, minutes, strings to bring', () => {
  const job = (tag: string, strings: string | null) => ({
    tag,
    name: 'Violin, 3/4',
    holder: '',
    says: strings ? 'strings' : 'retune',
    minutes: 25.4,
    strings,
  });
  const sessions = [
    {
      id: 'a',
      start: NOW,
      minutes: 90,
      summary: 'Strings: 3 instruments',
      place: 'Tarn Hall; back, room',
      tags: ['A-1', 'B-2'],
      person: 'Ann',
      jobs: [job('A-1', 'Light, 12'), job('B-2', 'Light, 12'), job('B-3', null)],
    },
    {
      id: 'b',
      start: NOW + 86_400_000,
      minutes: 15,
      summary: 'Strings: A-1',
      place: 'C:\\new',
      tags: ['A-1'],
      person: 'Ann',
      jobs: [job('A-1', null)],
    },
  ];
  const back = occurrencesOf(feedOf('Ann', sessions, NOW), { from: '2026-03-01', until: '2026-03-31', timeZone: ZONE });
  expect(back).toMatchObject(
    sessions.map((s) => ({
      uid: s.id,
      summary: s.summary,
      location: s.place,
      description: [
        ...s.jobs.map((j) => `${j.tag}, Violin, 3/4: ${j.says}, 25 min`),
        ...(s.id === 'a' ? ['Bring: Light, 12 × 2'] : []),
      ].join('\n'),
      start: s.start,
      end: s.start + s.minutes * 60_000,
    })),
  );
});
