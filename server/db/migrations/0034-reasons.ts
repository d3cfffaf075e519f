import type { Knex } from 'knex';

/** Sentences that were written as the reason of a move, and what each is now; what somebody said stays as it is. */
const WERE: [string, string][] = [
  ['opened', 'opened'],
  ['cut in the middle', 'halved'],
  ['delivery', 'delivery'],
  ['to begin with', 'opening'],
  ['back to the shelf', 'back-to-shelf'],
  ['taken back', 'taken-back'],
  ['change taken back', 'change-taken-back'],
  ['not lost after all', 'not-lost'],
  ['on the shelf at the bench, not in the book', 'found-at-bench'],
  ['put in although the book had none', 'found-part'],
  ['left over, not kept', 'left-over'],
  ['saved from old strings', 'saved'],
];
/** What stands before and after what such a sentence names. */
const NAMED: [string, string, string][] = [
  ['string ', ' was lost on the way', 'lost'],
  ['order ', '', 'order'],
  ['list taken back: ', '', 'list-taken-back'],
  ['from ', '', 'list'],
];
const CLAIMS: [string, string][] = [
  ['taken by other work', 'taken'],
  ['spare back, job finished', 'job-finished'],
  ['put away unchanged', 'put-away'],
  ['done another way', 'another-way'],
];

/** Why a move was written is kept as a value, and what it names beside it. */
export default {
  async up(db: Knex) {
    await db.raw(`alter table stock_move add column why varchar(255) not null default 'said'`);
    for (const [was, why] of WERE)
      await db('stock_move')
        .where({ reason: was })
        .update({ why, reason: '' } as never);
    for (const [before, after, why] of NAMED)
      await db.raw(
        `update stock_move set why = ?, reason = substr(reason, ?, length(reason) - ?)
         where why = 'said' and reason like ? and length(reason) > ?`,
        [why, before.length + 1, before.length + after.length, `${before}%${after}`, before.length + after.length],
      );
    for (const [was, why] of CLAIMS)
      await db('reservation')
        .where({ reason: was })
        .update({ reason: why } as never);
  },
  async down() {
    throw new Error('Why moves were written cannot be put back into the schema before: restore a backup instead.');
  },
} satisfies Knex.Migration;
