import type { Knex } from 'knex';
import type { FinishEntry } from '../contract/bench';
import { addDays, daysBetween, type LocalDate, weekdayOf } from '../core/dates';
import { LEVEL } from '../core/planning/ladder';
import { quickPlan } from '../core/planning/quick';
import { PlanSearch } from '../core/planning/search';
import { type Finished, finishJob } from '../server/bench/finish';
import { openJob } from '../server/bench/jobs';
import { instantOf, localDate } from '../server/clock';
import { type Acting, change, insertId } from '../server/db/change';
import { must } from '../server/db/must';
import { UserError } from '../server/errors';
import { labelAddresses, sayByLabel } from '../server/faults/byLabel';
import { sayWrong } from '../server/faults/wrong';
import { addInstrument } from '../server/fleet/add';
import { setClimate } from '../server/fleet/exposure';
import { loadInstrument } from '../server/fleet/instruments';
import { reportTrouble } from '../server/fleet/report';
import { refreshInstrument } from '../server/fleet/state';
import { addAvailability, setBenchSpace, setLastWay, setTravel } from '../server/plan/availability';
import { setBusy } from '../server/plan/busy';
import { addClass } from '../server/plan/classes';
import { addHoliday } from '../server/plan/holidays';
import { latestPlan } from '../server/plan/plans';
import { planInput } from '../server/plan/problem';
import { publishPlan } from '../server/plan/publish';
import { setSignOff } from '../server/plan/signOffs';
import { editTrust } from '../server/programme/manage';
import { loadPeople, loadPlaces, startProgramme } from '../server/programme/programme';
import { addConsumable, addHybrid, setSubstitutes } from '../server/stock/catalogue';
import { receive, transfer } from '../server/stock/moves';
import { addSupplier, draftOrder, loadSuppliers, sendOrder, setSource } from '../server/stock/orders';
import { addSet, addSingle } from '../server/stock/products';
import { completeVisit } from '../server/today/today';
import { type DemoInstrument, demoFleet, fittedForDue, PLACES, type PlaceName, weekday } from './fleet';
import { type Chance, chanceOf } from './random';
import { DEMO_SETS, type DemoSet, houseSetFor } from './strings';

export const DEMO_SEED = 20417;
export const TIME_ZONE = 'Atlantic/Faroe';

export const PEOPLE = [
  { name: 'Ida Marr', initials: 'IM', role: 'technician', place: 'Harbour Store' },
  { name: 'Tam Reyl', initials: 'TR', role: 'technician', place: 'Tarn Hall' },
  { name: 'Nell Oske', initials: 'NO', role: 'technician', place: 'Lantern Point' },
  { name: 'Runa Fell', initials: 'RF', role: 'coordinator', place: 'Harbour Store' },
  { name: 'Bo Lask', initials: 'BL', role: 'helper', place: 'Harbour Store' },
  { name: 'Ansa Wick', initials: 'AW', role: 'helper', place: 'Ness School' },
  { name: 'Rikard Ost', initials: 'RO', role: 'teacher', place: 'Old Cannery' },
  { name: 'Jo Kestrin', initials: 'JK', role: 'teacher', place: 'Ness School' },
] as const;

export function demoProgramme() {
  return {
    name: 'Skerrow Sound Music Service',
    timeZone: TIME_ZONE,
    a4Hz: 440,
    places: PLACES.map((name) => ({ name, isStore: name === 'Harbour Store' })),
    people: PEOPLE.map((p) => ({ ...p })),
    isDemo: true,
  };
}

/** The Friday about three and a half weeks ahead, and a Saturday five weeks after it. */
export function concertDays(today: LocalDate): { lantern: LocalDate; spring: LocalDate } {
  const lantern = addDays(today, 21 + ((12 - weekdayOf(today)) % 7));
  return { lantern, spring: addDays(lantern, 36) };
}

interface World {
  db: Knex;
  chance: Chance;
  today: LocalDate;
  people: Map<string, number>;
  places: Map<string, number>;
  setIds: Map<string, number>;
  singleIds: Map<string, number>;
  keys: number;
}

const actingAs = (w: World, name: string, day: LocalDate, hour: number): Acting => {
  w.keys += 1;
  return { personId: w.people.get(name) as number, now: instantOf(day, hour, TIME_ZONE), key: `demo-${w.keys}` };
};

