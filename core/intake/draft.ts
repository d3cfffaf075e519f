import { type LocalDate, sayDay } from '../dates';
import { tagKey } from '../instruments/tag';
import { fold, isNothing, sameThing } from '../text';
import type { DayStyle, ReadDay } from './days';
import { readDay } from './days';
import type { KindRead } from './kinds';

/** What a programme has already, as far as a sheet can be about it. */
export interface Known {
  today: LocalDate;
  /** By their tag's key. */
  instruments: ReadonlyMap<string, KnownInstrument>;
  places: readonly { id: number; name: string; isStore: boolean }[];
  people: readonly { id: number; name: string; initials: string; role: string; placeId: number }[];
  products: readonly KnownProduct[];
  /** Loans and lessons that were entered already: tag key, from, to. */
  busy: ReadonlySet<string>;
  /** What lies where by product, form and place. */
  onHand: ReadonlyMap<string, number>;
  /** What words were said to mean before, by `kind:` or `place:` or `set:` and the folded word. */
  words: ReadonlyMap<string, string>;
  /** Where whatever names no place is put. */
  homePlaceId: number;
}

export interface KnownInstrument extends KindRead {
  id: number;
  tag: string;
  version: number;
  placeId: number;
  holder: string;
  note: string;
  maker: string;
  model: string;
  serial: string;
  /** Hours a week that hold now; null where none are known. */
  hours: number | null;
  setId: number | null;
  /** Its last string change on record. */
  changedOn: LocalDate | null;
  /** A job is open on the bench. */
  onBench: boolean;
  /** Sold, lost or written off. */
  gone: boolean;
}

export interface KnownProduct {
  /** Null: a usual set that is not in Stock yet, and is made when it is wanted. */
  id: number | null;
  sku: string;
  name: string;
  kind: 'single' | 'set' | 'hybrid' | 'consumable';
  family: string | null;
  /** Of a set, thickest first, in thousandths of an inch. */
  gauges: readonly number[];
  priceCents: number;
}

/** What whoever takes a sheet over has said so far. */
export interface Decisions {
  /** The field of each column; null: left out. */
  fields: (string | null)[];
  dayStyle: DayStyle;
  /** What words mean: as in `Known.words`. */
  words: Record<string, string>;
  /** Cells put right, by `row/column`. */
  cells: Record<string, string>;
  /** Rows that are not taken over. */
  out: number[];
  /** Instruments whose strings nobody knows are given the usual set of their kind, made where there is none. */
  usualSets: boolean;
  /** Weeks over which first looks at strings of unknown age are spread. */
  spreadWeeks: number;
}

/** A place or a product by its id, or one that is made by its name. */
export type Ref = { id: number } | { name: string };

/** A day that strings went on; `about`: nobody knows the day itself. */
export interface Since {
  on: LocalDate;
  about: boolean;
}

/** A set there is, or a usual one of the kind by its code. */
export type SetRef = { id: number } | { usual: string };

/** What taking a row over does. */
export type Op =
  | {
      does: 'instrument';
      tag: string;
      kind: KindRead;
      place: Ref;
      holder: string;
      note: string;
      maker: string;
      model: string;
      serial: string;
      hours: number | null;
      set: SetRef | null;
      since: Since | null;
    }
  | {
      does: 'instrument-change';
      id: number;
      version: number;
      tag: string;
      values: Partial<Record<'holder' | 'note' | 'maker' | 'model' | 'serial', string>>;
      place: Ref | null;
      hours: number | null;
      set: SetRef | null;
      since: Since | null;
    }
  | { does: 'person'; name: string; initials: string; role: string; place: Ref }
  | { does: 'person-change'; id: number; initials: string; role: string; place: Ref }
  | { does: 'place'; name: string; store: boolean }
  | { does: 'place-change'; id: number; store: boolean }
  | { does: 'past'; tag: string; since: Since; person: number | null; numbers: number[] | null; note: string }
  | { does: 'product'; product: NewProduct }
  | { does: 'price'; id: number; sku: string; cents: number }
  | { does: 'shelf'; productId: number; place: Ref; quantity: number; form: 'set' | 'single'; cents: number | null }
  | {
      does: 'loan';
      tag: string;
      from: LocalDate;
      to: LocalDate;
      why: string;
      /** Hours of a lesson; null: away all day. */
      hours: { begins: string; ends: string } | null;
      /** It comes every week, on the weekday of its first day, until its last. */
      weekly: boolean;
    };

/** A string or a set that a sheet brings. Of a set, `gauges` are of its strings, thinnest or thickest first. */
export interface NewProduct {
  sku: string;
  name: string;
  family: KindRead['family'];
  size: string;
  gauges: { thou: number; wound: boolean | null }[];
  core: string;
  end: string;
  lengthMm: number | null;
  cents: number;
}

/** Something to say of a row. `bad`: it cannot be taken over like this. */
export interface Remark {
  column: number | null;
  bad: boolean;
  says: string;
  /** What the cell could be instead. */
  fixes: string[];
}

export interface DraftRow {
  /** Its number in the sheet, the heading being 0. */
  row: number;
  cells: readonly string[];
  does: 'add' | 'change' | 'same' | 'out' | 'problem';
  /** What would change, in words. */
  says: string;
  remarks: Remark[];
  op: Op | null;
}

/** Something that a word may mean, and how it is kept as a decision. */
export interface Meaning {
  value: string;
  says: string;
}

/** What a word means, asked once however many rows have it. */
export interface Question {
  /** `kind:bar. uke` */
  key: string;
  about: 'kind' | 'place' | 'set';
  word: string;
  rows: number;
  confidence: 'sure' | 'likely' | 'unsure';
  answer: Meaning | null;
  others: Meaning[];
}

export interface Draft {
  rows: DraftRow[];
  questions: Question[];
}

