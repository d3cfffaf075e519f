import { cpSync, mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Knex } from 'knex';
import type { FinishEntry } from '../../contract/bench';
import { plainEntries } from '../../core/work/entries';
import { addCatalogue } from '../../demo/load';
import { houseSetFor } from '../../demo/strings';
import type { Acting } from '../../server/db/change';
import { openDatabase } from '../../server/db/connection';
import { addInstrument } from '../../server/fleet/add';
import { loadInstrument } from '../../server/fleet/instruments';
import { startProgramme } from '../../server/programme/programme';
import { receive } from '../../server/stock/moves';

export const NOW = Date.parse('2026-03-10T10:00:00Z');
let keys = 0;

/** One of two people, by number, acting at NOW with a fresh key unless one is given. */
export const acting = (personId = 1, key = `test-key-${++keys}`, now = NOW): Acting => ({ personId, now, key });

interface Made {
  folder: string;
  setIds: Map<string, number>;
  singleIds: Map<string, number>;
}

async function make(): Promise<Made> {
  const folder = mkdtempSync(join(tmpdir(), 'arvick-small-'));
  const db = await openDatabase(folder);
  const person = (name: string, initials: string) => ({
    name,
    initials,
    role: 'technician' as const,
    place: 'Workshop',
  });
  await startProgramme(
    db,
    {
      name: 'Small',
      timeZone: 'UTC',
      a4Hz: 440,
      places: [{ name: 'Workshop', isStore: true }],
      people: [{ ...person('Ann Ex', 'AE'), role: 'coordinator' as const }, person('Ben Wy', 'BW')],
      isDemo: false,
    },
    NOW - 864e5,
  );
  const { setIds, singleIds } = await addCatalogue(db, () => acting());
  const add = (tag: string, family: 'steel-acoustic' | 'ukulele' | 'violin', size: string) =>
    addInstrument(db, acting(), {
      tag,
      family,
      size,
      placeId: 1,
      holder: 'class set',
      houseSetId: setIds.get(houseSetFor(family, size).sku) ?? null,
      use: [{ fromDay: '2026-01-01', toDay: null, hoursPerWeek: 2, source: 'timetable' }],
      note: '',
    });
  await add('AC-1', 'steel-acoustic', '4/4');
  await add('UK-1', 'ukulele', 'concert');
  await add('UK-2', 'ukulele', 'concert');
  await add('VN-1', 'violin', '4/4');
  for (const sku of ['FUL-1253', 'KIT-F', 'GAN-V-44'])
    await receive(db, acting(), { productId: setIds.get(sku) as number, quantity: 1, placeId: 1, unitCostCents: null });
  await db.raw('pragma wal_checkpoint(TRUNCATE)');
  await db.destroy();
  return { folder, setIds, singleIds };
}

let made: Promise<Made> | undefined;

/**
 * A small programme of its own in a temporary folder: an acoustic guitar, two ukuleles, a violin, a set of each. It is
 * made once in a process; each call opens a copy.
 */
export async function smallProgramme(): Promise<Made & { db: Knex }> {
  made ??= make();
  const { folder: from, setIds, singleIds } = await made;
  const folder = mkdtempSync(join(tmpdir(), 'arvick-'));
  cpSync(from, folder, { recursive: true });
  return { db: await openDatabase(folder), folder, setIds, singleIds };
}

/** The entries of a plain full change: the house strings, nothing broken. */
export async function houseEntries(db: Knex, tag: string): Promise<FinishEntry[]> {
  const { positions } = await loadInstrument(db, { tag });
  return plainEntries(positions, { kind: 'full-set', numbers: positions.map((p) => p.number) });
}

/** What is on hand by product and form, as the balances say. */
export async function shelf(db: Knex): Promise<Record<string, number>> {
  const rows = await db('lot_balance as b')
    .join('lot as l', 'l.id', 'b.lot_id')
    .join('product as p', 'p.id', 'l.product_id')
    .select('p.sku', 'l.form', 'b.on_hand');
  const result: Record<string, number> = {};
  for (const r of rows) result[`${r.sku} ${r.form}`] = (result[`${r.sku} ${r.form}`] ?? 0) + r.on_hand;
  return result;
}

/** The shelf as replaying every move gives it. */
export async function replayed(db: Knex): Promise<Record<string, number>> {
  const rows = await db('stock_move as m')
    .join('lot as l', 'l.id', 'm.lot_id')
    .join('product as p', 'p.id', 'l.product_id')
    .select('p.sku', 'l.form', 'm.quantity');
  const result: Record<string, number> = {};
  for (const r of rows) result[`${r.sku} ${r.form}`] = (result[`${r.sku} ${r.form}`] ?? 0) + r.quantity;
  return Object.fromEntries(Object.entries(result).filter(([, n]) => n !== 0));
}