/** Adds the scenario's string lines; returns ids by code. */
export async function addCatalogue(
  db: Knex,
  acting: () => Acting,
): Promise<{ setIds: Map<string, number>; singleIds: Map<string, number> }> {
  const setIds = new Map<string, number>();
  const singleIds = new Map<string, number>();
  for (const set of DEMO_SETS) {
    for (const { single } of set.items) {
      if (!singleIds.has(single.sku)) singleIds.set(single.sku, (await addSingle(db, acting(), single)).productId);
    }
    const items = set.items.map((i) => ({ number: i.number, productId: singleIds.get(i.single.sku) as number }));
    const { productId } = await addSet(db, acting(), {
      sku: set.sku,
      name: set.name,
      family: set.family,
      priceCents: set.priceCents,
      items,
    });
    setIds.set(set.sku, productId);
  }
  return { setIds, singleIds };
}

/** House strings that differ from the set: the hybrid guitar has the light set's trebles. */
export function exceptionsFor(
  instrument: Pick<DemoInstrument, 'hybrid'>,
  singleIds: ReadonlyMap<string, number>,
): Record<number, number> {
  if (!instrument.hybrid) return {};
  return Object.fromEntries([1, 2, 3].map((n) => [n, singleIds.get(`SOL-0942-${n}`) as number]));
}

/**
 * Fills an empty database with the scenario, through the same use cases the app uses, as of `now`: everything is
 * recorded in the order it would have happened, the stock moves with it.
 */
export async function loadDemo(database: Knex, now: number): Promise<void> {
  const today = localDate(now, TIME_ZONE);
  const start = addDays(today, -430);
  await startProgramme(database, demoProgramme(), instantOf(start, 8, TIME_ZONE));
  await database.transaction(async (db) => {
    const people = new Map((await loadPeople(db)).map((p) => [p.name, p.id]));
    const places = new Map((await loadPlaces(db)).map((p) => [p.name, p.id]));
    const w: World = {
      db,
      chance: chanceOf(DEMO_SEED),
      today,
      people,
      places,
      setIds: new Map(),
      singleIds: new Map(),
      keys: 0,
    };
    const added = await addCatalogue(db, () => actingAs(w, 'Runa Fell', start, 8));
    w.setIds = added.setIds;
    w.singleIds = added.singleIds;

    const fleet = [...demoFleet(w.chance, today)];
    shapeTheWeek(fleet, today);
    for (const i of fleet) {
      await addInstrument(db, actingAs(w, 'Runa Fell', start, 9), {
        tag: i.tag,
        family: i.family,
        size: i.size,
        placeId: places.get(i.place) as number,
        holder: i.holder,
        build: i.build,
        houseSetId: w.setIds.get(houseSetFor(i.family, i.size).sku) ?? null,
        houseExceptions: exceptionsFor(i, w.singleIds),
        use: i.use,
        note: i.note,
        knownSince: i.changes.length === 0 ? addDays(today, -3) : (i.changes[0]?.on ?? today),
      });
    }
    // One hall goes dry in cold weather.
    await setClimate(db, actingAs(w, 'Runa Fell', start, 10), {
      placeId: places.get('Tarn Hall') as number,
      climate: 'dry',
    });
    await addConcerts(w, fleet);
    const events = fleet
      .flatMap((i) => i.changes.map((c) => ({ ...c, instrument: i })))
      .sort((a, b) => (a.on < b.on ? -1 : a.on > b.on ? 1 : a.instrument.tag < b.instrument.tag ? -1 : 1));
    for (const event of events) await recordChange(w, event.instrument, event);
    await addSuppliers(w);
    await stockTheShelf(w);
    await fillTheStore(w);
    await addClassrooms(w);
    await addReports(w);
    await addPeoplesWeeks(w);
    await addPastPlans(w);
    for (const i of fleet)
      await refreshInstrument(db, (await loadInstrument(db, { tag: i.tag })).id, { now, timeZone: TIME_ZONE });
    await publishWeek(w);
  });
}

