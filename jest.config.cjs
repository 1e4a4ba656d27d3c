const swc = [
  '@swc/jest',
  {
    jsc: {
      parser: { syntax: 'typescript', tsx: true },
      transform: { react: { runtime: 'automatic' } },
      target: 'es2022',
    },
  },
];
const shared = {
  transform: { '^.+\\.(tsx?|m?js)$': swc },
  moduleNameMapper: { '\\.css$': '<rootDir>/test/support/noStyles.ts', '^@/(.*)$': '<rootDir>/src/$1' },
  setupFiles: ['<rootDir>/test/support/setup.ts'],
  sandboxInjectedGlobals: ['Math', 'Float64Array', 'Float32Array'],
  transformIgnorePatterns: [
    '/node_modules/(?!(@wasm-audio-decoders|@eshaz|simple-yenc|codec-parser|mpg123-decoder|ogg-opus-decoder|opus-decoder|react-hotkeys-hook|@tanstack|s3mini)/)',
  ],
  testPathIgnorePatterns: ['/node_modules/', '/.next/', '/test/e2e/'],
};

/** Tests of repositories and handlers, which run on PGlite and on a PostgreSQL server. */
const SERVER_TESTS = [
  '<rootDir>/src/server/{repositories,handlers}/**/*.test.ts',
  '<rootDir>/src/server/{server,hostile,moveData,renders/renders}.test.ts',
];

module.exports = {
  // Renderings take seconds where other work has the processor.
  testTimeout: 60000,
  projects: [
    { ...shared, displayName: 'node', testEnvironment: 'node', testMatch: ['<rootDir>/{src,demo,test}/**/*.test.ts'] },
    {
      ...shared,
      displayName: 'server',
      testEnvironment: 'node',
      testMatch: SERVER_TESTS,
      setupFiles: [...shared.setupFiles, '<rootDir>/test/support/serverHome.ts'],
      globalSetup: '<rootDir>/test/support/clusterSetup.ts',
      globalTeardown: '<rootDir>/test/support/clusterTeardown.ts',
    },
    { ...shared, displayName: 'dom', testEnvironment: 'jsdom', testMatch: ['<rootDir>/src/**/*.test.tsx'] },
  ],
};
