import type { Knex } from 'knex';
import { addDays, type LocalDate, weekdayOf } from '../../core/dates';
import { type Build, SIZES } from '../../core/instruments/build';
import { defaultBuild } from '../../core/instruments/defaults';
import { tagKey } from '../../core/instruments/tag';
import type { Decisions, Known, NewProduct, Op, Ref, SetRef } from '../../core/intake/draft';
import type { KindRead } from '../../core/intake/kinds';
import { because } from '../../core/stock/why';
import { stringsSaid } from '../../core/strings/gauges';
import type { CoreMaterial } from '../../core/strings/materials';
import { type UsualSet, usualSetsFor } from '../../core/strings/usualSets';
import { fold } from '../../core/text';
import { pastInstant, pastRows, writePast } from '../bench/past';
import { localDate } from '../clock';
import { type Acting, change, insertId } from '../db/change';
import { insertAll } from '../db/insertAll';
import { must } from '../db/must';
import { refused, UserError } from '../errors';
import { buildColumns, positionRows } from '../fleet/add';
import { loadMany, loadProducts, type StringProduct } from '../fleet/instruments';
import { refreshStates } from '../fleet/state';
import { suggestedSet } from '../fleet/suggest';
import { initialsOf } from '../programme/manage';
import { programmeRow } from '../programme/programme';
import { putHouseStrings } from '../stock/catalogue';
import { receiveLot } from '../stock/shelf';
import { addUsualSet } from '../stock/usualSets';
import { madeColumn, remember, wholeDraft } from './intake';

/** How far it is: rows done, of how many. */
export interface IntakeProgress {
  done: number;
  of: number;
}

interface Context {
  trx: Knex.Transaction;
  acting: Acting;
  intakeId: number;
  fileName: string;
  known: Known;
  decisions: Decisions;
  today: LocalDate;
  timeZone: string;
  a4Hz: number;
  count: Record<string, number>;
  /** Classes that rows of the sheet have made so far. */
  classes: Map<string, number>;
  tell: (done: number) => void;
}

const add = (c: Context, what: string, n = 1) => {
  c.count[what] = (c.count[what] ?? 0) + n;
};

/** Keeps what was made or changed, so that all of it can be taken back. */
async function made(
  c: Context,
  entity: string,
  entityId: number,
  more: { version?: number; before?: unknown } = {},
): Promise<void> {
  await c.trx('intake_made').insert({
    intake_id: c.intakeId,
    entity,
    entity_id: entityId,
    version: more.version ?? null,
    before: more.before === undefined ? null : JSON.stringify(more.before),
  });
}

/** The next free id of a table. Nobody else writes while a change is under way. */
async function nextId(trx: Knex, table: string): Promise<number> {
  // What was deleted keeps its number.
  const last = (await trx('sqlite_sequence' as 'job')
    .where({ name: table } as never)
    .first()) as { seq?: number } | undefined;
  return (last?.seq ?? 0) + 1;
}

/**
 * Takes a sheet over: all its rows that can be, in one change; those that cannot wait in a sheet of their own.
 * @throws UserError not-found, `not-open`, conflict, `nothing` when no row can be taken over
 */
