// @ts-check
import withNuxt from './.nuxt/eslint.config.mjs'
import { foreignGlobals, rule } from './scripts/lint/layers.mjs'

const code = ['**/*.ts', '**/*.vue', '**/*.mjs']

export default withNuxt(
  { ignores: ['docs/**', 'server/store/migrations/**', 'test-results/**'] },
  {
    rules: {
      'one-var': ['error', 'never'],
      'no-alert': 'error',
      'no-nested-ternary': 'error',
      '@typescript-eslint/unified-signatures': 'off',
      'vue/multi-word-component-names': 'off',
      'vue/html-self-closing': 'off',
      'vue/singleline-html-element-content-newline': 'off',
      'vue/max-attributes-per-line': 'off',
      'vue/html-indent': 'off',
      'vue/first-attribute-linebreak': 'off',
      'max-lines': ['error', { max: 500, skipComments: true, skipBlankLines: true }],
      '@stylistic/max-len': ['error', { code: 120, ignoreRegExpLiterals: true }],
    },
  },
  {
    files: code,
    ignores: ['**/*.test.ts'],
    plugins: { kovrin: { rules: { layers: rule } } },
    rules: { 'kovrin/layers': 'error' },
  },
  {
    // controls come out of one hand: only app/parts knows the library and the bare elements
    files: ['app/**/*.vue', 'app/**/*.ts'],
    ignores: ['app/parts/**', 'app/themes/**'],
    rules: {
      'vue/no-restricted-html-elements': ['error', 'select', 'input', 'table', 'textarea', 'dialog', 'details'],
      'no-restricted-imports': ['error', { patterns: ['primevue/*', '@primevue/*'] }],
    },
  },
  {
    // a list made in the getter is a new one each time: the watcher runs although nothing in it changed
    files: ['app/**/*.vue', 'app/**/*.ts'],
    rules: {
      'no-restricted-syntax': ['error', {
        selector: 'CallExpression[callee.name="watch"] > ArrowFunctionExpression:first-child > ArrayExpression.body',
        message: 'Watch a list of getters, [() => a, () => b]: () => [a, b] is different each time.',
      }],
    },
  },
  {
    files: ['core/**/*.ts'],
    ignores: ['core/reference/**', '**/*.test.ts'],
    rules: { 'no-restricted-globals': ['error', ...foreignGlobals] },
  },
)
