import { z } from 'zod';
import { addDays, isLocalDate } from '../core/dates';
import { FAMILIES } from '../core/instruments/build';
import { PLAN_KINDS } from '../core/planning/kinds';
import { Clock, Day, Id, num, PlaceOrAll, Seen } from './basics';
import { REQUEST_KINDS } from './choices';

export const AvailabilityShape = z.object({
  personId: Id,
  placeId: Id,
  weekday: num(z.int().min(1).max(7)),
  minutes: num(z.int().min(15).max(720)),
  starts: Clock,
});

const NoClock = z.union([z.literal(''), Clock]).default('');

/** Somebody is away from a day to another, or a part of each; without a reason they are there after all. */
export const AwayShape = z
  .object({
    personId: Id,
    on: Day,
    to: z.union([z.literal('').transform(() => undefined), Day]).optional(),
    fromTime: NoClock,
    toTime: NoClock,
    why: z.string().trim().max(100),
  })
  .refine((p) => p.to === undefined || p.to >= p.on, 'check the dates: the last day is before the first')
  .refine(
    (p) => p.to === undefined || !isLocalDate(p.on) || p.to <= addDays(p.on, 400),
    'enter at most a year at a time',
  )
  .refine((p) => (p.fromTime === '') === (p.toTime === ''), 'enter both times, or neither for the whole day')
  .refine((p) => p.fromTime === '' || p.fromTime < p.toTime, 'check the times: the end is before the start');

/** Hours on one day only. */
export const OnceShape = z.object({
  personId: Id,
  placeId: Id,
  on: Day,
  starts: Clock,
  minutes: num(z.int().min(15).max(720)),
});

/** Two people do each other's hours on a day. */
export const SwapShape = z
  .object({ on: Day, personId: Id, otherId: Id })
  .refine((p) => p.personId !== p.otherId, 'choose two different people');

/** A job of today's plan that will not fit, or that was done elsewhere; as it was planned, without a reason. */
export const ASIDE = ['no-room', 'elsewhere'] as const;
export const AsideShape = z.object({
  tag: z.string().trim().min(1).max(60),
  kind: z.enum(PLAN_KINDS),
  why: z.union([z.literal(''), z.enum(ASIDE)]),
});

export const SignOffShape = z.object({
  personId: Id,
  family: z.enum(FAMILIES),
  level: num(z.int().min(0).max(4)),
  was: Seen,
});

export const BusyShape = z.object({
  tag: z.string(),
  from: Day,
  to: Day,
  why: z.string().trim().min(2).max(100),
  kind: z.enum(['loan', 'lesson']).default('loan'),
});

export const HolidayShape = z.object({
  from: Day,
  to: Day,
  name: z.string().trim().min(2).max(100),
  placeId: PlaceOrAll,
});

export const TravelShape = z.object({
  fromId: Id,
  toId: Id,
  minutes: num(z.int().min(0).max(600)),
  was: Seen,
});

/** When the last way back leaves a place; empty where there is one at any time. */
export const LastWayShape = z.object({ placeId: Id, leaves: Clock.or(z.literal('')), was: Seen });

export const BenchSpaceShape = z.object({ placeId: Id, instruments: num(z.int().min(0).max(100)), was: Seen });

export const RequestShape = z.object({
  tag: z.string().trim().min(1),
  kind: z.enum(REQUEST_KINDS),
  dueOn: Day,
  why: z.string().trim().min(2).max(100),
});

const Weight = num(z.number().min(0).max(1000));

const AtLeastOne = num(z.number().min(1).max(1000));

export const WeightsShape = z.object({
  expectedVersion: num(z.int().min(0)),
  weights: z.object({
    wall: AtLeastOne,
    unplannedDays: Weight,
    missedRetune: Weight,
    setUp: Weight,
    travel: Weight,
    fairness: Weight,
    change: Weight,
  }),
});

export const PublishShape = z.object({
  basedOn: z.int().nullable(),
  items: z
    .array(
      z.object({
        instrumentId: Id,
        kind: z.enum(PLAN_KINDS),
        personId: Id,
        placeId: Id,
        on: Day,
        startsAt: z.int(),
        minutes: z.int().min(0).max(1440),
        locked: z.boolean(),
        learnerId: Id.nullable(),
      }),
    )
    .max(5000),
});

/** A calendar of some years. */
export const MOST_CALENDAR_BYTES = 4_000_000;

/** What a calendar can be about. */
export const CALENDARS = ['loans', 'lessons', 'concerts', 'holidays'] as const;

export const CalendarShape = z.object({
  text: z.string().min(1).max(MOST_CALENDAR_BYTES),
  source: z.string().trim().min(1).max(120),
  about: z.enum(CALENDARS),
});

export const ConcertShape = z.object({
  name: z.string().trim().min(2).max(100),
  on: Day,
  placeId: PlaceOrAll,
  /** Tags, or what instruments are held by, such as "orchestra", with commas between. */
  who: z.string().trim().max(20_000).default(''),
});

/** A class that comes every week, with tags, or whom its instruments are with. */
export const ClassShape = z.object({
  name: z.string().trim().min(2).max(100),
  placeId: PlaceOrAll,
  weekday: num(z.int().min(1).max(7)),
  fromTime: Clock,
  toTime: Clock,
  from: Day,
  to: Day,
  who: z.string().trim().max(20_000),
});

/** The file whose entries go. */
export const CalendarSourceShape = z.object({ source: z.string().trim().min(1).max(120) });

export type ClassRoom = z.output<typeof ClassShape>;
export type Weekly = z.output<typeof AvailabilityShape>;
export type Once = z.output<typeof OnceShape>;
export type Swap = z.output<typeof SwapShape>;
export type Aside = z.output<typeof AsideShape>;
export type Weights = z.output<typeof WeightsShape>;
export type Publish = z.output<typeof PublishShape>;
export type WorkRequest = z.output<typeof RequestShape>;
export type CalendarFile = z.output<typeof CalendarShape>;
