import { defineConfig } from 'vitest/config';

export default defineConfig({
  test: {
    include: ['{core,server,src,demo}/**/*.test.ts', 'tests/{reference,crash}/**/*.test.ts'],
    testTimeout: 30_000,
    hookTimeout: 60_000,
    reporters: ['default', 'json'],
    outputFile: { json: '.reports/vitest.json' },
    // Nothing may hang on the zone of the machine.
    env: { TZ: 'Pacific/Kiritimati' },
  },
});
