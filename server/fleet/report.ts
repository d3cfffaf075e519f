import type { Knex } from 'knex';
import type { OpenReport } from '../../core/wear/due';
import { localDate } from '../clock';
import { type Acting, change, insertId } from '../db/change';
import { programmeRow } from '../programme/programme';
import { loadInstrument, requireHere } from './instruments';
import { refreshInstrument } from './state';

/** Notes what someone found wrong with an instrument's strings; it is due at once. */
export async function reportTrouble(
  db: Knex,
  acting: Acting,
  p: { tag: string; kind: OpenReport['kind']; numbers: number[]; text: string },
): Promise<{ reportId: number }> {
  return change(db, acting, 'report.add', p, async (trx) => {
    const instrument = await loadInstrument(trx, { tag: p.tag });
    requireHere(instrument);
    const programme = await programmeRow(trx);
    const reportId = await insertId(trx, 'report', {
      instrument_id: instrument.id,
      person_id: acting.personId,
      at: acting.now,
      on_day: localDate(acting.now, programme.time_zone),
      kind: p.kind,
      numbers: JSON.stringify(p.numbers),
      text: p.text,
    });
    await refreshInstrument(trx, instrument.id, { now: acting.now, timeZone: programme.time_zone });
    return { result: { reportId }, entity: 'report', entityId: reportId };
  });
}