/** What a subject's reader is given for each of its rows. */
export class RowReader {
  readonly remarks: Remark[] = [];
  constructor(
    readonly known: Known,
    readonly decisions: Decisions,
    readonly cells: readonly string[],
    private readonly asked: Map<string, Question>,
    /** Names of new places in the sheet, the longest first. */
    private readonly placeNames: readonly string[],
  ) {}

  column(field: string): number {
    return this.decisions.fields.indexOf(field);
  }
  /** What stands in a field; empty where there is no such column, or somebody wrote that they do not know. */
  text(field: string): string {
    const value = this.raw(field);
    return isNothing(value) ? '' : value;
  }
  /** What stands in a field, even where it looks like nothing: somebody may be called that. */
  raw(field: string): string {
    const column = this.column(field);
    const cell = column < 0 ? '' : (this.cells[column] ?? '').trim();
    // A sheet of Arvick's own puts an apostrophe before what a spreadsheet would take for a formula.
    return /^'['=+\-@]/.test(cell) ? cell.slice(1) : cell;
  }
  bad(field: string | null, says: string, fixes: string[] = []): void {
    this.remarks.push({ column: field === null ? null : this.column(field), bad: true, says, fixes });
  }
  remark(field: string | null, says: string): void {
    this.remarks.push({ column: field === null ? null : this.column(field), bad: false, says, fixes: [] });
  }
  short(field: string, most: number): string {
    const text = field === 'name' ? this.raw(field) : this.text(field);
    if (text.length > most) this.bad(field, `too long: at most ${most} characters`, [text.slice(0, most)]);
    return text;
  }
  /** A day as it is said everywhere. */
  say(on: LocalDate): string {
    return sayDay(on, this.known.today);
  }
  get isBad(): boolean {
    return this.remarks.some((r) => r.bad);
  }

  day(field: string): Since | null {
    const read: ReadDay = readDay(this.text(field), this.decisions.dayStyle);
    if (read.kind === 'none') return null;
    if (read.kind === 'wrong') {
      this.bad(field, read.says, read.meant ? [read.meant] : []);
      return null;
    }
    if (read.exact === 'month') this.remark(field, `month only: read as about ${this.say(read.on)}`);
    if (read.exact === 'year') this.remark(field, `year only: read as about ${this.say(read.on)}`);
    if (read.exact === 'serial') this.remark(field, `a spreadsheet’s date number: read as ${this.say(read.on)}`);
    return { on: read.on, about: read.exact === 'month' || read.exact === 'year' };
  }
  /** A day that has been. */
  past(field: string): Since | null {
    const since = this.day(field);
    if (since && since.on > this.known.today) {
      this.bad(field, `${this.say(since.on)} is in the future`);
      return null;
    }
    return since;
  }

  /** What was said of a word, here or another time. */
  said(key: string): string | undefined {
    return this.decisions.words[key] ?? this.known.words.get(key);
  }
  /** A question that another row has raised already: it is this row's as well. */
  again(key: string): Question | undefined {
    const known = this.asked.get(key);
    if (known) known.rows += 1;
    return known;
  }
  ask(question: Omit<Question, 'rows'>): void {
    this.asked.set(question.key, { ...question, rows: 1 });
  }

  /** The place a field names: one there is, one that is like it, or a new one. */
  place(field: string): Ref {
    const word = this.text(field);
    if (!word) return { id: this.known.homePlaceId };
    const key = `place:${fold(word)}`;
    const ref = (value: string): Ref =>
      value.startsWith('#') ? { id: Number(value.slice(1)) } : { name: value.slice(1) };
    const asked = this.again(key);
    if (asked?.answer) return ref(asked.answer.value);
    const exact =
      this.known.places.find((p) => p.name === word) ?? this.known.places.find((p) => fold(p.name) === fold(word));
    if (exact) return { id: exact.id };
    if (word.length > 60) {
      this.bad(field, 'too long: at most 60 characters', [word.slice(0, 60)]);
      return { id: this.known.homePlaceId };
    }
    const others: Meaning[] = this.known.places.map((p) => ({ value: `#${p.id}`, says: p.name }));
    // Of names in this sheet that are alike the longest is the place's.
    for (const name of this.placeNames) if (name !== word) others.push({ value: `+${name}`, says: name });
    const said = this.said(key);
    const saidId = said?.startsWith('#') ? Number(said.slice(1)) : null;
    const like = others.find(
      (o) => sameThing(o.says, word) && (o.value.startsWith('#') || o.says.length > word.length),
    );
    const fresh: Meaning = { value: `+${word}`, says: `new: ${word}` };
    const answer: Meaning =
      saidId !== null && this.known.places.some((p) => p.id === saidId)
        ? { value: `#${saidId}`, says: this.known.places.find((p) => p.id === saidId)?.name ?? '' }
        : said?.startsWith('+')
          ? { value: said, says: said.slice(1) === word ? fresh.says : said.slice(1) }
          : (like ?? fresh);
    this.ask({
      key,
      about: 'place',
      word,
      confidence: said !== undefined || answer === fresh ? 'sure' : 'likely',
      answer: { value: answer.value, says: answer.says.replace(/^new: /, '') },
      others: [fresh, ...others],
    });
    return ref(answer.value);
  }

  /** An instrument there is, by its tag. */
  instrument(): KnownInstrument | null {
    const tag = this.text('tag');
    if (!tag) {
      this.bad('tag', 'no tag');
      return null;
    }
    const found = this.known.instruments.get(tagKey(tag));
    if (!found) this.bad('tag', `no instrument has the tag ${tag.slice(0, 30)}`);
    else if (found.gone) this.bad('tag', `${found.tag} is no longer in the programme`);
    return found && !found.gone ? found : null;
  }
}
