import { expect, it } from 'vitest';
import { WelcomeShape } from './people';

const zoneOf = (timeZone: unknown) =>
  WelcomeShape.safeParse({
    name: 'Skerrow Sound',
    person: 'Ann Ex',
    place: 'Workshop',
    timeZone,
    a4Hz: 440,
    password: 'three words alike',
  }).data?.timeZone;

it('takes every time zone that dates can be computed in, and keeps it as it is spelled', () => {
  // Spellings of one zone: which of them the list of a version has differs (IANA time zone database, backward links).
  for (const zone of ['Atlantic/Faroe', 'Atlantic/Faeroe', 'UTC', 'Europe/Dublin', 'Asia/Calcutta', 'Asia/Kolkata'])
    expect(zoneOf(zone)).toBe(zone);
  for (const zone of ['', 'Moon/Base', '+01:00', 'x'.repeat(300), 7, null]) expect(zoneOf(zone)).toBeUndefined();
});
