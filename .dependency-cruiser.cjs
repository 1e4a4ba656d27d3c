const layer = (name, from, to, toNot) => ({
  name,
  severity: 'error',
  from: { path: from, pathNot: '\\.test\\.tsx?$' },
  to: { path: to, ...(toNot ? { pathNot: toNot } : {}) },
});

module.exports = {
  forbidden: [
    { name: 'no-cycles', severity: 'error', from: {}, to: { circular: true } },
    {
      name: 'no-orphans',
      severity: 'error',
      from: { orphan: true, path: '^src', pathNot: '(\\.d\\.ts|\\.as\\.ts|\\.test\\.tsx?)$' },
      to: {},
    },
    {
      name: 'not-to-dev',
      severity: 'error',
      from: { path: '^src', pathNot: '\\.test\\.tsx?$' },
      to: { dependencyTypes: ['npm-dev'] },
    },
    layer('core-stands-alone', '^src/core', '^src/(runtime|features|app|server|cli)'),
    layer('core-has-no-platform', '^src/core', '^(react|next|node:)'),
    layer('runtime-knows-core-only', '^src/runtime', '^src/(features|app|server|cli)'),
    layer('features-never-reach-server', '^src/features', '^src/(server|app|cli)'),
    layer('server-knows-core-only', '^src/server', '^src/(runtime|features|app|cli)'),
    layer('only-api-and-server-parts-import-server', '^src/app', '^src/server', undefined),
    layer('command-line-knows-core-and-server', '^src/cli', '^src/(runtime|features|app)'),
    layer('math-below-all', '^src/core/math', '^src/core/(?!math)'),
    layer('wasm-stands-alone', '^src/core/wasm/(?!twins)', '^src/(?!core/wasm)'),
    layer('twins-are-for-tests', '^(src|demo|bench)/(?!core/wasm/twins)', '^src/core/wasm/twins'),
    layer('dsp-on-math', '^src/core/dsp', '^src/core/(?!math|dsp|wasm)'),
    layer('effects-on-dsp', '^src/core/effects', '^src/core/(?!math|dsp|effects|errors|text|lookUp|wasm)'),
    layer('engine-never-sees-documents', '^src/core/engine', '^src/core/(session|formats|analysis|protocol)'),
    layer('session-never-sees-kernels', '^src/core/session', '(kernel|src/core/effects/kernels|src/core/dsp)'),
    layer('engine-never-sees-swells', '^src/core/(engine|effects|dsp)', '^src/core/swells'),
    layer('worklet-core-and-protocol-only', '^src/runtime/worklet', '^src/(?!core|runtime/worklet)'),
    layer('ui-knows-no-session', '^src/features/ui', '^src/(core/session|core/engine|features/(?!ui))'),
    {
      name: 'features-meet-in-session-controls-and-ui',
      severity: 'error',
      from: { path: '^src/features/(?!shell)([^/]+)/' },
      to: { path: '^src/features/', pathNot: '^src/features/($1|session|controls|ui)/' },
    },
  ].map((rule) =>
    rule.name === 'only-api-and-server-parts-import-server'
      ? { ...rule, from: { path: '^src/app', pathNot: '^src/app/(api/|.*page\\.tsx$)' } }
      : rule,
  ),
  options: {
    doNotFollow: { path: 'node_modules' },
    tsPreCompilationDeps: true,
    tsConfig: { fileName: 'tsconfig.json' },
    enhancedResolveOptions: { extensions: ['.ts', '.tsx', '.js', '.mjs', '.json'] },
  },
};
