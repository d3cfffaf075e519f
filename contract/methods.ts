import { z } from 'zod';
import { type Method, PHASES } from '../core/procedures/types';
import type { CareRule } from '../core/wear/due';
import { INTERVAL_SCOPES } from '../core/wear/intervals';
import { num } from './basics';

const SlackShape = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('first-fret'), times: z.number().min(0).max(6) }),
  z.object({ kind: z.literal('to-fret'), fret: z.number().min(0).max(12) }),
  z.object({ kind: z.literal('post-spacings'), spacings: z.number().min(0).max(6) }),
  z.object({ kind: z.literal('length'), mm: z.number().min(0).max(500) }),
  z.object({
    kind: z.literal('lift'),
    heightMm: z.number().min(1).max(300),
    frets: z.array(z.int().min(1).max(24)).min(1).max(6).readonly(),
  }),
  z.object({ kind: z.literal('turns'), turns: z.number().min(0).max(12) }),
  z.object({ kind: z.literal('none') }),
  z.object({ kind: z.literal('whole') }),
]);

/** What is sent is what the core works with: the compiler finds where the two part. */
export const MethodShape = z.object({
  atATime: z.union([z.literal('all'), z.literal(1), z.literal(2), z.literal(3)]),
  order: z.enum(['thick-to-thin', 'thin-to-thick', 'outer-inward', 'number-down', 'pairs-from-nut']),
  finish: z.enum(['by-phase', 'by-string']),
  slack: SlackShape,
  slackPlain: SlackShape.nullable(),
  slackThinWound: SlackShape.nullable(),
  winds: z.enum(['one-over', 'spiral-down', 'self-lock']),
  windsPlain: z.enum(['two-over', 'one-over']).nullable(),
  hole: z.enum(['across', 'along', 'angled']),
  trim: z.object({
    when: z.enum(['before-winding', 'after-first-tension', 'when-settled']),
    leaveMm: z.union([z.literal(0), z.literal(5), z.literal(10)]),
  }),
  stretchRounds: z.int().min(0).max(4),
  hanging: z.enum(['taped', 'lifted']),
  ties: z.object({
    wound: z.union([z.literal(1), z.literal(2)]),
    plain: z.union([z.literal(2), z.literal(3)]),
    thinnest: z.union([z.literal(2), z.literal(3), z.literal(4)]),
    safetyKnot: z.boolean(),
  }),
}) satisfies z.ZodType<Method>;

const Words = z.string().max(300).optional();

export const HouseShape = z.object({
  method: MethodShape,
  wording: z.record(z.string().max(80), z.object({ title: Words, detail: Words })),
  steps: z
    .array(
      z.object({
        id: z.string().regex(/^[a-z0-9-]{1,40}$/, 'use only lower-case letters, digits and hyphens'),
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

export const SaveHouseShape = z.object({ expectedVersion: z.int(), house: HouseShape, why: z.string().max(300) });

/** Back to an earlier version of a house method, as a new one. */
export const RestoreShape = z.object({ expectedVersion: num(z.int()), version: num(z.int()) });

const IntervalOf = { scope: z.enum(INTERVAL_SCOPES), of: z.string().min(1).max(60) };

/** An interval: how long strings stay on. Days and hours of playing. */
const CareRuleShape = z.object({
  school: z.enum(['calendar', 'use', 'condition', 'whichever-first']),
  calendarDays: z.int(),
  playHours: z.number(),
  neverOverDays: z.int(),
}) satisfies z.ZodType<CareRule>;

export const SaveIntervalShape = z.object({
  ...IntervalOf,
  rule: CareRuleShape,
  expectedVersion: z.int(),
  why: z.string().max(300),
});

/** The interval of a set or an instrument goes; a family always has one. */
export const WithdrawIntervalShape = z.object({
  ...IntervalOf,
  scope: z.enum(['product', 'instrument']),
  expectedVersion: num(z.int()),
  why: z.string().max(300),
});

/** What an interval would do, up to a day; no rule: taken back. */
export const PreviewIntervalShape = z.object({ ...IntervalOf, rule: CareRuleShape.nullable(), by: z.iso.date() });

export type SaveInterval = z.output<typeof SaveIntervalShape>;
export type WithdrawInterval = z.output<typeof WithdrawIntervalShape>;