export async function applyIntake(
  db: Knex,
  acting: Acting,
  p: { id: number; expectedVersion: number },
  progress: (p: IntakeProgress) => void = () => {},
): Promise<{ location: string; made: Record<string, number>; left: number }> {
  const request = { id: p.id, expectedVersion: p.expectedVersion };
  return change(db, acting, 'intake.apply', request, async (trx) => {
    const { row, known, decisions, rows, heads, draft } = await wholeDraft(trx, p.id, acting.now);
    if (row.status !== 'open')
      throw refused('not-open', 'This sheet is closed', 'This sheet has already been imported or discarded.');
    if (row.version !== p.expectedVersion)
      throw new UserError(
        'conflict',
        409,
        'Changed in the meantime',
        'Someone else has changed something in this sheet. Check it again.',
      );
    const ops = draft.rows.flatMap((r) => (r.op && (r.does === 'add' || r.does === 'change') ? [r.op] : []));
    if (ops.length === 0)
      throw refused('nothing', 'Nothing to import', 'No row holds anything new that can be imported.');
    const programme = await programmeRow(trx);
    const today = localDate(acting.now, programme.time_zone);
    const c: Context = {
      trx,
      acting,
      intakeId: row.id,
      fileName: row.file_name,
      known,
      decisions,
      today,
      timeZone: programme.time_zone,
      a4Hz: programme.a4_hz,
      count: {},
      classes: new Map(),
      tell: (done) => progress({ done, of: ops.length }),
    };
    const placeOf = await makePlaces(c, ops);
    await addInstruments(
      c,
      ops.filter((o) => o.does === 'instrument'),
      placeOf,
    );
    let done = ops.filter((o) => o.does === 'instrument').length;
    for (const op of ops) {
      if (op.does === 'instrument') continue;
      await writeOp(c, op, placeOf);
      done += 1;
      if (done % 50 === 0) c.tell(done);
    }
    c.tell(ops.length);
    const left = draft.rows.filter((r) => r.does === 'problem');
    if (left.length > 0)
      await trx('intake').insert({
        at: acting.now,
        person_id: acting.personId,
        file_name: row.file_name,
        sheet: row.sheet,
        subject: row.subject,
        found: row.found,
        heads: row.heads,
        rows: JSON.stringify(left.map((r) => r.cells)),
        decisions: JSON.stringify({ ...decisions, cells: {}, out: [] } satisfies Decisions),
      });
    await remember(trx, { heads, subject: row.subject, decisions, draft, now: acting.now });
    await trx('intake')
      .where({ id: row.id })
      .update({
        status: 'applied',
        version: row.version + 1,
        applied_at: acting.now,
        applied_by: acting.personId,
        made: madeColumn.write(c.count),
      });
    return {
      result: { location: `/programme/import/${row.id}`, made: c.count, left: left.length },
      entity: 'intake',
      entityId: row.id,
      detail: { id: row.id, file: row.file_name, made: c.count, rows: rows.length },
    };
  });
}

/** Makes the places that are named and are not there yet. @returns the id of any place that is referred to */
async function makePlaces(c: Context, ops: readonly Op[]): Promise<(ref: Ref) => number> {
  const ids = new Map<string, number>();
  // A sheet of places says more of them than their name.
  for (const op of ops)
    if (op.does === 'place') {
      const id = await insertId(c.trx, 'place', { name: op.name, is_store: op.store });
      ids.set(fold(op.name), id);
      await made(c, 'place', id, { version: 1 });
      add(c, 'places');
    }
  for (const op of ops) {
    const ref = 'place' in op ? op.place : null;
    if (!ref || 'id' in ref || ids.has(fold(ref.name))) continue;
    const before = await c.trx('place').whereRaw('lower(name) = ?', [ref.name.toLowerCase()]).first();
    if (before) {
      // It was given up, and is used again.
      if (before.retired_on !== null) {
        await c
          .trx('place')
          .where({ id: before.id })
          .update({ retired_on: null, version: before.version + 1 });
        await made(c, 'place-again', before.id, {
          version: before.version + 1,
          before: { retired_on: before.retired_on },
        });
      }
      ids.set(fold(ref.name), before.id);
      continue;
    }
    const id = await insertId(c.trx, 'place', { name: ref.name, is_store: false });
    ids.set(fold(ref.name), id);
    await made(c, 'place', id, { version: 1 });
    add(c, 'places');
  }
  return (ref) => ('id' in ref ? ref.id : must(ids.get(fold(ref.name))));
}

/** Makes a usual set, with its strings, where it is not in Stock already. */
async function makeSet(c: Context, usual: UsualSet): Promise<number> {
  const there = await c.trx('product').where({ sku: usual.sku, kind: 'set' }).first();
  if (there) return there.id;
  const { setId, singles } = await addUsualSet(c.trx, usual);
  for (const id of singles) await made(c, 'product', id);
  await made(c, 'product', setId);
  add(c, 'sets');
  return setId;
}

/** The set a row names. */
async function namedSet(c: Context, ref: SetRef, kind: Pick<KindRead, 'family' | 'size'>): Promise<number> {
  if ('id' in ref) return ref.id;
  return makeSet(c, must(usualSetsFor(kind.family, kind.size).find((u) => u.sku === ref.usual)));
}

/** The usual set of a kind: the one of the catalogue that suits it, or one that is made for it. */
async function usualSetOf(c: Context, build: Build): Promise<number | null> {
  const there = await suggestedSet(c.trx, build);
  if (there !== null || !c.decisions.usualSets) return there;
  return makeSet(c, usualSetsFor(build.family, build.size)[0] as UsualSet);
}

interface KindPlan {
  build: Build;
  setId: number | null;
}

