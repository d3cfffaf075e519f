import { spawnSync } from 'node:child_process';
import { cpSync, mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Knex } from 'knex';
import { beforeAll, expect, it } from 'vitest';
import { finishJob } from '../../server/bench/finish';
import { openJob } from '../../server/bench/jobs';
import { openDatabase } from '../../server/db/connection';
import { acting, houseEntries, replayed, shelf, smallProgramme } from '../support/small';

let template: string;
let jobId: number;
let whole: Awaited<ReturnType<typeof picture>>;
let none: typeof whole;
let statements: number;

/** All that a finish leaves behind. */
async function picture(db: Knex) {
  const count = async (table: string) => Number((await db(table).count({ n: '*' }).first())?.n);
  return {
    shelf: await shelf(db),
    replayed: await replayed(db),
    records: await count('change_record'),
    strings: await count('string_entry'),
    visits: await count('follow_up'),
    status: (await db('job').where({ id: jobId }).first())?.status,
    due: (await db('instrument_state').where({ tag: 'UK-1' }).first())?.due_by,
    keys: await db('idempotency').where({ key: 'crash-key' }).pluck('key'),
    integrity: await db.raw('pragma integrity_check'),
  };
}

function crashAt(statement: number): { folder: string; output: string } {
  const folder = mkdtempSync(join(tmpdir(), 'arvick-crash-'));
  cpSync(template, folder, { recursive: true });
  const child = spawnSync(
    process.execPath,
    ['--import', 'tsx', 'tests/crash/finish-child.ts', folder, String(jobId), String(statement)],
    { encoding: 'utf8' },
  );
  expect(child.signal, child.stderr).toBe('SIGKILL');
  return { folder, output: child.stdout };
}

async function look(folder: string) {
  const db = await openDatabase(folder);
  try {
    return await picture(db);
  } finally {
    await db.destroy();
  }
}

beforeAll(async () => {
  const { db, folder } = await smallProgramme();
  ({ jobId } = await openJob(db, acting(), { tag: 'UK-1' }));
  none = await picture(db);
  await db.destroy();
  template = folder;
});

it('a finish that was acknowledged is whole after the process is killed', async () => {
  const { folder, output } = crashAt(0);
  expect(output).toMatch(/^acknowledged \d+/);
  statements = Number(output.split(' ')[1]);
  whole = await look(folder);
  expect(whole).toMatchObject({
    records: 1,
    strings: 4,
    visits: 2,
    status: 'finished',
    due: 'use',
    keys: ['crash-key'],
    integrity: [{ integrity_check: 'ok' }],
  });
  expect(whole.shelf).toEqual(whole.replayed);
});

it('killed in the middle it is all or nothing, and pressing again records it once', async () => {
  const points = Array.from({ length: 8 }, (_, i) => Math.max(1, Math.round(((i + 0.5) / 8) * statements)));
  for (const point of [1, ...points, statements]) {
    const { folder, output } = crashAt(point);
    expect(output).toBe('');
    expect(await look(folder), `killed at statement ${point} of ${statements}`).toEqual(none);
    if (point !== points[5]) continue;
    const db = await openDatabase(folder);
    const body = {
      jobId,
      expectedVersion: 1,
      entries: await houseEntries(db, 'UK-1'),
      discard: [],
      notes: '',
      minutes: 5,
    };
    await finishJob(db, acting(1, 'crash-key'), body);
    expect(await picture(db)).toEqual(whole);
    await db.destroy();
  }
});
