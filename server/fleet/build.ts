import type { Knex } from 'knex';
import type { Build } from '../../core/instruments/build';
import { defaultBuild } from '../../core/instruments/defaults';
import { impossibleBecause } from '../../core/instruments/validity';
import { localDate } from '../clock';
import { type Acting, change } from '../db/change';
import { conflict, refused } from '../errors';
import { programmeRow } from '../programme/programme';
import { buildColumns } from './add';
import { loadInstrument } from './instruments';
import { refreshInstrument } from './state';

/** What may be corrected about a build: parts and measures; family, size and number of strings stay. */
export type BuildChange = Pick<
  Build,
  'handedness' | 'scaleMm' | 'head' | 'tuner' | 'tailEnd' | 'bridge' | 'stringEnd' | 'fingerboard' | 'extras' | 'post'
>;

/**
 * Corrects the build of an instrument after somebody has looked at it; the method follows at once. Jobs that are open
 * keep the card they were opened with.
 * @throws UserError `conflict` when somebody corrected it meanwhile, `impossible-build` with every reason
 */
export async function correctBuild(
  db: Knex,
  acting: Acting,
  p: {
    tag: string;
    expectedVersion: number;
    build: BuildChange;
    /** From nut to bridge, where somebody measured it; null: not known, or not any more. */
    notedLengthMm?: number | null;
    /** Measures by string, where they were taken. */
    strings?: Record<number, { nutToPostMm?: number; nutSlotMm?: number | null }>;
  },
): Promise<{ version: number }> {
  return change(db, acting, 'instrument.build', p, async (trx) => {
    const instrument = await loadInstrument(trx, { tag: p.tag });
    if (instrument.version !== p.expectedVersion)
      throw conflict('Someone else has corrected this build. Reload to see it.', {
        currentVersion: instrument.version,
        current: instrument.build,
      });
    const programme = await programmeRow(trx);
    const { noted: before, ...rest } = instrument.build;
    const noted =
      p.notedLengthMm === undefined || p.notedLengthMm === before?.lengthMm
        ? before
        : p.notedLengthMm === null
          ? undefined
          : { lengthMm: p.notedLengthMm, on: localDate(acting.now, programme.time_zone) };
    const post = { ...p.build.post };
    const { post: usual } = defaultBuild(rest.family, rest.size, { head: p.build.head, tuner: p.build.tuner });
    // Posts stand differently on another head; what was put in its place together with it is kept.
    if (p.build.head !== rest.head && post.spacingMm === rest.post.spacingMm) post.spacingMm = usual.spacingMm;
    const build: Build = { ...rest, ...p.build, post, ...(noted ? { noted } : {}) };
    const impossible = impossibleBecause(build);
    if (impossible.length > 0)
      throw refused('impossible-build', 'These parts do not go together', impossible.join(' '));
    const version = instrument.version + 1;
    await trx('instrument')
      .where({ id: instrument.id })
      .update({ ...buildColumns(build), version });
    // Another head puts the posts elsewhere; what was measured stays on the same head.
    if (build.head !== instrument.build.head) {
      for (const place of defaultBuild(build.family, build.size, { head: build.head, tuner: build.tuner }).positions)
        await trx('instrument_position')
          .where({ instrument_id: instrument.id, number: place.number })
          .update({ side: place.side, post_order: place.postOrder, nut_to_post_mm: place.nutToPostMm });
    }
    for (const position of instrument.positions) {
      const measured = p.strings?.[position.number];
      if (!measured) continue;
      await trx('instrument_position')
        .where({ instrument_id: instrument.id, number: position.number })
        .update({
          nut_slot_mm: measured.nutSlotMm ?? null,
          // On another head the old measure says nothing.
          ...(measured.nutToPostMm !== undefined && build.head === instrument.build.head
            ? { nut_to_post_mm: measured.nutToPostMm }
            : {}),
        });
    }
    await refreshInstrument(trx, instrument.id, { now: acting.now, timeZone: programme.time_zone });
    return { result: { version }, entity: 'instrument', entityId: instrument.id };
  });
}