/** The days around today that the scenario tells of: who is at the workshop, what was just changed, what is late. */
function shapeTheWeek(fleet: DemoInstrument[], today: LocalDate): void {
  const put = (tag: string, place: PlaceName, lastChange: (i: DemoInstrument) => LocalDate, holder: string) => {
    const instrument = fleet.find((i) => i.tag === tag);
    if (!instrument) throw new RangeError(`The scenario has no ${tag}.`);
    instrument.place = place;
    instrument.holder = holder;
    const on = lastChange(instrument);
    instrument.changes = [...instrument.changes.filter((c) => c.on < addDays(on, -40)), { on, broke: false }];
  };
  const dueIn = (days: number) => (i: DemoInstrument) => fittedForDue(i.family, i.use, addDays(today, days));
  const changed = (daysAgo: number) => () => weekday(addDays(today, -daysAgo));
  // On the workshop's bench this week.
  put('SK-0304', 'Harbour Store', dueIn(-9), 'class set');
  put('SK-0311', 'Harbour Store', dueIn(3), 'class set');
  put('SK-0317', 'Harbour Store', dueIn(8), 'loan, J. Kest');
  put('SK-0330', 'Harbour Store', dueIn(14), 'class set');
  put('SK-0226', 'Harbour Store', dueIn(-2), 'class set');
  put('SK-0233', 'Harbour Store', dueIn(8), 'class set');
  put('SK-0236', 'Harbour Store', dueIn(35), 'class set');
  put('SK-0179', 'Harbour Store', dueIn(30), 'orchestra');
  // Changed yesterday and some days ago: retunes and a bridge to look at.
  put('SK-0308', 'Harbour Store', changed(1), 'class set');
  put('SK-0104', 'Harbour Store', changed(1), 'loan, A. Fell');
  put('SK-0225', 'Harbour Store', changed(3), 'class set');
  put('SK-0413', 'Ness School', changed(3), 'class set');
  put('SK-0452', 'Ness School', dueIn(60), 'class set');
  put('SK-0185', 'Old Cannery', dueIn(90), 'class set');
  for (const tag of ['SK-0179', 'SK-0104']) for (const i of fleet) if (i.tag === tag) i.inConcert = true;
}

async function addConcerts(w: World, fleet: readonly DemoInstrument[]): Promise<void> {
  const days = concertDays(w.today);
  const [lantern] = await w
    .db('concert')
    .insert({ name: 'Lantern Concert', on_day: days.lantern, place_id: w.places.get('Lantern Point') })
    .returning('id');
  const [spring] = await w
    .db('concert')
    .insert({ name: 'Spring playing day', on_day: days.spring, place_id: w.places.get('Tarn Hall') })
    .returning('id');
  const ids = new Map((await w.db('instrument').select('id', 'tag')).map((r) => [r.tag as string, r.id as number]));
  for (const i of fleet) {
    if (!i.inConcert) continue;
    await w.db('concert_instrument').insert({ concert_id: lantern?.id, instrument_id: ids.get(i.tag) });
    if (i.family === 'violin' || i.family === 'ukulele')
      await w.db('concert_instrument').insert({ concert_id: spring?.id, instrument_id: ids.get(i.tag) });
  }
}

const TECHNICIANS = ['Ida Marr', 'Tam Reyl', 'Nell Oske'] as const;

async function recordChange(
  w: World,
  instrument: DemoInstrument,
  event: { on: LocalDate; broke: boolean },
): Promise<void> {
  const who = w.chance.pick(TECHNICIANS);
  const hour = w.chance.whole(9, 15);
  const { jobId } = await openJob(w.db, actingAs(w, who, event.on, hour), { tag: instrument.tag });
  const loaded = await loadInstrument(w.db, { tag: instrument.tag });
  const brokeAt = event.broke ? (loaded.positions.at(-1)?.number ?? 1) : 0;
  const entries = loaded.positions.map(
    (p): FinishEntry => ({
      number: p.number,
      action: 'fit',
      productId: p.houseProductId,
      broken: p.number === brokeAt ? 1 : 0,
      found: false,
    }),
  );
  const request = {
    jobId,
    expectedVersion: 1,
    entries,
    discard: [],
    notes: event.broke ? 'One snapped while going on; from the spare set.' : '',
    minutes: Math.round(w.chance.between(14, 34)),
  };
  const finish = async (deliveries: number): Promise<Finished> => {
    try {
      return await finishJob(w.db, actingAs(w, who, event.on, hour + 1), request);
    } catch (error) {
      // A broken string may need a second set: what came in that morning, and once more.
      if (!(error instanceof UserError) || error.type !== 'stock-short' || deliveries === 2) throw error;
      for (const set of setsFor(instrument)) await deliver(w, set, event.on, set.perDelivery);
      return finish(deliveries + 1);
    }
  };
  const done = await finish(0);
  for (const visit of done.visits) {
    const on = localDate(visit.dueAt, TIME_ZONE);
    if (daysBetween(on, w.today) <= 0) continue;
    const row = must(
      await w.db('follow_up').where({ record_id: done.recordId, kind: visit.kind, day: visit.day }).first(),
    );
    if (row.status === 'open')
      await completeVisit(w.db, actingAs(w, who, on, hour + 1), {
        visitId: row.id,
        expectedVersion: row.version,
        note: '',
      });
  }
}

