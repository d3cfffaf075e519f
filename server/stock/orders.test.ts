import type { Knex } from 'knex';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { addDays } from '../../core/dates';
import { acting, NOW, replayed, shelf, smallProgramme } from '../../tests/support/small';
import { recordPast } from '../bench/past';
import { must } from '../db/must';
import { standInSupplier } from '../devices/supplier';
import { proposalInput, stockAhead } from './ahead';
import { addConsumable, addHybrid, fitsOf, giveHouseStrings, setSubstitutes, substitutesOf } from './catalogue';
import { kitProblem, quickKit } from './kit';
import { takeBack } from './moves';
import {
  addSupplier,
  closeOrder,
  comingLines,
  confirmOrder,
  draftOrder,
  editDraft,
  loadOrders,
  receiveDelivery,
  receiveOrder,
  sendOrder,
  setSource,
} from './orders';

let db: Knex;
let setIds: Map<string, number>;
let singleIds: Map<string, number>;
beforeEach(async () => {
  ({ db, setIds, singleIds } = await smallProgramme());
});
afterEach(() => db.destroy());
const TODAY = '2026-03-10';
const id = (sku: string) => setIds.get(sku) as number;
const supplier = async (least = 0, simulated = false) => {
  const { supplierId } = await addSupplier(db, acting(), {
    name: `Mill ${least}`,
    leadDays: 5,
    lateShare: 0,
    lateDays: 0,
    leastOrderCents: least,
    orderCostCents: 100,
    simulated,
  });
  await setSource(db, acting(), { productId: id('FUL-1253'), supplierId, pack: 3, cents: 900 });
  return supplierId;
};
const later = (days: number) => acting(1, undefined, NOW + days * 86_400_000);

