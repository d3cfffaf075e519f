import { statSync } from 'node:fs';
import { join } from 'node:path';
import { collectDefaultMetrics, Gauge, Histogram, register } from 'prom-client';
import { backups } from './db/backup';
import { DATABASE_FILE } from './db/opening';
import { countListening } from './live';

/** Bounds in seconds: pages are to be answered in a tenth of one. */
const BOUNDS = [0.005, 0.01, 0.025, 0.05, 0.1, 0.2, 0.3, 0.5, 1, 2.5, 5, 10];

function begin() {
  collectDefaultMetrics();
  return {
    requests: new Histogram({
      name: 'arvick_request_seconds',
      help: 'How long requests took, by route and kind of answer.',
      labelNames: ['route', 'method', 'status'],
      buckets: BOUNDS,
    }),
    listening: new Gauge({ name: 'arvick_listening', help: 'Pages that are told of changes.' }),
    database: new Gauge({
      name: 'arvick_database_bytes',
      help: 'Size of the database and its log.',
      labelNames: ['file'],
    }),
    backup: new Gauge({ name: 'arvick_backup_timestamp_seconds', help: 'When the last backup was taken; 0: never.' }),
  };
}

let made: ReturnType<typeof begin> | null = null;
const metrics = () => {
  made ??= begin();
  return made;
};

/** Counts an answer. @param route the route by its pattern, so that no tag and no name is told */
export function countAnswer(p: { route: string; method: string; status: number; seconds: number }): void {
  metrics().requests.observe(
    { route: p.route, method: p.method, status: `${Math.floor(p.status / 100)}xx` },
    p.seconds,
  );
}

/** All that is counted, in Prometheus' text format. */
export async function metricsText(folder: string): Promise<{ text: string; type: string }> {
  const m = metrics();
  m.listening.set(countListening());
  for (const [file, name] of [
    ['data', DATABASE_FILE],
    ['log', `${DATABASE_FILE}-wal`],
  ] as const)
    m.database.set({ file }, statSync(join(folder, name), { throwIfNoEntry: false })?.size ?? 0);
  const [last] = await backups(folder);
  m.backup.set(last ? last.at / 1000 : 0);
  return { text: await register.metrics(), type: register.contentType };
}
