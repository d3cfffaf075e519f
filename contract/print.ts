import { z } from 'zod';
import { num } from './basics';

/** Sheets of labels as they are sold everywhere, by their measures in mm. */
export const SHEETS = {
  'a4-3x8': {
    name: 'A4, 3 × 8, 70 × 37 mm',
    paper: 'A4',
    columns: 3,
    rows: 8,
    width: 70,
    height: 37,
    left: 0,
    top: 0.5,
    gapX: 0,
    gapY: 0,
  },
  'a4-3x7': {
    name: 'A4, 3 × 7, 63.5 × 38.1 mm',
    paper: 'A4',
    columns: 3,
    rows: 7,
    width: 63.5,
    height: 38.1,
    left: 7.2,
    top: 15.1,
    gapX: 2.5,
    gapY: 0,
  },
  'a4-2x7': {
    name: 'A4, 2 × 7, 99.1 × 38.1 mm',
    paper: 'A4',
    columns: 2,
    rows: 7,
    width: 99.1,
    height: 38.1,
    left: 4.7,
    top: 15.1,
    gapX: 2.5,
    gapY: 0,
  },
  'letter-3x10': {
    name: 'Letter, 3 × 10, 66.7 × 25.4 mm',
    paper: 'LETTER',
    columns: 3,
    rows: 10,
    width: 66.7,
    height: 25.4,
    left: 4.8,
    top: 12.7,
    gapX: 3.2,
    gapY: 0,
  },
  'letter-2x5': {
    name: 'Letter, 2 × 5, 101.6 × 50.8 mm',
    paper: 'LETTER',
    columns: 2,
    rows: 5,
    width: 101.6,
    height: 50.8,
    left: 4,
    top: 12.7,
    gapX: 4.8,
    gapY: 0,
  },
} as const;
export type SheetName = keyof typeof SHEETS;
export const SHEET_NAMES = Object.keys(SHEETS) as SheetName[];

const Mm = num(z.number().min(0).max(300));

/** A sheet of labels: of which instruments, on which sheet, from which label on. Measures replace those of the sheet. */
export const LabelsShape = z.object({
  tags: z
    .string()
    .default('')
    .transform((text) =>
      text
        .split(',')
        .map((t) => t.trim())
        .filter(Boolean),
    )
    .pipe(z.array(z.string().max(60)).max(1000)),
  sheet: z.enum(SHEET_NAMES as [SheetName, ...SheetName[]]).catch('a4-3x8'),
  /** Labels that are used already on the first sheet are left free. */
  start: num(z.int().min(1).max(200)).catch(1),
  say: z.enum(['tag', 'ready']).catch('tag'),
  left: Mm.optional().catch(undefined),
  top: Mm.optional().catch(undefined),
});
export type Labels = z.output<typeof LabelsShape>;