function setsFor(instrument: DemoInstrument): DemoSet[] {
  const own = houseSetFor(instrument.family, instrument.size);
  return instrument.hybrid ? [own, DEMO_SETS.find((s) => s.sku === 'SOL-0942') as DemoSet] : [own];
}

async function deliver(w: World, set: DemoSet, on: LocalDate, quantity: number): Promise<void> {
  await receive(w.db, actingAs(w, 'Runa Fell', on, 8), {
    productId: w.setIds.get(set.sku) as number,
    quantity,
    placeId: w.places.get('Harbour Store') as number,
    unitCostCents: Math.round(set.priceCents * w.chance.between(0.88, 1)),
  });
}

/** Short on the shelf today: what the coordinator has not ordered in time. */
const NOT_ORDERED = new Set(['GAN-C-34', 'FUL-1047', 'WHI-M']);

async function stockTheShelf(w: World): Promise<void> {
  for (const set of DEMO_SETS) {
    if (NOT_ORDERED.has(set.sku)) continue;
    const id = w.setIds.get(set.sku);
    const row = await w
      .db('lot as l')
      .join('lot_balance as b', 'b.lot_id', 'l.id')
      .where({ 'l.product_id': id, 'l.form': 'set' })
      .sum({ n: 'b.on_hand' })
      .first();
    const wanted = Math.max(2, set.perDelivery);
    if (Number(row?.n ?? 0) < wanted) await deliver(w, set, addDays(w.today, -w.chance.whole(4, 12)), wanted);
  }
}

/** Who works where in the week: ferries leave little time at some places. Who may do what; what is away on loan. */
async function addPeoplesWeeks(w: World): Promise<void> {
  const by = () => actingAs(w, 'Runa Fell', addDays(w.today, -30), 11);
  const week: [string, PlaceName, number, number, string][] = [
    ['Ida Marr', 'Harbour Store', 1, 240, '09:00'],
    ['Ida Marr', 'Harbour Store', 2, 240, '09:00'],
    ['Ida Marr', 'Ness School', 3, 150, '10:00'],
    ['Ida Marr', 'Hallow Bay', 4, 120, '10:30'],
    ['Tam Reyl', 'Tarn Hall', 1, 150, '09:30'],
    ['Tam Reyl', 'Old Cannery', 3, 180, '09:00'],
    ['Tam Reyl', 'Tarn Hall', 5, 150, '09:30'],
    ['Nell Oske', 'Lantern Point', 2, 180, '09:00'],
    ['Nell Oske', 'Lantern Point', 4, 150, '13:00'],
    ['Nell Oske', 'Hallow Bay', 5, 120, '10:30'],
    // Helpers while somebody is there who may supervise.
    ['Bo Lask', 'Harbour Store', 2, 120, '11:00'],
    ['Ansa Wick', 'Ness School', 3, 90, '11:00'],
  ];
  for (const [name, place, weekday, minutes, starts] of week)
    await addAvailability(w.db, by(), {
      personId: w.people.get(name) as number,
      placeId: w.places.get(place) as number,
      weekday,
      minutes,
      starts,
    });
  for (const family of ['ukulele', 'classical', 'steel-acoustic'] as const)
    await setSignOff(w.db, by(), { personId: w.people.get('Bo Lask') as number, family, level: LEVEL.supervised });
  // Only two may do double basses.
  await setSignOff(w.db, by(), {
    personId: w.people.get('Tam Reyl') as number,
    family: 'double-bass',
    level: LEVEL.notYet,
  });
  // Bo has watched a mandolin; Nell may do, but not yet supervise, banjos.
  await setSignOff(w.db, by(), {
    personId: w.people.get('Bo Lask') as number,
    family: 'mandolin',
    level: LEVEL.watched,
  });
  await setSignOff(w.db, by(), { personId: w.people.get('Nell Oske') as number, family: 'banjo', level: LEVEL.alone });
  await setBenchSpace(w.db, by(), { placeId: w.places.get('Harbour Store') as number, instruments: 6 });
  await setBenchSpace(w.db, by(), { placeId: w.places.get('Hallow Bay') as number, instruments: 2 });
  // By ferry and on foot; the last one leaves.
  await setLastWay(w.db, by(), { placeId: w.places.get('Hallow Bay') as number, leaves: '16:20' });
  for (const [place, minutes] of [
    ['Ness School', 25],
    ['Tarn Hall', 45],
    ['Old Cannery', 35],
    ['Lantern Point', 50],
    ['Hallow Bay', 70],
  ] as const)
    await setTravel(w.db, by(), {
      fromId: w.places.get('Harbour Store') as number,
      toId: w.places.get(place) as number,
      minutes,
    });
  await addHoliday(w.db, by(), {
    from: addDays(w.today, 27),
    to: addDays(w.today, 41),
    name: 'Midwinter holidays',
    placeId: null,
  });
  await setBusy(w.db, by(), {
    tag: 'SK-0317',
    from: addDays(w.today, -10),
    to: addDays(w.today, 1),
    why: 'J. Kest',
  });
}

