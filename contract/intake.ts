import { z } from 'zod';
import { SUBJECTS } from '../core/intake/columns';
import { DAY_STYLES } from '../core/intake/days';
import { num } from './basics';

/** What a file is called that is taken over; its bytes are the body. */
export const FileShape = z.object({ name: z.string().trim().min(1).max(200) });

/** What was decided of a sheet since it was last seen; what is not said stays. */
export const DecideShape = z.object({
  expectedVersion: z.int(),
  subject: z.enum(SUBJECTS).optional(),
  field: z.object({ column: z.int().min(0).max(100), key: z.string().max(30).nullable() }).optional(),
  dayStyle: z.enum(DAY_STYLES).optional(),
  word: z.object({ key: z.string().min(1).max(400), value: z.string().min(1).max(400) }).optional(),
  cells: z
    .array(z.object({ row: z.int().min(1), column: z.int().min(0).max(100), value: z.string().max(4000) }))
    .max(500)
    .optional(),
  out: z.object({ rows: z.array(z.int().min(1)).max(50_000), out: z.boolean() }).optional(),
  usualSets: z.boolean().optional(),
  spreadWeeks: z.int().min(0).max(26).optional(),
});
export type Decide = z.output<typeof DecideShape>;

export const IntakeVersionShape = z.object({ expectedVersion: num(z.int()) });

export const INTAKE_FILTERS = ['all', 'problem', 'remark', 'change', 'out'] as const;
/** Which rows of a draft are shown. */
export const DraftQueryShape = z.object({
  show: z.enum(INTAKE_FILTERS).catch('all'),
  from: z.coerce.number().int().min(0).catch(0),
});
export type DraftQuery = z.output<typeof DraftQueryShape>;
