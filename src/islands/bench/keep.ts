import { type DBSchema, type IDBPDatabase, openDB } from 'idb';
import { KEPT_NAME } from './keptName';

/** Something for the server, kept in this browser from before it is sent until after it has arrived. */
export interface Parcel {
  /** Its place in the order of sending; given by the store. */
  seq?: number;
  /** The idempotency key: the same however often it is sent. */
  key: string;
  jobId: number;
  tag: string;
  kind: 'answer' | 'close';
  url: string;
  body: Record<string, unknown>;
  /** Who did it; somebody else may hold the device when it is sent. */
  personId: number;
  /** `aside`: the server failed on it again and again; it waits for somebody to look at it. */
  state: 'waiting' | 'sent' | 'refused' | 'aside';
  /** How often the server has failed on it. */
  failures?: number;
  /** What the server said. */
  answer?: unknown;
}

export interface Photo {
  id?: number;
  jobId: number;
  step: string;
  blob: Blob;
  /** The idempotency key under which it is sent. */
  key: string;
  personId: number;
  /** Its number on the server, once it has arrived. */
  sent?: number;
}

/** What a bench keeps on its device. */
export interface Keep {
  /** False where the browser forbids keeping: everything is lost with the page. */
  readonly lasting: boolean;
  add(parcel: Parcel): Promise<Parcel>;
  waiting(): Promise<Parcel[]>;
  ofJob(jobId: number): Promise<Parcel[]>;
  all(): Promise<Parcel[]>;
  mark(seq: number, state: Parcel['state'], answer: unknown, failures?: number): Promise<void>;
  remove(seq: number): Promise<void>;
  read(jobId: number): Promise<Map<string, unknown>>;
  write(jobId: number, name: string, value: unknown): Promise<void>;
  photos(jobId: number): Promise<Photo[]>;
  addPhoto(photo: Photo): Promise<Photo>;
  removePhoto(id: number): Promise<void>;
  /** Marks it as arrived. */
  sentPhoto(id: number, sent: number): Promise<void>;
  /** Photographs of any job that have not arrived. */
  photosWaiting(): Promise<Photo[]>;
  /** Forgets what a job that is recorded has kept, but what still waits. */
  forget(jobId: number): Promise<void>;
}

interface Schema extends DBSchema {
  parcels: { key: number; value: Parcel; indexes: { job: number; state: string } };
  values: { key: [number, string]; value: { jobId: number; name: string; value: unknown }; indexes: { job: number } };
  photos: { key: number; value: Photo; indexes: { job: number } };
}

/** The store in this browser's database; in memory where there is none to be had. */
export async function openKeep(): Promise<Keep> {
  try {
    const db = await openDB<Schema>(KEPT_NAME, 1, {
      upgrade(fresh) {
        const parcels = fresh.createObjectStore('parcels', { keyPath: 'seq', autoIncrement: true });
        parcels.createIndex('job', 'jobId');
        parcels.createIndex('state', 'state');
        fresh.createObjectStore('values', { keyPath: ['jobId', 'name'] }).createIndex('job', 'jobId');
        fresh.createObjectStore('photos', { keyPath: 'id', autoIncrement: true }).createIndex('job', 'jobId');
      },
    });
    return inDatabase(db);
  } catch {
    return inMemory();
  }
}

function inDatabase(db: IDBPDatabase<Schema>): Keep {
  return {
    lasting: true,
    async add(parcel) {
      return { ...parcel, seq: await db.add('parcels', parcel) };
    },
    waiting: () => db.getAllFromIndex('parcels', 'state', 'waiting'),
    ofJob: (jobId) => db.getAllFromIndex('parcels', 'job', jobId),
    all: () => db.getAll('parcels'),
    async mark(seq, state, answer, failures = 0) {
      const tx = db.transaction('parcels', 'readwrite');
      const known = await tx.store.get(seq);
      if (known) await tx.store.put({ ...known, state, answer, failures });
      await tx.done;
    },
    remove: (seq) => db.delete('parcels', seq),
    async read(jobId) {
      const rows = await db.getAllFromIndex('values', 'job', jobId);
      return new Map(rows.map((r) => [r.name, r.value]));
    },
    async write(jobId, name, value) {
      if (value === undefined) await db.delete('values', [jobId, name]);
      else await db.put('values', { jobId, name, value });
    },
    photos: (jobId) => db.getAllFromIndex('photos', 'job', jobId),
    async addPhoto(photo) {
      return { ...photo, id: await db.add('photos', photo) };
    },
    removePhoto: (id) => db.delete('photos', id),
    async sentPhoto(id, sent) {
      const tx = db.transaction('photos', 'readwrite');
      const known = await tx.store.get(id);
      if (known) await tx.store.put({ ...known, sent });
      await tx.done;
    },
    photosWaiting: async () => (await db.getAll('photos')).filter((p) => p.sent === undefined && p.key !== undefined),
    async forget(jobId) {
      const tx = db.transaction(['parcels', 'values', 'photos'], 'readwrite');
      for (const p of await tx.objectStore('photos').index('job').getAll(jobId))
        if (p.sent !== undefined) await tx.objectStore('photos').delete(p.id as number);
      for (const p of await tx.objectStore('parcels').index('job').getAll(jobId))
        if (p.state !== 'waiting' && p.state !== 'aside') await tx.objectStore('parcels').delete(p.seq as number);
      for (const key of await tx.objectStore('values').index('job').getAllKeys(jobId))
        await tx.objectStore('values').delete(key);
      await tx.done;
    },
  };
}

/** For a browser that forbids databases, and for tests. */
export function inMemory(): Keep {
  const parcels = new Map<number, Parcel>();
  const values = new Map<number, Map<string, unknown>>();
  const photos = new Map<number, Photo>();
  let next = 1;
  return {
    lasting: false,
    async add(parcel) {
      const kept = { ...parcel, seq: next++ };
      parcels.set(kept.seq, kept);
      return kept;
    },
    waiting: async () => [...parcels.values()].filter((p) => p.state === 'waiting'),
    ofJob: async (jobId) => [...parcels.values()].filter((p) => p.jobId === jobId),
    all: async () => [...parcels.values()],
    async mark(seq, state, answer, failures = 0) {
      const known = parcels.get(seq);
      if (known) parcels.set(seq, { ...known, state, answer, failures });
    },
    remove: async (seq) => void parcels.delete(seq),
    read: async (jobId) => new Map(values.get(jobId)),
    async write(jobId, name, value) {
      const of = values.get(jobId) ?? new Map();
      values.set(jobId, of);
      if (value === undefined) of.delete(name);
      else of.set(name, value);
    },
    photos: async (jobId) => [...photos.values()].filter((p) => p.jobId === jobId),
    async addPhoto(photo) {
      const kept = { ...photo, id: next++ };
      photos.set(kept.id, kept);
      return kept;
    },
    removePhoto: async (id) => void photos.delete(id),
    async sentPhoto(id, sent) {
      const known = photos.get(id);
      if (known) photos.set(id, { ...known, sent });
    },
    photosWaiting: async () => [...photos.values()].filter((p) => p.sent === undefined),
    async forget(jobId) {
      for (const [id, p] of photos) if (p.jobId === jobId && p.sent !== undefined) photos.delete(id);
      for (const [seq, p] of parcels)
        if (p.jobId === jobId && p.state !== 'waiting' && p.state !== 'aside') parcels.delete(seq);
      values.delete(jobId);
    },
  };
}
