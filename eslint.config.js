import js from '@eslint/js'
import layout from 'eslint-config-prettier'
import vue from 'eslint-plugin-vue'
import globals from 'globals'
import typescript from 'typescript-eslint'

const FLAG = ':matches(FunctionDeclaration, FunctionExpression, ArrowFunctionExpression)[params.length>1] >'
const flagged = (selector) => ({
  selector: `${FLAG} ${selector}`,
  message: 'A flag beside other parameters says nothing where it is passed: give it a name in an object.',
})

/** What a package may import: its own files, and what the architecture lets it see. */
const wall = (files, allowed, message) => ({
  files: [`packages/${files}/src/**/*.{ts,vue}`],
  ignores: ['**/*.test.ts'],
  rules: {
    'no-restricted-imports': [
      'error',
      {
        patterns: [
          { regex: allowed, message },
          {
            regex: '(core|contract|server|web|standins|demo)/(src|test)',
            message: 'Packages meet through their names, not their folders.',
          },
        ],
      },
    ],
  },
})

export default typescript.config(
  {
    ignores: [
      '**/dist/**',
      '**/node_modules/**',
      '.axion*/**',
      'test-results/**',
      'docs/**',
      'packages/server/src/database/rows.d.ts',
    ],
  },
  js.configs.recommended,
  ...typescript.configs.strict,
  ...vue.configs['flat/recommended'],
  {
    files: ['**/*.vue'],
    languageOptions: { parserOptions: { parser: typescript.parser }, globals: globals.browser },
  },
  { files: ['scripts/**', 'bench/**', '*.js'], languageOptions: { globals: globals.node } },
  {
    files: ['packages/*/src/**/*.ts'],
    ignores: ['packages/web/**'],
    languageOptions: { parserOptions: { projectService: true } },
    rules: {
      '@typescript-eslint/no-floating-promises': 'error',
      '@typescript-eslint/no-misused-promises': ['error', { checksVoidReturn: { arguments: false } }],
      '@typescript-eslint/await-thenable': 'error',
      '@typescript-eslint/switch-exhaustiveness-check': 'error',
    },
  },
  {
    rules: {
      'no-console': 'error',
      'no-undef': 'off',
      eqeqeq: ['error', 'always', { null: 'ignore' }],
      '@typescript-eslint/no-unused-vars': [
        'error',
        { argsIgnorePattern: '^_', varsIgnorePattern: '^_', ignoreRestSiblings: true },
      ],
      'vue/multi-word-component-names': 'off',
      'vue/require-default-prop': 'off',
      'vue/one-component-per-file': 'off',
      'vue/valid-v-slot': ['error', { allowModifiers: true }],
    },
  },
  {
    // A table of cases in a test is read by its columns.
    files: ['packages/*/src/**/*.{ts,vue}'],
    ignores: ['**/*.test.ts'],
    rules: {
      '@typescript-eslint/max-params': ['error', { max: 4 }],
      'max-lines': ['error', { max: 300 }],
      'max-lines-per-function': ['error', { max: 80, skipBlankLines: true, skipComments: true }],
      'no-restricted-syntax': [
        'error',
        flagged('Identifier.params[typeAnnotation.typeAnnotation.type="TSBooleanKeyword"]'),
        flagged('AssignmentPattern.params[right.raw=/^(true|false)$/]'),
      ],
    },
  },
  {
    // A test is cut where its subject is; what it draws and tells of is a file of its own.
    files: ['packages/**/*.test.ts', 'packages/*/test/**/*.ts', 'e2e/**', 'bench/**', 'scripts/**'],
    rules: { 'max-lines': ['error', { max: 480 }] },
  },
  // Layout is Prettier's alone.
  layout,
  wall('core', '^(?!\\.{1,2}/)', 'The core imports nothing but itself: no I/O, no clock, no interface.'),
  wall(
    'contract',
    '^(@axion/(?!core$)|node:|(?!zod$|@axion/|\\.))',
    'The contract imports zod and the core’s types.',
  ),
  wall(
    'server',
    '^@axion/(?!core$|contract$)',
    'The server imports core and contract; stand-ins and demo reach it over HTTP alone.',
  ),
  wall(
    'web',
    '^(@axion/(?!core$|contract$)|node:|knex|fastify|pg$)',
    'The interface imports core and contract, never the server.',
  ),
  wall(
    'standins',
    '^@axion/',
    'A stand-in has arithmetic of its own, or a shared mistake would prove itself.',
  ),
  wall(
    'conformance',
    '^@axion/(?!core$|contract$)',
    'The conformance suite knows a bridge by its contract alone.',
  ),
  wall('demo', '^(@axion/(?!contract$))', 'The demo knows the contract’s shapes, and none of the answers.'),
)
