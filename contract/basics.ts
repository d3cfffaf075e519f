import { z } from 'zod';
import { isLocalDate } from '../core/dates';

/**
 * A number as a form or a program sends it: digits, with a point or a comma. A tick, an empty field and a list are no
 * numbers, whatever a language makes of them.
 *
 * @param schema what the number has to be
 */
export const num = <S extends z.ZodType<number, number>>(schema: S) =>
  z.preprocess(
    (value) =>
      typeof value === 'string' && /^\s*[+-]?\d{1,15}(?:[.,]\d{1,9})?\s*$/.test(value)
        ? Number(value.replace(',', '.'))
        : value,
    schema,
  );

export const Day = z.string().refine(isLocalDate, 'use a date such as 2026-12-18');

export const Id = num(z.int().positive());

export const Quantity = num(z.int().min(1).max(10_000));

export const Reason = z.string().trim().max(300).default('');

export const Code = z
  .string()
  .trim()
  .regex(/^[A-Za-z0-9.-]{2,24}$/, 'use 2 to 24 letters, digits, dots or hyphens');

export const Name = z.string().trim().min(2).max(80);

/** What stood there when somebody began to change it, as a text. */
export const Seen = z.string().max(300).optional();

/** Several numbers, as a list or as one text with commas. */
export const Ids = z.preprocess(
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
export const Money = z.preprocess(
  (value) =>
    typeof value === 'string' && /^\s*(?:\d{1,9}(?:[.,]\d{1,2})?)?\s*$/.test(value)
      ? Math.round(Number(value.replace(',', '.')) * 100)
      : value,
  z.int().min(0).max(100_000_000),
);

export const VersionShape = z.object({ expectedVersion: num(z.int()) });

export const RemoveShape = z.object({ id: Id });

/** An action that needs to be told nothing. */
export const NothingShape = z.object({});

/** A place, or nothing for all of them. */
export const PlaceOrAll = z
  .union([z.literal(''), Id])
  .transform((v) => (v === '' ? null : v))
  .default(null);

/** A time of the day, as "09:00". */
export const Clock = z.string().regex(/^([01]\d|2[0-3]):[0-5]\d$/, 'use a time such as 09:00');