/** Adds instruments, however many: their rows are written together, with ids that are known beforehand. */
async function addInstruments(
  c: Context,
  ops: readonly Extract<Op, { does: 'instrument' }>[],
  placeOf: (ref: Ref) => number,
): Promise<void> {
  if (ops.length === 0) return;
  const { trx, acting } = c;
  const plans = new Map<string, KindPlan>();
  const planOf = async (kind: KindRead): Promise<KindPlan> => {
    const key = `${kind.family}/${kind.size}/${kind.handedness}`;
    const known = plans.get(key);
    if (known) return known;
    if (!SIZES[kind.family].includes(kind.size))
      throw refused('size', 'No such size', `There is no size ${kind.size} for that kind of instrument.`);
    const build = defaultBuild(kind.family, kind.size, { handedness: kind.handedness });
    const plan = { build, setId: await usualSetOf(c, build) };
    plans.set(key, plan);
    return plan;
  };
  const itemsOf = new Map<number, Map<number, number>>();
  const houseOf = async (setId: number | null): Promise<Map<number, number>> => {
    if (setId === null) return new Map();
    const known = itemsOf.get(setId);
    if (known) return known;
    const items = new Map(
      (await trx('set_item').where({ set_id: setId })).map((i) => [i.number, i.product_id] as const),
    );
    itemsOf.set(setId, items);
    return items;
  };
  const products = new Map<number, StringProduct>();
  const looks = firstLooks(ops, c);
  const rows: Record<string, unknown>[] = [];
  const positions: Record<string, unknown>[] = [];
  const use: Record<string, unknown>[] = [];
  const jobs: Record<string, unknown>[] = [];
  const records: Record<string, unknown>[] = [];
  const entries: Record<string, unknown>[] = [];
  const makes: Record<string, unknown>[] = [];
  let [id, jobId, recordId, entryId] = (await Promise.all(
    (['instrument', 'job', 'change_record', 'string_entry'] as const).map((t) => nextId(trx, t)),
  )) as [number, number, number, number];
  const changes = new Map<number, { on: LocalDate; done: string; jobId: number }>();
  const ids: number[] = [];
  const kept = (entity: string, entityId: number, version: number | null) =>
    makes.push({ intake_id: c.intakeId, entity, entity_id: entityId, version, before: null });
  for (const [index, op] of ops.entries()) {
    const plan = await planOf(op.kind);
    const setId = op.set ? await namedSet(c, op.set, op.kind) : plan.setId;
    const house = await houseOf(setId);
    const lacking = [...house.values()].filter((p) => !products.has(p));
    if (lacking.length > 0) for (const [p, product] of await loadProducts(trx, lacking)) products.set(p, product);
    rows.push({
      id,
      tag: op.tag,
      tag_key: tagKey(op.tag),
      family: op.kind.family,
      size: op.kind.size,
      ...buildColumns(plan.build),
      place_id: placeOf(op.place),
      holder: op.holder,
      house_set_id: setId,
      note: op.note,
      known_since_on: c.today,
      maker: op.maker,
      model: op.model,
      serial: op.serial,
      first_look_on: op.since ? null : (looks.get(index) ?? null),
    });
    const own = positionRows(plan.build, house, products, c.a4Hz);
    const past = op.since
      ? pastRows(
          { ...op.since, personId: acting.personId, note: '', numbers: null, now: acting.now, timeZone: c.timeZone },
          own.map((p) => p.number),
        )
      : null;
    for (const p of own) {
      positions.push({
        instrument_id: id,
        ...p,
        now_state: 'on',
        now_entry_id: past ? entryId : null,
        now_product_id: past ? p.house_product_id : null,
        now_half: past ? p.house_half : false,
        now_fitted_at: past ? past.entry.at : null,
      });
      if (!past) continue;
      entries.push({
        id: entryId,
        ...past.entry,
        record_id: recordId,
        instrument_id: id,
        number: p.number,
        product_id: p.house_product_id,
        half: p.house_half,
      });
      entryId += 1;
    }
    if (past && op.since) {
      jobs.push({ id: jobId, instrument_id: id, ...past.job });
      records.push({ id: recordId, job_id: jobId, instrument_id: id, ...past.record });
      changes.set(id, { on: op.since.on, done: past.record.done, jobId });
      kept('change_record', recordId, null);
      jobId += 1;
      recordId += 1;
    }
    if (op.hours !== null)
      use.push({ instrument_id: id, from_on: c.today, to_on: null, hours_per_week: op.hours, source: c.fileName });
    kept('instrument', id, 1);
    ids.push(id);
    id += 1;
    if (index % 500 === 499) c.tell(Math.round(index * 0.3));
  }
  await insertAll(trx, 'instrument', rows);
  await insertAll(trx, 'job', jobs);
  await insertAll(trx, 'change_record', records);
  await insertAll(trx, 'string_entry', entries);
  await insertAll(trx, 'instrument_position', positions);
  await insertAll(trx, 'use_period', use);
  await insertAll(trx, 'intake_made', makes);
  const AT_ONCE = 400;
  for (let i = 0; i < ids.length; i += AT_ONCE) {
    await refreshStates(
      trx,
      ids.slice(i, i + AT_ONCE),
      { now: acting.now, timeZone: c.timeZone },
      (x) => changes.get(x) ?? null,
    );
    c.tell(Math.round(ops.length * 0.3 + i * 0.7));
  }
  add(c, 'instruments', ops.length);
  if (changes.size > 0) add(c, 'changes', changes.size);
}

