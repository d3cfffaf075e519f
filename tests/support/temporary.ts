import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

/** Gives a run of tests one temporary folder, also to every process it starts, and removes it with all that is in it. */
export default function temporary(): () => void {
  const before = process.env.TMPDIR;
  const folder = mkdtempSync(join(tmpdir(), 'arvick-tests-'));
  process.env.TMPDIR = folder;
  return () => {
    if (before === undefined) delete process.env.TMPDIR;
    else process.env.TMPDIR = before;
    rmSync(folder, { recursive: true, force: true, maxRetries: 5 });
  };
}
