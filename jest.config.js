/** One runner for core, demo song, server, cli and the parts of web that need no browser. */
export default {
  testEnvironment: 'node',
  // A limit for what hangs, in tests and in what they stand on; a busy machine is no failure.
  testTimeout: 300_000,
  // Every core: left to itself it spares one, and of two that is half.
  maxWorkers: '100%',
  setupFiles: ['<rootDir>/scripts/jestSeed.mjs'],
  roots: ['core/src', 'audio-files/src', 'demo-song/src', 'server/src', 'cli/src', 'web/src'],
  testMatch: ['**/*.test.ts', '**/*.test.tsx'],
  extensionsToTreatAsEsm: ['.ts', '.tsx'],
  transform: {
    '^.+\\.tsx?$': [
      '<rootDir>/scripts/jestTransform.mjs',
      {
        jsc: {
          target: 'es2022',
          parser: { syntax: 'typescript', tsx: true, decorators: true },
          transform: { legacyDecorator: true, decoratorMetadata: true },
        },
        module: { type: 'es6' },
      },
    ],
  },
  moduleNameMapper: {
    '^@sure-hand/audio-files$': '<rootDir>/audio-files/src/index.ts',
    '^@sure-hand/server/folder$': '<rootDir>/server/src/folder/index.ts',
    '^@sure-hand/demo-song$': '<rootDir>/demo-song/src/index.ts',
    '^@sure-hand/core/([a-z]+)$': '<rootDir>/core/src/$1/index.ts',
    // Programs of threads are imported by their addresses, with their endings; all else without.
    '^\\.{1,2}/.*\\.ts$': '<rootDir>/web/src/test/workerUrl.ts',
    '^(\\.{1,2}/.*)\\.js$': '$1',
  },
};
