import { z } from 'zod';
import { isLocalDate } from '../../core/dates';
import { FAMILIES, STRING_ENDS } from '../../core/instruments/build';
import { PLAN_KINDS } from '../../core/planning/kinds';
import { FATES, JOB_KINDS, PHASES } from '../../core/procedures/types';
import { CORE_MATERIALS, WRAP_MATERIALS } from '../../core/strings/materials';
import { OUTCOMES } from '../../server/bench/jobs';
import { DUE_FILTERS, FLEET_SORTS } from '../../server/fleet/list';
import { num } from './numbers';

export const Day = z.string().refine(isLocalDate, 'a day, written 2026-12-18');

export const EntryShape = z.object({
  number: z.int().min(1).max(24),
  action: z.enum(['fit', 'kept', 'left-off']),
  productId: z.int().nullable(),
  broken: z.int().min(0).max(5),
  found: z.boolean(),
});

export const FinishShape = z.object({
  expectedVersion: z.int(),
  entries: z.array(EntryShape).min(1).max(24),
  discard: z.array(z.string()).max(50),
  notes: z.string().max(4000),
  minutes: z
    .number()
    .min(0)
    .max(24 * 60)
    .nullable(),
  parts: z
    .array(
      z.object({
        part: z.string().max(60),
        fate: z.enum(FATES),
        expected: z.int().min(0).max(200),
        counted: z.int().min(0).max(200),
      }),
    )
    .max(30)
    .optional(),
  at: z.int().optional(),
});

export const AnswerShape = z.object({
  step: z.string().max(80),
  outcome: z.enum(OUTCOMES),
  note: z.string().max(1000),
  cursor: z.string().max(80),
  at: z.int().optional(),
});

/** Rows in one answer: some screens full; more come as one goes on. */
const FIRST_ROWS = 40;

/** The Fleet query as it stands in the address bar. */
export const FleetShape = z.object({
  q: z.string().max(80).catch(''),
  place: z.union([z.null(), num(z.int())]).catch(null),
  family: z.enum(FAMILIES).nullable().catch(null),
  due: z.enum(DUE_FILTERS).catch('all'),
  sort: z.enum(FLEET_SORTS).catch('due'),
  descending: z.stringbool().catch(false),
  offset: z.coerce.number().int().min(0).catch(0),
  limit: z.coerce.number().int().min(1).max(200).catch(FIRST_ROWS),
});

export function fleetQueryOf(params: URLSearchParams) {
  const get = (name: string) => params.get(name) || null;
  return FleetShape.parse({
    q: get('q') ?? '',
    place: get('place'),
    family: get('family'),
    due: get('due') ?? 'all',
    sort: get('sort') ?? 'due',
    descending: get('descending') ?? 'false',
    offset: get('offset') ?? 0,
    limit: get('limit') ?? FIRST_ROWS,
  });
}

const SlackShape = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('first-fret'), times: z.number().min(0).max(6) }),
  z.object({ kind: z.literal('to-fret'), fret: z.number().min(0).max(12) }),
  z.object({ kind: z.literal('post-spacings'), spacings: z.number().min(0).max(6) }),
  z.object({ kind: z.literal('length'), mm: z.number().min(0).max(500) }),
  z.object({
    kind: z.literal('lift'),
    heightMm: z.number().min(1).max(300),
    frets: z.array(z.int().min(1).max(24)).min(1).max(6),
  }),
  z.object({ kind: z.literal('turns'), turns: z.number().min(0).max(12) }),
  z.object({ kind: z.literal('none') }),
  z.object({ kind: z.literal('whole') }),
]);

export const MethodShape = z.object({
  atATime: z.union([z.literal('all'), z.literal(1), z.literal(2), z.literal(3)]),
  order: z.enum(['thick-to-thin', 'thin-to-thick', 'outer-inward', 'number-down', 'pairs-from-nut']),
  slack: SlackShape,
  slackPlain: SlackShape.nullable(),
  winds: z.enum(['one-over', 'spiral-down', 'self-lock']),
  windsPlain: z.literal('two-over').nullable(),
  hole: z.enum(['across', 'along', 'angled']),
  trim: z.object({
    when: z.enum(['before-winding', 'after-first-tension', 'when-settled']),
    leaveMm: z.union([z.literal(0), z.literal(5), z.literal(10)]),
  }),
  stretchRounds: z.int().min(0).max(4),
});

const Words = z.string().max(300).optional();

