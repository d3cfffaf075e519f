import type { z } from 'zod';
import { count } from '../../core/count';
import { capital } from '../../core/sentence';

/** What screens call a field, where that is not its name in the contract. */
const FIELDS: Record<string, string> = {
  a4Hz: 'A4',
  again: 'name, once more',
  board: 'fingerboard',
  byLabel: 'codes on labels',
  checkedBy: 'checked by',
  coreThou: 'core gauge',
  districtName: 'district sign-in name',
  dueOn: 'due by',
  expectedOn: 'expected delivery date',
  gaugeThou: 'gauge',
  gauges: 'gauges',
  head: 'headstock',
  holder: 'held by',
  hoursPerWeek: 'hours a week',
  house: 'method',
  houseSetId: 'usual set',
  lateDays: 'late by',
  latePercent: 'late deliveries',
  leadDays: 'delivery time',
  least: 'minimum order',
  lengthMm: 'length',
  marks: 'markings',
  newTag: 'tag',
  notedLengthMm: 'nut to bridge',
  numbers: 'strings',
  on: 'day',
  orderCost: 'cost per order',
  performance: 'who can see performance',
  player: 'how hard it is played',
  saidDays: 'days to keep names',
  sku: 'code',
  spreadWeeks: 'weeks to spread over',
  starts: 'start',
  tailEnd: 'string anchor',
  tags: 'instruments',
  toPlaceId: 'place to move to',
  who: 'person',
  why: 'reason',
  wrap: 'winding',
};

/** Fields nobody fills in: a page sends them by itself. */
const SENT_BY_PAGES = new Set(['expectedVersion', 'id', 'key', 'version', 'was']);

/** A person reads so many at once. */
const MOST_SAID = 6;

/** "speakingLengthMm" as one would say it: "speaking length". */
const spoken = (name: string): string =>
  FIELDS[name] ??
  name
    .replace(/(Ids?|Mm|Hz)$/, '')
    .replace(/([a-z])([A-Z])/g, '$1 $2')
    .toLowerCase();

/** The field an issue is about, in words; with its line where there are several. */
function fieldOf(path: readonly PropertyKey[]): string {
  const name = path.filter((part): part is string => typeof part === 'string').at(-1) ?? '';
  const line = path.find((part): part is number => typeof part === 'number');
  return [line === undefined ? '' : `line ${line + 1}`, spoken(name)].filter(Boolean).join(', ');
}

/**
 * What a field needs, where the contract has no words of its own for it.
 * @param issue as Zod raises it, before it has a message
 */
function plainWords(issue: z.core.$ZodRawIssue): string {
  const missing = issue.input === undefined || issue.input === null || issue.input === '';
  switch (issue.code) {
    case 'invalid_type': {
      const name = String(issue.path?.at(-1) ?? '');
      if (/Ids?$/.test(name)) return 'choose one';
      if (issue.expected === 'number' || issue.expected === 'int') return 'enter a number';
      return missing ? 'missing' : 'not valid';
    }
    case 'too_small':
      if (issue.origin === 'string')
        return Number(issue.minimum) <= 1 ? 'missing' : `at least ${count(Number(issue.minimum), 'character')}`;
      if (issue.origin === 'array')
        return Number(issue.minimum) <= 1 ? 'choose at least one' : `at least ${issue.minimum}`;
      return `${issue.inclusive ? 'at least' : 'more than'} ${issue.minimum}`;
    case 'too_big':
      if (issue.origin === 'string') return `at most ${count(Number(issue.maximum), 'character')}`;
      return `${issue.inclusive || issue.origin === 'array' ? 'at most' : 'less than'} ${issue.maximum}`;
    case 'invalid_value':
      return missing ? 'choose one' : 'choose one from the list';
    case 'unrecognized_keys':
      return 'the page is out of date: reload it';
    default:
      return missing ? 'missing' : 'not valid';
  }
}

/** The sentence of an issue; of a choice between shapes, that of the one that comes nearest. */
function sentenceOf(issue: z.core.$ZodIssue): string {
  if (issue.code !== 'invalid_union') return issue.message;
  const inner = issue.errors.map((issues) => issues[0]).filter((i) => i !== undefined);
  const nearest = inner.find((i) => i.code !== 'invalid_value' || i.values.some((value) => value !== '')) ?? inner[0];
  return nearest ? sentenceOf(nearest) : 'not valid';
}

/** What is wrong with a request, field by field, in words. */
function sayInvalid(error: z.ZodError): string {
  if (error.issues.every((issue) => SENT_BY_PAGES.has(String(issue.path.at(-1)))))
    return 'This page is out of date. Nothing was changed: reload it and try again.';
  const byField = new Map<string, string>();
  for (const issue of error.issues) {
    const field = fieldOf(issue.path);
    if (!SENT_BY_PAGES.has(String(issue.path.at(-1))) && !byField.has(field))
      byField.set(field, sentenceOf(issue).replace(/\.$/, ''));
  }
  const text = [...byField]
    .slice(0, MOST_SAID)
    .map(([field, sentence]) => (field ? `${field}: ${sentence}` : sentence))
    .join('; ');
  return `${capital(text)}.`;
}

/**
 * Reads what a client sent.
 * @returns the value, or what is wrong with it in words a person can act on
 */
export function readShape<S extends z.ZodType>(
  shape: S,
  sent: unknown,
): { ok: true; value: z.output<S> } | { ok: false; says: string } {
  const read = shape.safeParse(sent, { error: plainWords });
  return read.success ? { ok: true, value: read.data } : { ok: false, says: sayInvalid(read.error) };
}