/** Two suppliers of the scenario; who sells what, at a time. */
async function addSuppliers(w: World): Promise<void> {
  const start = addDays(w.today, -400);
  const by = () => actingAs(w, 'Runa Fell', start, 9);
  const supplier = async (name: string, leadDays: number, late: [number, number], least: number) =>
    (
      await addSupplier(w.db, by(), {
        name,
        leadDays,
        lateShare: late[0],
        lateDays: late[1],
        leastOrderCents: least,
        orderCostCents: 150,
        simulated: true,
      })
    ).supplierId;
  const mainland = await supplier('Mainland Strings, by the Monday boat', 9, [0.2, 4], 4000);
  const atelier = await supplier('Atelier Brae, bowed strings', 14, [0.3, 7], 6000);
  for (const set of DEMO_SETS) {
    const bowed = ['violin', 'viola', 'cello', 'double-bass'].includes(set.family);
    await setSource(w.db, by(), {
      productId: w.setIds.get(set.sku) as number,
      supplierId: bowed ? atelier : mainland,
      pack: bowed ? 1 : set.perDelivery >= 4 ? 3 : 1,
      cents: set.priceCents,
    });
  }
  for (const [sku, name, unit, least, cents] of [
    ['USE-GRAPH', 'Graphite pencil for slots', 'pencil', 2, 180],
    ['USE-PEG', 'Peg compound', 'stick', 2, 890],
    ['USE-CLOTH', 'Soft cloths', 'cloth', 6, 220],
    ['USE-BOARD', 'Board conditioner', 'bottle', 1, 1250],
    ['USE-TAPE', 'Masking tape, low tack', 'roll', 2, 310],
    ['USE-PIN', 'Bridge pins, slotted', 'pin', 12, 60],
    ['USE-SPACER', 'Ball-end spacers', 'spacer', 6, 20],
  ] as const) {
    const smallPart = ({ 'USE-PIN': 'bridge-pin', 'USE-SPACER': 'ball-end-spacer' } as const)[sku as string] ?? '';
    const { productId } = await addConsumable(w.db, by(), { sku, name, unit, least, priceCents: cents, smallPart });
    await setSource(w.db, by(), { productId, supplierId: mainland, pack: 1, cents });
    w.setIds.set(sku, productId);
  }
}

