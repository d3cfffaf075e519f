import { newKey } from '../../ui/key';
import { post } from '../../ui/post';
import type { Keep, Photo } from './keep';
import { lateFor } from './lateFor';
import { smaller } from './picture';

/** Sends one photograph; its number on the server, a reason why it is never taken, or null when no answer came. */
async function send(photo: Photo): Promise<{ id: number } | { refused: string } | null> {
  try {
    const answer = await fetch(`/api/photos?${new URLSearchParams({ job: String(photo.jobId), step: photo.step })}`, {
      method: 'POST',
      body: photo.blob,
      headers: { 'idempotency-key': photo.key, ...lateFor(photo) },
      signal: AbortSignal.timeout(60_000),
    });
    if (answer.ok) return { id: ((await answer.json()) as { id: number }).id };
    if (answer.status >= 500 || answer.status === 429 || answer.status === 401) return null;
    return { refused: ((await answer.json()) as { detail?: string }).detail ?? 'The server did not accept the photo.' };
  } catch {
    return null;
  }
}

/** Keeps a photograph on this device from before it is sent until it has arrived. */
export async function keepPhoto(
  keep: Keep,
  p: { jobId: number; step: string; personId: number; file: Blob },
): Promise<Photo> {
  const { file, ...of } = p;
  return keep.addPhoto({ ...of, blob: await smaller(file), key: newKey() });
}

let sending: Promise<Map<number, string>> | null = null;

/**
 * Sends what has not arrived, one after the other; whatever calls meanwhile waits for the same.
 * @returns why the server does not take some of them, by their place on this device
 */
export function sendPhotos(keep: Keep): Promise<Map<number, string>> {
  sending ??= (async () => {
    const refused = new Map<number, string>();
    for (const photo of await keep.photosWaiting()) {
      const answer = await send(photo);
      // Without an answer the next would get none either.
      if (!answer) break;
      if ('id' in answer) await keep.sentPhoto(photo.id as number, answer.id);
      else refused.set(photo.id as number, answer.refused);
    }
    return refused;
  })().finally(() => {
    sending = null;
  });
  return sending;
}

/** Takes a photograph away, here and where it has arrived. False when the server could not be asked. */
export async function takeAway(keep: Keep, photo: Photo): Promise<boolean> {
  if (photo.sent !== undefined) {
    const answer = await post(`/api/photos/${photo.sent}/remove`, {}, newKey());
    if (!answer.ok && answer.problem?.status !== 404) return false;
  }
  await keep.removePhoto(photo.id as number);
  return true;
}