describe('orders', () => {
  it('are whole trade units from the right supplier, above its least, and change only as drafts', async () => {
    const supplierId = await supplier(5000);
    const draft = (quantity: number, productId = id('FUL-1253')) =>
      draftOrder(db, acting(), { supplierId, placeId: 1, lines: [{ productId, quantity }], note: '' });
    await expect(draft(4)).rejects.toMatchObject({ type: 'trade-unit', detail: expect.stringContaining('Order 6') });
    await expect(draft(3, id('KIT-F'))).rejects.toMatchObject({ type: 'other-supplier' });
    const { orderId } = await draft(3);
    await expect(sendOrder(db, acting(), { orderId, expectedVersion: 1 })).rejects.toMatchObject({ type: 'too-small' });
    const lines = [{ productId: id('FUL-1253'), quantity: 6 }];
    await editDraft(db, acting(), { orderId, expectedVersion: 1, lines, note: 'thank you' });
    await expect(editDraft(db, acting(), { orderId, expectedVersion: 1, lines, note: '' })).rejects.toMatchObject({
      status: 409,
    });
    await sendOrder(db, acting(), { orderId, expectedVersion: 2 });
    const [order] = await loadOrders(db, TODAY, orderId);
    expect(order).toMatchObject({ status: 'sent', expectedOn: '2026-03-15', cents: 5400 });
    await expect(editDraft(db, acting(), { orderId, expectedVersion: 3, lines, note: '' })).rejects.toMatchObject({
      status: 409,
    });
  });

  it('on paper are answered, received on any day and in parts, closed short, and taken back, by hand alone', async () => {
    const supplierId = await supplier();
    const lines = (quantity: number) => [{ productId: id('FUL-1253'), quantity }];
    const { orderId } = await draftOrder(db, acting(), { supplierId, placeId: 1, lines: lines(6), note: '' });
    await sendOrder(db, acting(), { orderId, expectedVersion: 1 });
    // Nobody has answered: nothing is invented, and the packs are under way as ordered.
    expect(await loadOrders(db, TODAY, orderId)).toMatchObject([{ theirNumber: '', arrived: [], receipts: [] }]);
    expect(await db('delivery')).toEqual([]);
    expect(await comingLines(db)).toMatchObject([{ packs: 6, expectedOn: '2026-03-15' }]);
    const answer = { orderId, theirNumber: 'B 12', expectedOn: '2026-03-20', lines: lines(5) };
    await confirmOrder(db, acting(), { ...answer, expectedVersion: 2 });
    expect(await comingLines(db)).toMatchObject([{ packs: 5, expectedOn: '2026-03-20' }]);
    // It comes before the day that was said, and not all of it.
    const first = await receiveOrder(db, acting(), { orderId, expectedVersion: 3, lines: lines(2) });
    expect((await shelf(db))['FUL-1253 set']).toBe(3);
    expect(await comingLines(db)).toMatchObject([{ packs: 3 }]);
    const twice = [...lines(1), ...lines(1)];
    await expect(receiveOrder(db, acting(), { orderId, expectedVersion: 4, lines: twice })).rejects.toMatchObject({
      type: 'twice',
    });
    // Taken back it is under way again.
    const move = must(await db('stock_move').where({ lot_id: first.lotIds[0] }).first());
    await takeBack(db, acting(), { moveId: move.id, reason: 'wrong parcel' });
    expect(await comingLines(db)).toMatchObject([{ packs: 5 }]);
    await receiveOrder(db, acting(), { orderId, expectedVersion: 5, lines: lines(4) });
    expect(await closeOrder(db, acting(), { orderId, expectedVersion: 6 })).toEqual({ status: 'closed' });
    expect(await comingLines(db)).toEqual([]);
    expect(await replayed(db)).toEqual(await shelf(db));
  });

  it('come when they come: nothing before, all of it counted, the differences kept, the price with its day', async () => {
    const supplierId = await supplier(0, true);
    const lines = [{ productId: id('FUL-1253'), quantity: 6 }];
    const { orderId } = await draftOrder(db, acting(), { supplierId, placeId: 1, lines, note: '' });
    await sendOrder(db, acting(), { orderId, expectedVersion: 1 });
    const before = (await shelf(db))['FUL-1253 set'] ?? 0;
    const deliveries = await db('delivery').where({ order_id: orderId }).orderBy('arrives_on');
    await expect(
      receiveDelivery(db, acting(), { deliveryId: deliveries[0]?.id ?? -1, expectedVersion: 2, lines }),
    ).rejects.toMatchObject({ type: 'not-here' });
    let counted = 0;
    for (const [i, d] of deliveries.entries()) {
      const said: { productId: number; quantity: number }[] = JSON.parse(d.lines);
      const short = said.map((l) => ({ ...l, quantity: l.quantity - (i === 0 ? 1 : 0) }));
      counted += short.reduce((sum, l) => sum + l.quantity, 0);
      const received = await receiveDelivery(db, later(30), { deliveryId: d.id, expectedVersion: 2 + i, lines: short });
      expect(received.differences).toBe(i === 0 ? 1 : 0);
    }
    expect((await shelf(db))['FUL-1253 set']).toBe(before + counted);
    expect(await replayed(db)).toEqual(await shelf(db));
    const [order] = await loadOrders(db, addDays(TODAY, 30), orderId);
    expect(order).toMatchObject({ status: 'received', arrived: [] });
    expect(order?.receipts[0]?.differences).toHaveLength(1);
    expect(await db('price').where({ order_id: orderId })).toMatchObject([{ cents: 900, on_day: TODAY }]);
  });

  it('the stand-in delivers all that was ordered in the end, late for its share of orders', () => {
    let late = 0;
    for (let n = 1; n <= 400; n++) {
      const lines = [
        { productId: 1, quantity: 5 },
        { productId: 2, quantity: 1 },
      ];
      const p = { id: 1, leadDays: 7, lateShare: 0.25, lateDays: 4 };
      const answer = standInSupplier(p, { id: n, lines }, TODAY);
      expect(standInSupplier(p, { id: n, lines }, TODAY)).toEqual(answer);
      const sums = new Map<number, number>();
      for (const d of answer.deliveries)
        for (const l of d.lines) sums.set(l.productId, (sums.get(l.productId) ?? 0) + l.quantity);
      expect(sums).toEqual(
        new Map([
          [1, 5],
          [2, 1],
        ]),
      );
      if ((answer.deliveries[0]?.arrivesOn ?? '') > answer.expectedOn) late += 1;
      expect(answer.deliveries[0]?.arrivesOn.localeCompare(addDays(answer.expectedOn, 4))).toBeLessThanOrEqual(0);
    }
    expect(late / 400).toBeGreaterThan(0.18);
    expect(late / 400).toBeLessThan(0.33);
  });
});

