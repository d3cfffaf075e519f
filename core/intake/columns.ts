import { alike, fold, isNothing, wordsOf } from '../text';
import { readNumber, shareOfDays, shareOfTimes } from './days';
import { guessKind } from './kinds';

/** What a sheet can be about. */
export const SUBJECTS = ['instruments', 'people', 'places', 'changes', 'strings', 'shelf', 'loans'] as const;
export type Subject = (typeof SUBJECTS)[number];
export const SUBJECT_NAMES: Record<Subject, string> = {
  instruments: 'Instruments',
  people: 'People',
  places: 'Places',
  changes: 'Past string changes',
  strings: 'Strings',
  shelf: 'Stock on the shelf',
  loans: 'Loans and lessons',
};

/** A column that a subject knows: its heading in a sheet of Arvick's own, and the words that others head it with. */
export interface Field {
  key: string;
  name: string;
  /** Folded words of headings; several languages. */
  heads: readonly string[];
  /** Without it a row says nothing. */
  needed?: boolean;
  /** How well the values of a column look like it, 0 to 1. */
  looks?: (values: readonly string[]) => number;
}

const share = (values: readonly string[], is: (value: string) => boolean): number => {
  const said = values.filter((v) => !isNothing(v));
  return said.length === 0 ? 0 : said.filter(is).length / said.length;
};
const manyTimes = (values: readonly string[]): number => {
  const said = values.filter((v) => !isNothing(v)).map(fold);
  return said.length < 3 ? 0 : 1 - new Set(said).size / said.length;
};
const looksLikeTag = (values: readonly string[]): number =>
  share(values, (v) => v.length <= 20 && /\d/.test(v) && /^[\p{L}\p{N} ./_-]+$/u.test(v)) * (1 - manyTimes(values));
const looksLikeKind = (values: readonly string[]): number =>
  share(values, (v) => {
    const guess = guessKind(v);
    return guess.confidence !== 'unsure';
  });
const looksLikeNumber = (values: readonly string[]): number => share(values, (v) => readNumber(v) !== null);

const TAG: Field = {
  key: 'tag',
  name: 'Tag',
  heads: [
    'tag',
    'nr',
    'no',
    'number',
    'nummer',
    'id',
    'inventory',
    'inventar',
    'inv',
    'code',
    'asset',
    'label',
    'numero',
  ],
  needed: true,
  looks: looksLikeTag,
};
const PLACE: Field = {
  key: 'place',
  name: 'Place',
  heads: ['place', 'ort', 'location', 'room', 'raum', 'site', 'where', 'school', 'standort', 'lager', 'lieu', 'store'],
  looks: (v) => (manyTimes(v) > 0.5 && looksLikeKind(v) < 0.3 && shareOfDays(v) < 0.3 ? 0.4 : 0),
};
const ON: Field = {
  key: 'on',
  name: 'Strings changed',
  heads: [
    'strings changed',
    'saiten zuletzt',
    'last change',
    'changed',
    'restrung',
    'gewechselt',
    'letzter wechsel',
    'new strings',
    'date',
    'datum',
    'strung',
    'last strings',
    'day',
  ],
  looks: shareOfDays,
};
const NOTE: Field = {
  key: 'note',
  name: 'Remarks',
  heads: ['remark', 'bemerkung', 'note', 'notes', 'comment', 'notiz', 'anmerkung', 'condition', 'zustand'],
};
const PERSON: Field = {
  key: 'person',
  name: 'Person',
  heads: ['person', 'who', 'by', 'wer', 'done by', 'technician', 'durch', 'name'],
};
const PRODUCT: Field = {
  key: 'strings',
  name: 'Usual set',
  heads: ['usual set', 'strings', 'saiten', 'set', 'string set', 'what is on', 'besaitung', 'satz', 'product'],
};
const CODE: Field = {
  key: 'sku',
  name: 'Code',
  heads: ['code', 'sku', 'article', 'artikel', 'item', 'order no', 'art'],
  needed: true,
};
const QUANTITY: Field = {
  key: 'quantity',
  name: 'Quantity',
  heads: ['quantity', 'menge', 'count', 'anzahl', 'stock', 'on hand', 'pieces', 'stk', 'qty', 'bestand'],
  needed: true,
  looks: looksLikeNumber,
};

