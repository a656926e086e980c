import vue from 'eslint-plugin-vue'
import ts from 'typescript-eslint'
import vueParser from 'vue-eslint-parser'

/** A lower floor never imports a higher one, nor what is not its business. */
const FRAMEWORK = ['vue', 'vue/*', 'nuxt', 'nuxt/*', '#imports', '#app', 'pinia', 'h3', 'nitropack*']
const floor = (files, above, also = [], from = ['**']) => ({
  files,
  rules: {
    'no-restricted-imports': [
      'error',
      {
        patterns: [
          {
            group: from.flatMap(up => above.flatMap(f => [`${up}/${f}/**`, `${up}/${f}`])),
            message: 'a lower floor never imports a higher one',
          },
          ...(also.length ? [{ group: also, message: 'this floor does without it' }] : []),
        ],
      },
    ],
  },
})
// A list of utility classes stays on one line: the formatter joins it again.
// From anywhere in a floor of the server to the floors beside it.
const UP = ['..', '../..', '../../..']
const WIDTH = { code: 110, ignoreUrls: true, ignorePattern: '^\\s*(:?class="|[?:] [\'`])' }
const NODE = ['node:*', 'fs', 'path', 'crypto']

export default ts.config(
  { ignores: ['node_modules/', '.nuxt/', '.output/', 'var/', 'test-results/', 'playwright-report/'] },
  ...ts.configs.recommended,
  ...vue.configs['flat/recommended'],
  {
    files: ['**/*.vue'],
    languageOptions: { parser: vueParser, parserOptions: { parser: ts.parser, sourceType: 'module' } },
  },
  {
    rules: {
      // The formatter breaks all it can; a text of ours that is longer than a line may stay whole.
      'max-len': [
        'error',
        { ...WIDTH, ignoreStrings: true, ignoreTemplateLiterals: true, ignoreRegExpLiterals: true },
      ],
      'no-console': 'off',
      eqeqeq: 'error',
      'prefer-const': 'error',
      'no-var': 'error',
      '@typescript-eslint/no-explicit-any': 'error',
      '@typescript-eslint/no-unused-vars': [
        'error',
        { argsIgnorePattern: '^_', varsIgnorePattern: '^_', destructuredArrayIgnorePattern: '^_' },
      ],
      'vue/multi-word-component-names': 'off',
      'vue/max-attributes-per-line': 'off',
      'vue/singleline-html-element-content-newline': 'off',
      'vue/html-self-closing': 'off',
      'vue/multiline-html-element-content-newline': 'off',
      'vue/first-attribute-linebreak': 'off',
      'vue/html-closing-bracket-newline': 'off',
      'vue/require-default-prop': 'off',
      'vue/attributes-order': 'off',
      // The formatter lays templates out, and npm test checks it.
      'vue/html-indent': 'off',
      'vue/no-multiple-template-root': 'off',
      'vue/no-v-html': 'error',
    },
  },
  floor(
    ['core/**'],
    ['formats', 'contract', 'server', 'simulators', 'app', 'demo', 'scripts'],
    [...FRAMEWORK, ...NODE, 'sequelize', 'zod'],
  ),
  {
    files: ['core/**'],
    rules: {
      'no-restricted-globals': ['error', 'window', 'document', 'process', 'fetch'],
      'no-restricted-properties': [
        'error',
        { object: 'Math', property: 'random' },
        { object: 'Date', property: 'now' },
      ],
    },
  },
  floor(
    ['formats/**'],
    ['contract', 'server', 'simulators', 'app', 'demo', 'scripts'],
    [...FRAMEWORK, ...NODE, 'sequelize', 'zod'],
  ),
  floor(
    ['contract/**'],
    ['server', 'simulators', 'app', 'demo', 'scripts'],
    [...FRAMEWORK, ...NODE, 'sequelize'],
  ),
  floor(['server/db/**'], ['ledger', 'services', 'letters', 'jobs', 'api', 'app', 'demo'], [], UP),
  floor(['server/ledger/**'], ['services', 'letters', 'jobs', 'api', 'app', 'demo'], FRAMEWORK, UP),
  floor(['server/letters/**'], ['ledger', 'services', 'jobs', 'api', 'app', 'demo'], FRAMEWORK, UP),
  floor(
    ['server/services/**'],
    ['jobs', 'api', 'app', 'demo', 'simulators'],
    FRAMEWORK,
    UP.concat('../../../..'),
  ),
  floor(
    ['server/ports/**'],
    ['db', 'ledger', 'services', 'letters', 'jobs', 'api', 'app', 'demo', 'simulators'],
    FRAMEWORK,
    UP,
  ),
  // A simulation implements a port of the server and knows nothing else of it.
  floor(
    ['simulators/**'],
    ['server/db', 'server/ledger', 'server/services', 'server/api', 'app', 'demo'],
    FRAMEWORK,
  ),
  {
    // One tool shows what the server answers: app/utils/fill.
    files: ['app/**'],
    rules: {
      'no-restricted-syntax': [
        'error',
        ...[
          'AssignmentExpression[left.property.name="value"] AwaitExpression',
          'CallExpression[callee.property.name="then"] AssignmentExpression[left.property.name="value"] > *.right:not(Literal, LogicalExpression)',
        ].map(selector => ({ selector, message: 'fill() shows an answer, so that no late one overwrites' })),
      ],
    },
  },
  floor(['app/**'], ['server', 'simulators', 'demo', 'scripts'], ['sequelize']),
  { files: ['tests/**'], rules: { 'no-empty-pattern': 'off' } },
  { files: ['**/*.cjs'], rules: { '@typescript-eslint/no-require-imports': 'off' } },
)
