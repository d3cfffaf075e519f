import type { Knex } from 'knex';
import { z } from 'zod';
import type { LocalDate } from '../../core/dates';
import { ERASED } from '../audit/entries';
import { localDate } from '../clock';
import { among } from '../db/among';
import * as columns from '../db/columns';

/** Something that was changed of what is said of an instrument: when, by whom, and what. */
export interface SaidChange {
  on: LocalDate;
  by: string;
  says: string;
}

const SAYS: Record<string, string> = {
  'instrument.add': 'added',
  'instrument.build': 'build corrected',
  'instrument.house-strings': 'usual set changed',
  'instrument.player': 'how hard it is played',
  'instrument.busy': 'lent, or away for some days',
  'instrument.back': 'back from a loan',
  'instrument.fact': 'fact recorded',
  'instrument.many': 'changed together with others',
  'instrument.many-undone': 'a change to several undone',
};

const Said = z.looseObject({ tag: z.string(), placeId: z.number(), holder: z.string(), note: z.string() });
const details = columns.columnOf<{ before: z.output<typeof Said>; after: Record<string, unknown> }>(
  'what was said of an instrument',
  z.looseObject({ before: Said, after: z.looseObject({}) }),
);

/** So many changes of several instruments are looked through for one of them. */
const MOST_OF_SEVERAL = 200;

/** What was changed of what is said of an instrument, the latest first; string changes stand in its history. */
export async function changesOf(db: Knex, instrumentId: number, timeZone: string, most = 15): Promise<SaidChange[]> {
  // A change of several stands under the first of them; its entry names all.
  const withOthers = db('audit')
    .where({ action: 'instrument.many' })
    .orderBy('id', 'desc')
    .limit(MOST_OF_SEVERAL)
    .select('id', 'detail')
    .as('m');
  const several: number[] = await db
    .from(withOthers)
    .whereExists(
      db
        .from(db.raw("json_each(m.detail, '$.before') as b"))
        .whereRaw("json_extract(b.value, '$.id') = ?", [instrumentId])
        .select(db.raw('1')),
    )
    .pluck('m.id');
  const rows = await db('audit as a')
    .join('person as p', 'p.id', 'a.person_id')
    .where((q) =>
      q
        .where((own) =>
          own
            .where({ 'a.entity': 'instrument', 'a.entity_id': instrumentId })
            .whereIn('a.action', among(db, [...Object.keys(SAYS), 'instrument.details'])),
        )
        .orWhereIn('a.id', among(db, several)),
    )
    .orderBy('a.id', 'desc')
    .limit(most)
    .select('a.at', 'a.action', 'a.detail', 'p.name');
  const places = new Map((await db('place').select('id', 'name')).map((l) => [l.id, l.name]));
  return rows.map((r) => ({
    on: localDate(r.at, timeZone),
    by: r.name,
    says: r.action === 'instrument.details' ? sayDetails(r.detail, places) : (SAYS[r.action] ?? r.action),
  }));
}

function sayDetails(detail: string, places: ReadonlyMap<number, string>): string {
  if (detail === ERASED) return 'details, since erased';
  const { before, after } = details.read(detail);
  const place = (id: unknown) => places.get(Number(id)) ?? '';
  const pairs: [string, string, string][] = [
    ['tag', before.tag, String(after.newTag ?? before.tag)],
    ['place', place(before.placeId), place(after.placeId ?? before.placeId)],
    ['with', before.holder, String(after.holder ?? before.holder)],
    ['remarks', before.note, String(after.note ?? before.note)],
  ];
  const said = pairs
    .filter(([, was, is]) => was !== is)
    .map(([what, was, is]) => `${what}: ${was || 'nothing'} → ${is || 'nothing'}`);
  return said.join('; ') || 'hours, maker, model, serial number or people needed';
}
