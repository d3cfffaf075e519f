import type { Knex } from 'knex';
import { z } from 'zod';
import { because, sayReason } from '../../core/stock/why';
import { undoFinish } from '../bench/undo';
import { among } from '../db/among';
import { type Acting, change } from '../db/change';
import * as columns from '../db/columns';
import { must } from '../db/must';
import { conflict, notFound, refused, UserError } from '../errors';
import { refreshInstrument } from '../fleet/state';
import { programmeRow } from '../programme/programme';
import { reverseMoves } from '../stock/shelf';

const beforeColumn = columns.columnOf<Record<string, unknown>>('what was before a sheet', z.looseObject({}));

/** Tables in which something hangs on an instrument that nobody but its list has touched. */
const HANGING = [
  ['report', 'reports'],
  ['fault_case', 'faults'],
  ['follow_up', 'visits'],
  ['inspection', 'looks'],
  ['instrument_busy', 'loans'],
  ['concert_instrument', 'concerts'],
  ['class_instrument', 'classes'],
  ['plan_request', 'requests'],
  ['plan_job', 'a published plan'],
  ['photo', 'photographs'],
  ['retune_reading', 'retunes'],
  ['interval_version', 'an interval of its own'],
] as const;

const few = (names: readonly string[]): string =>
  names.slice(0, 8).join(', ') + (names.length > 8 ? ` and ${names.length - 8} more` : '');

/**
 * Takes back all that a sheet made and changed, as long as nothing stands on it: what it added goes, what it changed is as
 * it was. All of it or nothing.
 * @throws UserError not-found, `not-applied`, conflict, `stands-on-it` with what does
 */
