import type { Knex } from 'knex';
import type { SaidWrong } from '../../contract/bench';
import { WRONGS, type WrongId, wrongsOf, wrongTo } from '../../core/faults/wrongs';
import type { SafetyTopicId } from '../../core/safety/topics';
import { localDate } from '../clock';
import { type Acting, change } from '../db/change';
import * as columns from '../db/columns';
import { dataFolder } from '../db/connection';
import { refused } from '../errors';
import { type Instrument, loadInstrument, requireHere } from '../fleet/instruments';
import { reportTrouble } from '../fleet/report';
import { asKept, keepFile } from '../photos/files';
import { programmeRow } from '../programme/programme';
import { openCase } from './cases';

/** What somebody says is wrong, with the photograph that was kept of it. */
type Words = Omit<SaidWrong, 'tag'> & { who?: string; hash?: string | null };

/** What follows from it: a report of the strings, or an item for whoever is qualified. */
interface Becomes {
  reportId: number | null;
  caseId: number | null;
}

/**
 * That something can be wrong with this instrument, and which of its strings were meant.
 * @throws UserError `no-such-wrong`
 */
export function requireWrong(instrument: Instrument, p: Pick<Words, 'wrong' | 'numbers'>): number[] {
  if (!wrongsOf(instrument.build.family).includes(p.wrong))
    throw refused(
      'no-such-wrong',
      'Not on this instrument',
      'This fault cannot happen on this instrument. Choose one from the list.',
    );
  const known = new Set(instrument.positions.map((x) => x.number));
  return p.numbers.filter((n) => known.has(n));
}

/** Makes of what was said what follows from it; within a change of whoever answers for it. */
export async function follow(trx: Knex, acting: Acting, instrument: Instrument, p: Words): Promise<Becomes> {
  const numbers = requireWrong(instrument, p);
  const wrong = WRONGS[p.wrong];
  const words = [wrong.name, p.text, p.who ? `reported by ${p.who}, from the label` : ''].filter(Boolean).join(': ');
  if (wrong.report !== null) {
    const { reportId } = await reportTrouble(
      trx,
      { ...acting, key: `${acting.key}/report` },
      { tag: instrument.tag, kind: wrong.report, numbers: p.wrong === 'broken' ? numbers : [], text: words },
    );
    return { reportId, caseId: null };
  }
  const programme = await programmeRow(trx);
  const caseId = await openCase(trx, acting, {
    instrumentId: instrument.id,
    on: localDate(acting.now, programme.time_zone),
    symptom: `said-${p.wrong}`,
    number: null,
    named: { of: 'said', id: p.wrong },
    next: {
      kind: 'referral',
      to: wrongTo(p.wrong) ?? 'a qualified repairer',
      why: p.text,
      topic: wrong.topic as SafetyTopicId,
    },
    note: p.text,
    jobId: null,
  });
  return { reportId: null, caseId };
}

/** The row of what was said. */
export async function wordsRow(
  trx: Knex,
  instrument: Instrument,
  p: Words & { now: number; personId: number | null },
): Promise<Record<string, unknown>> {
  const programme = await programmeRow(trx);
  return {
    instrument_id: instrument.id,
    at: p.now,
    on_day: localDate(p.now, programme.time_zone),
    wrong: p.wrong,
    numbers: columns.numbers.write(p.numbers),
    text: p.text,
    who: p.who ?? '',
    person_id: p.personId,
    hash: p.hash ?? null,
  };
}

/** A photograph that came with words, among those of the instrument. */
export async function keepWithInstrument(
  trx: Knex,
  acting: Acting,
  p: { instrumentId: number; hash: string | null; wrong: WrongId; bytes: number },
): Promise<void> {
  if (p.hash === null) return;
  await trx('photo').insert({
    hash: p.hash,
    instrument_id: p.instrumentId,
    job_id: null,
    step: WRONGS[p.wrong].name,
    bytes: p.bytes,
    person_id: acting.personId,
    at: acting.now,
  });
}

/**
 * Somebody who is signed in says that something is wrong: of the strings it becomes a report, of anything else an item
 * for whoever is qualified, open until they have looked.
 * @throws UserError not-found, `no-such-wrong`, `gone`, `no-picture`
 */
export async function sayWrong(
  db: Knex,
  acting: Acting,
  p: SaidWrong,
  picture: Uint8Array | null = null,
  data = dataFolder(),
): Promise<{ location: string }> {
  const kept = picture && (await asKept(picture));
  const hash = kept && (await keepFile(data, kept));
  return change(db, acting, 'wrong.said', { ...p, ...(hash ? { hash } : {}) }, async (trx) => {
    const instrument = await loadInstrument(trx, { tag: p.tag });
    requireHere(instrument);
    const { reportId, caseId } = await follow(trx, acting, instrument, p);
    await keepWithInstrument(trx, acting, {
      instrumentId: instrument.id,
      hash,
      wrong: p.wrong,
      bytes: kept?.length ?? 0,
    });
    await trx('said').insert({
      ...(await wordsRow(trx, instrument, { ...p, hash, now: acting.now, personId: acting.personId })),
      report_id: reportId,
      case_id: caseId,
      taken_by: acting.personId,
      taken_at: acting.now,
    });
    return {
      result: { location: `/report?said=${p.wrong}&tag=${encodeURIComponent(instrument.tag)}` },
      entity: 'instrument',
      entityId: instrument.id,
    };
  });
}
