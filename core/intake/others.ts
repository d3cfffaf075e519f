import { count } from '../count';
import { type LocalDate, sayDayOfWeek } from '../dates';
import { STRING_ENDS } from '../instruments/build';
import { defaultBuild } from '../instruments/defaults';
import { readGauges } from '../strings/gauges';
import { CORE_MATERIALS, MATERIAL_NAMES } from '../strings/materials';
import { alike, fold } from '../text';
import { readNumber, readTime } from './days';
import type { KnownProduct, NewProduct, Op, RowReader } from './draft';
import { guessKind } from './kinds';

/** What taking a row over does, in words; `same`: it says nothing new. */
interface Read {
  op: Op | null;
  says: string;
  same: boolean;
}
const NOTHING: Read = { op: null, says: '', same: false };
const SAME: Read = { op: null, says: '', same: true };

const ROLE_WORDS: Record<string, readonly string[]> = {
  coordinator: ['coordinator', 'koordinator', 'head', 'leitung', 'lead', 'manager'],
  technician: ['technician', 'tech', 'techniker', 'luthier', 'repairer', 'bench'],
  helper: ['helper', 'student', 'student helper', 'hilfe', 'volunteer', 'assistant'],
  teacher: ['teacher', 'lehrer', 'lehrkraft', 'tutor', 'instructor'],
};

const YES = /^(?:y|yes|ja|j|true|1|x|oui|store|✓)$/;

export function readPerson(r: RowReader, before: ReadonlyMap<string, number>): Read {
  const name = r.short('name', 60);
  if (!name) r.bad('name', 'no name');
  if (before.has(fold(name))) r.bad('name', `row ${before.get(fold(name))} also has ${name}`);
  const word = fold(r.text('role'));
  const role = word
    ? Object.keys(ROLE_WORDS).find((k) =>
        ROLE_WORDS[k]?.some((w) => w === word || (w.length > 4 && alike(w, word) > 0.75)),
      )
    : 'technician';
  if (!role) r.bad('role', `no such role: “${r.text('role').slice(0, 30)}”`, Object.keys(ROLE_WORDS));
  const initials = r.short('initials', 4);
  const place = r.place('place');
  if (r.isBad || !role) return NOTHING;
  const known = r.known.people.find((p) => p.name === name) ?? r.known.people.find((p) => fold(p.name) === fold(name));
  if (!known) return { op: { does: 'person', name, initials, role, place }, says: role, same: false };
  const next = {
    initials: initials || known.initials,
    role: word ? role : known.role,
    place: r.text('place') ? place : { id: known.placeId },
  };
  const moved = !('id' in next.place) || next.place.id !== known.placeId;
  const said = [
    next.role !== known.role && next.role,
    next.initials !== known.initials && `initials ${next.initials}`,
    moved && `works at ${r.text('place')}`,
  ].filter(Boolean);
  return said.length === 0
    ? SAME
    : { op: { does: 'person-change', id: known.id, ...next }, says: said.join('; '), same: false };
}

export function readPlace(r: RowReader, before: ReadonlyMap<string, number>): Read {
  const name = r.short('name', 60);
  if (!name) r.bad('name', 'no name');
  if (before.has(fold(name))) r.bad('name', `row ${before.get(fold(name))} also has ${name}`);
  const store = YES.test(fold(r.text('store')));
  if (r.isBad) return NOTHING;
  const known = r.known.places.find((p) => p.name === name) ?? r.known.places.find((p) => fold(p.name) === fold(name));
  if (!known)
    return { op: { does: 'place', name, store }, says: store ? 'strings are kept there' : 'new place', same: false };
  if (!r.text('store') || store === known.isStore) return SAME;
  return {
    op: { does: 'place-change', id: known.id, store },
    says: store ? 'strings are kept there' : 'no strings are kept there',
    same: false,
  };
}

