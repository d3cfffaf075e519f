import type { Knex } from 'knex';
import { type Acting, change } from '../db/change';
import { notFound } from '../errors';
import { newToken } from './secrets';

/** An address under which a calendar program reads somebody's or a place's sessions, without signing in. */
export interface Feed {
  id: number;
  token: string;
  personId: number | null;
  placeId: number | null;
}

/** Makes an address; whoever knows it reads the plan of that person or place, until it is ended. */
export async function makeFeed(
  db: Knex,
  acting: Acting,
  p: { personId?: number | undefined; placeId?: number | undefined },
): Promise<{ feedId: number }> {
  return change(db, acting, 'feed.make', p, async (trx) => {
    const of =
      p.personId === undefined
        ? await trx('place')
            .where({ id: p.placeId as number })
            .whereNull('retired_on')
            .first('id')
        : await trx('person').where({ id: p.personId }).whereNull('retired_on').first('id');
    if (!of) throw notFound(p.personId === undefined ? 'This place' : 'This person');
    const [row] = await trx('feed')
      .insert({
        token: newToken(),
        person_id: p.personId ?? null,
        place_id: p.placeId ?? null,
        made_by: acting.personId,
        at: acting.now,
      })
      .returning('id');
    const feedId = (row as { id: number }).id;
    return { result: { feedId }, entity: 'feed', entityId: feedId };
  });
}

/** An address that reads nothing any more. */
export async function endFeed(db: Knex, acting: Acting, p: { feedId: number }): Promise<{ ended: true }> {
  return change(db, acting, 'feed.end', p, async (trx) => {
    if (!(await trx('feed').where({ id: p.feedId, revoked_at: null }).update({ revoked_at: acting.now })))
      throw notFound('This calendar address');
    return { result: { ended: true as const }, entity: 'feed', entityId: p.feedId };
  });
}

const feedOfRow = (r: { id: number; token: string; person_id: number | null; place_id: number | null }): Feed => ({
  id: r.id,
  token: r.token,
  personId: r.person_id,
  placeId: r.place_id,
});

/** The addresses that read something. */
export const openFeeds = async (db: Knex): Promise<Feed[]> =>
  (await db('feed').whereNull('revoked_at').orderBy('id')).map(feedOfRow);

/** The feed of an address; null where there is none, or not any more. */
export async function feedOfToken(db: Knex, token: string): Promise<Feed | null> {
  const row = await db('feed').where({ token }).whereNull('revoked_at').first();
  return row ? feedOfRow(row) : null;
}
