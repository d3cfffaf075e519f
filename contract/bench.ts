import { z } from 'zod';
import { FATES, JOB_KINDS } from '../core/procedures/types';
import { num } from './basics';
import { MethodShape } from './methods';

/** `measured` keeps a number, such as what a stretch cost; it moves nothing on. */
export const OUTCOMES = ['done', 'skipped', 'trouble', 'measured'] as const;
export type Outcome = (typeof OUTCOMES)[number];

/** What became of one position. */
export const EntryShape = z.object({
  number: z.int().min(1).max(24),
  action: z.enum(['fit', 'kept', 'left-off']),
  /** The string that went on; for `kept` and `left-off` it is not read. */
  productId: z.int().nullable(),
  /** Strings of the same kind that broke on the way and count as used. */
  broken: z.int().min(0).max(5),
  /** It was on the shelf although the book has none: counted in first, then used. */
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

export type FinishEntry = z.output<typeof EntryShape>;
export type Finish = z.output<typeof FinishShape>;
export type CountedPart = NonNullable<Finish['parts']>[number];
export type GivenAnswer = z.output<typeof AnswerShape>;
export type Look = z.output<typeof LookShape>;
export type FoundFault = z.output<typeof FaultShape>;
export type OtherWay = z.output<typeof DepartShape>;
