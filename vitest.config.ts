import { defineConfig } from 'vitest/config';

export default defineConfig({
  test: {
    include: ['{core,contract,server,src,demo}/**/*.test.ts', 'tests/{reference,crash,words}/**/*.test.ts'],
    globalSetup: 'tests/support/temporary.ts',
    // So long that only what hangs is stopped, however busy the machine is.
    testTimeout: 600_000,
    hookTimeout: 600_000,
    reporters: ['default', 'json'],
    outputFile: { json: '.reports/vitest.json' },
    maxWorkers: '100%',
    // Files share what they import; each makes its own data, in a folder of its own.
    isolate: false,
    // Nothing may hang on the zone of the machine.
    env: { TZ: 'Pacific/Kiritimati' },
  },
});