/** Days of first looks at strings of unknown age: those that are played most first, spread evenly over the weeks. */
function firstLooks(ops: readonly Extract<Op, { does: 'instrument' }>[], c: Context): Map<number, LocalDate> {
  const unknown = ops.flatMap((op, index) => (op.since ? [] : [{ index, hours: op.hours ?? 0 }]));
  const days = c.decisions.spreadWeeks * 7;
  if (days === 0) return new Map();
  unknown.sort((a, b) => b.hours - a.hours || a.index - b.index);
  return new Map(unknown.map((u, rank) => [u.index, addDays(c.today, Math.floor((rank * days) / unknown.length))]));
}

async function writeOp(
  c: Context,
  op: Exclude<Op, { does: 'instrument' }>,
  placeOf: (ref: Ref) => number,
): Promise<void> {
  const { trx, acting } = c;
  const at = { now: acting.now, timeZone: c.timeZone };
  switch (op.does) {
    case 'place':
      return;
    case 'place-change': {
      const before = must(await trx('place').where({ id: op.id }).first());
      await trx('place')
        .where({ id: op.id })
        .update({ is_store: op.store, version: before.version + 1 });
      await made(c, 'place-change', op.id, { version: before.version + 1, before: { is_store: before.is_store } });
      return add(c, 'changed');
    }
    case 'person': {
      const id = await insertId(trx, 'person', {
        name: op.name,
        initials: op.initials || initialsOf(op.name),
        role: op.role,
        place_id: placeOf(op.place),
      });
      await made(c, 'person', id, { version: 1 });
      return add(c, 'people');
    }
    case 'person-change': {
      const before = must(await trx('person').where({ id: op.id }).first());
      if (before.role === 'coordinator' && op.role !== 'coordinator') {
        const other = await trx('person')
          .where({ role: 'coordinator' })
          .whereNull('retired_on')
          .whereNot({ id: op.id })
          .first();
        if (!other)
          throw refused(
            'last-coordinator',
            'No other coordinator',
            `${before.name} is the only coordinator: leave that row out.`,
          );
      }
      await trx('person')
        .where({ id: op.id })
        .update({
          initials: op.initials,
          role: op.role as never,
          place_id: placeOf(op.place),
          version: before.version + 1,
        });
      await made(c, 'person-change', op.id, {
        version: before.version + 1,
        before: { initials: before.initials, role: before.role, place_id: before.place_id },
      });
      return add(c, 'changed');
    }
    case 'instrument-change': {
      const instrument = must((await loadMany(trx, [op.id]))[0]);
      const before = must(await trx('instrument').where({ id: op.id }).first());
      const old: Record<string, unknown> = {};
      const next: Record<string, unknown> = { ...op.values };
      if (op.place) next.place_id = placeOf(op.place);
      for (const key of Object.keys(next)) old[key] = before[key as keyof typeof before];
      if (op.set) {
        old.house_set_id = before.house_set_id;
        old.positions = instrument.positions.map((p) => [p.number, p.houseProductId]);
        await putHouseStrings(trx, instrument, await namedSet(c, op.set, instrument.build));
      }
      const version = before.version + 1;
      await trx('instrument')
        .where({ id: op.id })
        .update({ ...next, version });
      if (op.hours !== null) {
        const ended = await trx('use_period').where({ instrument_id: op.id }).whereNull('to_on').pluck('id');
        await trx('use_period').whereIn('id', ended).update({ to_on: c.today });
        const periodId = await insertId(trx, 'use_period', {
          instrument_id: op.id,
          from_on: c.today,
          to_on: null,
          hours_per_week: op.hours,
          source: c.fileName,
        });
        old.use = { ended, periodId };
      }
      await made(c, 'instrument-change', op.id, { version, before: old });
      if (op.since)
        await recordOf(c, op.id, { ...op.since, personId: acting.personId, note: '', numbers: null, ...at });
      await refreshStates(trx, [op.id], at);
      return add(c, 'changed');
    }
    case 'past': {
      const known = must(c.known.instruments.get(tagKey(op.tag)));
      // Rows of one instrument are in any order: one that is older than what stands by now says nothing new.
      const later = await trx('standing_record')
        .where({ instrument_id: known.id, kind: 'change' })
        .where('at', '>=', pastInstant({ on: op.since.on, ...at }))
        .first('id');
      if (later) return add(c, 'older');
      await recordOf(c, known.id, {
        ...op.since,
        personId: op.person ?? acting.personId,
        note: op.note,
        numbers: op.numbers,
        ...at,
      });
      return add(c, 'changes');
    }
    case 'product':
      return addProduct(c, op.product);
    case 'price': {
      const before = must(await trx('product').where({ id: op.id }).first());
      await trx('product').where({ id: op.id }).update({ price_cents: op.cents });
      await trx('price').insert({
        product_id: op.id,
        supplier_id: before.supplier_id,
        cents: op.cents,
        on_day: c.today,
        order_id: null,
      });
      await made(c, 'price', op.id, { before: { price_cents: before.price_cents, now: op.cents } });
      return add(c, 'prices');
    }
    case 'shelf': {
      const product = must(await trx('product').where({ id: op.productId }).first());
      const lotId = await receiveLot(
        trx,
        {
          productId: op.productId,
          form: op.form,
          sealed: op.form === 'set',
          receivedOn: c.today,
          unitCostCents: op.cents ?? product.price_cents,
          placeId: placeOf(op.place),
          quantity: op.quantity,
          kind: 'receive',
        },
        {
          personId: acting.personId,
          now: acting.now,
          recordId: null,
          reason: because('list', c.fileName),
          op: `intake-${c.intakeId}`,
        },
      );
      await made(c, 'lot', lotId);
      return add(c, 'lots');
    }
    case 'loan': {
      const known = must(c.known.instruments.get(tagKey(op.tag)));
      if (op.weekly && op.hours) {
        await joinClass(c, known.id, op, op.hours);
        return add(c, 'loans');
      }
      const id = await insertId(trx, 'instrument_busy', {
        instrument_id: known.id,
        from_on: op.from,
        to_on: op.to,
        why: op.why,
        kind: op.hours ? 'lesson' : 'loan',
        from_time: op.hours?.begins ?? null,
        to_time: op.hours?.ends ?? null,
        source: '',
      });
      await made(c, 'instrument_busy', id);
      return add(c, 'loans');
    }
  }
}

