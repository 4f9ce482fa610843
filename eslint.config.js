import js from '@eslint/js';
import { createTypeScriptImportResolver } from 'eslint-import-resolver-typescript';
import { importX } from 'eslint-plugin-import-x';
import hooks from 'eslint-plugin-react-hooks';
import globals from 'globals';
import ts from 'typescript-eslint';

const parts = ['core', 'audio-files', 'demo-song', 'server', 'web', 'cli', 'e2e'];
/** What each folder may import of the others: arrows point one way. */
const MAY = {
  core: [],
  'audio-files': ['core'],
  'demo-song': ['core', 'audio-files'],
  server: ['core', 'audio-files', 'demo-song'],
  web: ['core'],
  cli: ['core', 'audio-files'],
  e2e: ['core', 'audio-files', 'demo-song', 'server'],
};
const zones = parts.flatMap((target) =>
  parts
    .filter((from) => from !== target && !MAY[target].includes(from))
    .map((from) => ({
      target: `./${target}`,
      from: `./${from}`,
      message: `${target} does not look into ${from}.`,
      // The interface knows the shapes of the server's answers, and nothing else of it.
      ...(target === 'web' && from === 'server'
        ? { except: ['./src/index.ts', './dist/index.d.ts', './dist/index.js'] }
        : {}),
    })),
);
/** Within the core, what a part builds on. */
const CORE_ORDER = [
  'units',
  'effects',
  'loudness',
  'curve',
  'time',
  'song',
  'groups',
  'snapshots',
  'edits',
  'pass',
  'mix',
  'formats',
];
const coreZones = CORE_ORDER.flatMap((part, i) =>
  CORE_ORDER.slice(i + 1).map((above) => ({
    target: `./core/src/${part}`,
    from: `./core/src/${above}`,
    message: `core/${part} stands below core/${above}.`,
  })),
);
/**
 * Within the interface, what a part builds on: sound, hands, the song as it is kept, the store, the song that is open, parts
 * of pictures, the views, and the frame round them.
 */
const WEB_ORDER = ['engine', 'hands', 'song', 'store', 'open', 'parts', 'views', 'frame'];
const webZones = WEB_ORDER.flatMap((part, i) =>
  WEB_ORDER.slice(i + 1).map((above) => ({
    target: `./web/src/${part}`,
    from: `./web/src/${above}`,
    message: `web/${part} stands below web/${above}.`,
  })),
);

export default ts.config(
  {
    ignores: [
      '**/dist/**',
      '**/dist-types/**',
      '**/dist-threads/**',
      '**/node_modules/**',
      'data/**',
      '.tmp/**',
      'test-results/**',
      'playwright-report/**',
    ],
  },
  js.configs.recommended,
  ts.configs.recommended,
  importX.flatConfigs.typescript,
  {
    plugins: { 'import-x': importX },
    settings: {
      'import-x/resolver-next': [
        createTypeScriptImportResolver({
          project: ['core', 'demo-song', 'server', 'cli', 'web'].map((p) => `${p}/tsconfig.json`),
        }),
      ],
    },
    rules: {
      'import-x/no-cycle': ['error', { ignoreExternal: true }],
      'import-x/no-restricted-paths': [
        'error',
        { basePath: import.meta.dirname, zones: [...zones, ...coreZones, ...webZones] },
      ],
      'no-restricted-imports': [
        'error',
        {
          patterns: [
            {
              group: ['@sure-hand/*/src/*', '@sure-hand/*/dist/*'],
              message: 'Reach a folder by its name, not into its insides.',
            },
          ],
        },
      ],
      '@typescript-eslint/consistent-type-imports': 'off',
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_' }],
      eqeqeq: 'error',
    },
  },
  {
    files: ['core/src/**'],
    ignores: ['core/src/**/*.harness.test.ts', 'core/src/test/runs.ts'],
    rules: {
      '@typescript-eslint/no-explicit-any': 'error',
      'no-restricted-globals': [
        'error',
        'window',
        'document',
        'process',
        'Buffer',
        'fetch',
        'setTimeout',
        'performance',
        'Date',
      ],
      'import-x/no-nodejs-modules': 'error',
    },
  },
  {
    files: ['core/src/**/*.test.ts', 'core/src/test/**'],
    rules: { 'import-x/no-restricted-paths': 'off', 'import-x/no-nodejs-modules': 'off' },
  },
  {
    // The harness of everything at once starts the built server, and speaks to it as a page does.
    files: ['web/src/**/*.harness.test.ts'],
    rules: { 'import-x/no-restricted-paths': 'off' },
  },
  {
    files: ['web/src/**/*.{ts,tsx}'],
    plugins: { 'react-hooks': hooks },
    rules: { 'react-hooks/rules-of-hooks': 'error', 'react-hooks/exhaustive-deps': 'error' },
  },
  {
    // What is promised is waited for, or said not to be; what is not known of a value is looked at before it is used.
    files: ['**/src/**/*.ts', '**/src/**/*.tsx'],
    ignores: ['**/*.test.ts', 'e2e/**', '**/src/test/**'],
    languageOptions: { parserOptions: { projectService: true, tsconfigRootDir: import.meta.dirname } },
    rules: {
      '@typescript-eslint/no-floating-promises': 'error',
      '@typescript-eslint/no-misused-promises': ['error', { checksVoidReturn: false }],
      '@typescript-eslint/await-thenable': 'error',
      '@typescript-eslint/no-unsafe-argument': 'error',
      '@typescript-eslint/no-unsafe-assignment': 'error',
      '@typescript-eslint/no-unsafe-call': 'error',
      '@typescript-eslint/no-unsafe-member-access': 'error',
      '@typescript-eslint/no-unsafe-return': 'error',
    },
  },
  {
    // A file does one thing: where it is longer, it says why.
    files: ['**/src/**/*.ts', '**/src/**/*.tsx'],
    ignores: ['**/*.test.ts', 'e2e/**', '**/src/test/**'],
    rules: { 'max-lines': ['error', { max: 400, skipBlankLines: true, skipComments: true }] },
  },
  {
    // So does a function.
    files: ['**/src/**/*.ts', '**/src/**/*.tsx'],
    ignores: ['**/*.test.ts', 'e2e/**', '**/src/test/**'],
    rules: { 'max-lines-per-function': ['error', { max: 60, skipBlankLines: true, skipComments: true }] },
  },
  { files: ['scripts/**', 'cli/bin/**', 'e2e/src/*.mjs', '*.js'], languageOptions: { globals: globals.node } },
  // What the bench evaluates runs in the page.
  {
    files: ['browser', 'bounces', 'frames', 'mending', 'page', 'snapshot'].map((name) => `scripts/bench/${name}.mjs`),
    languageOptions: { globals: { ...globals.browser, sureHandProbe: 'readonly', stamps: 'readonly' } },
  },
);