export function readChange(r: RowReader): Read {
  const instrument = r.instrument();
  const since = r.past('on');
  if (!since && !r.isBad) r.bad('on', 'no date');
  const who = r.text('person');
  const person = who
    ? (r.known.people.find((p) => fold(p.name) === fold(who) || fold(p.initials) === fold(who)) ?? null)
    : null;
  if (who && !person) r.remark('person', `${who.slice(0, 30)} is not among your people: name kept in the remarks`);
  const numbersText = r.text('numbers');
  const all = !numbersText || /^(?:all|alle|set|satz|full|\*)/.test(fold(numbersText));
  const numbers = all ? null : (numbersText.match(/\d{1,2}/g) ?? []).map(Number);
  const note = r.short('note', 300);
  if (instrument && numbers) {
    const there = new Set(defaultBuild(instrument.family, instrument.size).positions.map((p) => p.number));
    const none = numbers.find((n) => !there.has(n));
    if (numbers.length === 0 || none !== undefined)
      r.bad('numbers', none === undefined ? 'which strings?' : `it has no string ${none}`, ['all']);
  }
  if (r.isBad || !instrument || !since) return NOTHING;
  if (instrument.changedOn !== null && since.on <= instrument.changedOn) {
    r.remark('on', `already on record: a change on ${r.say(instrument.changedOn)}`);
    return SAME;
  }
  if (instrument.onBench) {
    r.bad('tag', `${instrument.tag} is on the bench; finish or close that work first`);
    return NOTHING;
  }
  return {
    op: {
      does: 'past',
      tag: instrument.tag,
      since,
      person: person?.id ?? null,
      numbers: numbers ? [...new Set(numbers)].sort((a, b) => b - a) : null,
      note: [note, who && !person ? `by ${who}` : ''].filter(Boolean).join('; '),
    },
    says: numbers ? `strings ${numbers.join(', ')}` : 'all strings',
    same: false,
  };
}

const CODE = /^[A-Za-z0-9.-]{2,24}$/;

function cents(r: RowReader, field: string): number | null {
  const text = r.text(field).replace(/[^\d.,-]/g, '');
  if (!text) return null;
  const number = readNumber(text);
  if (number === null || number < 0) r.bad(field, 'enter the price as a number');
  return number === null ? null : Math.round(number * 100);
}

export function readProduct(r: RowReader, before: ReadonlyMap<string, number>): Read {
  const sku = r.text('sku');
  const name = r.short('name', 80);
  if (!CODE.test(sku))
    r.bad('sku', 'use 2 to 24 letters, digits, dots or hyphens', [
      sku
        .replace(/[^A-Za-z0-9.-]+/g, '-')
        .replace(/^-+|-+$/g, '')
        .slice(0, 24),
    ]);
  if (before.has(fold(sku))) r.bad('sku', `row ${before.get(fold(sku))} has the same code`, [`${sku}-2`]);
  if (name.length < 2) r.bad('name', 'no name');
  const price = cents(r, 'price');
  const known = r.known.products.find((p) => p.sku === sku) ?? r.known.products.find((p) => fold(p.sku) === fold(sku));
  if (known) {
    if (r.isBad) return NOTHING;
    if (price === null || price === known.priceCents) return SAME;
    return {
      op: { does: 'price', id: known.id as number, sku: known.sku, cents: price },
      says: `price ${(price / 100).toFixed(2)}`,
      same: false,
    };
  }
  const word = r.text('kind');
  const guess = guessKind(word);
  const said = guess.best;
  if (!said || guess.confidence === 'unsure')
    r.bad(
      'kind',
      word ? `“${word.slice(0, 30)}” does not name one kind of instrument` : 'which kind of instrument is it for?',
    );
  const gauges = readGauges(r.text('gauges'));
  const decimal = gauges.some((g) => g.thou < 4 || g.thou > 400);
  if (gauges.length === 0 || decimal)
    r.bad('gauges', 'enter gauges in thousandths of an inch, such as 12 16 24w 32w 42w 53w');
  if (said && gauges.length > 1) {
    const strings = defaultBuild(said.family, said.size).positions.length;
    if (gauges.length !== strings)
      r.bad('gauges', `${count(gauges.length, 'gauge')} given for ${count(strings, 'string')}`);
  }
  const coreWord = fold(r.text('core'));
  const core = coreWord
    ? CORE_MATERIALS.find(
        (c) => fold(c) === coreWord || fold(MATERIAL_NAMES[c]) === coreWord || alike(fold(c), coreWord) > 0.7,
      )
    : undefined;
  if (coreWord && !core)
    r.bad(
      'core',
      `“${coreWord.slice(0, 20)}” is not a core material`,
      CORE_MATERIALS.map((c) => MATERIAL_NAMES[c]),
    );
  const endWord = fold(r.text('end')).replace(/ end$/, '');
  const end = endWord ? STRING_ENDS.find((e) => fold(e).replace('-', ' ') === endWord.replace('-', ' ')) : undefined;
  if (endWord && !end) r.bad('end', `“${endWord.slice(0, 20)}” is not a string end`, [...STRING_ENDS]);
  const lengthMm = r.text('length') ? readNumber(r.text('length')) : null;
  if (r.text('length') && (lengthMm === null || lengthMm < 100 || lengthMm > 5000))
    r.bad('length', 'enter a length of 100 to 5000 mm');
  if (r.isBad || !said) return NOTHING;
  const product: NewProduct = {
    sku,
    name,
    family: said.family,
    size: said.size,
    gauges,
    core: core ?? '',
    end: end ?? '',
    lengthMm,
    cents: price ?? 0,
  };
  return {
    op: { does: 'product', product },
    says: gauges.length === 1 ? 'single string' : `set of ${gauges.length}`,
    same: false,
  };
}

