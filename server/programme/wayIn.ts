import type { Knex } from 'knex';
import { count } from '../../core/count';

/** One thing that a first planned week needs, with its answer so far. */
export interface WayStep {
  name: string;
  /** The answer so far. */
  says: string;
  done: boolean;
  /** What is to be done next, after "Next:". */
  next: string;
  press: string;
  href: string;
}

/** The way from an empty programme to a planned week, computed from what is there; all done: there is nothing to show. */
export async function wayIn(db: Knex): Promise<WayStep[]> {
  const number = async (query: Knex.QueryBuilder) =>
    Number(((await query.count({ n: '*' }).first()) as { n: number }).n);
  const places = await number(db('place').whereNull('retired_on'));
  const people = await number(db('person').whereNull('retired_on').whereNot({ role: 'teacher' }));
  const hours = await number(db('availability'));
  const instruments = await number(db('instrument').whereNull('retired_on'));
  const unstrung = await number(db('instrument').whereNull('house_set_id').whereNull('retired_on'));
  const unknown = await number(db('instrument_state').where({ due_by: 'unknown-age' }));
  const shelf = await number(db('lot_balance').where('on_hand', '>', 0));
  const published = await number(db('plan'));
  const done = instruments - unstrung;
  return [
    {
      name: 'People and places',
      says: `${count(people, 'person', 'people')} at ${count(places, 'place')}`,
      done: people > 1 || hours > 0,
      next: 'who works on the strings, and where',
      press: 'Add people and places',
      href: '/programme#add-person',
    },
    {
      name: 'Working hours',
      says: hours === 0 ? 'no hours yet' : `${count(hours, 'shift')} a week`,
      done: hours > 0,
      next: 'the hours people work',
      press: 'Enter hours',
      href: '/plan/people',
    },
    {
      name: 'Instruments',
      says: instruments === 0 ? 'none yet' : `${count(instruments, 'instrument')}`,
      done: instruments > 0,
      next: 'the instruments, as a list or one by one',
      press: 'Import a list',
      href: '/programme/import',
    },
    {
      name: 'Usual strings',
      says: instruments === 0 ? 'once there are instruments' : `${done} of ${instruments} have a usual set`,
      done: instruments > 0 && unstrung === 0,
      next: 'the usual sets of strings',
      press: 'Choose usual sets',
      href: '/stock/usual',
    },
    {
      name: 'Age of the strings',
      says:
        instruments === 0 ? 'once there are instruments' : unknown === 0 ? 'known for all' : `unknown for ${unknown}`,
      // Half-known fleets are normal: the rest is looked at first.
      done: instruments > 0 && unknown <= instruments / 2,
      next: 'how old the strings are, where known',
      press: 'Record past string changes',
      href: '/instruments/since',
    },
    {
      name: 'Opening stock',
      says: shelf === 0 ? 'nothing yet' : count(shelf, 'lot'),
      done: shelf > 0,
      next: 'what is in stock',
      press: 'Enter opening stock',
      href: '/stock/opening',
    },
    {
      name: 'The first plan',
      says: published === 0 ? 'none published yet' : 'published',
      done: published > 0,
      next: 'the first plan',
      press: 'Plan the week',
      href: '/plan',
    },
  ];
}
