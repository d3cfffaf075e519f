import { z } from 'zod';
import { WRONG_IDS, type WrongId } from '../core/faults/wrongs';
import { SMALL_PARTS } from '../core/parts/smallParts';
import type { Said } from '../core/procedures/answers';
import { MISTAKES, type MistakeId } from '../core/procedures/mistakes';
import { FATES, JOB_KINDS } from '../core/procedures/types';
import { Day, Id, Ids, num } from './basics';
import { MethodShape } from './methods';

const Text = z.string().max(1000);
const StringNumber = z.int().min(1).max(24);
const Mistake = z.enum(Object.keys(MISTAKES) as [MistakeId, ...MistakeId[]]);

/** What was said to a step; the ways to say it are those of the core. */
export const SaidShape: z.ZodType<Said> = z.union([
  z.object({
    outcome: z.literal('done'),
    choice: z.int().min(0).max(20).optional(),
    passed: Text.min(1).optional(),
  }),
  z.object({ outcome: z.literal('skipped'), because: Text }),
  z.object({ outcome: z.literal('trouble'), mistake: Mistake, number: StringNumber.optional() }),
  z.object({
    outcome: z.literal('measured'),
    drop: z.object({ number: StringNumber, cents: z.number().min(-2400).max(2400) }),
  }),
  z.object({ outcome: z.literal('measured'), noted: z.object({ asked: Text.min(1), said: Text }) }),
]);

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
  /** Pins and spacers put in anew or saved from old strings. */
  small: z
    .array(
      z.object({
        part: z.enum(SMALL_PARTS),
        used: z.int().min(0).max(48),
        saved: z.int().min(0).max(48),
      }),
    )
    .max(SMALL_PARTS.length)
    .optional(),
  at: z.int().optional(),
});

export const AnswerShape = z.preprocess(
  fromNote,
  z.intersection(
    z.object({
      step: z.string().max(80),
      /** Further steps that the same press said the same of. */
      also: z.array(z.string().max(80)).max(80).optional(),
      cursor: z.string().max(80),
      at: z.int().optional(),
    }),
    SaidShape,
  ),
);

/** An answer that a device has kept since answers were said in one text. */
function fromNote(value: unknown): unknown {
  if (typeof value !== 'object' || value === null || !('note' in value) || typeof value.note !== 'string') return value;
  const { note, ...rest } = value as { note: string; outcome?: unknown };
  const passed = /^all the same: (.+)$/s.exec(note)?.[1];
  const [, number, cents] = /^drop (\d+) (-?[\d.]+)$/.exec(note) ?? [];
  const [, asked, said] = /^noted: (.+?) = (.*)$/s.exec(note) ?? [];
  const [mistake, lost] = note.split('@');
  switch (rest.outcome) {
    case 'done':
      return { ...rest, ...(passed ? { passed } : /^\d+$/.test(note) ? { choice: Number(note) } : {}) };
    case 'skipped':
      return { ...rest, because: note };
    case 'trouble':
      return { ...rest, mistake, ...(lost ? { number: Number(lost) } : {}) };
    default:
      return {
        ...rest,
        ...(number ? { drop: { number: Number(number), cents: Number(cents) } } : { noted: { asked, said } }),
      };
  }
}

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
  /** Why work goes on although the instrument is referred to somebody qualified. */
  despite: z.string().trim().max(300).optional(),
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

/** What anybody says is wrong. A form sends the strings as one text. */
export const WrongShape = z.object({
  tag: z.string().trim().min(1, 'enter the instrument’s tag').max(60),
  wrong: z.enum(WRONG_IDS as [WrongId, ...WrongId[]], 'choose what is wrong'),
  numbers: Ids.default([]),
  text: z.string().trim().max(500).default(''),
});
export type SaidWrong = z.output<typeof WrongShape>;

/** The same as a page's own form sends it. */
export const WrongFormShape = WrongShape.extend({ key: z.string().min(8).max(120) });

/** The same by the code on a label; a form sends several strings as several fields. */
export const LabelWrongShape = WrongShape.omit({ tag: true }).extend({
  who: z.string().trim().max(60, 'enter a name or a class, at most 60 characters').default(''),
  key: z.string().min(8).max(120),
});
export const TakeWordShape = z.object({ id: Id, expectedVersion: num(z.int()) });
export const EndLabelShape = z.object({ tag: z.string().min(1).max(60) });

/** What was handed on has been looked at by somebody who does this for a living. */
export const CloseCaseShape = z.object({
  expectedVersion: num(z.int()),
  checkedBy: z.string().trim().max(120).default(''),
  found: z.string().trim().max(1000).default(''),
});

/** A look at instruments that stood in the same air. A form sends their tags as one text. */
export const RoomShape = z.object({
  tags: z.preprocess(
    (value) => (typeof value === 'string' ? value.split(',').filter(Boolean) : value),
    z.array(z.string().max(60)).min(1, 'choose at least one instrument').max(500),
  ),
});

/** String changes of the past, of several instruments at once. A form sends their tags as one text. */
export const PastShape = z.object({
  tags: z.preprocess(
    (value) =>
      typeof value === 'string'
        ? value
            .split(',')
            .map((t) => t.trim())
            .filter(Boolean)
        : value,
    z.array(z.string().max(60)).min(1, 'choose at least one instrument').max(500),
  ),
  on: Day,
  about: z.preprocess((v) => v === true || v === 'on' || v === 'true', z.boolean()),
  personId: z.union([z.literal('').transform(() => null), z.null(), num(z.int())]).default(null),
  note: z.string().trim().max(300).default(''),
});

export const PreviewShape = z.object({ entries: z.array(EntryShape) });
export const RecordNoteShape = z.object({ text: z.string().min(1).max(4000) });
export const UndoShape = z.object({ reason: z.string().max(1000).default('') });

/** A form sends each string's drop as `flat-6`; left empty, nobody looked. */
const Flat = z.union([z.literal('').transform(() => undefined), num(z.number().min(-100).max(1200))]).optional();
/** A visit that was made. */
export const VisitDoneShape = z
  .object({ expectedVersion: num(z.int()), note: z.string().max(1000).default('') })
  .catchall(Flat);

export type FinishEntry = z.output<typeof EntryShape>;
/** A change done the usual way and recorded without its steps. */
export const AsUsualShape = z.object({ tag: z.string().max(60), note: z.string().trim().max(1000).default('') });
export type AsUsual = z.output<typeof AsUsualShape>;
export type Finish = z.output<typeof FinishShape>;
export type CountedPart = NonNullable<Finish['parts']>[number];
export type SentAnswer = z.output<typeof AnswerShape>;
export type Look = z.output<typeof LookShape>;
export type FoundFault = z.output<typeof FaultShape>;
export type PastWork = z.output<typeof PastShape>;
export type CloseCase = z.output<typeof CloseCaseShape>;
export type OtherWay = z.output<typeof DepartShape>;
