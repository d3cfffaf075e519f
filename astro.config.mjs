import { createHash } from 'node:crypto';
import { readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { brotliCompressSync, constants, gzipSync } from 'node:zlib';
import node from '@astrojs/node';
import react from '@astrojs/react';
import tailwindcss from '@tailwindcss/vite';
import { defineConfig } from 'astro/config';
import { build } from 'vite';

/** Files with a hash in their name never change; of the others the contents are the revision. */
const precached = (client) =>
  readdirSync(client, { recursive: true, withFileTypes: true })
    .filter((entry) => entry.isFile() && entry.name !== 'sw.js' && !entry.name.endsWith('.wasm'))
    .map((entry) => join(entry.parentPath, entry.name))
    .map((file) => {
      const url = `/${file.slice(client.length)}`;
      const revision = createHash('sha256').update(readFileSync(file)).digest('hex').slice(0, 16);
      return url.startsWith('/_astro/') ? { url, revision: null } : { url, revision };
    });

/** Builds the service worker once all files it keeps are there. */
const serviceWorker = {
  name: 'service-worker',
  hooks: {
    'astro:build:done': async ({ dir }) => {
      const client = fileURLToPath(dir);
      await build({
        configFile: false,
        logLevel: 'error',
        publicDir: false,
        define: {
          __FILES__: JSON.stringify(precached(client)),
          'process.env.NODE_ENV': '"production"',
        },
        build: {
          outDir: client,
          emptyOutDir: false,
          lib: {
            entry: fileURLToPath(new URL('src/sw/sw.ts', import.meta.url)),
            formats: ['iife'],
            name: 'sw',
            fileName: () => 'sw.js',
          },
        },
      });
    },
  },
};

const COMPRESSED = /\.(js|css|svg|html|wasm|json)$/;
/** Below this nothing is gained. */
const LEAST_BYTES = 1000;
/** Of 11, which takes ten times as long and gains a twentieth. */
const BROTLI_QUALITY = 9;

/** Compresses what is sent as it is, once for all. */
const compressed = {
  name: 'compressed',
  hooks: {
    'astro:build:done': ({ dir }) => {
      for (const entry of readdirSync(fileURLToPath(dir), { recursive: true, withFileTypes: true })) {
        const file = join(entry.parentPath, entry.name);
        if (!entry.isFile() || !COMPRESSED.test(entry.name)) continue;
        const text = readFileSync(file);
        if (text.length < LEAST_BYTES) continue;
        const params = { [constants.BROTLI_PARAM_QUALITY]: BROTLI_QUALITY };
        writeFileSync(`${file}.br`, brotliCompressSync(text, { params }));
        writeFileSync(`${file}.gz`, gzipSync(text));
      }
    },
  },
};

/** Tells a page in which manner its programme writes, before any of its islands is hydrated. */
const manner = {
  name: 'manner',
  hooks: {
    'astro:config:setup': ({ injectScript }) => injectScript('before-hydration', `import '/src/scripts/manner.ts';`),
  },
};

/** Builds what runs beside the pages: the process that serves them, and the threads of its heavy work. */
const besideServer = {
  name: 'beside-server',
  hooks: {
    'astro:build:done': async ({ dir }) => {
      for (const [source, file] of [
        ['server/main.ts', 'main.mjs'],
        ['server/plan/night.worker.ts', 'night.worker.mjs'],
        ['server/plan/calendar.worker.ts', 'calendar.worker.mjs'],
        ['server/intake/intake.worker.ts', 'intake.worker.mjs'],
        ['server/reads/reader.worker.ts', 'reader.worker.mjs'],
        ['server/db/backup.worker.ts', 'backup.worker.mjs'],
      ])
        await build({
          configFile: false,
          logLevel: 'error',
          publicDir: false,
          build: {
            ssr: fileURLToPath(new URL(source, import.meta.url)),
            outDir: fileURLToPath(new URL('../server/', dir)),
            emptyOutDir: false,
            target: 'node20',
            rollupOptions: {
              external: [
                'better-sqlite3',
                'highs',
                'knex',
                'pino',
                'openid-client',
                'prom-client',
                'croner',
                'sharp',
                'read-excel-file',
                'papaparse',
                'pdfkit',
                'qrcode',
                'fflate',
                'sirv',
                './entry.mjs',
              ],
              output: { entryFileNames: file },
            },
          },
        });
    },
  },
};

export default defineConfig({
  output: 'server',
  adapter: node({ mode: 'middleware', experimentalDisableStreaming: true }),
  // Islands are made in one piece, which takes a third of the time of a stream; no part of one waits for anything. Names
  // that React would make for a page (useId) are not the same here and there then, and no island uses them.
  integrations: [react({ experimentalDisableStreaming: true }), manner, serviceWorker, compressed, besideServer],
  devToolbar: { enabled: false },
  // The middleware asks of every change, whatever it carries, whether it comes from here, by the name that was asked for;
  // Astro's own check knows some kinds of contents only, and not the names of this server.
  security: { checkOrigin: false },
  // What runs in a page is what was built: its own inline pieces by their hashes, and nothing else.
  experimental: { csp: { scriptDirective: { resources: ["'self'", "'wasm-unsafe-eval'"] } } },
  vite: {
    plugins: [tailwindcss()],
    ssr: {
      external: [
        'better-sqlite3',
        'knex',
        'pino',
        'openid-client',
        'prom-client',
        'croner',
        'sharp',
        'pdfkit',
        'read-excel-file',
        'write-excel-file',
      ],
    },
  },
});
