import { count } from '../count';
import { FAMILIES, SIZES } from '../instruments/build';
import { tagKey } from '../instruments/tag';
import { thouOf } from '../strings/tension';
import { usualSetsFor } from '../strings/usualSets';
import { fold, wordsOf } from '../text';
import { readNumber } from './days';
import type { KnownInstrument, KnownProduct, Meaning, Op, Question, RowReader, SetRef } from './draft';
import { guessKind, type KindRead, sayKind } from './kinds';

/** How a kind is kept as a decision: `ukulele/baritone/right`; the parts of a size may have a slash, the others none. */
export const writeKind = (k: KindRead): string => [k.family, k.handedness, k.size].join('/');
export function parseKind(text: string): KindRead | null {
  const [family, handedness, ...size] = text.split('/');
  const known = FAMILIES.find((f) => f === family);
  const said = size.join('/');
  if (!known || !SIZES[known].includes(said)) return null;
  return { family: known, size: said, handedness: handedness === 'left' ? 'left' : 'right' };
}

const kindMeaning = (k: KindRead): Meaning => ({ value: writeKind(k), says: sayKind(k) });

function readKind(r: RowReader): KindRead | null {
  const word = [r.text('kind'), r.text('size')].filter(Boolean).join(' ');
  if (!word) {
    r.bad('kind', 'no kind of instrument given');
    return null;
  }
  const key = `kind:${fold(word)}`;
  const question = r.again(key) ?? askKind(r, key, word);
  if (question.confidence === 'unsure' || !question.answer) {
    r.bad('kind', `choose what kind “${word.slice(0, 40)}” is`);
    return null;
  }
  return parseKind(question.answer.value);
}

function askKind(r: RowReader, key: string, word: string): Omit<Question, 'rows'> {
  const said = parseKind(r.said(key) ?? '');
  const guess = guessKind(word);
  const answer = said ?? guess.best;
  const question: Omit<Question, 'rows'> = {
    key,
    about: 'kind',
    word,
    confidence: said ? 'sure' : guess.confidence,
    answer: answer ? kindMeaning(answer) : null,
    others: [...(guess.best ? [guess.best] : []), ...guess.others].map(kindMeaning),
  };
  r.ask(question);
  return question;
}

/** Sets of a family: those in Stock, and the usual ones of the kind that are not. */
function setsFor(products: readonly KnownProduct[], kind: KindRead): KnownProduct[] {
  const there = products.filter((p) => (p.kind === 'set' || p.kind === 'hybrid') && p.family === kind.family);
  const usual = usualSetsFor(kind.family, kind.size).map(
    (u): KnownProduct => ({
      id: null,
      sku: u.sku,
      name: u.name,
      kind: 'set',
      family: u.family,
      gauges: u.strings.map((s) => Math.round(thouOf(s.gaugeMm) * 10) / 10),
      priceCents: 0,
    }),
  );
  return [...there, ...usual.filter((u) => !there.some((p) => fold(p.sku) === fold(u.sku)))];
}

/** The set that free words mean: by its code, its name, its outer gauges, or the words of its name. */
export function findSet(sets: readonly KnownProduct[], text: string): KnownProduct | null {
  const folded = fold(text);
  const exact =
    sets.find((p) => p.sku === text || p.name === text) ??
    sets.find((p) => fold(p.sku) === folded || fold(p.name) === folded);
  if (exact) return exact;
  const gauges = /(\d{1,3})\s*[-–/x]\s*(\d{2,3})/.exec(folded);
  if (gauges) {
    const [thin, thick] = [Number(gauges[1]), Number(gauges[2])];
    const near = sets.find(
      (p) =>
        p.gauges.length > 0 &&
        Math.abs(Math.min(...p.gauges) - thin) <= 1 &&
        Math.abs(Math.max(...p.gauges) - thick) <= 2,
    );
    if (near) return near;
  }
  const words = wordsOf(folded).filter((w) => w.length > 2);
  if (words.length === 0) return null;
  const scored = sets.map((set) => {
    const own = wordsOf(fold(set.name));
    return {
      set,
      share: words.filter((w) => own.some((o) => o.startsWith(w) || w.startsWith(o))).length / words.length,
    };
  });
  const best = scored.sort((a, b) => b.share - a.share)[0];
  // Two that fit as well are not told apart by these words.
  return best && best.share >= 0.5 && scored.filter((s) => s.share === best.share).length === 1 ? best.set : null;
}

const setMeaning = (p: KnownProduct): Meaning => ({
  value: p.id === null ? `+${p.sku}` : `#${p.id}`,
  says: p.id === null ? `${p.name}, new in Stock` : p.name,
});

/** The set a row names; null where it names none, or none that is known. What is not known is kept as a remark. */
function readSet(r: RowReader, kind: KindRead): { set: KnownProduct | null; unknown: string } {
  const word = r.text('strings');
  if (!word) return { set: null, unknown: '' };
  const key = `set:${kind.family}:${kind.size}:${fold(word)}`;
  const before = r.again(key);
  if (before?.answer?.value === '-') return { set: null, unknown: word };
  const sets = setsFor(r.known.products, kind);
  if (before?.answer)
    return { set: sets.find((p) => setMeaning(p).value === before.answer?.value) ?? null, unknown: '' };
  const said = r.said(key);
  const found =
    said === '-' ? null : (sets.find((p) => setMeaning(p).value === said) ?? (said ? null : findSet(sets, word)));
  const none: Meaning = { value: '-', says: 'kept as a remark' };
  r.ask({
    key,
    about: 'set',
    word,
    confidence: said !== undefined || (found && fold(found.sku) === fold(word)) ? 'sure' : found ? 'likely' : 'unsure',
    answer: found ? setMeaning(found) : none,
    others: [...sets.map(setMeaning), none],
  });
  return { set: found, unknown: found ? '' : word };
}

