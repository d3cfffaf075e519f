import type { Knex } from 'knex';
import type { LocalDate } from '../../core/dates';
import { tagKey } from '../../core/instruments/tag';
import type { Known, KnownInstrument } from '../../core/intake/draft';
import { busyKey } from '../../core/intake/others';
import { thouOf } from '../../core/strings/tension';
import { firstLesson } from '../plan/classes';

/** What a programme has already, for reading a sheet against it: some statements, however many there are. */
export async function loadKnown(db: Knex, at: { today: LocalDate; homePlaceId: number }): Promise<Known> {
  const hours = new Map<number, number>();
  for (const u of await db('use_period').whereNull('to_on').select('instrument_id', 'hours_per_week'))
    hours.set(u.instrument_id, (hours.get(u.instrument_id) ?? 0) + u.hours_per_week);
  const changed = new Map(
    (await db('instrument_state').select('instrument_id', 'changed_on')).map((s) => [s.instrument_id, s.changed_on]),
  );
  const open = new Set(await db('job').where({ status: 'open' }).pluck('instrument_id'));
  const instruments = new Map<string, KnownInstrument>();
  for (const i of await db('instrument').select(
    'id',
    'tag',
    'family',
    'size',
    'handedness',
    'version',
    'place_id',
    'holder',
    'note',
    'maker',
    'model',
    'serial',
    'house_set_id',
    'retired_on',
  ))
    instruments.set(tagKey(i.tag), {
      id: i.id,
      tag: i.tag,
      family: i.family,
      size: i.size,
      handedness: i.handedness === 'left' ? 'left' : 'right',
      version: i.version,
      placeId: i.place_id,
      holder: i.holder,
      note: i.note,
      maker: i.maker,
      model: i.model,
      serial: i.serial,
      hours: hours.get(i.id) ?? null,
      setId: i.house_set_id,
      changedOn: changed.get(i.id) ?? null,
      onBench: open.has(i.id),
      gone: i.retired_on !== null,
    });
  const gauges = new Map<number, number[]>();
  for (const s of await db('set_item as s')
    .join('product as p', 'p.id', 's.product_id')
    .orderBy(['s.set_id', { column: 's.number', order: 'desc' }])
    .select('s.set_id', 'p.gauge_mm')) {
    const own = gauges.get(s.set_id) ?? [];
    own.push(Math.round(thouOf(s.gauge_mm ?? 0) * 10) / 10);
    gauges.set(s.set_id, own);
  }
  const products = await db('product')
    .whereNull('retired_on')
    .orderBy('id')
    .select('id', 'sku', 'name', 'kind', 'family', 'price_cents');
  const busy = await db('instrument_busy').select('instrument_id', 'from_on', 'to_on', 'from_time', 'to_time');
  const classes = await db('class_instrument as x')
    .join('class as c', 'c.id', 'x.class_id')
    .select('x.instrument_id', 'c.weekday', 'c.from_on', 'c.to_on', 'c.from_time', 'c.to_time');
  const hoursOf = (b: { from_time: string | null; to_time: string | null }) =>
    b.from_time !== null && b.to_time !== null ? { begins: b.from_time, ends: b.to_time } : null;
  const lying: { product_id: number; form: string; place_id: number; n: number }[] = await db('lot_balance as b')
    .join('lot as l', 'l.id', 'b.lot_id')
    .groupBy(['l.product_id', 'l.form', 'b.place_id'])
    .select('l.product_id', 'l.form', 'b.place_id')
    .sum({ n: 'b.on_hand' });
  return {
    ...at,
    instruments,
    places: (await db('place').whereNull('retired_on').orderBy('id')).map((p) => ({
      id: p.id,
      name: p.name,
      isStore: Boolean(p.is_store),
    })),
    people: (await db('person').whereNull('retired_on').orderBy('id')).map((p) => ({
      id: p.id,
      name: p.name,
      initials: p.initials,
      role: p.role,
      placeId: p.place_id,
    })),
    products: products.map((p) => ({
      id: p.id,
      sku: p.sku,
      name: p.name,
      kind: p.kind,
      family: p.family,
      gauges: gauges.get(p.id) ?? [],
      priceCents: p.price_cents,
    })),
    busy: new Set([
      ...busy.map((b) =>
        busyKey({ id: b.instrument_id, from: b.from_on, to: b.to_on, hours: hoursOf(b), weekly: false }),
      ),
      ...classes.map((b) =>
        busyKey({ id: b.instrument_id, from: firstLesson(b), to: b.to_on, hours: hoursOf(b), weekly: true }),
      ),
    ]),
    onHand: new Map(lying.map((l) => [`${l.product_id}/${l.form}/${l.place_id}`, Number(l.n)])),
    words: new Map((await db('intake_word')).map((w) => [w.word, w.means])),
  };
}