function findProduct(products: readonly KnownProduct[], text: string): KnownProduct | null {
  const folded = fold(text);
  return (
    products.find((p) => p.sku === text) ??
    products.find((p) => fold(p.sku) === folded || fold(p.name) === folded) ??
    null
  );
}

export function readShelf(r: RowReader): Read {
  const word = r.text('sku');
  const product = word ? findProduct(r.known.products, word) : null;
  if (!word) r.bad('sku', 'no code');
  else if (!product) r.bad('sku', `${word.slice(0, 30)} is not in Stock yet: import or add it first`);
  const quantity = readNumber(r.text('quantity'));
  if (quantity === null || !Number.isInteger(quantity) || quantity < 0 || quantity > 10_000)
    r.bad('quantity', 'enter a whole number up to 10,000');
  const place = r.place('place');
  const price = cents(r, 'price');
  if (r.isBad || !product || quantity === null) return NOTHING;
  if (/^(?:half|halves|halb)/.test(fold(r.text('form')))) {
    r.remark('form', 'half-length strings are not imported: count them at the shelf');
    return SAME;
  }
  const form = product.kind === 'set' ? 'set' : 'single';
  const here = 'id' in place ? (r.known.onHand.get(`${product.id}/${form}/${place.id}`) ?? 0) : 0;
  const more = quantity - here;
  if (more === 0) return SAME;
  if (more < 0) {
    r.bad('quantity', `stock already shows ${here} there; to lower it, count the shelf`);
    return NOTHING;
  }
  return {
    op: { does: 'shelf', productId: product.id as number, place, quantity: more, form, cents: price },
    says: `${more} more of ${product.name}`,
    same: false,
  };
}

/** What tells apart when an instrument cannot be had. */
export const busyKey = (b: {
  id: number;
  from: LocalDate;
  to: LocalDate;
  hours: { begins: string; ends: string } | null;
  weekly: boolean;
}): string => [b.id, b.from, b.to, b.hours?.begins ?? '', b.hours?.ends ?? '', b.weekly ? 'weekly' : ''].join('/');

/** Hours of a row, and whether it comes every week. */
function lessonOf(r: RowReader, from: LocalDate | null, to: LocalDate | null) {
  const time = (field: string): string | null => {
    const text = r.text(field);
    if (!text) return null;
    const read = readTime(text);
    if (read === null) r.bad(field, `“${text.slice(0, 20)}” is not a time such as 09:30`);
    return read;
  };
  const [begins, ends] = [time('begins'), time('ends')];
  const weekly = /^(?:y|yes|j|ja|x|true|1|w|weekly|every week|oui|si)$/.test(fold(r.raw('every')));
  if ((begins === null) !== (ends === null) && !r.isBad) r.bad(begins ? 'ends' : 'begins', 'no time');
  if (begins && ends && ends <= begins && (weekly || !to || to === from)) r.bad('ends', 'the end is before the start');
  if (weekly && !(begins && ends) && !r.isBad) r.bad('begins', 'a weekly lesson needs its times');
  if (weekly && !to && !r.isBad) r.bad('to', 'a weekly lesson needs its last day');
  return { hours: begins && ends ? { begins, ends } : null, weekly };
}

export function readLoan(r: RowReader): Read {
  const instrument = r.instrument();
  const from = r.day('from');
  const to = r.day('to');
  if (!from && !r.isBad) r.bad('from', 'no date');
  if (from && to && to.on < from.on) r.bad('to', 'the end is before the start');
  const why = r.short('why', 100);
  const lesson = lessonOf(r, from?.on ?? null, to?.on ?? null);
  if (r.isBad || !instrument || !from) return NOTHING;
  const { hours, weekly } = lesson;
  // What is lent without an end is gone until it is said to be back; a lesson is over on its day.
  const until = to?.on ?? (hours ? from.on : '2199-12-31');
  if (r.known.busy.has(busyKey({ id: instrument.id, from: from.on, to: until, hours, weekly }))) return SAME;
  const at = hours ? `, ${hours.begins} to ${hours.ends}` : '';
  return {
    op: {
      does: 'loan',
      tag: instrument.tag,
      from: from.on,
      to: until,
      why: why || (hours ? 'lesson' : 'on loan'),
      hours,
      weekly,
    },
    says: weekly
      ? `every ${sayDayOfWeek(from.on)}${at}, ${r.say(from.on)} to ${r.say(until)}`
      : hours && until === from.on
        ? `${r.say(from.on)}${at}`
        : to
          ? `${r.say(from.on)} to ${r.say(until)}${at}`
          : `from ${r.say(from.on)} on`,
    same: false,
  };
}