/** What stands on the shelf beside sets, what may stand in for what, and orders: one under way, one that has come. */
async function fillTheStore(w: World): Promise<void> {
  const day = addDays(w.today, -20);
  const by = (on = day, hour = 10) => actingAs(w, 'Runa Fell', on, hour);
  const store = w.places.get('Harbour Store') as number;
  for (const [sku, quantity] of [
    ['USE-GRAPH', 3],
    ['USE-PEG', 1],
    ['USE-CLOTH', 9],
    ['USE-PIN', 30],
    ['USE-SPACER', 10],
    ['USE-BOARD', 1],
    ['USE-TAPE', 4],
  ] as const)
    await receive(w.db, by(), {
      productId: w.setIds.get(sku) as number,
      quantity,
      placeId: store,
      unitCostCents: null,
    });
  const string = (sku: string) => w.singleIds.get(sku) as number;
  for (const n of [1, 2, 3])
    await setSubstitutes(w.db, by(), {
      productId: string(`SOL-1046-${n}`),
      substituteIds: [string(`SOL-0942-${n}`)],
    });
  await setSubstitutes(w.db, by(), { productId: string('FUL-1253-1'), substituteIds: [string('FUL-1047-1')] });
  await addHybrid(w.db, by(), {
    sku: 'HYB-0946',
    name: 'Light trebles on Solan 10–46 basses',
    family: 'electric',
    parts: [
      { setId: w.setIds.get('SOL-0942') as number, numbers: [1, 2, 3] },
      { setId: w.setIds.get('SOL-1046') as number, numbers: [4, 5, 6] },
    ],
  });
  // A kit was carried to Tarn Hall.
  const lot = await w
    .db('lot_balance as b')
    .join('lot as l', 'l.id', 'b.lot_id')
    .where({ 'l.product_id': w.setIds.get('TYS-N'), 'l.form': 'set', 'b.place_id': store })
    .first('b.lot_id');
  if (lot)
    await transfer(w.db, by(addDays(w.today, -6)), {
      takes: [{ lotId: lot.lot_id, placeId: store, quantity: 1 }],
      toPlaceId: w.places.get('Tarn Hall') as number,
      reason: '',
      kit: true,
    });
  const suppliers = new Map((await loadSuppliers(w.db)).map((s) => [s.name.split(',')[0] as string, s.id]));
  const order = async (name: string, sentOn: LocalDate, lines: [string, number][]) => {
    const { orderId } = await draftOrder(w.db, by(sentOn, 9), {
      supplierId: suppliers.get(name) as number,
      placeId: store,
      lines: lines.map(([sku, quantity]) => ({ productId: w.setIds.get(sku) as number, quantity })),
      note: '',
    });
    await sendOrder(w.db, by(sentOn, 11), { orderId, expectedVersion: 1 });
  };
  await order('Mainland Strings', addDays(w.today, -14), [
    ['TYS-S', 6],
    ['KIT-F', 3],
  ]);
  await order('Atelier Brae', addDays(w.today, -4), [
    ['GAN-V-34', 2],
    ['GAN-V-12', 2],
  ]);
}

async function addReports(w: World): Promise<void> {
  const report = (
    who: string,
    daysAgo: number,
    hour: number,
    tag: string,
    kind: Parameters<typeof reportTrouble>[2]['kind'],
    numbers: number[],
    text: string,
  ) => reportTrouble(w.db, actingAs(w, who, addDays(w.today, -daysAgo), hour), { tag, kind, numbers, text });
  await report('Jo Kestrin', 1, 14, 'SK-0452', 'broken', [2], 'The B broke in class, nobody hurt.');
  await sayWrong(w.db, actingAs(w, 'Rikard Ost', w.today, 8), {
    tag: 'SK-0185',
    wrong: 'slack',
    numbers: [],
    text: 'All four, this morning. Laid flat, nothing tightened.',
  });
  await report('Ida Marr', 1, 11, 'SK-0236', 'dull', [], 'Sounds dull beside the others.');
  await report('Jo Kestrin', 4, 10, 'SK-0331', 'broken', [1], 'High E gone at the bridge.');
  await report('Tam Reyl', 2, 15, 'SK-0804', 'will-not-hold', [], 'Will not stay in tune through a lesson.');
  // A phone read a label before the first lesson.
  const id = (await w.db('instrument').where({ tag: 'SK-0331' }).first('id'))?.id as number;
  const address = (await labelAddresses(w.db, [id], instantOf(w.today, 7, TIME_ZONE)))?.get(id);
  await sayByLabel(w.db, {
    token: address?.split('/').at(-1) ?? '',
    wrong: 'peg',
    numbers: [],
    text: 'The lowest tuner turns and nothing happens.',
    who: 'class 4 B',
    key: 'demo-label-1',
    now: instantOf(w.today, 8, TIME_ZONE) + 40 * 60_000,
    from: '',
    picture: null,
  });
}

