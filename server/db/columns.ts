import { isDeepStrictEqual } from 'node:util';
import { z } from 'zod';
import { type CountedPart, LookShape, SaidShape } from '../../contract/bench';
import { HouseShape, MethodShape } from '../../contract/methods';
import { WeightsShape } from '../../contract/plan';
import type { Named } from '../../core/faults/named';
import type { Said } from '../../core/procedures/answers';
import type { House } from '../../core/procedures/houseMethod';
import { USUAL_TIES } from '../../core/procedures/method';
import type { Method, Procedure } from '../../core/procedures/types';
import type { InspectionAnswers } from '../../core/wear/condition';
import type { Due } from '../../core/wear/due';
import type { KeptString } from '../../core/wear/strip';
import type { Done } from '../../core/work/done';

/** A column that keeps a value as JSON. */
interface Column<T> {
  /** @throws Damaged when what is kept is not in the shape it is written in */
  read: (text: string) => T;
  /** The same, read once and shared by all who ask for the same text: for lists, whose rows nobody changes. */
  shared: (text: string) => T;
  write: (value: T) => string;
}

/** What a column keeps cannot be read: the file was changed by other hands, or is from a newer version. */
export class Damaged extends Error {
  override name = 'Damaged';
}

// Lists read the same few thousand texts again and again; a text that was right once is right again.
const MOST_KNOWN = 4000;
const LONGEST_KNOWN = 4000;

/** @param shape as much of it as everything that reads it leans on; what is beside that is kept as it is */
function column<T>(what: string, shape: z.ZodType): Column<T> {
  /** Texts in that shape, of which the shape changes nothing. */
  const right = new Set<string>();
  const shared = new Map<string, T>();
  const self: Column<T> = {
    shared(text) {
      const known = shared.get(text);
      if (known !== undefined) return known;
      if (shared.size >= MOST_KNOWN) shared.clear();
      const value = self.read(text);
      shared.set(text, value);
      return value;
    },
    read(text) {
      let value: unknown;
      try {
        value = JSON.parse(text);
      } catch {
        throw new Damaged(`What the database keeps as ${what} is no JSON: ${String(text).slice(0, 60)}`);
      }
      if (right.has(text)) return value as T;
      const read = shape.safeParse(value);
      if (!read.success)
        throw new Damaged(`What the database keeps as ${what} cannot be: ${z.prettifyError(read.error)}`);
      if (text.length <= LONGEST_KNOWN && isDeepStrictEqual(read.data, value)) {
        if (right.size >= MOST_KNOWN) right.clear();
        right.add(text);
      }
      return read.data as T;
    },
    write: (value) => JSON.stringify(value),
  };
  return self;
}

const Steps = z.array(z.looseObject({ key: z.string(), id: z.string(), positions: z.array(z.number()) }));
const Lines = z.array(z.object({ productId: z.int(), quantity: z.int() }));

/** Numbers of strings, or other whole numbers. */
export const numbers = column<number[]>('numbers', z.array(z.int()));
export const texts = column<string[]>('texts', z.array(z.string()));
export const method = column<Method>('a way of working', z.preprocess(withoutGaps, MethodShape));
export const house = column<House>(
  'a method',
  z.preprocess((value) => (isObject(value) ? { ...value, method: withoutGaps(value.method) } : value), HouseShape),
);
export const procedure = column<Procedure>(
  'a card',
  z.looseObject({ steps: Steps, minutes: z.number(), method: z.looseObject({}) }),
);
export const due = column<Due>(
  'a due date',
  z.looseObject({ on: z.string(), by: z.string(), numbers: z.array(z.int()) }),
);
export const strip = column<KeptString[]>('strings', z.array(z.looseObject({ number: z.int(), state: z.string() })));
export const weights = column<Partial<z.output<typeof WeightsShape>['weights']>>(
  'weights',
  WeightsShape.shape.weights.partial(),
);
export const orderLines = column<z.output<typeof Lines>>('lines of an order', Lines);
export const differences = column<{ productId: number; announced: number; counted: number }[]>(
  'differences of a delivery',
  z.array(z.object({ productId: z.int(), announced: z.int(), counted: z.int() })),
);
export const departure = column<{ differs: string[]; reason: string; method?: Partial<Method> }>(
  'another way of working',
  z.looseObject({ differs: z.array(z.string()), reason: z.string() }),
);

const saidBeside = column<object>('an answer', z.looseObject({}));

/** What somebody at the bench said; its outcome has a column of its own. */
export const said = {
  /** @throws Damaged when it is nothing that can be said with this outcome */
  read(row: { outcome: string; said: string }): Said {
    const read = SaidShape.safeParse({ ...saidBeside.read(row.said), outcome: row.outcome });
    if (!read.success) throw new Damaged(`What the database keeps as an answer cannot be: ${row.said.slice(0, 60)}`);
    return read.data;
  },
  write: ({ outcome: _, ...rest }: Said): string => saidBeside.write(rest),
};

const Note = z.string().max(200);
const Kept = <D extends string, S extends z.ZodRawShape>(did: D, more: S) =>
  z.looseObject({ did: z.literal(did), ...more });

/** What a record says was done. */
export const done = column<Done>(
  'what was done',
  z.discriminatedUnion('did', [
    Kept('set', { set: z.string() }),
    Kept('mixed', {}),
    Kept('some', { strings: z.array(Note) }),
    Kept('off', { numbers: z.array(z.int()) }),
    Kept('refit', {}),
    Kept('past', { all: z.boolean(), about: z.boolean() }),
    Kept('looked', { answers: LookShape.shape.inspection.unwrap(), score: z.number() }),
    Kept('visited', { kind: z.string() }),
    Kept('referred', { to: z.string() }),
    Kept('words', { text: z.string() }),
  ]),
);
/** What a fault case is about. */
export const named = column<Named>('what a case is about', z.looseObject({ of: z.enum(['cause', 'said', 'done']) }));

/** The five answers of a look. */
export const inspection = column<InspectionAnswers>('answers of a look', LookShape.shape.inspection.unwrap());
export const countedParts = column<CountedPart[]>(
  'parts counted',
  z.array(z.looseObject({ part: z.string(), expected: z.number(), counted: z.number() })),
);

/** Facts of an instrument that last, by what was asked. */
export const facts = column<Record<string, { said: string; on: string; by: string }>>(
  'facts of an instrument',
  z.record(z.string(), z.object({ said: z.string(), on: z.string(), by: z.string() })),
);

/** A column whose shape its own area knows. */
export const columnOf = column;
/** Any object: whoever reads it asks for little. */
export const anyObject = z.looseObject({});

function isObject(value: unknown): value is Record<string, unknown> {
  return typeof value === 'object' && value !== null;
}

/** Ways of working from before these choices were there have none of them. */
function withoutGaps(value: unknown): unknown {
  return isObject(value)
    ? {
        slackPlain: null,
        slackThinWound: null,
        windsPlain: null,
        finish: 'by-phase',
        hanging: 'taped',
        ties: USUAL_TIES,
        ...value,
      }
    : value;
}