export const HouseShape = z.object({
  method: MethodShape,
  wording: z.record(z.string().max(80), z.object({ title: Words, detail: Words })),
  steps: z
    .array(
      z.object({
        id: z.string().regex(/^[a-z0-9-]{1,40}$/, 'a short name of small letters, digits and hyphens'),
        phase: z.enum(PHASES),
        title: z.string().max(200),
        detail: z.string().max(400),
        reason: z.string().max(300),
        minutes: z.number(),
        question: z.string().max(120),
      }),
    )
    .max(20),
});

/** Opening a job. A form sends its numbers as one text, a program as a list. */
export const OpenJobShape = z.object({
  tag: z.string(),
  kind: z.enum(JOB_KINDS).optional(),
  numbers: z
    .preprocess(
      (value) => (typeof value === 'string' ? value.split(',').filter(Boolean).map(Number) : value),
      z.array(z.int().min(1).max(24)).max(24),
    )
    .optional(),
  departure: z.object({ method: MethodShape.partial(), reason: z.string().max(300) }).optional(),
});

/** Another way for a job that is open. */
export const DepartShape = z.object({
  expectedVersion: z.int(),
  method: MethodShape.partial(),
  reason: z.string().max(300),
});

/** Instruments to work together. A form sends their tags as one text. */
export const BatchShape = z.object({
  tags: z.preprocess(
    (value) => (typeof value === 'string' ? value.split(',').filter(Boolean) : value),
    z.array(z.string().max(40)).max(40),
  ),
});

const Sign = z.union([z.literal(0), z.literal(1), z.literal(2)]);

export const LookShape = z.object({
  expectedVersion: z.int(),
  outcome: z.enum(['done', 'referred']),
  referredTo: z.string().max(80),
  inspection: z.object({ sound: Sign, look: Sign, feel: Sign, tune: Sign, winding: Sign }).nullable(),
  notes: z.string().max(4000),
  minutes: z
    .number()
    .min(0)
    .max(24 * 60)
    .nullable(),
  at: z.int().optional(),
});

export const FaultShape = z.object({
  tag: z.string(),
  symptom: z.string().max(40),
  number: z.union([z.literal('').transform(() => null), z.null(), num(z.int().min(1).max(24))]).default(null),
  cause: z.string().max(40),
  note: z.string().max(1000).default(''),
});

const Id = num(z.int().positive());
const Quantity = num(z.int().min(1).max(10_000));
const Reason = z.string().trim().max(300).default('');
const Code = z
  .string()
  .trim()
  .regex(/^[A-Za-z0-9.-]{2,24}$/, 'two to 24 letters, digits, dots or hyphens');
const Name = z.string().trim().min(2).max(80);
/** Several numbers, as a list or as one text with commas. */
const Ids = z.preprocess(
  (value) =>
    typeof value === 'string'
      ? value
          .split(/[,\s]+/)
          .filter(Boolean)
          .map(Number)
      : value,
  z.array(z.int()).max(60),
);
/** Money as people write it, in hundredths. */
const Money = z.preprocess(
  (value) =>
    typeof value === 'string' && /^\s*(?:\d{1,9}(?:[.,]\d{1,2})?)?\s*$/.test(value)
      ? Math.round(Number(value.replace(',', '.')) * 100)
      : value,
  z.int().min(0).max(100_000_000),
);

export const TakeShape = z.object({ lotId: Id, placeId: Id, quantity: Quantity });
export const ScrapShape = TakeShape.extend({ reason: Reason });
export const TransferShape = z.object({
  takes: z.array(TakeShape).min(1).max(200),
  toPlaceId: Id,
  reason: Reason,
});
/** One lot carried, as a form sends it. */
export const CarryShape = TakeShape.extend({ toPlaceId: Id });
export const BackShape = z.object({
  productId: Id,
  form: z.enum(['set', 'single', 'half']),
  quantity: Quantity,
  placeId: Id,
  reason: Reason,
});
export const TakeBackShape = z.object({ moveId: Id, reason: Reason });
export const CountShape = z.object({
  placeId: Id,
  reason: Reason,
  lines: z
    .array(
      z.object({
        productId: Id,
        form: z.enum(['set', 'single', 'half']),
        expected: z.int().min(0),
        counted: z.int().min(0).max(100_000),
      }),
    )
    .max(500),
});

const OrderLines = z.array(z.object({ productId: Id, quantity: num(z.int().min(0).max(10_000)) })).max(100);
export const DraftShape = z.object({ supplierId: Id, placeId: Id, lines: OrderLines, note: Reason });
export const PutOnDraftShape = z.object({ productId: Id, quantity: num(z.int().min(1).max(10_000)), placeId: Id });
export const EditDraftShape = z.object({ expectedVersion: num(z.int()), lines: OrderLines, note: Reason });
export const VersionShape = z.object({ expectedVersion: num(z.int()) });
export const PostponeShape = z.object({ expectedVersion: num(z.int()), expectedOn: Day });
export const ConfirmShape = z.object({
  expectedVersion: num(z.int()),
  theirNumber: z.string().trim().max(60).default(''),
  expectedOn: Day,
  lines: OrderLines,
});
export const ReceiveShape = z.object({ expectedVersion: num(z.int()), lines: OrderLines });

