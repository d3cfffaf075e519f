import type { Knex } from 'knex';
import type { LocalDate } from '../../core/dates';
import { localDate } from '../clock';
import { among } from '../db/among';
import { type Acting, answered, change, insertId } from '../db/change';
import { dataFolder } from '../db/connection';
import { notFound, refused } from '../errors';
import { findByTag } from '../fleet/instruments';
import { programmeRow } from '../programme/programme';
import { asKept, keepFile, readPicture } from './files';

/** So many of one job, or of an instrument beside its jobs, are enough to put anything together again. */
const MOST_PER_JOB = 30;

export interface KeptPhoto {
  id: number;
  hash: string;
  step: string;
  jobId: number | null;
  on: LocalDate;
  by: string;
}

type PhotoOf = { jobId: number } | { tag: string };

/** The instrument that a photograph is of, and the job it was taken in. @throws UserError not-found */
async function subjectOf(db: Knex, of: PhotoOf): Promise<{ instrument_id: number; job_id: number | null }> {
  if ('tag' in of) {
    const instrument = await findByTag(db, of.tag);
    if (!instrument) throw notFound(`“${of.tag}”`);
    return { instrument_id: instrument.id, job_id: null };
  }
  const job = await db('job').where({ id: of.jobId }).first();
  if (!job) throw notFound('This work');
  return { instrument_id: job.instrument_id, job_id: job.id };
}

/**
 * Keeps a photograph that was taken at the bench, or of an instrument by itself. The same key again is the same photograph.
 * @throws UserError not-found, `no-picture`, `too-many`
 */
export async function addPhoto(
  db: Knex,
  acting: Acting,
  p: PhotoOf & { step: string; bytes: Uint8Array },
  data = dataFolder(),
): Promise<{ id: number; hash: string }> {
  const { bytes, ...of } = p;
  const request = { ...of, bytes: bytes.length };
  const before = await answered<{ id: number; hash: string }>(db, acting, 'photo.add', request);
  if (before) return before.result;
  await subjectOf(db, p);
  const picture = await asKept(bytes);
  // The file is there before anything points to it; one that nothing came to point to is swept at night.
  const hash = await keepFile(data, picture);
  return change(db, acting, 'photo.add', request, async (trx) => {
    const subject = await subjectOf(trx, p);
    const [same] = await trx('photo')
      .where({ ...subject, hash })
      .whereNull('removed_at');
    if (same) return { result: { id: same.id, hash }, entity: 'photo', entityId: same.id };
    const [counted] = await trx('photo').where(subject).whereNull('removed_at').count({ n: '*' });
    if (Number(counted?.n ?? 0) >= MOST_PER_JOB)
      throw refused(
        'too-many',
        'Too many photos',
        `There are already ${MOST_PER_JOB} photos here, the most that are kept. Remove one that shows nothing new.`,
      );
    const id = await insertId(trx, 'photo', {
      hash,
      ...subject,
      step: p.step,
      bytes: picture.length,
      person_id: acting.personId,
      at: acting.now,
    });
    return { result: { id, hash }, entity: 'photo', entityId: id };
  });
}

/** Takes a photograph away; its file goes at night, if no other photograph is the same picture. */
export async function removePhoto(db: Knex, acting: Acting, p: { id: number }): Promise<{ removed: true }> {
  return change(db, acting, 'photo.remove', p, async (trx) => {
    const there = await trx('photo').where({ id: p.id }).whereNull('removed_at').update({ removed_at: acting.now });
    if (there === 0) throw notFound('This photo');
    return { result: { removed: true as const }, entity: 'photo', entityId: p.id };
  });
}

/** Photographs of an instrument, the newest first. */
export async function photosOf(db: Knex, instrumentId: number, most: number): Promise<KeptPhoto[]> {
  const rows = await db('photo as f')
    .join('person as p', 'p.id', 'f.person_id')
    .where({ 'f.instrument_id': instrumentId })
    .whereNull('f.removed_at')
    .orderBy('f.id', 'desc')
    .limit(most)
    .select('f.*', 'p.name');
  if (rows.length === 0) return [];
  const { time_zone: timeZone } = await programmeRow(db);
  return rows.map((r) => ({
    id: r.id,
    hash: r.hash,
    step: r.step,
    jobId: r.job_id,
    on: localDate(r.at, timeZone),
    by: r.name,
  }));
}

/** Those of some pictures that a photograph still is, or that came with words nobody has looked at yet. */
export async function stillThere(db: Knex, hashes: readonly string[]): Promise<Set<string>> {
  const photos: string[] = await db('photo').whereIn('hash', among(db, hashes)).whereNull('removed_at').pluck('hash');
  const words = await db('said').whereIn('hash', among(db, hashes)).whereNull('taken_at').pluck('hash');
  return new Set([...photos, ...words.flatMap((h) => h ?? [])]);
}

/** A picture by its hash, as long as a photograph of it stands; its file goes later, at night. */
export const shownPicture = async (db: Knex, hash: string, data = dataFolder()): Promise<Buffer | null> =>
  (await stillThere(db, [hash])).has(hash) ? readPicture(hash, data) : null;