export const FIELDS: Record<Subject, readonly Field[]> = {
  instruments: [
    TAG,
    {
      key: 'kind',
      name: 'Kind',
      heads: ['kind', 'typ', 'type', 'instrument', 'what', 'art', 'bezeichnung', 'description', 'model type', 'sorte'],
      needed: true,
      looks: looksLikeKind,
    },
    {
      key: 'size',
      name: 'Size',
      heads: ['size', 'grosse', 'gr', 'taille'],
      looks: (v) => share(v, (x) => /^\d\/\d$|^\d\d(?:["″]| ?in)$/.test(x.trim())),
    },
    PLACE,
    {
      key: 'holder',
      name: 'Holder',
      heads: [
        'holder',
        'with',
        'player',
        'pupil',
        'schuler',
        'student',
        'lent to',
        'bei',
        'verliehen an',
        'user',
        'class',
        'klasse',
        'teacher',
        'lehrer',
      ],
    },
    ON,
    PRODUCT,
    {
      key: 'hours',
      name: 'Hours a week',
      heads: ['hours a week', 'hours', 'stunden', 'h week', 'use', 'std'],
      looks: (v) => looksLikeNumber(v) * 0.3,
    },
    { key: 'maker', name: 'Maker', heads: ['maker', 'make', 'brand', 'hersteller', 'marke', 'builder'] },
    { key: 'model', name: 'Model', heads: ['model', 'modell'] },
    { key: 'serial', name: 'Serial number', heads: ['serial number', 'serial', 'serien', 'seriennummer', 'sn', 's n'] },
    NOTE,
  ],
  people: [
    { ...PERSON, key: 'name', name: 'Name', heads: ['name', 'person', 'who', 'full name'], needed: true },
    { key: 'initials', name: 'Initials', heads: ['initials', 'kurzel', 'short'] },
    { key: 'role', name: 'Role', heads: ['role', 'rolle', 'job', 'function', 'funktion'] },
    { ...PLACE, name: 'Works at', heads: ['works at', ...PLACE.heads] },
  ],
  places: [
    {
      key: 'name',
      name: 'Name',
      heads: ['name', 'place', 'ort', 'school', 'site', 'location', 'standort'],
      needed: true,
    },
    { key: 'store', name: 'Strings are kept here', heads: ['strings are kept here', 'store', 'lager', 'stock'] },
  ],
  changes: [
    TAG,
    { ...ON, name: 'Day', heads: ['day', 'date', 'datum', 'on', ...ON.heads], needed: true },
    { ...PERSON, name: 'By' },
    { key: 'numbers', name: 'Strings', heads: ['strings', 'string', 'saiten', 'which', 'numbers', 'saite'] },
    NOTE,
  ],
  strings: [
    CODE,
    { key: 'name', name: 'Name', heads: ['name', 'description', 'bezeichnung', 'product', 'string'], needed: true },
    {
      key: 'kind',
      name: 'For',
      heads: ['for', 'family', 'instrument', 'kind', 'fur'],
      needed: true,
      looks: looksLikeKind,
    },
    {
      key: 'gauges',
      name: 'Gauges, thousandths of an inch',
      heads: ['gauges thousandths of an inch', 'gauges', 'gauge', 'starke', 'starken', 'thickness', 'dicke'],
      needed: true,
    },
    { key: 'core', name: 'Core', heads: ['core', 'kern', 'material'] },
    { key: 'end', name: 'End', heads: ['end', 'ende', 'ends'] },
    {
      key: 'length',
      name: 'Length, mm',
      heads: ['length mm', 'length', 'lange'],
      looks: (v) => looksLikeNumber(v) * 0.2,
    },
    {
      key: 'price',
      name: 'Price',
      heads: ['price', 'preis', 'cost', 'kosten'],
      looks: (v) => looksLikeNumber(v) * 0.2,
    },
  ],
  shelf: [
    { ...CODE, heads: [...CODE.heads, 'name', 'product', 'set', 'strings'] },
    PLACE,
    QUANTITY,
    { key: 'form', name: 'As', heads: ['as', 'form', 'set or single'] },
    { key: 'price', name: 'Paid each', heads: ['paid each', 'price', 'preis', 'cost', 'unit cost'] },
  ],
  loans: [
    TAG,
    {
      key: 'from',
      name: 'From',
      heads: ['from', 'von', 'start', 'begin', 'since', 'ab'],
      needed: true,
      looks: (v) => shareOfDays(v) * 0.9,
    },
    {
      key: 'to',
      name: 'To',
      heads: ['to', 'bis', 'end', 'until', 'back', 'ruckgabe'],
      looks: (v) => shareOfDays(v) * 0.8,
    },
    {
      key: 'why',
      name: 'What for',
      heads: ['what for', 'why', 'lent to', 'reason', 'who', 'class', 'lesson', 'grund', 'an'],
    },
    {
      key: 'begins',
      name: 'Begins at',
      heads: ['begins at', 'begins', 'start time', 'time', 'uhrzeit', 'beginn'],
      looks: (v) => shareOfTimes(v) * 0.9,
    },
    {
      key: 'ends',
      name: 'Ends at',
      heads: ['ends at', 'ends', 'end time', 'ende'],
      looks: (v) => shareOfTimes(v) * 0.8,
    },
    { key: 'every', name: 'Every week', heads: ['every week', 'weekly', 'repeats', 'jede woche', 'wochentlich'] },
  ],
};

/** How well a heading names a field, 0 to 1. */
function headed(field: Field, heading: string): number {
  const words = wordsOf(fold(heading)).join(' ');
  if (!words) return 0;
  let best = fold(heading) === fold(field.name) ? 1.2 : 0;
  for (const [rank, head] of field.heads.entries()) {
    // The words that stand first say it best.
    const less = rank * 0.004;
    if (words === head) best = Math.max(best, 1 - less);
    else if (head.length > 2 && ` ${words} `.includes(` ${head} `)) best = Math.max(best, 0.8 - less);
    else if (head.length > 4 && (words.startsWith(head) || alike(words, head) > 0.75))
      best = Math.max(best, 0.65 - less);
  }
  return best;
}

/** From this score on a column is taken for a field. */
const ENOUGH = 0.45;
/** So many rows tell what a column holds. */
const SAMPLE = 60;

const columnOf = (rows: readonly (readonly string[])[], column: number): string[] =>
  rows.slice(0, SAMPLE).map((r) => r[column] ?? '');

interface Mapped {
  /** The key of the field of each column; null: left out. */
  fields: (string | null)[];
  /** How well all of it fits; for choosing between subjects. */
  score: number;
}

/** Which column is which field of a subject, by its heading and by what stands in it; each field once. */
export function mapColumns(subject: Subject, heads: readonly string[], rows: readonly (readonly string[])[]): Mapped {
  const pairs = heads.flatMap((heading, column) => {
    const values = columnOf(rows, column);
    return FIELDS[subject].map((field) => ({
      column,
      field,
      score: headed(field, heading) + 0.5 * (field.looks?.(values) ?? 0),
    }));
  });
  pairs.sort((a, b) => b.score - a.score || a.column - b.column);
  const fields: (string | null)[] = heads.map(() => null);
  const taken = new Set<string>();
  let score = 0;
  for (const p of pairs) {
    if (p.score < ENOUGH || fields[p.column] !== null || taken.has(p.field.key)) continue;
    fields[p.column] = p.field.key;
    taken.add(p.field.key);
    score += p.score;
  }
  const lacking = FIELDS[subject].filter((f) => f.needed && !taken.has(f.key)).length;
  return { fields, score: score - 1.5 * lacking };
}

/** What a sheet is most likely about; instruments where nothing tells. */
export function guessSubject(heads: readonly string[], rows: readonly (readonly string[])[]): Subject {
  const ranked = SUBJECTS.map((subject) => ({ subject, score: mapColumns(subject, heads, rows).score }));
  const best = Math.max(...ranked.map((r) => r.score));
  return ranked.find((r) => r.score === best)?.subject ?? 'instruments';
}

/** Which row has the headings: the first that is no data, as far as one sees; rows above it are titles. */
export function headingRow(rows: readonly (readonly string[])[]): number {
  const first = rows.slice(0, 8);
  const filled = first.map((r) => r.filter((c) => c.trim() !== '').length);
  const most = Math.max(...filled, 0);
  const known = (row: readonly string[]): number =>
    row.filter((c) => SUBJECTS.some((s) => FIELDS[s].some((f) => headed(f, c) >= 0.65))).length;
  let best = 0;
  let bestKnown = -1;
  for (const [i, row] of first.entries()) {
    if ((filled[i] ?? 0) < most / 2) continue;
    const k = known(row);
    if (k > bestKnown) [best, bestKnown] = [i, k];
  }
  return best;
}
