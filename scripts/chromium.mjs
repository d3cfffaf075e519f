// Which Chromium the browser tests, the bench and the pictures run in.
import { spawnSync } from 'node:child_process';
import { existsSync } from 'node:fs';
import { fail } from './setup.mjs';

/** Debian's, the one that draws no window first: a page costs it half of what it costs the whole browser. */
const SHELL = '/usr/bin/chromium-headless-shell';
const WHOLE = '/usr/bin/chromium';

/** The one named by CHROMIUM, else the lightest that is installed. */
export const chromiumPath = () => process.env.CHROMIUM ?? ([SHELL, WHOLE].find((path) => existsSync(path)) || SHELL);

/** Installs one where it can; else any that is there does, and where none is it says what to install. */
export function ensureChromium() {
  if (process.env.CHROMIUM ? existsSync(process.env.CHROMIUM) : existsSync(SHELL)) return;
  const able = !process.env.CHROMIUM && process.getuid?.() === 0 && existsSync('/usr/bin/apt-get');
  if (able) {
    console.log('Installing Chromium for the browser tests ...');
    const apt = (...args) =>
      spawnSync('apt-get', args, {
        stdio: ['ignore', 'ignore', 'inherit'],
        env: { ...process.env, DEBIAN_FRONTEND: 'noninteractive' },
      }).status;
    apt('update');
    apt('install', '-y', '--no-install-recommends', 'chromium-headless-shell');
  }
  if (existsSync(chromiumPath())) return;
  fail(
    able
      ? 'Chromium could not be installed with apt-get. The lines above say why.'
      : 'The browser tests need Chromium: install it (on Debian: apt-get install chromium-headless-shell), or name one with CHROMIUM=path.',
  );
}
