// The arrows between the rooms: src → server → contract → core. Broken ones fail the test run.
const CORE_MAY_USE = '^node_modules/(date-fns|@date-fns/utc|@date-fns/tz|d3-array|fastest-levenshtein|fft\\.js|highs)/';

module.exports = {
  forbidden: [
    {
      name: 'core-stands-alone',
      severity: 'error',
      from: { path: '^core/', pathNot: '\\.test\\.ts$' },
      to: { pathNot: ['^core/', CORE_MAY_USE] },
    },
    {
      name: 'server-uses-core',
      severity: 'error',
      from: { path: '^server/', pathNot: '\\.test\\.ts$' },
      to: { path: '^(src|demo|tests|scripts)/' },
    },
    {
      name: 'contract-uses-core',
      severity: 'error',
      from: { path: '^contract/', pathNot: '\\.test\\.ts$' },
      to: { pathNot: ['^contract/', '^core/', '^node_modules/zod/'] },
    },
    { name: 'src-uses-no-demo', severity: 'error', from: { path: '^src/' }, to: { path: '^(demo|tests|scripts)/' } },
    {
      name: 'islands-take-only-types-from-the-server',
      severity: 'error',
      from: { path: '^src/(islands|components|scripts)/' },
      to: { path: '^server/', dependencyTypesNot: ['type-only'] },
    },
    {
      // The shapes bring what checks them, which half of a page's JavaScript would be.
      name: 'pages-load-no-shapes',
      severity: 'error',
      from: { path: '^src/(islands|components|scripts|ui)/' },
      to: {
        path: ['^contract/', '^node_modules/zod/'],
        pathNot: '^contract/(choices|permissions)\\.ts$',
        dependencyTypesNot: ['type-only'],
      },
    },
    {
      // Screens ask the areas of the server; the database is theirs.
      name: 'no-database-in-screens',
      severity: 'error',
      from: { path: '^src/', pathNot: '^src/(middleware\\.ts|env\\.d\\.ts)$' },
      to: {
        path: ['^server/db/', '^node_modules/(knex|better-sqlite3)/'],
        pathNot: '^server/db/(change|opening)\\.ts$',
      },
    },
    {
      name: 'no-circles',
      severity: 'error',
      from: {},
      to: { circular: true, viaOnly: { dependencyTypesNot: ['type-only'] } },
    },
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    tsPreCompilationDeps: true,
    tsConfig: { fileName: 'tsconfig.json' },
    extraExtensionsToScan: ['.astro'],
    enhancedResolveOptions: {
      extensions: ['.ts', '.tsx', '.mjs', '.js', '.json'],
      exportsFields: ['exports'],
      conditionNames: ['import', 'node', 'default'],
    },
  },
};