/** Puts an instrument into the class that other rows of the sheet have made, or makes it. */
async function joinClass(
  c: Context,
  instrumentId: number,
  op: { from: LocalDate; to: LocalDate; why: string },
  hours: { begins: string; ends: string },
): Promise<void> {
  const key = [op.why, op.from, op.to, hours.begins, hours.ends].join('/');
  let classId = c.classes.get(key);
  if (classId === undefined) {
    classId = await insertId(c.trx, 'class', {
      name: op.why,
      place_id: null,
      weekday: weekdayOf(op.from),
      from_time: hours.begins,
      to_time: hours.ends,
      from_on: op.from,
      to_on: op.to,
    });
    c.classes.set(key, classId);
    await made(c, 'class', classId);
  }
  await c
    .trx('class_instrument')
    .insert({ class_id: classId, instrument_id: instrumentId })
    .onConflict(['class_id', 'instrument_id'])
    .ignore();
}

async function recordOf(c: Context, instrumentId: number, p: Parameters<typeof writePast>[2]): Promise<void> {
  const instrument = must((await loadMany(c.trx, [instrumentId]))[0]);
  const { recordId } = await writePast(c.trx, instrument, p);
  await made(c, 'change_record', recordId);
}

/** A string or a set out of a list: what the list does not say is as usual for its kind. */
async function addProduct(c: Context, p: NewProduct): Promise<void> {
  const end = (p.end || defaultBuild(p.family, p.size).stringEnd) as UsualSet['end'];
  const strings = stringsSaid({
    family: p.family,
    size: p.size,
    gauges: p.gauges,
    core: (p.core || undefined) as CoreMaterial | undefined,
    lengthMm: p.lengthMm,
  });
  const single = p.gauges.length === 1;
  const { setId, singles } = await addUsualSet(
    c.trx,
    { sku: p.sku, name: p.name, family: p.family, size: null, end, strings },
    { priceCents: p.cents, single },
  );
  for (const id of singles) await made(c, 'product', id);
  if (!single) await made(c, 'product', setId);
  add(c, single ? 'strings' : 'sets');
}
