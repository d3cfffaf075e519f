import { post } from '../../ui/post';
import { type Keep, openKeep, type Parcel, type Photo } from './keep';
import { lateFor } from './lateFor';
import { aloneInBrowser, type Delivery, Outbox } from './outbox';

/** Answers of a server, or of what stands before it, that say no more than that it cannot now. */
const NOT_NOW = [502, 503, 504, 507];
/** Nobody is signed in on this device: it waits until somebody is. */
const SIGNED_OUT = 401;
/** Not from whoever is signed in now, or not for them any more: whoever did it has to send it. */
const FOR_ITS_PERSON = [403, 410];

/** Delivers a parcel as the person who made it. A server that is stopped or full has not answered. */
export async function deliver(parcel: Parcel): Promise<Delivery> {
  const answer = await post<unknown>(parcel.url, parcel.body, parcel.key, lateFor(parcel));
  if (answer.ok) return { state: 'sent', answer: answer.value };
  if (answer.problem === null || [...NOT_NOW, SIGNED_OUT].includes(answer.problem.status)) return 'no-answer';
  if (answer.problem.status >= 500) return { state: 'failed', answer: answer.problem };
  return { state: FOR_ITS_PERSON.includes(answer.problem.status) ? 'aside' : 'refused', answer: answer.problem };
}

export interface Saving {
  waiting: number;
  silent: boolean;
}

/** One job on this device: what it keeps of it, read once, and the way to the server. */
export interface Device {
  keep: Keep;
  outbox: Outbox;
  /** Parcels of the job, in the order they were made. */
  parcels: Parcel[];
  photos: Photo[];
  read<T>(name: string): T | null;
  write(name: string, value: unknown): void;
}

/** Opens what this device keeps of a job and goes on sending what waits. */
export async function openDevice(
  jobId: number,
  on: { changed: (saving: Saving) => void; arrived: (parcel: Parcel) => void },
): Promise<Device> {
  const keep = await openKeep();
  const [parcels, values, photos] = await Promise.all([keep.ofJob(jobId), keep.read(jobId), keep.photos(jobId)]);
  const outbox = new Outbox({
    keep,
    deliver,
    alone: aloneInBrowser,
    changed: (waiting, silent) => on.changed({ waiting, silent }),
    arrived: on.arrived,
  });
  for (const parcel of parcels) if (parcel.state === 'waiting') outbox.adopt(parcel);
  return {
    keep,
    outbox,
    parcels,
    photos,
    read: <T>(name: string) => (values.get(name) as T | undefined) ?? null,
    write(name, value) {
      values.set(name, value);
      // A full or forbidden store costs only the resume on this device.
      void keep.write(jobId, name, value).catch(() => {});
    },
  };
}

/**
 * How far this device's clock is ahead of the server's, in ms. A page out of the cache cannot tell: then the last
 * answer stands.
 */
export function clockAhead(serverNow: number): number {
  // On the server, where the page is first made, nobody is at the bench yet.
  if (typeof document === 'undefined') return 0;
  const kept = document.documentElement.dataset.kept !== undefined;
  const name = 'arvick.clock';
  try {
    if (kept) return Number(localStorage.getItem(name) ?? 0);
    const ahead = Date.now() - serverNow;
    localStorage.setItem(name, String(ahead));
    return ahead;
  } catch {
    return kept ? 0 : Date.now() - serverNow;
  }
}