describe('products', () => {
  it('fit by what their strings do: a full-size violin set is far too slack on an eighth', async () => {
    const fits = await fitsOf(db, id('GAN-V-44'), 440);
    expect(fits.find((f) => f.size === '4/4')).toMatchObject({ verdict: 'fits', instruments: 1 });
    const pull = (size: string) => fits.find((f) => f.size === size)?.pullN ?? 0;
    expect(pull('1/8')).toBeLessThan(0.6 * pull('4/4'));
    expect(fits.find((f) => f.size === '1/8')?.verdict).toBe('loose');
    const uke = await fitsOf(db, id('KIT-F'), 440);
    expect(uke.find((f) => f.size === 'concert')).toMatchObject({ half: true });
  });

  it('stand in for one another with what changes, and a hybrid asks for the strings of both its sets', async () => {
    const e = singleIds.get('SOL-1046-1') as number;
    const light = singleIds.get('SOL-0942-1') as number;
    await setSubstitutes(db, acting(), { productId: e, substituteIds: [light] });
    const products = must(await db('product').where({ id: e }).first());
    const { chosen, could } = await substitutesOf(db, (await import('../fleet/instruments')).productOf(products));
    expect(chosen).toMatchObject([{ productId: light }]);
    // A nine instead of a ten pulls (9/10)² as much.
    expect(chosen[0]?.tensionChange).toBeCloseTo(0.81 - 1, 6);
    expect(could.every((c) => c.productId !== light)).toBe(true);
    const parts = [
      { setId: id('SOL-0942'), numbers: [1, 2, 3] },
      { setId: id('SOL-1046'), numbers: [4, 5, 6] },
    ];
    const hybrid = await addHybrid(db, acting(), { sku: 'HY', name: 'mix', family: 'electric', parts });
    await expect(
      addHybrid(db, acting(), { sku: 'H2', name: 'mix', family: 'electric', parts: [parts[0] as (typeof parts)[0]] }),
    ).rejects.toMatchObject({ type: 'two-sets' });
    await expect(
      giveHouseStrings(db, acting(), { tag: 'VN-1', productId: hybrid.productId, expectedVersion: 9 }),
    ).rejects.toMatchObject({ type: 'stale' });
  });

  it('run short when due dates ask for more than there is; a consumable when it is below its least', async () => {
    await addConsumable(db, acting(), { sku: 'TAPE', name: 'tape', unit: 'roll', least: 2, priceCents: 300 });
    const { packs } = await stockAhead(db, { today: TODAY, service: 0.95 });
    expect(packs.find((p) => p.name === 'tape')).toMatchObject({ wanted: 2 });
    const light = packs.find((p) => p.productId === id('FUL-1253'));
    expect(light?.pack.packs).toBe(1);
    expect(light?.outlook.weeks.at(-1)?.left).toBeLessThanOrEqual(1);
  });

  it('a kit says what is short and what has no spare', async () => {
    const kit = await kitProblem(db, { tags: ['AC-1', 'UK-1', 'UK-2'], placeId: 1, on: TODAY, today: TODAY });
    const { plan, says } = quickKit(kit);
    expect(plan.short).toEqual([]);
    expect(says.join(' ')).toMatch(/Open one Fulmar light 12–53; all its strings are used\./);
    expect(says.join(' ')).toMatch(/Eight half-length strings are enough: four strings are cut in half\./);
    expect(says.join(' ')).toMatch(/No spare for .*Fulmar light 12–53/);
    await expect(kitProblem(db, { tags: ['NO-1'], placeId: 1, on: TODAY, today: TODAY })).rejects.toMatchObject({
      status: 404,
    });
  });
});

it('what runs short is on one of two lists, also where nobody is known to sell it', async () => {
  const tags = ['AC-1', 'UK-1', 'UK-2', 'VN-1'];
  await recordPast(db, acting(), { tags, on: '2025-05-01', about: false, personId: null, note: '' });
  await db('lot_balance').del();
  const { packs } = await stockAhead(db, { today: TODAY, service: 0.95 });
  const short = packs.filter((p) => p.outlook.runsOutOn !== null).map((p) => p.productId);
  expect(short.length).toBeGreaterThan(0);
  const before = await proposalInput(db, { today: TODAY, service: 0.95 });
  const named = (x: typeof before) => [
    ...x.lines.map((l) => Number(l.productId)),
    ...x.unsourced.map((u) => u.productId),
  ];
  for (const productId of short) expect(named(before)).toContain(productId);
  // Once somebody sells it, it is a line of an order, and no longer on the other list.
  const one = must(before.unsourced[0]);
  await setSource(db, acting(), { productId: one.productId, supplierId: await supplier(), pack: 1, cents: 900 });
  const after = await proposalInput(db, { today: TODAY, service: 0.95 });
  expect(after.unsourced.map((u) => u.productId)).not.toContain(one.productId);
  if (one.wanted > 0) expect(after.lines.map((l) => l.productId)).toContain(String(one.productId));
});