export async function undoIntake(
  db: Knex,
  acting: Acting,
  p: { id: number; expectedVersion: number },
): Promise<{ location: string }> {
  return change(db, acting, 'intake.undo', p, async (trx) => {
    const row = await trx('intake').where({ id: p.id }).first();
    if (!row) throw notFound('This sheet');
    if (row.status !== 'applied')
      throw refused('not-applied', 'Nothing to undo', 'This sheet is not imported, so there is nothing to undo.');
    if (row.version !== p.expectedVersion)
      throw conflict('Someone else has changed something in this sheet. Reload to see it.', {
        currentVersion: row.version,
      });
    const made = await trx('intake_made').where({ intake_id: row.id }).orderBy('id', 'desc');
    const of = (entity: string) => made.filter((m) => m.entity === entity);
    const stands = (says: string): never => {
      throw refused('stands-on-it', 'Something depends on it', `${says} Nothing was undone.`);
    };
    const { time_zone: timeZone } = await programmeRow(trx);
    const at = { now: acting.now, timeZone };

    const added = of('instrument').map((m) => m.entity_id);
    const tags = new Map(
      (await trx('instrument').whereIn('id', among(trx, added)).select('id', 'tag', 'version')).map((i) => [i.id, i]),
    );
    const tagged = (ids: readonly (number | null)[]) => few(ids.map((i) => tags.get(i ?? -1)?.tag ?? '?'));
    const edited = [...tags.values()].filter((i) => i.version !== 1).map((i) => i.id);
    if (edited.length > 0) stands(`Changed since: ${tagged(edited)}.`);
    const ownRecords = of('change_record').map((m) => m.entity_id);
    for (const [table, what] of HANGING) {
      const ids: (number | null)[] = await trx(table)
        .whereIn('instrument_id', among(trx, added))
        .distinct('instrument_id')
        .pluck('instrument_id');
      if (ids.length > 0) stands(`Already recorded for ${tagged(ids)}: ${what}.`);
    }
    const jobs: { instrument_id: number; id: number }[] = await trx('job')
      .whereIn('instrument_id', among(trx, added))
      .select('instrument_id', 'id');
    const ownJobs = new Set<number>(await trx('change_record').whereIn('id', among(trx, ownRecords)).pluck('job_id'));
    const worked = jobs.filter((j) => !ownJobs.has(j.id)).map((j) => j.instrument_id);
    if (worked.length > 0) stands(`Work was done on ${tagged([...new Set(worked)])}.`);

    // Records on instruments that were there before are taken back as any other is; they stay in the history.
    const addedSet = new Set(added);
    for (const m of of('change_record')) {
      const record = must(await trx('change_record').where({ id: m.entity_id }).first());
      if (addedSet.has(record.instrument_id) || record.taken_back) continue;
      const tag = (await trx('instrument').where({ id: record.instrument_id }).first('tag'))?.tag;
      try {
        await undoFinish(
          trx,
          { ...acting, key: `${acting.key}/record-${record.id}` },
          { recordId: record.id, reason: sayReason('list-taken-back', row.file_name) },
        );
      } catch (error) {
        if (!(error instanceof UserError)) throw error;
        stands(`${tag}: ${error.detail}`);
      }
    }

    for (const m of of('instrument-change')) {
      const now = must(await trx('instrument').where({ id: m.entity_id }).first());
      if (now.version !== m.version) stands(`${now.tag} has been changed since.`);
      const { positions, use, ...values } = beforeColumn.read(m.before ?? '{}') as {
        positions?: [number, number | null][];
        use?: { ended: number[]; periodId: number };
      } & Record<string, unknown>;
      await trx('instrument')
        .where({ id: now.id })
        .update({ ...values, version: now.version + 1 });
      for (const [number, product] of positions ?? [])
        await trx('instrument_position').where({ instrument_id: now.id, number }).update({ house_product_id: product });
      if (use) {
        await trx('use_period').where({ id: use.periodId }).del();
        await trx('use_period').whereIn('id', use.ended).update({ to_on: null });
      }
      await refreshInstrument(trx, now.id, at);
    }

    const ids = among(trx, added);
    for (const table of [
      'string_entry',
      'change_record',
      'job',
      'use_period',
      'instrument_position',
      'instrument_state',
    ] as const)
      await trx(table).whereIn('instrument_id', ids).del();
    await trx('instrument').whereIn('id', ids).del();

    for (const m of of('class')) {
      await trx('class_instrument').where({ class_id: m.entity_id }).del();
      await trx('class').where({ id: m.entity_id }).del();
    }
    for (const m of of('instrument_busy')) await trx('instrument_busy').where({ id: m.entity_id }).del();

    for (const m of of('lot')) {
      const moves = await trx('stock_move').where({ lot_id: m.entity_id }).orderBy('id', 'desc');
      const received = moves.filter((x) => x.op === `intake-${row.id}`);
      if (moves.length !== received.length) stands('Strings from this import have been moved or used.');
      await reverseMoves(
        trx,
        received,
        {
          personId: acting.personId,
          now: acting.now,
          recordId: null,
          reason: because('list-taken-back', row.file_name),
          op: acting.key,
        },
        () =>
          refused(
            'stands-on-it',
            'Something depends on it',
            'Strings from this import have been used. Nothing was undone.',
          ),
      );
    }
    for (const m of of('price')) {
      const { price_cents, now } = beforeColumn.read(m.before ?? '{}');
      const product = must(await trx('product').where({ id: m.entity_id }).first());
      if (product.price_cents !== now) stands(`The price of ${product.sku} has been changed since.`);
      await trx('product')
        .where({ id: m.entity_id })
        .update({ price_cents: Number(price_cents) });
    }
    const products = of('product').map((m) => m.entity_id);
    if (products.length > 0) {
      const own = among(trx, products);
      const used: string[] = await trx('product as p')
        .whereIn('p.id', own)
        .where((q) =>
          q
            .whereIn('p.id', trx('lot').select('product_id'))
            .orWhereIn('p.id', trx('instrument').whereNotNull('house_set_id').select('house_set_id'))
            .orWhereIn('p.id', trx('instrument_position').whereNotNull('house_product_id').select('house_product_id'))
            .orWhereIn('p.id', trx('order_line').select('product_id'))
            .orWhereIn('p.id', trx('set_item').whereNotIn('set_id', own).select('product_id'))
            .orWhereIn('p.id', trx('recipe_part').select('set_id')),
        )
        .pluck('p.sku');
      if (used.length > 0) stands(`Already in use: ${few(used)}.`);
      await trx('set_item').whereIn('set_id', own).del();
      await trx('price').whereIn('product_id', own).del();
      await trx('product').whereIn('id', own).del();
    }
    for (const m of of('person-change')) {
      const now = must(await trx('person').where({ id: m.entity_id }).first());
      if (now.version !== m.version) stands(`${now.name} has been changed since.`);
      await trx('person')
        .where({ id: now.id })
        .update({ ...beforeColumn.read(m.before ?? '{}'), version: now.version + 1 });
    }
    for (const m of of('person')) {
      const now = must(await trx('person').where({ id: m.entity_id }).first());
      const did = await trx('audit').where({ person_id: now.id }).first('id');
      const works = await trx('availability').where({ person_id: now.id }).first('id');
      if (now.version !== m.version || did || works) stands(`${now.name} has done work, or has hours on the rota.`);
      await trx('sign_off').where({ person_id: now.id }).del();
      await trx('person').where({ id: now.id }).del();
    }
    for (const m of of('place-change')) {
      const now = must(await trx('place').where({ id: m.entity_id }).first());
      if (now.version !== m.version) stands(`${now.name} has been changed since.`);
      await trx('place')
        .where({ id: now.id })
        .update({ ...beforeColumn.read(m.before ?? '{}'), version: now.version + 1 });
    }
    for (const m of of('place')) {
      const now = must(await trx('place').where({ id: m.entity_id }).first());
      for (const table of ['instrument', 'person', 'availability', 'lot_balance', 'purchase_order'] as const)
        if (await trx(table).where({ place_id: now.id }).first('place_id')) stands(`${now.name} is in use.`);
      await trx('travel').where({ from_id: now.id }).orWhere({ to_id: now.id }).del();
      await trx('place')
        .where({ id: now.id })
        .del()
        .catch(() => stands(`${now.name} is in use.`));
    }
    for (const m of of('place-again'))
      await trx('place')
        .where({ id: m.entity_id, version: m.version as number })
        .update(beforeColumn.read(m.before ?? '{}'));

    await trx('intake')
      .where({ id: row.id })
      .update({ status: 'undone', version: row.version + 1 });
    return {
      result: { location: `/programme/import/${row.id}` },
      entity: 'intake',
      entityId: row.id,
      detail: { file: row.file_name, made: row.made },
    };
  });
}
