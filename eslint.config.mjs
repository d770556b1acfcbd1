// @ts-check
import withNuxt from './.nuxt/eslint.config.mjs'

/** Folders that each layer may not import from: imports run downwards only. */
const layers = {
  'core/units/**': ['dsp', 'measure', 'acoustics', 'rig', 'tune', 'formats'],
  'core/dsp/**': ['measure', 'acoustics', 'rig', 'tune', 'formats'],
  'core/acoustics/**': ['dsp', 'measure', 'rig', 'tune', 'formats'],
  'core/measure/**': ['rig', 'tune', 'formats'],
  'core/rig/**': ['measure', 'tune', 'formats'],
}
const outside = ['**/standins/**', '**/server/**', '**/app/**', '~/**', '~~/**', '#*', 'vue', 'nuxt', 'nuxt/**', 'node:*', 'pinia', 'h3']
const forbid = patterns => ({ 'no-restricted-imports': ['error', { patterns: [{ group: patterns, message: 'Imports run downwards only: app and server → standins → core, and inside core tune → rig, measure → dsp, acoustics → units.' }] }] })

export default withNuxt(
  { ignores: ['docs/**', 'server/db/migrations/**', 'test-results/**'] },
  { rules: { 'one-var': ['error', 'never'], 'vue/multi-word-component-names': 'off', 'vue/html-self-closing': 'off', 'vue/singleline-html-element-content-newline': 'off', 'vue/max-attributes-per-line': 'off', 'vue/html-indent': 'off', 'vue/first-attribute-linebreak': 'off', '@typescript-eslint/unified-signatures': 'off', 'max-lines': ['error', { max: 560, skipComments: true, skipBlankLines: true }] } },
  { files: ['core/**/*.ts'], ignores: ['core/reference/**', '**/*.test.ts'], rules: forbid(outside) },
  ...Object.entries(layers).map(([files, above]) => ({ files: [files.replace('**', '**/*.ts')], ignores: ['**/*.test.ts'], rules: forbid([...outside, ...above.map(a => `**/${a}`), ...above.map(a => `**/${a}/**`)]) })),
  { files: ['standins/**/*.ts'], ignores: ['standins/device/**', '**/*.test.ts'], rules: forbid(['**/server/**', '**/app/**', 'vue', 'nuxt', 'node:*']) },
  { files: ['server/**/*.ts'], ignores: ['server/db/sites.ts', '**/*.test.ts'], rules: forbid(['**/app/**', '**/standins/**']) },
)