export const SupplierShape = z.object({
  name: Name,
  leadDays: num(z.int().min(0).max(365)),
  latePercent: num(z.number().min(0).max(100)).default(0),
  lateDays: num(z.int().min(0).max(90)).default(0),
  least: Money,
  orderCost: Money,
});
export const SourceShape = z.object({
  productId: Id,
  supplierId: Id,
  pack: num(z.int().min(1).max(1000)),
  price: Money,
});
export const ConsumableShape = z.object({
  sku: Code,
  name: Name,
  unit: z.string().trim().max(20),
  least: num(z.int().min(0).max(1000)),
  price: Money,
});
const Millimetres = num(z.number().positive().max(5000));
export const SingleShape = z.object({
  sku: Code,
  name: Name,
  family: z.enum(FAMILIES),
  gaugeThou: num(z.number().positive().max(400)),
  coreThou: z.preprocess((v) => (v === '' ? undefined : v), num(z.number().positive().max(400)).optional()),
  core: z.enum(CORE_MATERIALS),
  wrap: z.preprocess((v) => (v === '' ? null : v), z.enum(WRAP_MATERIALS).nullable()),
  lengthMm: Millimetres,
  stringEnd: z.enum(STRING_ENDS),
  doubleLength: z.stringbool().default(false),
  price: Money,
});
export const SetShape = z.object({
  marks: z.string().trim().max(300).default(''),
  sku: Code,
  name: Name,
  family: z.enum(FAMILIES),
  price: Money,
  /** Positions with their strings: "6=12, 5=13". */
  items: z.preprocess(
    (value) =>
      typeof value === 'string'
        ? value
            .split(/[,;\s]+/)
            .filter(Boolean)
            .map((pair) => {
              const [number, productId] = pair.split('=').map(Number);
              return { number, productId };
            })
        : value,
    z
      .array(z.object({ number: z.int().min(1).max(24), productId: z.int() }))
      .min(1)
      .max(24),
  ),
});
export const HybridShape = z.object({
  sku: Code,
  name: Name,
  family: z.enum(FAMILIES),
  firstSetId: Id,
  firstNumbers: Ids,
  secondSetId: Id,
  secondNumbers: Ids,
});
export const SubstituteShape = z.object({ productId: Id, substituteIds: Ids });
export const HouseStringsShape = z.object({ productId: Id, expectedVersion: num(z.int()) });

export const AvailabilityShape = z.object({
  personId: Id,
  placeId: Id,
  weekday: num(z.int().min(1).max(7)),
  minutes: num(z.int().min(15).max(720)),
  starts: z.string().regex(/^([01]\d|2[0-3]):[0-5]\d$/, 'a time, written 09:00'),
});
export const RemoveShape = z.object({ id: Id });
export const AwayShape = z.object({ personId: Id, on: Day, why: z.string().trim().max(100) });
export const SignOffShape = z.object({
  personId: Id,
  family: z.enum(FAMILIES),
  level: num(z.int().min(0).max(4)),
});
export const BusyShape = z.object({
  tag: z.string(),
  from: Day,
  to: Day,
  why: z.string().trim().min(2).max(100),
  kind: z.enum(['loan', 'lesson']).default('loan'),
});
/** A place, or nothing for all of them. */
const PlaceOrAll = z
  .union([z.literal(''), Id])
  .transform((v) => (v === '' ? null : v))
  .default(null);
/** An action that needs to be told nothing. */
export const NothingShape = z.object({});
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
});
export const BenchSpaceShape = z.object({ placeId: Id, instruments: num(z.int().min(0).max(100)) });
export const RequestShape = z.object({
  tag: z.string().trim().min(1),
  kind: z.enum(['inspection', 'service', 'refit']),
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

export const CalendarShape = z.object({
  text: z.string().min(1).max(MOST_CALENDAR_BYTES),
  source: z.string().trim().min(1).max(120),
  about: z.enum(['loans', 'lessons', 'concerts', 'holidays']),
});
export const ConcertShape = z.object({
  name: z.string().trim().min(2).max(100),
  on: Day,
  placeId: PlaceOrAll,
  /** Tags, or what instruments are held by, such as "orchestra", with commas between. */
  who: z.string().trim().max(20_000).default(''),
});
