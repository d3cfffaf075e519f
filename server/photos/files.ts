import { createHash, randomBytes } from 'node:crypto';
import { mkdir, readdir, readFile, rename, rm, stat, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import sharp from 'sharp';
import { dataFolder } from '../db/connection';
import { refused } from '../errors';

/** The longer side of a kept photograph, in pixels: enough to read a screw, small enough for any disk. */
const LONGER_SIDE_PX = 1600;
/** More pixels than any camera in a pocket has: a file that claims them is no photograph. */
const MOST_PIXELS = 120_000_000;

/** What cameras and browsers write; drawings and documents, which can be made to take for ever, are not read. */
const PHOTO_FORMATS = ['jpeg', 'png', 'webp', 'heif', 'tiff', 'gif'];

const HASH = /^[0-9a-f]{64}$/;

const folderOf = (data: string) => join(data, 'photos');
const fileOf = (data: string, hash: string) => join(folderOf(data), hash.slice(0, 2), `${hash}.jpg`);

/**
 * A picture as it is kept: upright, no larger than has a use, written anew, so that nothing of the place or the camera is
 * left in it and nothing but a picture can be.
 * @throws UserError `no-picture` for what cannot be read as one
 */
export async function asKept(bytes: Uint8Array): Promise<Buffer> {
  try {
    const { format } = await sharp(bytes, { limitInputPixels: MOST_PIXELS }).metadata();
    if (!PHOTO_FORMATS.includes(format)) throw new Error(`${format} is not what a camera writes`);
    return await sharp(bytes, { limitInputPixels: MOST_PIXELS, failOn: 'error', sequentialRead: true })
      .rotate()
      .resize({ width: LONGER_SIDE_PX, height: LONGER_SIDE_PX, fit: 'inside', withoutEnlargement: true })
      .flatten({ background: '#ffffff' })
      .jpeg({ quality: 82 })
      .toBuffer();
  } catch {
    throw refused('no-picture', 'Not a photo', 'It could not be read as a photo, so it was not kept. Take it again.');
  }
}

/** Keeps a picture by its contents: the same one twice is one file, and a half written one is none. */
export async function keepFile(data: string, picture: Buffer): Promise<string> {
  const hash = createHash('sha256').update(picture).digest('hex');
  const file = fileOf(data, hash);
  const there = await stat(file).catch(() => null);
  if (there?.size === picture.length) return hash;
  await mkdir(join(file, '..'), { recursive: true });
  const half = `${file}.${randomBytes(6).toString('hex')}.part`;
  try {
    await writeFile(half, picture);
    await rename(half, file);
  } catch (error) {
    await rm(half, { force: true });
    throw error;
  }
  return hash;
}

/** Where the files of pictures are, whether they are there or not. */
export const filesOf = (data: string, hashes: readonly string[]): string[] =>
  hashes.filter((h) => HASH.test(h)).map((h) => fileOf(data, h));

/** The bytes of a picture; null when there is none of that name. */
export async function readPicture(hash: string, data = dataFolder()): Promise<Buffer | null> {
  if (!HASH.test(hash)) return null;
  return readFile(fileOf(data, hash)).catch(() => null);
}

/** Files nothing points to are younger than this while their photograph is being written. */
const YOUNG_MS = 3_600_000;

/** Removes the files that no photograph points to any more. @returns how many went */
export async function sweepFiles(data: string, wanted: (hashes: string[]) => Promise<Set<string>>, now: number) {
  let gone = 0;
  for (const part of await readdir(folderOf(data)).catch(() => [] as string[])) {
    const names = await readdir(join(folderOf(data), part));
    const keep = await wanted(names.map((n) => n.slice(0, 64)).filter((n) => HASH.test(n)));
    for (const name of names) {
      if (name.endsWith('.jpg') && keep.has(name.slice(0, 64))) continue;
      const file = join(folderOf(data), part, name);
      const age = now - ((await stat(file).catch(() => null))?.mtimeMs ?? now);
      if (age < YOUNG_MS) continue;
      await rm(file, { force: true });
      gone++;
    }
  }
  return gone;
}
