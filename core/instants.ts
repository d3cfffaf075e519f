import { type LocalDate, sayWeekday, sayWeekdayShort } from './dates';

const zones = new Map<string, Intl.DateTimeFormat>();

/** What a calendar and a clock on the wall of a place show then: "2026-12-18" and "14:00". */
function onTheWall(at: number, timeZone: string): { day: LocalDate; time: string } {
  let wall = zones.get(timeZone);
  if (!wall) {
    const two = '2-digit';
    wall = new Intl.DateTimeFormat('en-US', {
      timeZone,
      hourCycle: 'h23',
      year: 'numeric',
      month: two,
      day: two,
      hour: two,
      minute: two,
    });
    zones.set(timeZone, wall);
  }
  const parts = wall.formatToParts(at);
  const of = (type: Intl.DateTimeFormatPartTypes) => parts.find((p) => p.type === type)?.value ?? '';
  return { day: `${of('year')}-${of('month')}-${of('day')}`, time: `${of('hour')}:${of('minute')}` };
}

/** "Thu 14:00", with the date when it is more than six days off. */
export function sayInstant(at: number, now: number, timeZone: string): string {
  const { day, time } = onTheWall(at, timeZone);
  return `${Math.abs(at - now) < 6 * 86_400_000 ? sayWeekdayShort(day) : sayWeekday(day)} ${time}`;
}
