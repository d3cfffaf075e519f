import { addDays, daysBetween, type LocalDate } from '../core/dates';
import type { Build } from '../core/instruments/build';
import { defaultBuild } from '../core/instruments/defaults';
import { HOUSE_METHODS } from '../core/procedures/method';
import { visitsAfterChange } from '../core/settling/readyBy';
import { HOUSE_CARE } from '../core/wear/care';
import type { Done } from '../core/work/done';
import { type Chained, chainHash, detailHash } from '../server/audit/chain';
import { instantOf, localDate } from '../server/clock';
import { BulkWriter } from '../server/db/bulk';
import type { Acting } from '../server/db/change';
import { openDatabase } from '../server/db/connection';
import { instrumentRow, positionRows } from '../server/fleet/add';
import { instrumentOf, loadProducts, type StringProduct } from '../server/fleet/instruments';
import { stateOf } from '../server/fleet/state';
import { loadPeople, loadPlaces, startProgramme } from '../server/programme/programme';
import { type DemoInstrument, demoFleet } from './fleet';
import { addCatalogue, concertDays, DEMO_SEED, demoProgramme, exceptionsFor, TIME_ZONE } from './load';
import { chanceOf } from './random';
import { houseSetFor } from './strings';

/** Days between two changes of one instrument, on average over the scenario's fleet. */
const USUAL_DAYS = 215;
/** One change in so many was entered wrongly and taken back the same day. */
const TAKEN_BACK_EVERY = 120;

/**
 * A large database from the scenario's generator, for measuring: the same instruments many times over, with as long a
 * history as the number of jobs asks for. Written in bulk, with the same rows the use cases make.
 */
export async function loadBulk(
  folder: string,
  size: { instruments: number; jobs: number },
  now: number,
  says: (line: string) => void,
): Promise<void> {
  const today = localDate(now, TIME_ZONE);
  const historyDays = Math.max(425, Math.round((size.jobs / size.instruments) * USUAL_DAYS * 1.35));
  const start = addDays(today, -historyDays - 5);
  const db = await openDatabase(folder);
  let keys = 0;
  const acting = (): Acting => ({ personId: 1, now: instantOf(start, 8, TIME_ZONE), key: `bulk-${++keys}` });
  await startProgramme(db, demoProgramme(), acting().now);
  const { setIds, singleIds } = await db.transaction((trx) => addCatalogue(trx, acting));
  const places = new Map((await loadPlaces(db)).map((p) => [p.name, p.id]));
  const people = (await loadPeople(db)).map((p) => p.id);
  const products = await loadProducts(db, [...singleIds.values()]);
  const itemsOf = new Map<number, Map<number, number>>();
  for (const row of await db('set_item'))
    itemsOf.set(row.set_id, (itemsOf.get(row.set_id) ?? new Map()).set(row.number, row.product_id));
  await db.destroy();

  const bulk = new BulkWriter(folder);
  const chance = chanceOf(DEMO_SEED);
  const concerts = concertDays(today);
  const lantern = bulk.insert('concert', {
    name: 'Lantern Concert',
    on_day: concerts.lantern,
    place_id: places.get('Lantern Point') ?? null,
  });
  const shelf = new BulkShelf(bulk, places.get('Harbour Store') as number);
  const entries: BulkEntry[] = [];
  let made = 0;
  let jobs = 0;
  for (const i of demoFleet(chance, today, Math.ceil(size.instruments / 261), historyDays)) {
    if (made === size.instruments) break;
    made += 1;
    const left = (size.jobs - jobs) / (size.instruments - made + 1);
    const changes = i.changes.slice(-Math.max(1, Math.round(left)));
    const houseSetId = setIds.get(houseSetFor(i.family, i.size).sku) as number;
    const build = defaultBuild(i.family, i.size, i.build);
    const house = new Map([
      ...(itemsOf.get(houseSetId) ?? []),
      ...Object.entries(exceptionsFor(i, singleIds)).map(([n, id]) => [Number(n), id] as const),
    ]);
    const row = instrumentRow(
      {
        tag: i.tag,
        family: i.family,
        size: i.size,
        placeId: places.get(i.place) as number,
        holder: i.holder,
        houseSetId,
        use: [],
        note: '',
        knownSince: changes[0]?.on ?? addDays(today, -3),
      },
      build,
      today,
    );
    const id = bulk.insert('instrument', row);
    for (const use of i.use)
      bulk.insert('use_period', {
        instrument_id: id,
        from_on: use.fromDay,
        to_on: use.toDay,
        hours_per_week: use.hoursPerWeek,
        source: use.source,
      });
    if (i.inConcert) bulk.insert('concert_instrument', { concert_id: lantern, instrument_id: id });
    const setName = houseSetFor(i.family, i.size).name;
    const positions = positionRows(build, house, products, 440);
    let last: { at: number; jobId: number; entries: Map<number, number> } | null = null;
    for (const change of changes) {
      last = writeChange(bulk, shelf, {
        instrumentId: id,
        build,
        positions,
        products,
        on: change.on,
        personId: chance.pick(people),
        setName,
        today,
        entries,
      });
      jobs += 1;
    }
    const now_ = last;
    const positionsNow = positions.map((p) => ({
      ...p,
      now_state: 'on',
      now_entry_id: now_?.entries.get(p.number) ?? null,
      now_product_id: now_ ? p.house_product_id : null,
      now_half: now_ ? p.house_half : false,
      now_fitted_at: now_?.at ?? null,
    }));
    for (const p of positionsNow) bulk.insert('instrument_position', { instrument_id: id, ...p });
    bulk.insert(
      'instrument_state',
      stateRow(i, {
        id,
        row,
        positionsNow,
        products,
        setName,
        lanternOn: concerts.lantern,
        changed: now_ ? { on: changes.at(-1)?.on ?? today, jobId: now_.jobId } : null,
      }),
    );
    if (made % 2000 === 0) says(`${made} instruments, ${jobs} jobs`);
  }
  shelf.close();
  writeWeeks(bulk, people, [...places.values()]);
  writeEntries(bulk, entries);
  bulk.close();
  says(`${made} instruments, ${jobs} jobs`);
}

