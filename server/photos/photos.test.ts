import { mkdtempSync, readdirSync, utimesSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Knex } from 'knex';
import sharp from 'sharp';
import { afterEach, beforeEach, expect, it } from 'vitest';
import { acting, houseEntries, NOW, smallProgramme } from '../../tests/support/small';
import { finishJob } from '../bench/finish';
import { openJob, saveAnswer } from '../bench/jobs';
import { foundBefore, keepFact } from '../fleet/facts';
import { loadInstrument } from '../fleet/instruments';
import { readPicture, sweepFiles } from './files';
import { addPhoto, removePhoto, shownPicture, stillThere } from './photos';

let db: Knex;
let data: string;
let jobId: number;
beforeEach(async () => {
  ({ db } = await smallProgramme());
  data = mkdtempSync(join(tmpdir(), 'arvick-photos-'));
  ({ jobId } = await openJob(db, acting(), { tag: 'VN-1' }));
});
afterEach(() => db.destroy());

/** A picture as a telephone makes it: large, lying on its side, with the place it was taken at. */
const fromPhone = (red = 120) =>
  sharp({ create: { width: 2400, height: 1200, channels: 3, background: { r: red, g: 80, b: 40 } } })
    .withExif({ IFD0: { Copyright: 'secret place' }, IFD3: { GPSLatitude: '58/1 0/1 0/1' } })
    .withMetadata({ orientation: 6 })
    .jpeg()
    .toBuffer();
const files = () => readdirSync(join(data, 'photos'), { recursive: true }).filter((f) => String(f).endsWith('.jpg'));

it('a photograph is kept small, upright and without its place, once however often it is sent', async () => {
  const bytes = await fromPhone();
  const once = acting();
  const first = await addPhoto(db, once, { jobId, step: 'look.note', bytes }, data);
  expect(await addPhoto(db, once, { jobId, step: 'look.note', bytes }, data)).toEqual(first);
  expect(await addPhoto(db, acting(2), { jobId, step: 'look.note', bytes }, data)).toEqual(first);
  expect(files()).toHaveLength(1);
  const kept = (await readPicture(first.hash, data)) as Buffer;
  const seen = await sharp(kept).metadata();
  expect([seen.width, seen.height, seen.format]).toEqual([800, 1600, 'jpeg']);
  expect(seen.exif).toBeUndefined();
  expect(kept.includes('secret')).toBe(false);
});

it('what is no picture is refused in words and leaves nothing, by any name or claim', async () => {
  const hostile = [
    Buffer.from('<svg xmlns="http://www.w3.org/2000/svg"><script>alert(1)</script></svg>').subarray(0, 40),
    Buffer.from('MZ not a picture'),
    Buffer.alloc(0),
    (await fromPhone()).subarray(0, 900),
  ];
  for (const bytes of hostile)
    await expect(addPhoto(db, acting(), { jobId, step: '', bytes }, data)).rejects.toThrow(/could not be read/);
  await expect(addPhoto(db, acting(), { jobId: 999, step: '', bytes: await fromPhone() }, data)).rejects.toThrow();
  expect(await db('photo')).toEqual([]);
  for (const name of ['../arvick.sqlite', '..%2f..', 'x'.repeat(64), ''])
    expect(await readPicture(name, data)).toBeNull();
});

it('taken away it is gone for everybody, its file by night, unless another photograph is the same picture', async () => {
  const other = await openJob(db, acting(), { tag: 'AC-1' });
  const bytes = await fromPhone();
  const mine = await addPhoto(db, acting(), { jobId, step: '', bytes }, data);
  const theirs = await addPhoto(db, acting(), { jobId: other.jobId, step: '', bytes }, data);
  expect(theirs.hash).toBe(mine.hash);
  const lone = await addPhoto(db, acting(), { jobId, step: '', bytes: await fromPhone(10) }, data);
  writeFileSync(join(data, 'photos', mine.hash.slice(0, 2), 'half.jpg.abc.part'), 'x');
  await removePhoto(db, acting(), { id: mine.id });
  await removePhoto(db, acting(), { id: lone.id });
  await expect(removePhoto(db, acting(), { id: lone.id })).rejects.toThrow();
  const sweep = (now: number) => sweepFiles(data, (hashes) => stillThere(db, hashes), now);
  // What was written a moment ago may still be on its way into the database.
  expect(await sweep(Date.now())).toBe(0);
  for (const f of readdirSync(join(data, 'photos'), { recursive: true }))
    utimesSync(join(data, 'photos', String(f)), new Date(NOW), new Date(NOW));
  expect(await sweep(Date.now())).toBe(2);
  expect(await readPicture(mine.hash, data)).not.toBeNull();
  expect(await readPicture(lone.hash, data)).toBeNull();
});

it('the next technician reads what was written down, and what lasts is the instrument’s', async () => {
  const note = (asked: string, said: string) =>
    saveAnswer(db, acting(), {
      jobId,
      step: 'look.note',
      cursor: 'look.note',
      outcome: 'measured',
      noted: { asked, said },
    });
  await note('Where the pickup clip sits', 'on the bass leg');
  const { hash } = await addPhoto(db, acting(), { jobId, step: 'look.note', bytes: await fromPhone() }, data);
  const entries = (await houseEntries(db, 'VN-1')).map((e) => ({ ...e, found: true }));
  await finishJob(db, acting(), { jobId, expectedVersion: 1, entries, discard: [], notes: '', minutes: 20 });
  await keepFact(db, acting(2), { tag: 'vn-1', asked: 'bridge-place', said: '32,75 cm, on their marks' });

  const next = await openJob(db, acting(2), { tag: 'VN-1', kind: 'retune' });
  const { id } = await loadInstrument(db, { tag: 'VN-1' });
  const before = await foundBefore(db, id, next.jobId);
  expect(before.last['Where the pickup clip sits']).toMatchObject({ said: 'on the bass leg', by: 'Ann Ex' });
  expect(before.facts['bridge-place']).toMatchObject({ said: '32,75 cm, on their marks', by: 'Ben Wy' });
  expect(before.photos.map((p) => p.hash)).toEqual([hash]);
  expect((await loadInstrument(db, { tag: 'VN-1' })).build.noted).toEqual({ lengthMm: 327.5, on: '2026-03-10' });
  await keepFact(db, acting(), { tag: 'VN-1', asked: 'bridge-place', said: '' });
  expect((await foundBefore(db, id, null)).facts).toEqual({});
});

it('a photograph that was removed is shown to nobody, though its file is still there', async () => {
  const { id, hash } = await addPhoto(db, acting(), { jobId, step: 'look.note', bytes: await fromPhone() }, data);
  expect(await shownPicture(db, hash, data)).not.toBeNull();
  await removePhoto(db, acting(), { id });
  expect(await shownPicture(db, hash, data)).toBeNull();
  expect(await readPicture(hash, data)).not.toBeNull();
  expect(await shownPicture(db, 'x', data)).toBeNull();
});
