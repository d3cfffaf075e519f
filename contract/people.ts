import { z } from 'zod';
import { isTimeZone } from '../core/dates';
import { FAMILIES } from '../core/instruments/build';
import { DAY_STYLES, GAUGES, isCurrency, LENGTHS } from '../core/manner';
import { LEADS } from '../core/procedures/led';
import { CLIMATES, PLAYERS } from '../core/wear/exposure';
import { Password } from './access';
import { Clock, Day, num, Seen } from './basics';

const TimeZone = z.string().max(60).refine(isTimeZone, 'choose a time zone such as Europe/Dublin');

/** What a new programme begins with. */
export const WelcomeShape = z.object({
  name: z.string().trim().min(1, 'give the programme a name').max(80),
  person: z.string().trim().min(1, 'enter your name').max(60),
  place: z.string().trim().min(1, 'name the place where the strings are kept').max(60),
  timeZone: TimeZone,
  a4Hz: num(z.number().min(415).max(466)),
  password: Password,
});

const Name = (what: string, most: number) => z.string().trim().min(1, `${what} needs a name`).max(most);
export const ROLES = ['coordinator', 'technician', 'helper', 'teacher'] as const;
const Version = num(z.int());

export const PersonShape = z.object({
  name: Name('A person', 60),
  initials: z.string().trim().max(4).default(''),
  role: z.enum(ROLES),
  placeId: num(z.int()),
});
export const EditPersonShape = PersonShape.extend({ expectedVersion: Version });
export const PlaceShape = z.object({
  name: Name('A place', 60),
  isStore: z.preprocess((v) => v === true || v === 'on' || v === 'true', z.boolean()),
});
export const EditPlaceShape = PlaceShape.extend({ expectedVersion: Version });
/** Somebody leaves, a place is given up; or they are back. */
export const RetireShape = z.object({ expectedVersion: Version });
export const ProgrammeShape = z
  .object({
    name: Name('The programme', 80),
    timeZone: TimeZone,
    a4Hz: num(z.number().min(415).max(466)),
    currency: z.string().refine(isCurrency, 'use a three-letter currency code such as EUR').optional(),
    dayStyle: z.enum(DAY_STYLES).optional(),
    weekStarts: num(z.union([z.literal(1), z.literal(6), z.literal(7)])).optional(),
    lengths: z.enum(LENGTHS).optional(),
    gauges: z.enum(GAUGES).optional(),
    dayFrom: Clock.optional(),
    dayTo: Clock.optional(),
    expectedVersion: Version,
  })
  .refine(
    (p) => p.dayFrom === undefined || p.dayTo === undefined || p.dayFrom < p.dayTo,
    'the working day must end after it starts',
  );
/** An address that other devices reach: whole, of the web, and not of the machine itself. */
const Address = z
  .string()
  .trim()
  .max(120)
  .transform((text) => text.replace(/\/+$/, ''))
  .refine((text) => {
    if (text === '') return true;
    if (!URL.canParse(text)) return false;
    const { protocol, hostname, pathname, search, hash, username } = new URL(text);
    return (
      (protocol === 'https:' || protocol === 'http:') &&
      pathname === '/' &&
      !(search || hash || username) &&
      !/^(localhost|127\.|0\.0\.0\.0$|\[::1?\]$)|\.localhost$/.test(hostname)
    );
  }, 'use an address that phones can reach, such as https://strings.school.example: not localhost, and nothing after the name');
const Tick = z.preprocess((v) => v === true || v === 'on' || v === 'true', z.boolean());
export const PERFORMANCE = ['own', 'coordinator', 'desk'] as const;
export const TrustShape = z
  .object({
    address: Address,
    byLabel: Tick,
    performance: z.enum(PERFORMANCE),
    saidDays: num(z.int().min(7, 'at least a week').max(3650)),
    expectedVersion: Version,
  })
  .refine((p) => !p.byLabel || p.address !== '', 'to use codes on labels, enter the address they lead to');
export type TrustSettings = z.output<typeof TrustShape>;
export type NewPerson = z.output<typeof PersonShape>;
export type NewPlace = z.output<typeof PlaceShape>;
export type ProgrammeSettings = z.output<typeof ProgrammeShape>;

export const MeShape = z.object({ theme: z.enum(['workshop', 'dusk', 'system']) });

export const DeskShape = z.object({ placeId: num(z.int()) });
export const LeadShape = z.object({ lead: z.enum(LEADS) });
export const HorizonShape = z.object({ horizonOn: Day });
export const ClimateShape = z.object({ climate: z.enum(CLIMATES), was: Seen });
export const PlayerShape = z.object({ player: z.enum(PLAYERS), was: Seen });

/** A card that was practised: how much of what was asked was right the first time. */
export const PractisedShape = z
  .object({ family: z.enum(FAMILIES), asked: z.int().min(1).max(200), right: z.int().min(0).max(200) })
  .refine((p) => p.right <= p.asked, 'there cannot be more right answers than questions');
/** Nothing more has to be said. */
export const NothingShape = z.object({});
export type Practised = z.output<typeof PractisedShape>;

/** Which entries of who did what are asked for. */
export const AuditShape = z.object({
  who: z
    .union([z.literal('').transform(() => undefined), num(z.int().min(0))])
    .optional()
    .catch(undefined),
  /** Empty: all but what is of the screen; `all`; or one kind of change. */
  what: z.string().max(60).catch('').default(''),
  tag: z.string().trim().max(60).catch('').default(''),
  from: z
    .union([z.literal(''), Day])
    .catch('')
    .default(''),
  to: z
    .union([z.literal(''), Day])
    .catch('')
    .default(''),
  page: num(z.int().min(1).max(100_000)).catch(1).default(1),
});
export type AuditQuery = z.output<typeof AuditShape>;

/** A name that is taken out of everything. */
export const EraseShape = z
  .object({
    name: z.string().trim().min(3, 'enter the whole name, as it is on record').max(80),
    again: z.string().trim(),
    initials: Tick,
  })
  .refine((p) => p.name === p.again, 'the two names differ: type the same name twice');