function stateRow(
  i: DemoInstrument,
  p: {
    id: number;
    row: Record<string, unknown>;
    positionsNow: Record<string, unknown>[];
    products: ReadonlyMap<number, StringProduct>;
    setName: string;
    lanternOn: LocalDate;
    changed: { on: LocalDate; jobId: number } | null;
  },
) {
  return stateOf({
    instrument: instrumentOf({ id: p.id, version: 1, ...p.row }, p.positionsNow),
    products: p.products,
    rule: HOUSE_CARE[i.family],
    climate: 'even',
    inspection: null,
    retunes: new Map(),
    use: i.use,
    reports: [],
    concerts: i.inConcert ? [{ name: 'Lantern Concert', on: p.lanternOn }] : [],
    placeName: i.place,
    setName: p.setName,
    changed: p.changed && { ...p.changed, done: setOn(p.setName) },
    timeZone: TIME_ZONE,
  });
}

/** A change to the usual set, as its record keeps it. */
const setOn = (set: string): string => JSON.stringify({ did: 'set', set } satisfies Done);

/** Deliveries of singles, a hundred a lot, so that the ledger holds every use without a lot for each. */
class BulkShelf {
  private readonly lots = new Map<string, { id: number; left: number; costCents: number }>();

  constructor(
    private readonly bulk: BulkWriter,
    private readonly placeId: number,
  ) {}

  take(
    productId: number,
    half: boolean,
    p: { on: LocalDate; at: number; personId: number; recordId: number; costCents: number },
  ): number {
    const form = half ? 'half' : 'single';
    const key = `${productId}/${form}`;
    let lot = this.lots.get(key);
    const move = (lotId: number, kind: string, quantity: number, recordId: number | null) =>
      this.bulk.insert('stock_move', {
        value_cents: quantity * p.costCents,
        op: '',
        lot_id: lotId,
        place_id: this.placeId,
        kind,
        quantity,
        record_id: recordId,
        person_id: p.personId,
        at: p.at,
        reason: '',
        reverses_id: null,
      });
    if (!lot || lot.left === 0) {
      const id = this.bulk.insert('lot', {
        product_id: productId,
        form,
        sealed: false,
        received_on: p.on,
        unit_cost_cents: p.costCents,
        from_lot_id: null,
      });
      move(id, 'receive', 100, null);
      lot = { id, left: 100, costCents: p.costCents };
      this.lots.set(key, lot);
    }
    lot.left -= 1;
    move(lot.id, 'use', -1, p.recordId);
    return lot.id;
  }

  /** Writes the balances of what is left. */
  close(): void {
    for (const lot of this.lots.values()) {
      if (lot.left > 0)
        this.bulk.insert('lot_balance', {
          lot_id: lot.id,
          place_id: this.placeId,
          on_hand: lot.left,
          value_cents: lot.left * lot.costCents,
        });
    }
  }
}

