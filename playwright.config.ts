import { defineConfig } from '@playwright/test';
import { chromiumPath } from './scripts/chromium.mjs';

export default defineConfig({
  testDir: 'tests/browser',
  globalSetup: './tests/browser/make-template.ts',
  outputDir: 'test-results',
  // More than there are cores: a page waits more than it works.
  workers: 3,
  // So long that only what hangs is stopped, however busy the machine is.
  timeout: 400_000,
  expect: { timeout: 30_000 },
  forbidOnly: Boolean(process.env.CI),
  reporter: [['list'], ['json', { outputFile: '.reports/playwright.json' }]],
  use: {
    viewport: { width: 1280, height: 800 },
    locale: 'en-GB',
    // What hangs is told where it hung.
    actionTimeout: 180_000,
    navigationTimeout: 180_000,
    trace: 'off',
    // Requests that go through a service worker are out of reach of page.route; one test lets it in.
    serviceWorkers: 'block',
    launchOptions: {
      executablePath: chromiumPath(),
      args: [
        '--no-sandbox',
        '--disable-gpu',
        '--disable-quic',
        '--no-first-run',
        '--disable-background-networking',
        '--disable-component-update',
        '--disable-sync',
      ],
    },
  },
});
