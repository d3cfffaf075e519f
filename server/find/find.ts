import Fuse from 'fuse.js';
import type { Knex } from 'knex';
import { compactTag, findWords } from '../../core/find/findable';
import { describeBuild } from '../../core/instruments/build';
import { tagKey, tagPath } from '../../core/instruments/tag';
import { fold } from '../../core/text';
import { untilChanged } from '../db/memo';
import { scoped } from '../fleet/list';

/** Something that was found, and where it is. */
export interface Hit {
  kind: 'instrument' | 'product' | 'person' | 'place' | 'page';
  title: string;
  says: string;
  href: string;
}

/** Pages and what is done there, with other words for them. */
const PAGES: readonly (readonly [title: string, href: string, also: string])[] = [
  ['Today', '/', 'bench now work'],
  ['Fleet', '/fleet', 'instruments list'],
  ['Add an instrument', '/instruments/new', 'new create'],
  ['Labels', '/instruments/labels', 'print qr tags stickers'],
  ['Past string changes', '/instruments/since', 'age since when date last change record'],
  ['Plan', '/plan', 'week calendar sessions schedule'],
  ['Week sheet', '/plan/sheet', 'print week day list sessions'],
  ['Rota', '/plan/people', 'people hours shifts availability holidays sign-offs'],
  ['Stock', '/stock', 'shelf strings sets'],
  ['Count the shelf', '/stock/count', 'inventory stocktake'],
  ['Opening stock', '/stock/opening', 'what is in stock to begin with'],
  ['Orders', '/stock/orders', 'buy supplier delivery receive'],
  ['Kit', '/stock/kit', 'pack pull spare'],
  ['Add a product', '/stock/new', 'new set string'],
  ['Usual sets', '/stock/usual', 'catalogue sets gauges'],
  ['Methods', '/methods', 'procedure steps how'],
  ['Practice', '/methods/practice', 'learn train'],
  ['Intervals', '/methods/intervals', 'how long due months hours'],
  ['Calculator', '/calculator', 'tension gauge slack winds'],
  ['Report a fault', '/report', 'something is wrong broken string crack peg electrics teacher'],
  ['Fault desk', '/faults', 'wrong broken buzz problem report'],
  ['Programme', '/programme', 'settings people places time zone'],
  ['Import a list', '/programme/import', 'bring csv xlsx spreadsheet upload'],
  ['Export everything', '/programme/take', 'take download json'],
  ['Backups', '/programme/backups', 'restore disk copy'],
  ['Activity log', '/programme/audit', 'audit history changes who when'],
  ['Data about a person', '/programme/names', 'name erase privacy personal'],
];

interface Entry extends Hit {
  /** Folded: what it is found by. */
  text: string;
}

const MOST_INSTRUMENTS = 8;
const MOST_LETTERS = 80;
const MOST_OTHERS = 6;

const escapeLike = (text: string) => text.replace(/[\\%_]/g, (c) => `\\${c}`);

/** People, places, products and pages: few enough to be kept together until something changes. */
async function entriesOf(db: Knex): Promise<{ all: Entry[]; fuzzy: Fuse<Entry> }> {
  const products = await db('product').whereNull('retired_on').orderBy('id').select('id', 'name', 'sku', 'kind');
  const people = await db('person as p')
    .join('place as l', 'l.id', 'p.place_id')
    .whereNull('p.retired_on')
    .select('p.id', 'p.name', 'p.role', 'p.initials', 'l.name as place');
  const places = await db('place').whereNull('retired_on').select('id', 'name', 'is_store');
  const entry = (hit: Hit, ...also: string[]): Entry => ({ ...hit, text: fold([hit.title, ...also].join(' ')) });
  const all = [
    ...PAGES.map(([title, href, also]) => entry({ kind: 'page', title, says: 'page', href }, also)),
    ...places.map((p) =>
      entry({
        kind: 'place',
        title: p.name,
        says: p.is_store ? 'place where strings are kept' : 'place',
        href: `/fleet?place=${p.id}`,
      }),
    ),
    ...people.map((p) =>
      entry(
        { kind: 'person', title: p.name, says: `${p.role}, ${p.place}`, href: '/programme#people' },
        p.role,
        p.initials,
      ),
    ),
    // Sets before the strings they are made of.
    ...[...products]
      .sort((a, b) => Number(a.kind === 'single') - Number(b.kind === 'single'))
      .map((p) =>
        entry(
          {
            kind: 'product',
            title: p.name,
            says: `${p.kind === 'single' ? 'string' : p.kind}, ${p.sku}`,
            href: `/stock/products/${p.id}`,
          },
          p.sku,
        ),
      ),
  ];
  return {
    all,
    fuzzy: new Fuse(all, { keys: ['title', 'text'], threshold: 0.3, ignoreLocation: true, minMatchCharLength: 3 }),
  };
}

/**
 * What is meant by some words: instruments, products, people, places, pages, by part of a word, accents and case apart.
 * Where nothing has all of them, what is most like them.
 */
export async function find(db: Knex, asked: string, may: (href: string) => boolean = () => true): Promise<Hit[]> {
  // Looking for what is alike takes longer with every letter.
  const query = asked.slice(0, MOST_LETTERS);
  const words = findWords(query);
  if (words.length === 0) return [];
  const key = escapeLike(tagKey(query));
  const instruments = await scoped(db, { q: query, place: null, family: null })
    .orderByRaw("case when s.tag like ? escape '\\' then 0 when s.tag like ? escape '\\' then 1 else 2 end, s.tag", [
      key,
      `${key}%`,
    ])
    .limit(MOST_INSTRUMENTS)
    .select('s.tag', 's.family', 's.size', 's.place_name', 's.holder');
  const { all, fuzzy } = await untilChanged(db, 'find', '', () => entriesOf(db));
  let others: Entry[] = all.filter((e) => may(e.href) && words.every((w) => e.text.includes(w)));
  // What begins like the first word is meant sooner than what has it somewhere.
  others.sort(
    (a, b) =>
      Number(!fold(a.title).startsWith(words[0] as string)) - Number(!fold(b.title).startsWith(words[0] as string)),
  );
  if (others.length === 0 && instruments.length === 0)
    others = fuzzy.search(fold(query), { limit: MOST_OTHERS }).flatMap((r) => (may(r.item.href) ? [r.item] : []));
  const found = instruments.map(
    (i): Hit => ({
      kind: 'instrument',
      title: i.tag,
      says: [describeBuild(i.family, i.size), i.place_name, i.holder].filter(Boolean).join(', '),
      href: `/instruments/${tagPath(i.tag)}`,
    }),
  );
  const rest = others.slice(0, MOST_OTHERS).map(({ text: _, ...hit }) => hit);
  // What is called so is meant before instruments that only have it on, or stand there.
  const called = rest.some((h) => words.every((w) => fold(h.title).includes(w)));
  const tagged = found.some((h) =>
    words.some((w) => /\d/.test(w) && compactTag(h.title).includes(w.replace(/[^\p{L}\p{N}]/gu, ''))),
  );
  return called && !tagged ? [...rest, ...found] : [...found, ...rest];
}