/** Classes of the schools, and the address under which phones reach the programme. */
async function addClassrooms(w: World): Promise<void> {
  const at = (hour: number) => actingAs(w, 'Runa Fell', addDays(w.today, -300), hour);
  await editTrust(w.db, at(10), {
    address: 'https://strings.skerrow.example',
    byLabel: true,
    performance: 'desk',
    saidDays: 365,
    expectedVersion: 1,
  });
  const held = { from: addDays(w.today, -90), to: addDays(w.today, 200) };
  for (const [name, place, weekday, fromTime, toTime] of [
    ['Strings 5 A', 'Old Cannery', 3, '10:15', '11:00'],
    ['Strings 6 C', 'Old Cannery', 5, '09:00', '09:45'],
    ['Guitars 4 B', 'Ness School', 2, '11:00', '11:45'],
  ] as const) {
    const placeId = w.places.get(place) as number;
    const tags: string[] = await w
      .db('instrument')
      .where({ place_id: placeId, holder: 'class set' })
      .whereIn(
        'family',
        name.startsWith('Guitars') ? ['steel-acoustic', 'classical', 'ukulele'] : ['violin', 'viola', 'cello'],
      )
      .orderBy('tag')
      .limit(12)
      .pluck('tag');
    if (tags.length === 0) continue;
    await addClass(w.db, at(11), { name, placeId, weekday, fromTime, toTime, ...held, who: tags.join(', ') });
  }
}

const PAST_WEEKS = 20;

/** The plans of the weeks behind, published on each Monday: what was done in them was planned. */
async function addPastPlans(w: World): Promise<void> {
  const monday = addDays(w.today, 1 - weekdayOf(w.today));
  for (let week = PAST_WEEKS; week > 0; week--) {
    const from = addDays(monday, -7 * week);
    const done = await w
      .db('standing_record as r')
      .join('instrument as i', 'i.id', 'r.instrument_id')
      .where('r.kind', 'change')
      .whereBetween('r.on_day', [from, addDays(from, 6)])
      .orderBy('r.id')
      .select('r.instrument_id', 'r.person_id', 'r.on_day', 'r.at', 'r.minutes', 'i.place_id');
    if (done.length === 0) continue;
    const by = actingAs(w, 'Runa Fell', from, 8);
    await change(w.db, by, 'plan.publish', { week: from }, async (trx) => {
      const planId = await insertId(trx, 'plan', {
        person_id: by.personId,
        published_at: by.now,
        cost: 0,
        bound: null,
      });
      // Of an instrument changed twice in a week the second was no plan's.
      const once = [...new Map(done.reverse().map((d) => [d.instrument_id, d])).values()];
      await trx.batchInsert(
        'plan_job',
        once.map((d) => ({
          plan_id: planId,
          instrument_id: d.instrument_id,
          kind: 'change',
          person_id: d.person_id,
          place_id: d.place_id,
          on_day: d.on_day,
          starts_at: d.at - 3_600_000,
          minutes: d.minutes ?? 30,
          locked: false,
          learner_id: null,
          supervisor_id: null,
        })),
        80,
      );
      return { result: planId, entity: 'plan', entityId: planId };
    });
  }
}

/** Moves of the search for the week that is published: enough for a good plan, and the same each time. */
const PLAN_MOVES = 60_000;

/** The plan in force: made and published the evening before, so that this morning begins with sessions. */
async function publishWeek(w: World): Promise<void> {
  const yesterday = addDays(w.today, -1);
  const by = actingAs(w, 'Runa Fell', yesterday, 17);
  const input = await planInput(w.db, { today: yesterday, now: by.now });
  const search = new PlanSearch(input.problem, { seed: DEMO_SEED, moves: PLAN_MOVES, start: quickPlan(input.problem) });
  search.run(PLAN_MOVES);
  const items = input.jobs.flatMap((job, i) => {
    const shift = input.shifts[search.best[i] ?? -1];
    const own = input.problem.jobs[i];
    if (!shift || !own) return [];
    const person = input.people.findIndex((p) => p.id === shift.personId);
    return [
      {
        instrumentId: job.instrumentId,
        kind: job.kind,
        personId: shift.personId,
        placeId: shift.placeId,
        on: shift.on,
        startsAt: shift.startsAt,
        minutes: own.minutes[person] ?? 0,
        locked: false,
        learnerId: null,
      },
    ];
  });
  const basedOn = (await latestPlan(w.db))?.id ?? null;
  await publishPlan(w.db, by, { basedOn, items }, { today: yesterday });
}
