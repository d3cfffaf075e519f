import { execFileSync } from 'node:child_process';
import { rmSync } from 'node:fs';
import temporary from '../support/temporary';
import { FROZEN, TEMPLATE } from './app';

/** Makes the demo data once; every worker serves a copy of its own. */
export default function makeTemplate(): () => void {
  const tidy = temporary();
  rmSync(TEMPLATE, { recursive: true, force: true });
  execFileSync(process.execPath, ['--import', 'tsx', 'scripts/make-demo.ts', TEMPLATE], {
    stdio: 'inherit',
    env: { ...process.env, ARVICK_NOW: FROZEN },
  });
  return tidy;
}
