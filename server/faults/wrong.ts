import type { Knex } from 'knex';
import type { SaidWrong } from '../../contract/bench';
import { WRONGS, wrongsOf, wrongTo } from '../../core/faults/wrongs';
import type { SafetyTopicId } from '../../core/safety/topics';
import { localDate } from '../clock';
import { type Acting, change } from '../db/change';
import { refused } from '../errors';
import { loadInstrument, requireHere } from '../fleet/instruments';
import { reportTrouble } from '../fleet/report';
import { programmeRow } from '../programme/programme';
import { openCase } from './cases';

/**
 * Somebody says that something is wrong: of the strings it becomes a report, of anything else an item for whoever is
 * qualified, open until they have looked.
 * @throws UserError not-found, `no-such-wrong`, `gone`
 */
export async function sayWrong(db: Knex, acting: Acting, p: SaidWrong): Promise<{ location: string }> {
  return change(db, acting, 'wrong.said', p, async (trx) => {
    const instrument = await loadInstrument(trx, { tag: p.tag });
    requireHere(instrument);
    const { family } = instrument.build;
    if (!wrongsOf(family).includes(p.wrong))
      throw refused('no-such-wrong', 'Not on this instrument', 'Choose one of the things that are listed for it.');
    const wrong = WRONGS[p.wrong];
    const known = instrument.positions.map((x) => x.number);
    const numbers = p.numbers.filter((n) => known.includes(n));
    const words = [wrong.name, p.text].filter(Boolean).join(': ');
    if (wrong.report !== null)
      await reportTrouble(
        trx,
        { ...acting, key: `${acting.key}/report` },
        { tag: p.tag, kind: wrong.report, numbers: p.wrong === 'broken' ? numbers : [], text: words },
      );
    else {
      const programme = await programmeRow(trx);
      await openCase(trx, acting, {
        instrumentId: instrument.id,
        on: localDate(acting.now, programme.time_zone),
        symptom: `said-${p.wrong}`,
        number: null,
        cause: wrong.name,
        next: {
          kind: 'referral',
          to: wrongTo(p.wrong) ?? 'a qualified repairer',
          why: p.text,
          topic: wrong.topic as SafetyTopicId,
        },
        note: p.text,
        jobId: null,
      });
    }
    return {
      result: { location: `/report?said=${p.wrong}&tag=${encodeURIComponent(instrument.tag)}` },
      entity: 'instrument',
      entityId: instrument.id,
    };
  });
}