const refOf = (p: KnownProduct): SetRef => (p.id === null ? { usual: p.sku } : { id: p.id });

const TAG = /^[\p{L}\p{N}](?:[\p{L}\p{N} ._/-]*[\p{L}\p{N}])?$/u;

/**
 * A row of a list of instruments.
 * @param before the row, by tag key, that has the same tag further up
 */
export function readInstrument(
  r: RowReader,
  before: ReadonlyMap<string, number>,
): { op: Op | null; says: string; same: boolean } {
  const nothing = { op: null, says: '', same: false };
  const tag = r.text('tag');
  if (!tag) r.bad('tag', 'no tag');
  else if (tag.length > 20) r.bad('tag', 'too long: at most 20 characters', [tag.slice(0, 20).trim()]);
  else if (!TAG.test(tag))
    r.bad(
      'tag',
      'use only letters, digits, spaces, dots, hyphens, slashes and underscores, with a letter or digit at each end',
      [tag.replace(/[^\p{L}\p{N} ._/-]+/gu, '-').replace(/^[ ._/-]+|[ ._/-]+$/g, '')],
    );
  const twice = before.get(tagKey(tag));
  if (tag && twice !== undefined) r.bad('tag', `row ${twice} has the same tag`, [`${tag}b`]);
  const known = r.known.instruments.get(tagKey(tag)) ?? null;
  if (known?.gone) r.bad('tag', `${known.tag} is no longer in the programme; bring it back first, or use another tag`);
  const kind = known && r.column('kind') < 0 ? known : readKind(r);
  const place = r.place('place');
  const since = r.past('on');
  const hoursText = r.text('hours');
  const hours = hoursText ? readNumber(hoursText) : null;
  if (hoursText && (hours === null || hours < 0 || hours > 80))
    r.bad('hours', 'enter hours a week as a number up to 80');
  const { set, unknown } = kind ? readSet(r, kind) : { set: null, unknown: '' };
  const values = {
    holder: r.short('holder', 60),
    note: r.short('note', 1000),
    maker: r.short('maker', 60),
    model: r.short('model', 60),
    serial: r.short('serial', 60),
  };
  if (r.isBad || !kind) return nothing;
  if (known) return changed(r, known, { kind, place, since, hours, set, values });
  const strings = unknown ? `Strings: ${unknown.slice(0, 200)}` : '';
  const op: Op = {
    does: 'instrument',
    tag,
    kind,
    place,
    ...values,
    note: [values.note, strings].filter(Boolean).join('. ').slice(0, 1000),
    hours,
    set: set ? refOf(set) : null,
    since,
  };
  return { op, says: sayKind(kind), same: false };
}

/** What a row says otherwise of an instrument there is; an empty cell says nothing. */
function changed(
  r: RowReader,
  known: KnownInstrument,
  p: {
    kind: KindRead;
    place: { id: number } | { name: string };
    since: { on: string; about: boolean } | null;
    hours: number | null;
    set: KnownProduct | null;
    values: Record<'holder' | 'note' | 'maker' | 'model' | 'serial', string>;
  },
): { op: Op | null; says: string; same: boolean } {
  if (writeKind(p.kind) !== writeKind(known)) {
    r.bad('kind', `${known.tag} is on record as: ${sayKind(known)}; the list says: ${sayKind(p.kind)}`, [
      sayKind(known),
    ]);
    return { op: null, says: '', same: false };
  }
  const said: string[] = [];
  const values: Partial<typeof p.values> = {};
  for (const key of ['holder', 'note', 'maker', 'model', 'serial'] as const)
    if (p.values[key] && p.values[key] !== known[key]) {
      values[key] = p.values[key];
      said.push(`${key === 'note' ? 'remarks' : key}: ${p.values[key].slice(0, 40)}`);
    }
  const here = r.text('place') !== '' && !('id' in p.place && p.place.id === known.placeId);
  if (here)
    said.push(
      `moves to ${'id' in p.place ? r.known.places.find((x) => 'id' in p.place && x.id === p.place.id)?.name : p.place.name}`,
    );
  // A sheet keeps a number to a few figures.
  const hours = p.hours !== null && Math.abs(p.hours - (known.hours ?? -1)) > 0.001 ? p.hours : null;
  if (hours !== null) said.push(`${count(hours, 'hour')} a week`);
  const set = p.set && p.set.id !== known.setId ? refOf(p.set) : null;
  if (set) said.push(`usual set: ${p.set?.name}`);
  const newer = p.since && (known.changedOn === null || p.since.on > known.changedOn) ? p.since : null;
  if (newer && known.onBench) {
    r.bad('on', `${known.tag} is on the bench; finish or close that work first`);
    return { op: null, says: '', same: false };
  }
  if (newer) said.push(`strings changed ${r.say(newer.on)}`);
  if (said.length === 0) return { op: null, says: '', same: true };
  return {
    op: {
      does: 'instrument-change',
      id: known.id,
      version: known.version,
      tag: known.tag,
      values,
      place: here ? p.place : null,
      hours,
      set,
      since: newer,
    },
    says: said.join('; '),
    same: false,
  };
}
