// The linter also holds the direction of imports between folders: see docs/architecture.md.
import js from '@eslint/js';
import hooks from 'eslint-plugin-react-hooks';
import tseslint from 'typescript-eslint';

/** Folders of src, and what each may import besides itself. */
const FOLDERS = {
  'core/base': [],
  'core/ir': ['core/base'],
  'core/operators': ['core/ir', 'core/base'],
  'core/effect': ['core/operators', 'core/ir', 'core/base'],
  'core/passes': ['core/ir', 'core/base'],
  'core/lower': ['core/effect', 'core/operators', 'core/passes', 'core/ir', 'core/base'],
  'core/targets': ['core/passes', 'core/lower', 'core/effect', 'core/ir', 'core/base'],
  'core/optics': ['core/base'],
  'core/mesh': ['core/base'],
  'core/paint': ['core/mesh', 'core/base'],
  'core/places': ['core/mesh', 'core/targets', 'core/lower', 'core/passes', 'core/effect', 'core/ir', 'core/base'],
  'core/scene': [
    'core/places',
    'core/optics',
    'core/lower',
    'core/passes',
    'core/targets',
    'core/effect',
    'core/operators',
    'core/ir',
    'core/base',
  ],
  'core/formats': ['core/scene', 'core/paint', 'core/mesh', 'core/effect', 'core/base'],
  'core/export': [
    'core/places',
    'core/formats',
    'core/targets',
    'core/lower',
    'core/effect',
    'core/operators',
    'core/ir',
    'core/base',
  ],
  'core/analysis': [
    'core/scene',
    'core/places',
    'core/optics',
    'core/lower',
    'core/passes',
    'core/targets',
    'core/effect',
    'core/operators',
    'core/ir',
    'core/base',
  ],
  render: ['core'],
  workers: ['core'],
  session: ['core', 'render', 'workers'],
  decoding: ['core'],
  store: ['core', 'decoding'],
  server: ['core', 'decoding', 'store'],
  cli: ['core', 'decoding', 'store'],
  web: ['session', 'render', 'workers', 'core'],
};
const ALL = Object.keys(FOLDERS);
const covers = (allowed, folder) => folder === allowed || folder.startsWith(`${allowed}/`);

const walls = ALL.map((folder) => {
  const banned = ALL.filter((other) => other !== folder && !FOLDERS[folder].some((a) => covers(a, other)));
  return {
    files: [`src/${folder}/**/*.{ts,tsx}`],
    ignores: ['**/*.test.ts', '**/*.test.tsx'],
    rules: {
      'no-restricted-imports': [
        'error',
        {
          patterns: [
            {
              regex: `(^|/)(${banned.map((b) => b.replace('core/', '')).join('|')})/`,
              message: `src/${folder} may import only ${FOLDERS[folder].join(', ') || 'itself'}.`,
            },
            ...(folder.startsWith('core')
              ? [
                  {
                    // Some of three.js's loaders need neither page nor Node, and are kept better than any other of their kind.
                    regex:
                      '^(react|three(?!/examples/jsm/(loaders/(EXR|OBJ|PLY)Loader|utils/BufferGeometryUtils))|express|node:|zustand)',
                    message: 'The core runs in a page, a worker and Node alike.',
                  },
                ]
              : []),
            ...(folder === 'session' ? [{ regex: '^react', message: 'The session knows no React.' }] : []),
          ],
        },
      ],
    },
  };
});

/** Every object answers to `constructor` and its like: a name out of a document is looked up among its own. */
const NAMES = [
  {
    selector: "BinaryExpression[operator='in'][left.type!='Literal'][left.type!='PrivateIdentifier']",
    message: 'Object.hasOwn(record, name): `in` finds what every object has, such as "constructor".',
  },
  {
    selector: "CallExpression[callee.property.name='hasOwnProperty']",
    message: 'Object.hasOwn(record, name).',
  },
  {
    // Written is another matter: documents are made of names that were looked at.
    selector:
      "MemberExpression[computed=true][property.type='MemberExpression'][property.computed=false][property.property.name=/^(op|asset|text|input|port|stage|effect|shared)$/]:not([object.name=/^(SCALAR|OPERATIONS|COMPOSITES)$/]):not(AssignmentExpression > .left)",
    message: 'own(record, name) of core/base/wholesome: a name out of a document is looked up among what is the record’s own.',
  },
];

export default tseslint.config(
  { ignores: ['dist', 'node_modules', 'test-results', 'playwright-report', 'bench/out'] },
  js.configs.recommended,
  ...tseslint.configs.recommended,
  hooks.configs.flat['recommended-latest'] ?? hooks.configs['recommended-latest'],
  {
    rules: {
      '@typescript-eslint/no-non-null-assertion': 'off',
      '@typescript-eslint/no-unused-expressions': 'off',
      'no-console': 'off',
      'no-restricted-syntax': ['error', ...NAMES],
      'react-hooks/immutability': 'off',
      // Nothing here is compiled: what it would skip is not skipped.
      'react-hooks/incompatible-library': 'off',
      'react-hooks/refs': 'off',
      'react-hooks/set-state-in-effect': 'off',
    },
    languageOptions: { globals: { console: 'readonly', process: 'readonly', URL: 'readonly', setTimeout: 'readonly' } },
  },
  {
    files: ['src/core/**/*.ts'],
    ignores: ['**/*.test.ts'],
    rules: {
      'no-restricted-globals': ['error', 'window', 'document', 'fetch', 'performance', 'Date'],
      'no-restricted-properties': ['error', { object: 'Math', property: 'random', message: 'Seeds are arguments.' }],
    },
  },
  {
    // What is to be known of an operator stands in its record, whoever asks.
    files: [
      'src/{session,web,render,workers}/**/*.{ts,tsx}',
      'src/core/{analysis,effect,export,formats,lower,places,scene}/**/*.ts',
    ],
    ignores: ['**/*.test.ts', '**/*.test.tsx'],
    rules: {
      'no-restricted-syntax': [
        'error',
        ...NAMES,
        ...[
          "BinaryExpression[left.property.name='op'][left.object.name=/^(s|strand|reader|source|above)$/][right.type='Literal']",
          "BinaryExpression[left.name='op'][right.type='Literal']",
          "CallExpression[callee.property.name=/^(includes|has)$/] > MemberExpression[property.name='op'][object.name=/^(s|strand)$/]",
          "Property[key.name='op'][value.type='Literal']",
        ].map((selector) => ({ selector, message: 'No operator by its id: a field of its record (core/operators).' })),
      ],
    },
  },
  {
    // One subject a file, one thought a function; tables of data and what runs from top to bottom aside.
    files: ['src/**/*.{ts,tsx}', 'bench/stagePage.ts'],
    ignores: ['**/*.test.ts', '**/*.test.tsx'],
    rules: {
      'max-lines': ['error', 400],
      'max-lines-per-function': ['error', 80],
    },
  },
  // Fixtures of browser tests have a `use` that is no hook.
  { files: ['tests/**/*.ts'], rules: { 'react-hooks/rules-of-hooks': 'off' } },
  ...walls,
);
