// Which layer may import what. An allow-list: what is not named here is refused, in static and dynamic imports alike.
import { dirname, relative, resolve } from 'node:path'

const root = resolve(import.meta.dirname, '../..')

/**
 * Layers by folder, the deepest first; each names the folders and packages that it may import besides its own
 * folder.
 */
export const layers = [
  { folder: 'core/units', may: [], packages: [] },
  { folder: 'core/dsp', may: ['core/units'], packages: ['@echogarden/pffft-wasm'] },
  { folder: 'core/acoustics', may: ['core/units'], packages: ['valibot'] },
  { folder: 'core/measure', may: ['core/dsp', 'core/acoustics', 'core/units'], packages: ['valibot'] },
  { folder: 'core/rig', may: ['core/dsp', 'core/acoustics', 'core/units'], packages: ['valibot'] },
  {
    folder: 'core/tune',
    may: ['core/rig', 'core/measure', 'core/dsp', 'core/acoustics', 'core/units'],
    packages: [],
  },
  {
    folder: 'core/formats',
    may: ['core/rig', 'core/measure', 'core/dsp', 'core/acoustics', 'core/units'],
    packages: [],
  },
  {
    folder: 'core/documents',
    may: ['core/tune', 'core/formats', 'core/rig', 'core/measure', 'core/dsp', 'core/acoustics', 'core/units'],
    packages: ['valibot'],
  },
  {
    folder: 'core/contract',
    may: ['core/documents', 'core/tune', 'core/rig', 'core/measure', 'core/dsp', 'core/acoustics', 'core/units'],
    packages: ['valibot', '@valibot/to-json-schema'],
  },
  { folder: 'core/reference', may: [], packages: ['node:', 'vitest'] },
  { folder: 'standins/device', may: ['core', 'standins/ropewalk'], packages: ['node:', 'valibot'] },
  { folder: 'standins/ropewalk', may: ['core'], packages: [] },
  { folder: 'standins/venue', may: ['core', 'standins/ropewalk'], packages: ['valibot'] },
  {
    folder: 'server/store/demo.ts',
    may: ['core', 'server', 'standins/ropewalk'],
    packages: ['node:', 'drizzle-orm'],
  },
  { folder: 'server/testing', may: ['core', 'server', 'scripts', 'standins'], packages: ['*'] },
  {
    folder: 'server',
    may: ['core', 'package.json'],
    packages: [
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
      'ipaddr.js',
      '@streamparser/json',
    ],
  },
  // the simulated hall and its interface are reached through these doors only
  ...['app/sound', 'app/workers', 'app/areas/listen/SoundFrom.vue'].map(folder => ({
    folder,
    may: ['core', 'app', 'standins/venue', 'standins/ropewalk'],
    packages: page(),
  })),
  { folder: 'app', may: ['core', 'app'], packages: page() },
]
function page() {
  return [
    'vue',
    'pinia',
    '@vueuse/core',
    'chart.js',
    'konva',
    'valibot',
    'primevue',
    '@primeuix/themes',
    '#app',
    '#imports',
  ]
}

const inside = (file, folder) => file === folder || file.startsWith(`${folder}/`)
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
export function refusal(file, wanted) {
  const layer = layers.find(l => inside(file, l.folder))
  if (!layer) return null
  const target = targetOf(file, wanted)
  const allowed = layer.may.length ? layer.may.join(', ') : 'nothing of Kovrin’s own'
  if (target.name !== undefined) {
    return isPackage(target.name, layer.packages)
      ? null
      : `${layer.folder} may not use the package “${target.name}”.`
  }
  const own = layer.folder.includes('.') ? dirname(layer.folder) : layer.folder
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