function writeChange(
  bulk: BulkWriter,
  shelf: BulkShelf,
  p: {
    instrumentId: number;
    build: Build;
    positions: ReturnType<typeof positionRows>;
    products: ReadonlyMap<number, StringProduct>;
    on: LocalDate;
    personId: number;
    setName: string;
    today: LocalDate;
    entries: BulkEntry[];
  },
): { at: number; jobId: number; entries: Map<number, number> } {
  const at = Date.parse(`${p.on}T11:00:00Z`);
  const jobId = bulk.insert('job', {
    instrument_id: p.instrumentId,
    kind: 'full-set',
    status: 'finished',
    procedure_hash: null,
    strings: '[]',
    cursor: null,
    opened_by: p.personId,
    opened_at: at - 1_800_000,
    method: JSON.stringify(HOUSE_METHODS[p.build.family]),
    method_version: 1,
    version: 2,
  });
  const recordId = bulk.insert('change_record', {
    job_id: jobId,
    instrument_id: p.instrumentId,
    kind: 'change',
    corrects_id: null,
    at,
    on_day: p.on,
    person_id: p.personId,
    done: setOn(p.setName),
    notes: '',
    minutes: 24,
    card_minutes: 24,
  });
  const did = { at, personId: p.personId, jobId };
  p.entries.push({ ...did, at: at - 1_800_000, action: 'job.open' }, { ...did, action: 'job.finish' });
  if (jobId % TAKEN_BACK_EVERY === 0) takeOneBack(bulk, { ...did, instrumentId: p.instrumentId, on: p.on }, p.entries);
  const entries = new Map<number, number>();
  for (const position of p.positions) {
    const productId = position.house_product_id;
    if (productId === null) continue;
    const costCents = p.products.get(productId)?.priceCents ?? 0;
    const lotId = shelf.take(productId, position.house_half, {
      on: p.on,
      at,
      personId: p.personId,
      recordId,
      costCents,
    });
    entries.set(
      position.number,
      bulk.insert('string_entry', {
        record_id: recordId,
        instrument_id: p.instrumentId,
        number: position.number,
        action: 'fit',
        product_id: productId,
        lot_id: lotId,
        half: position.house_half,
        cost_cents: costCents,
        at,
      }),
    );
  }
  for (const visit of visitsAfterChange(p.build.bridge)) {
    const dueOn = addDays(p.on, visit.day);
    const done = daysBetween(dueOn, p.today) > 0;
    bulk.insert('follow_up', {
      instrument_id: p.instrumentId,
      record_id: recordId,
      kind: visit.kind,
      day: visit.day,
      due_at: at + visit.afterHours * 3_600_000,
      due_on: dueOn,
      status: done ? 'done' : 'open',
      done_by: done ? p.personId : null,
      done_at: done ? at + visit.afterHours * 3_600_000 : null,
    });
  }
  return { at, jobId, entries };
}

/** A change of the same job that was entered before the one that stands, and taken back. */
function takeOneBack(
  bulk: BulkWriter,
  p: { instrumentId: number; jobId: number; at: number; on: LocalDate; personId: number },
  entries: BulkEntry[],
): void {
  const row = {
    job_id: p.jobId,
    instrument_id: p.instrumentId,
    on_day: p.on,
    person_id: p.personId,
    notes: '',
    minutes: null,
    card_minutes: null,
  };
  const wrongDone = JSON.stringify({ did: 'mixed' } satisfies Done);
  const wrong = { ...row, kind: 'change', corrects_id: null, at: p.at - 1_200_000, done: wrongDone };
  const wrongId = bulk.insert('change_record', wrong);
  const back = { kind: 'correction', corrects_id: wrongId, at: p.at - 600_000, done: wrongDone };
  bulk.insert('change_record', { ...row, ...back });
  entries.push(
    { at: wrong.at, personId: p.personId, jobId: p.jobId, action: 'job.finish' },
    { at: back.at, personId: p.personId, jobId: p.jobId, action: 'job.undo' },
  );
}

/** Everybody's hours: two spells on three days of the week, as in a service that has more places than people. */
function writeWeeks(bulk: BulkWriter, people: readonly number[], places: readonly number[]): void {
  for (const [n, personId] of people.entries())
    for (const weekday of [1 + (n % 5), 1 + ((n + 1) % 5), 1 + ((n + 3) % 5)])
      for (const [starts, minutes] of [
        ['09:00', 180],
        ['13:00', 150],
      ] as const)
        bulk.insert('availability', {
          person_id: personId,
          place_id: places[(n + weekday) % places.length] as number,
          weekday,
          starts,
          minutes,
        });
}

interface BulkEntry {
  at: number;
  personId: number;
  jobId: number;
  action: 'job.open' | 'job.finish' | 'job.undo';
}

/** Who did what, in the order of time and chained like the entries that changes write themselves. */
function writeEntries(bulk: BulkWriter, entries: BulkEntry[]): void {
  entries.sort((a, b) => a.at - b.at);
  let prev_hash = bulk.one('select hash from audit order by id desc limit 1') ?? '';
  for (const [n, e] of entries.entries()) {
    const detail = JSON.stringify({ jobId: e.jobId });
    const chained: Chained = {
      at: e.at,
      person_id: e.personId,
      action: e.action,
      entity: 'job',
      entity_id: e.jobId,
      idempotency_key: `bulk-entry-${n}`,
      from_where: '',
      detail_hash: detailHash({ detail }),
      prev_hash,
    };
    prev_hash = chainHash(chained);
    bulk.insert('audit', { ...chained, detail, changed: '', hash: prev_hash });
  }
}
