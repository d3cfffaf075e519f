import { z } from 'zod';

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
