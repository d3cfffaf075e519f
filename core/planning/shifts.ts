import type { LocalDate } from '../dates';

/** One time that somebody works at a place. Nobody has two that overlap. */
export interface Shift {
  /** The weekly time it comes from and its day, as `12/2026-03-11`. */
  id: string;
  personId: number;
  placeId: number;
  /** The local day on which it begins. */
  on: LocalDate;
  /** Instants, in milliseconds since 1970 UTC. */
  startsAt: number;
  endsAt: number;
  /** Minutes from its start to its end; an hour more or less than the clocks say where they change between. */
  minutes: number;
  /** Local time at which it begins, as "09:00". */
  starts: string;
  /** Minutes on the way for it: from where the person was before, and home after the last of the day. */
  travelMinutes: number;
}

const MINUTE_MS = 60_000;
export const DAY_MINUTES = 24 * 60;

/** Minute of the day of a local time such as "09:30". */
export const minuteOf = (time: string): number => Number(time.slice(0, 2)) * 60 + Number(time.slice(3));

/** A local time such as "09:30" of a minute of the day. */
export const clockOf = (minute: number): string =>
  `${String(Math.floor((minute % DAY_MINUTES) / 60)).padStart(2, '0')}:${String(minute % 60).padStart(2, '0')}`;

/**
 * The shift in which something was planned: of that person at that place on that day the one in which it began, or the
 * nearest, where hours were changed since or nothing says when it began.
 */
export function shiftOf(
  shifts: readonly Shift[],
  p: { personId: number; placeId: number; on: LocalDate; startsAt: number | null },
): Shift | undefined {
  const own = shifts.filter((s) => s.personId === p.personId && s.placeId === p.placeId && s.on === p.on);
  const { startsAt } = p;
  if (startsAt === null) return own[0];
  const apart = (s: Shift) => Math.max(0, s.startsAt - startsAt, startsAt - s.endsAt + 1);
  return own.reduce<Shift | undefined>((a, b) => (a && apart(a) <= apart(b) ? a : b), undefined);
}

/** Work begun later than this before the end of a shift is not planned into it. */
const LEAST_LEFT_MS = 10 * MINUTE_MS;

/** What is left of a shift: nothing where it is over, its later part where it has begun. */
export function leftOf(shift: Shift, now: number): Shift | undefined {
  if (now <= shift.startsAt) return shift;
  const startsAt = Math.floor(now / MINUTE_MS) * MINUTE_MS;
  if (shift.endsAt - startsAt < LEAST_LEFT_MS) return undefined;
  const gone = (startsAt - shift.startsAt) / MINUTE_MS;
  return {
    ...shift,
    startsAt,
    minutes: (shift.endsAt - startsAt) / MINUTE_MS,
    starts: clockOf(minuteOf(shift.starts) + gone),
  };
}
