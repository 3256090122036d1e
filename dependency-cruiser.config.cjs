// The import rules of docs/architecture.md. Modules are entered by their door (index.ts) only.
const door = '/index\\.ts$';
/** Tests, and what only they use. */
const TESTS = '(\\.(test|fuzz)\\.tsx?$|^src/(web|server)/testing/|for-tests\\.tsx?$)';
const only = (name, from, allowed) => ({
  name,
  severity: 'error',
  from: { path: from, pathNot: TESTS },
  to: { path: '^src/', pathNot: allowed },
});

/** Core modules, lowest first: each may import those before it. */
const CORE = [
  'errors',
  'units',
  'math',
  'moves',
  'geometry',
  'grid',
  'flow',
  'mesh',
  'look',
  'formats',
  'gas',
  'liquid',
  'surface',
  'shot',
  'cost',
  'checks',
  'pass',
  'passes',
];

/**
 * Who may know the gas solver: its own folders (the kind, what it costs, how it is checked, its plan and its messages, its workers and its page). All other code asks
 * what every kind answers (`core/passes`).
 */
const GAS = [
  '^src/core/(gas|shot|cost|checks|passes/gas|passes/held|passes/fed)/',
  '^src/protocol/gas/',
  '^src/workers/(browser/sketch-main|common/warm-up|node/solve-frames|passes/solved-frame)\\.ts$',
  '^src/web/views/bench/gas/',
  '^src/testing/',
];

module.exports = {
  forbidden: [
    { name: 'no-cycles', severity: 'error', from: {}, to: { circular: true } },
    ...['kernels', 'protocol', 'testing', 'cli'].map((m) => ({
      name: `one-door-${m}`,
      severity: 'error',
      from: { path: '^(src|test|bench)/', pathNot: `^src/${m}/` },
      to: { path: `^src/${m}/`, pathNot: door },
    })),
    // Areas of several modules: from outside only doors, and between siblings too.
    ...['core', 'server', 'workers', 'web/views'].flatMap((area) => [
      {
        name: `one-door-into-${area.replace('/', '-')}`,
        severity: 'error',
        from: { path: '^(src|test|bench)/', pathNot: `^src/${area}/` },
        to: { path: `^src/${area}/[^/]+/`, pathNot: door },
      },
      {
        name: `one-door-within-${area.replace('/', '-')}`,
        severity: 'error',
        from: { path: `^src/${area}/([^/]+)/` },
        to: { path: `^src/${area}/[^/]+/`, pathNot: [door, `^src/${area}/$1/`] },
      },
    ]),
    {
      name: 'one-door-within-web',
      severity: 'error',
      from: { path: '^src/web/([^/]+)/' },
      to: { path: '^src/web/[^/]+/', pathNot: [door, '^src/web/$1/'] },
    },
    ...CORE.map((name, n) => only(`core-${name}`, `^src/core/${name}/`, `^src/core/(${CORE.slice(0, n + 1).join('|')})/`)),
    {
      name: 'core-is-pure',
      severity: 'error',
      from: { path: '^src/core/', pathNot: TESTS },
      to: {
        dependencyTypes: ['npm', 'npm-dev', 'core'],
        pathNot: ['node_modules/(zod|fflate|fft\\.js|@noble/hashes|three|three-mesh-bvh)/'],
      },
    },
    {
      name: 'gas-in-its-own-files',
      severity: 'error',
      from: { path: '^src/', pathNot: [TESTS, ...GAS] },
      to: { path: '^src/core/gas/' },
    },
    only('kernels', '^src/kernels/', '^src/(kernels|core)/'),
    only('protocol', '^src/protocol/', '^src/(protocol|core)/'),
    only('workers', '^src/workers/', '^src/(workers|core|kernels|protocol)/'),
    only('server', '^src/server/', '^src/(server|core|kernels|protocol|workers/node)/'),
    only('cli', '^src/cli/', '^src/(cli|core|kernels|protocol|workers/node|server/(cache|engine))/'),
    only('web', '^src/web/', '^src/(web|core|protocol|workers/browser)/'),
    {
      name: 'no-view-imports-another',
      severity: 'error',
      from: { path: '^src/web/views/([^/]+)/' },
      to: { path: '^src/web/views/', pathNot: '^src/web/views/$1/' },
    },
    {
      // Its geometry alone works without a page: trees in core/mesh, readers of mesh files in the import worker.
      name: 'three-in-the-viewport-only',
      severity: 'error',
      from: { path: '^src/', pathNot: '^src/(web/viewport|core/mesh|workers/node)/' },
      to: { path: 'node_modules/three/' },
    },
    {
      name: 'testing-in-tests-only',
      severity: 'error',
      from: { path: '^src/', pathNot: `(${TESTS}|^src/testing/)` },
      to: { path: '^src/testing/' },
    },
    { name: 'no-unresolvable', severity: 'error', from: {}, to: { couldNotResolve: true, pathNot: ['\\?nodeworker$'] } },
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    exclude: { path: ['src/kernels/assembly', 'src/pages', '\\.astro'] },
    tsPreCompilationDeps: true,
    tsConfig: { fileName: 'tsconfig.app.json' },
    enhancedResolveOptions: {
      exportsFields: ['exports'],
      conditionNames: ['import', 'types', 'node', 'default'],
      extensions: ['.ts', '.tsx', '.mjs', '.js'],
    },
  },
};
