// Which layer may import what. An allow-list: what is not named here is refused, in static and dynamic imports alike.
import { dirname, relative, resolve } from 'node:path'

const root = resolve(import.meta.dirname, '../..')
const ground = ['core/units', 'core/words']
const signals = ['core/dsp', 'core/acoustics', ...ground]

/**
 * Layers by folder, the deepest first; each names the folders and packages that it may import besides its own
 * folder.
 */
const layers = [
  { folder: 'core/words', may: [], packages: ['intl-messageformat'] },
  { folder: 'core/units', may: ['core/words'], packages: [] },
  { folder: 'core/dsp', may: ground, packages: ['@echogarden/pffft-wasm'] },
  { folder: 'core/acoustics', may: ground, packages: ['valibot'] },
  { folder: 'core/measure', may: signals, packages: ['valibot'] },
  { folder: 'core/rig', may: signals, packages: ['valibot'] },
  {
    folder: 'core/tune',
    may: ['core/rig', 'core/measure', ...signals],
    packages: [],
  },
  {
    folder: 'core/formats',
    may: ['core/rig', 'core/measure', ...signals],
    packages: [],
  },
  {
    folder: 'core/documents',
    may: ['core/tune', 'core/formats', 'core/rig', 'core/measure', ...signals],
    packages: ['valibot'],
  },
  {
    folder: 'core/contract',
    may: ['core/documents', 'core/tune', 'core/rig', 'core/measure', ...signals],
    packages: ['valibot', '@valibot/to-json-schema'],
  },
  { folder: 'core/reference', may: ['core/words'], packages: ['node:', 'vitest'] },
  { folder: 'standins/device', may: ['core', 'standins/ropewalk'], packages: ['node:', 'valibot', 'bonjour-service'] },
  { folder: 'standins/ropewalk', may: ['core'], packages: [] },
  { folder: 'standins/venue', may: ['core', 'standins/ropewalk'], packages: ['valibot'] },
  {
    folder: 'server/store/demo.ts',
    may: ['core', 'server', 'standins/ropewalk'],
    packages: ['node:', 'drizzle-orm'],
  },
  { folder: 'server/matchers.d.ts', may: [], packages: ['vitest'] },
  { folder: 'server/testing', may: ['core', 'server', 'scripts', 'standins'], packages: ['*'] },
  ...serverLayers(),
  { folder: 'server/entry.ts', may: ['core', 'server'], packages: ['*'] },
  ...page(),
  { folder: 'e2e', may: ['core', 'scripts', 'standins', 'playwright.config'], packages: ['*'] },
  { folder: 'bench', may: ['core', 'standins'], packages: ['node:', '@playwright/test'] },
  { folder: 'scripts', may: ['standins/ropewalk'], packages: ['node:', 'vitest', 'eslint', 'pg', '@playwright/test'] },
  ...['nuxt', 'drizzle', 'eslint', 'knip', 'playwright', 'vitest'].map(name => ({
    folder: `${name}.config`,
    may: ['app/themes', 'scripts/lint', '.nuxt', 'server/entry', 'server/errors'],
    packages: ['*'],
  })),
]

/** The server: store → live, links, leases, jobs, access → api; a test of a part may use those above it. */
function serverLayers() {
  const packages = [
    'node:',
    'drizzle-orm',
    'pg',
    'valibot',
    'h3',
    'nitropack',
    '#nitro-internal-pollyfills',
    'crossws',
    'pino',
    'pino-roll',
    'prom-client',
    'bonjour-service',
    'ipaddr.js',
    '@streamparser/json',
  ]
  const below = ['core', 'server/watch', 'server/utils/turns.ts', 'server/utils/refused.ts']
  const part = (name, ...may) =>
    ({ folder: `server/${name}`, may: [...below, ...may.map(m => `server/${m}`)], packages, exceptTests: true })
  return [
    { folder: 'server/watch', may: ['core'], packages },
    ...['turns', 'refused', 'json'].map(name => ({ folder: `server/utils/${name}.ts`, may: ['core'], packages })),
    part('store'),
    part('access', 'store'),
    part('live', 'store', 'access'),
    part('links', 'store', 'access', 'live'),
    part('leases', 'store', 'access', 'links'),
    part('jobs', 'store', 'access'),
    { folder: 'server', may: ['core', 'package.json'], packages },
  ]
}

