const parts = ['core', 'audio-files', 'demo-song', 'server', 'web', 'cli', 'e2e'];
/** What each folder may import of the others: arrows point one way. */
const MAY = {
  core: [],
  'audio-files': ['core'],
  'demo-song': ['core', 'audio-files'],
  // The interface knows the shapes of the server's answers, and nothing else of it.
  server: ['core', 'audio-files', 'demo-song'],
  web: ['core', 'server'],
  // The command line looks after the server's data folder; of what runs there it knows nothing.
  cli: ['core', 'audio-files', 'server'],
  e2e: ['core', 'audio-files', 'demo-song', 'server'],
};
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
/**
 * Within the interface, what a part builds on: sound, hands, the song as it is kept, the store, the song that is open, parts
 * of pictures, the views, and the frame round them.
 */
const WEB_ORDER = ['engine', 'hands', 'song', 'store', 'open', 'parts', 'views', 'frame'];

/** Wherever a part of an order is imported from below it: by a path that leads up, and then into it. */
const above = (of, order, part) => ({
  regex: `^(\\.\\./)+(${order.slice(order.indexOf(part) + 1).join('|')})/`,
  message: `${of}/${part} stands below that.`,
});
const insides = {
  regex: '^@sure-hand/[^/]+/(src|dist)/',
  message: 'Reach a folder by its name, not into its insides.',
};
const noPath = (part) => ({
  regex: `^(\\.\\./)+(${parts.filter((other) => other !== part).join('|')})/`,
  message: 'Reach a folder by its name, not by a path.',
});
const others = (part) => ({
  regex: `^@sure-hand/(${parts.filter((other) => other !== part && !MAY[part].includes(other)).join('|')})(/|$)`,
  message: `${part} does not look into that.`,
});
/** What the files of a folder may not import. */
const imports = (patterns) => ({ 'no-restricted-imports': ['error', { patterns: [insides, ...patterns] }] });
const orders = [
  ['core', CORE_ORDER],
  ['web', WEB_ORDER],
].flatMap(([of, order]) =>
  order.slice(0, -1).map((part) => ({
    files: [`${of}/src/${part}/**`],
    rules: imports([others(of), noPath(of), above(of, order, part)]),
  })),
);

/** In a folder's sources, what is no code that is shipped. */
const TESTS = ['**/*.test.ts', '**/*.test.tsx', 'test/**'];
const shipped = parts.filter((part) => part !== 'e2e');
const SHIPPED = {
  files: shipped.flatMap((part) => [`${part}/src/**/*.ts`, `${part}/src/**/*.tsx`]),
  excludeFiles: shipped.flatMap((part) => TESTS.map((of) => `${part}/src/${of}`)),
};
const all = (rules, level) => Object.fromEntries(rules.map((rule) => [rule, level]));
/** What is promised is waited for, or said not to be; what is not known of a value is looked at before it is used. */
const TYPED = {
  ...all(
    [
      ...['no-floating-promises', 'await-thenable', 'no-unsafe-argument', 'no-unsafe-assignment', 'no-unsafe-call'],
      ...['no-unsafe-member-access', 'no-unsafe-return'],
    ].map((rule) => `typescript/${rule}`),
    'error',
  ),
  'typescript/no-misused-promises': ['error', { checksVoidReturn: false }],
};

export default {
  plugins: ['typescript', 'import', 'react', 'oxc'],
  categories: { correctness: 'error' },
  options: { typeAware: true, denyWarnings: true, reportUnusedDisableDirectives: 'error' },
  ignorePatterns: [
    ...['**/dist/**', '**/dist-types/**', '**/dist-threads/**'],
    ...['data/**', '.tmp/**', 'test-results/**', 'playwright-report/**'],
  ],
  rules: {
    'import/no-cycle': 'error',
    eqeqeq: 'error',
    'no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_' }],
    ...all(
      [
        ...['no-case-declarations', 'no-empty', 'no-fallthrough', 'no-prototype-builtins', 'no-redeclare', 'no-var'],
        ...['no-regex-spaces', 'no-unexpected-multiline', 'no-useless-assignment', 'preserve-caught-error'],
        ...['no-array-constructor', 'prefer-const', 'prefer-rest-params', 'prefer-spread'],
        ...['ban-ts-comment', 'no-empty-object-type', 'no-explicit-any', 'no-namespace', 'no-require-imports'].map(
          (rule) => `typescript/${rule}`,
        ),
        ...['no-unnecessary-type-constraint', 'no-unsafe-function-type'].map((rule) => `typescript/${rule}`),
      ],
      'error',
    ),
    // Of what types tell, that which TYPED names, and in what is shipped.
    ...all(Object.keys(TYPED), 'off'),
    ...all(
      [
        ...['unbound-method', 'no-misused-spread', 'no-unsafe-unary-minus', 'no-meaningless-void-operator'],
        ...['no-base-to-string', 'restrict-template-expressions', 'require-array-sort-compare'],
      ].map((rule) => `typescript/${rule}`),
      'off',
    ),
    // Programs of threads are imported by their addresses, which only the bundler knows.
    'import/default': 'off',
    // Of components, those of hooks and what is in `correctness`, in the interface; not what is meant for a compiler, which is not used.
    ...all(
      [
        ...['refs', 'immutability', 'set-state-in-effect', 'incompatible-library', 'exhaustive-deps'],
        'rules-of-hooks',
      ].map((rule) => `react/${rule}`),
      'off',
    ),
  },
  overrides: [
    ...parts.map((part) => ({ files: [`${part}/**`], rules: imports([others(part), noPath(part)]) })),
    ...orders,
    // What another folder's tests stand on is reached by its path.
    ...parts.map((part) => ({ files: TESTS.map((of) => `${part}/src/${of}`), rules: imports([others(part)]) })),
    // The harness of everything at once starts the built server, and speaks to it as a page does.
    { files: ['web/src/**/*.harness.test.ts'], rules: imports([]) },
    {
      files: ['core/src/**'],
      excludeFiles: ['core/src/**/*.harness.test.ts', 'core/src/test/runs.ts'],
      rules: {
        'no-restricted-globals': [
          'error',
          ...['window', 'document', 'process', 'Buffer', 'fetch', 'setTimeout', 'performance', 'Date'],
        ],
      },
    },
    {
      files: ['core/src/**'],
      excludeFiles: ['core/src/**/*.test.ts', 'core/src/test/**'],
      rules: { 'import/no-nodejs-modules': 'error' },
    },
    {
      files: ['web/src/**'],
      rules: { 'react/rules-of-hooks': 'error', 'react/exhaustive-deps': 'error' },
    },
    { ...SHIPPED, rules: TYPED },
    {
      // A file does one thing: where it is longer, it says why. So does a function.
      ...SHIPPED,
      rules: {
        'max-lines': ['error', { max: 400, skipBlankLines: true, skipComments: true }],
        'max-lines-per-function': ['error', { max: 60, skipBlankLines: true, skipComments: true }],
      },
    },
    { files: ['**/*.mjs', '*.js', 'cli/bin/**'], env: { node: true }, rules: { 'no-undef': 'error' } },
    {
      // What the bench evaluates runs in the page.
      files: ['browser', 'bounces', 'frames', 'mending', 'page', 'snapshot', 'tasks', 'yearPage'].map(
        (name) => `scripts/bench/${name}.mjs`,
      ),
      env: { browser: true },
      globals: { sureHandProbe: 'readonly', stamps: 'readonly' },
    },
  ],
};
