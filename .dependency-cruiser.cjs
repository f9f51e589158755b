/** Arrows run one way: app → studio, shelf → engine, store → media, formats → core. */
const below = {
  core: [],
  formats: ['core'],
  media: ['core', 'formats'],
  engine: ['core', 'formats', 'media'],
  store: ['core', 'formats', 'media'],
  live: ['core', 'formats', 'media', 'engine'],
  theme: ['core'],
  studio: ['core', 'formats', 'media', 'engine', 'store', 'live', 'theme'],
  shelf: ['core', 'formats', 'media', 'engine', 'store', 'live', 'theme', 'studio/controls', 'studio/notices', 'studio/bringIn'],
};
const room = (name) => `^src/${name}/`;

module.exports = {
  forbidden: [
    ...Object.entries(below).map(([from, allowed]) => ({
      name: `${from}-looks-down-only`,
      severity: 'error',
      from: { path: room(from), pathNot: '\\.test\\.tsx?$' },
      to: { path: '^(src|headless|demo|bench|e2e)/', pathNot: [room(from), ...allowed.map(room)] },
    })),
    {
      name: 'core-computes-only',
      comment: 'No React, DOM, Node or worker package in the core: zod, a cache and a mesh simplifier are its packages.',
      severity: 'error',
      from: { path: '^src/core/', pathNot: '\\.test\\.tsx?$' },
      to: { dependencyTypes: ['npm', 'npm-dev', 'core'], pathNot: 'node_modules/(zod|lru-cache|meshoptimizer)/' },
    },
    { name: 'no-circles', severity: 'error', from: {}, to: { circular: true } },
    {
      name: 'demo-measures-nothing',
      severity: 'error',
      from: { path: '^demo/' },
      to: { path: '^bench/' },
    },
    {
      name: 'demo-stands-apart',
      severity: 'error',
      from: { path: '^src/', pathNot: '\\.test\\.tsx?$' },
      to: { path: '^(demo|headless|bench)/' },
    },
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    exclude: { path: '(kernels/(assembly|build)|page/build)' },
    tsConfig: { fileName: 'tsconfig.json' },
    tsPreCompilationDeps: true,
  },
};