/** The page: themes, workers → parts → document → sound → charts → areas → frame → pages. No area knows another. */
function page() {
  const packages = ['vue', 'pinia', '@vueuse/core', '#app', '#imports', 'vue-router']
  const hall = ['standins/venue', 'standins/ropewalk']
  const upTo = (...more) => ['core', 'app/parts', 'app/document', 'app/workers', ...more]
  const areas = ['site', 'rig', 'listen', 'shape', 'align', 'run', 'watch', 'sites']
  const shown = upTo('app/sound', 'app/charts', 'app/areas/area')
  const open = [...shown, 'app/areas/registry', 'app/frame']
  return [
    { folder: 'app/themes', may: [], packages: ['@primeuix/themes'] },
    { folder: 'app/worklets', may: ['core'], packages: ['valibot'] },
    // the simulated hall and its interface are reached through these doors only
    { folder: 'app/workers', may: ['core', ...hall], packages: ['valibot'] },
    { folder: 'app/areas/listen/SoundFrom.vue', may: [...shown, ...hall], packages },
    // the page's words come out of the catalogue through this one file
    { folder: 'app/parts/phrase.ts', may: ['core'], packages: [...packages, 'vue-i18n'] },
    { folder: 'app/parts', may: ['core'], packages: [...packages, 'primevue'] },
    { folder: 'app/document', may: ['core', 'app/parts', 'app/workers'], packages: [...packages, 'valibot'] },
    { folder: 'app/sound', may: [...upTo('app/worklets'), ...hall], packages: [...packages, 'valibot'] },
    { folder: 'app/charts', may: upTo('app/sound'), packages: [...packages, 'chart.js'] },
    { folder: 'app/areas/area.ts', may: ['app/document'], packages },
    {
      folder: 'app/areas/registry.ts',
      may: ['app/parts', 'app/document', ...areas.map(name => `app/areas/${name}/area`)],
      packages,
    },
    ...areas.map(name => ({ folder: `app/areas/${name}`, may: shown, packages: [...packages, 'konva'] })),
    { folder: 'app/frame', may: [...shown, 'app/areas/registry'], packages: [...packages, 'marked'] },
    { folder: 'app/pages', may: [...open, 'app/areas/sites'], packages },
    { folder: 'app/app.vue', may: open, packages },
  ]
}

const ending = /\.(?:test\.ts|ts|mjs|vue)$/
const inside = (file, folder) =>
  file === folder || file.replace(ending, '') === folder.replace(ending, '') || file.startsWith(`${folder}/`)
const isPackage = (name, allowed) =>
  allowed.includes('*') || allowed.some(p => name === p || name.startsWith(p.endsWith(':') ? p : `${p}/`))

/** Where an import leads: a path inside the repository without its ending, or the name of a package. */
function targetOf(file, wanted) {
  const path = wanted.replace(/\?.*$/, '')
  if (path.startsWith('.')) return { file: relative(root, resolve(root, dirname(file), path)) }
  if (path.startsWith('~~/')) return { file: path.slice(3) }
  if (path.startsWith('~/')) return { file: `app/${path.slice(2)}` }
  return { name: path }
}

/** Why `file` (path inside the repository) may not import `wanted`; null when it may. */
function refusal(file, wanted) {
  const isTest = file.endsWith('.test.ts')
  const layer = layers.find(l => inside(file, l.folder) && !(l.exceptTests && isTest))
  if (!layer) return `${file} stands in no layer: give its folder one in scripts/lint/layers.mjs.`
  const target = targetOf(file, wanted)
  const allowed = layer.may.length ? layer.may.join(', ') : 'nothing of Kovrin’s own'
  if (target.name !== undefined) {
    return isPackage(target.name, layer.packages)
      ? null
      : `${layer.folder} may not use the package “${target.name}”.`
  }
  const own = layer.folder.includes('.') && layer.folder.includes('/') ? dirname(layer.folder) : layer.folder
  const fits = [own, ...layer.may].some(folder => inside(target.file, folder))
  return fits ? null : `${layer.folder} may import ${allowed}; this leads to ${target.file}.`
}

/** @type {import('eslint').Rule.RuleModule} */
export const rule = {
  meta: { type: 'problem', schema: [] },
  create(context) {
    const file = relative(root, context.filename)
    const check = (node) => {
      if (!node || typeof node.value !== 'string') return
      const why = refusal(file, node.value)
      if (why) context.report({ node, message: `Imports run downwards only: ${why}` })
    }
    return {
      'Program': (node) => {
        const why = layers.some(l => inside(file, l.folder)) ? null : refusal(file, '.')
        if (why) context.report({ node, message: why })
      },
      'ImportDeclaration': node => check(node.source),
      'ExportNamedDeclaration': node => check(node.source),
      'ExportAllDeclaration': node => check(node.source),
      'TSImportType': node => check(node.source ?? node.argument?.literal),
      'ImportExpression'(node) {
        if (node.source.type === 'Literal') check(node.source)
        else context.report({ node, message: 'A dynamic import must name its module.' })
      },
      'NewExpression[callee.name="URL"]': (node) => {
        if (node.arguments[0]?.type === 'Literal' && node.arguments.length === 2) check(node.arguments[0])
      },
      'CallExpression[callee.name="require"]': node => context.report({ node, message: 'Modules are imported.' }),
    }
  },
}

/** What the computation may not lean on: it runs in the page, in workers and on the server alike. */
export const foreignGlobals = [
  'globalThis',
  'window',
  'document',
  'navigator',
  'location',
  'localStorage',
  'sessionStorage',
  'indexedDB',
  'self',
  'postMessage',
  'fetch',
  'XMLHttpRequest',
  'WebSocket',
  'Worker',
  'process',
  'Buffer',
  'require',
  '__dirname',
  'setTimeout',
  'setInterval',
  'setImmediate',
  'requestAnimationFrame',
  'defineEventHandler',
  'useRuntimeConfig',
]
