import fc from 'fast-check'
import { request as plain } from 'node:http'
import { operations, queryEntries, type Operation } from '../core/contract'
import { encodeTake } from '../core/formats/take'
import { expect, test, type Site } from './pages'
import { stereoWav } from './wav'

// Thousands of made requests, from nearly right to nonsense: whatever comes, the answer is a sentence in JSON.

/** How many; a whole number of batches. */
const many = Number(process.env.KOVRIN_REQUESTS ?? 20_000)
const batch = 100
const atOnce = 8

const odd = fc.oneof(
  { weight: 3, arbitrary: fc.jsonValue({ maxDepth: 3 }) },
  fc.constantFrom<unknown>(null, '', 0, -1, 2 ** 31, 1e308, -1e-308, 0.1, '\0', '\ud83d', 'constructor', '__proto__',
    '../..', 'a'.repeat(5000), [], {}, [[]], { length: 5 }, true, Number.MAX_SAFE_INTEGER),
)
/** What stands at a place of a body, replaced or taken away; `at` says which place of all. */
function spoiled(body: unknown, at: number, what: unknown, drop: boolean): unknown {
  let k = 0
  const walk = (node: unknown): unknown => {
    if (k++ === at) return what
    if (Array.isArray(node)) return node.map(walk)
    if (node === null || typeof node !== 'object') return node
    return Object.fromEntries(Object.entries(node).flatMap(([key, value]) => {
      if (k === at && drop) {
        k++
        return []
      }
      return [[key, walk(value)]]
    }))
  }
  return walk(body)
}

const gain = { document: 'settings/processor', path: '/outputs/3/gain', old: 0, new: -1 }
const places = [
  gain,
  { document: 'settings/processor', path: '/matrix/0/0', old: 0, new: null },
  { document: 'settings/amp-a', path: '/outputs/0/limiter', new: { threshold: -3 } },
  { document: 'position/mix', path: '/place/x', old: 1, new: 2 },
  { document: 'source/main-l', path: '', new: { id: 'main-l', name: 'x', order: 1, elements: [] } },
  { document: 'wiring', path: '/cables/amp-a:0', new: { device: 'processor', channel: 1 } },
  { document: 'plan', path: '/room/size/x', old: 20, new: 30 },
  { document: 'sheet/x', path: '', new: { id: 'x', name: 'x', bands: [] } },
  { document: 'target/x', path: '', new: { id: 'x', name: 'x', order: 0, points: [] } },
  { document: 'alternative/x', path: '', new: { id: 'x', name: 'x', order: 0, drafts: {} } },
  { document: 'device/processor', path: '/address', old: '', new: '10.0.0.1:80' },
  { document: 'site', path: '/name', old: 'Ropewalk Hall test', new: 'y' },
]
const filters = [{ kind: 'peaking', frequency: 1000, gain: -3, q: 1 }, { kind: 'high-pass', frequency: 80, order: 4 }]
const curve = { frequency_hz: [100, 200, 400, 800], magnitude_db: [0, 1, -1, 0] }
/** Bodies that are nearly right, by the name of what is asked. */
const bodies: Record<string, unknown[]> = {
  makeEdits: places.map(edit => ({ edits: [edit], gesture: 'g', live: false })),
  undo: [{ live: false }],
  redo: [{ live: false }],
  beginLease: [{ what: 'Solo' }],
  makeSite: [
    { from: 'template', template: 'none', name: 'x' },
    { from: 'site', site: 'nowhere', name: 'x' },
    { from: 'file', file: { format: 'kovrin-site', version: 2, documents: {}, contents: {}, data: {} } },
    { from: 'file', file: { format: 'kovrin-site', version: 1, name: 'x', sources: [], positions: [], devices: [] } },
  ],
  contents: [{ hashes: ['0'.repeat(64)] }],
  nameSession: [{ who: 'Ann' }],
  nameKeeping: [{ daily: false, keep: 7, folder: '/nowhere', logDays: 3 }],
  confirmAddress: [{ address: '10.0.0.1:80' }],
  response: [{ sampleRate: 48_000, blocks: filters, frequencies: [100, 1000] }],
  fit: [{ sampleRate: 48_000, curves: [curve], target: 'flat', range: [100, 800], bands: 2 }],
}
const head = (site: Site) => ({
  source: 'subs',
  position: 'rear',
  only: null,
  info: { method: 'live', input: 'test', sampleRate: 48_000, length: 1024, blocks: 4, arrival: null,
    microphoneLevel: null, referenceLevel: null, sweep: null },
  timing: { reference: 'loop', sameClock: true, drift: null, delay: 0 },
  name: site.id,
  number: 2 ** 30,
})
const frequencies = Float64Array.from([100, 200, 400])
const flat = { frequencies, re: new Float64Array(3).fill(1), im: new Float64Array(3), coherence: null }
const takeBytes = Buffer.from(encodeTake({ curve: flat, impulse: null, harmonics: [], signalToNoise: [] }))
const recording = stereoWav(new Float32Array(4800).fill(0.1), new Float32Array(4800), 48_000)

function framed(json: string): Buffer {
  const text = Buffer.from(json)
  const size = Buffer.alloc(4)
  size.writeUInt32LE(text.length)
  return Buffer.concat([size, text, takeBytes])
}
/** What options may be made to be, as it stands in an address. */
const values = ['1', '2', 'auto', '', 'true', '1e9', '-1', 'NaN', '%', '%00', '%E0%A4%A']
interface Made {
  name: string
  method: string
  path: string
  headers: Record<string, string>
  body: Buffer
}
/** What would only make the hall's machine slow: big copies and whole backups, again and again. */
const seldom = new Set(['makeBackup', 'backup', 'deleteSite', 'restore'])

function requestOf(site: Site, name: string): fc.Arbitrary<Made> {
  const operation = operations[name as keyof typeof operations] as Operation
  const names = { site: [site.id], device: ['processor', 'amp-a'], take: ['none'], lease: ['none'] }
  const part = (of: string) => fc.oneof(
    { weight: 6, arbitrary: fc.constantFrom(...(names[of as keyof typeof names] ?? ['x'])) },
    { weight: 1, arbitrary: fc.string({ unit: 'binary', minLength: 1, maxLength: 20 })
      .filter(t => t.isWellFormed()).map(encodeURIComponent) },
    { weight: 1, arbitrary: fc.constantFrom('%', '%E0%A4%A', '%00', '..', '%2e%2e%2f', 'null', '%ff') },
  )
  const parts = operation.path.split('/').map(p => (p.startsWith('{') ? part(p.slice(1, -1)) : fc.constant(p)))
  const path = fc.tuple(...parts).map(p => p.join('/'))
  const some = fc.array(fc.tuple(
    fc.constantFrom(...Object.keys(queryEntries(operation)), 'zzz', ''),
    fc.oneof(fc.constantFrom(...values), fc.string({ maxLength: 8 })),
  ), { maxLength: 2 }).map(list => list.map(([k, x]) => `${k}=${values.includes(x) ? x : encodeURIComponent(x)}`))
  const options = fc.oneof({ weight: 3, arbitrary: fc.constant([]) }, some)
  const json = fc.tuple(
    fc.constantFrom(...(bodies[name] ?? (name === 'keepTake' ? [head(site)] : [{}]))),
    fc.nat(30), odd, fc.boolean(), fc.boolean(),
  ).map(([body, at, what, drop, whole]) => JSON.stringify(whole ? body : spoiled(body, at, what, drop)) ?? '')
  const raw = fc.oneof(fc.uint8Array({ maxLength: 200 }).map(b => Buffer.from(b)),
    fc.constantFrom('{"half', '[[[[', '"\\u0000"', '\0', '['.repeat(3000), '{"a":1e999}').map(t => Buffer.from(t)))
  const cut = fc.tuple(fc.nat(recording.length), fc.nat(60), fc.nat(255)).map(([length, at, byte]) => {
    const copy = Buffer.from(recording.subarray(0, length))
    if (at < copy.length) copy[at] = byte
    return copy
  })
  let right: fc.Arbitrary<Buffer> = json.map(t => Buffer.from(t))
  if (name === 'keepTake') right = json.map(framed)
  else if (operation.tag === 'analysis' && !bodies[name]) right = cut
  const body = operation.body ? fc.oneof({ weight: 6, arbitrary: right }, raw) : fc.constant(Buffer.alloc(0))
  const method = fc.oneof({ weight: 12, arbitrary: fc.constant(operation.method.toUpperCase()) },
    fc.constantFrom('PATCH', 'GET', 'PUT', 'OPTIONS', 'HEAD', 'DELETE'))
  const type = fc.constantFrom('application/json', 'application/json', 'text/plain', 'multipart/form-data; boundary=b')
  return fc.record({ method, path, options, body, type }).map(made => ({
    name,
    method: made.method,
    path: made.options.length ? `${made.path}?${made.options.join('&')}` : made.path,
    headers: { 'content-type': made.type },
    body: made.body,
  }))
}

interface Answered { status: number, type: string, text: string }
/** Asked without any library's help: broken addresses go out as they are. */
const send = ({ method, path, headers, body }: Made) => new Promise<Answered>((resolve, reject) => {
  const { hostname, port } = new URL(process.env.KOVRIN_URL!)
  const all = { ...headers, 'content-length': body.length }
  const asked = plain({ hostname, port, method, path, headers: all, timeout: 60_000 }, (answer) => {
    const parts: Buffer[] = []
    answer.on('data', (p: Buffer) => parts.push(p))
    answer.on('error', reject)
    answer.on('end', () => resolve({
      status: answer.statusCode!,
      type: answer.headers['content-type'] ?? '',
      text: Buffer.concat(parts).toString('utf8'),
    }))
  })
  asked.on('timeout', () => asked.destroy(new Error('No answer within a minute')))
  asked.on('error', reject)
  asked.end(body)
})

/** What is wrong with an answer; null when it is one. */
function faultOf(made: Made, { status, type, text }: Answered): string | null {
  const sent = made.body.toString('utf8').slice(0, 300)
  const shown = `${made.method} ${made.path} ${sent} → ${status} ${text.slice(0, 200)}`
  if (status >= 500 && status !== 503) return shown
  if (made.method === 'HEAD' || status < 400) return null
  if (!type.startsWith('application/json')) return `${shown} (${type})`
  const told = JSON.parse(text) as { message?: unknown }
  return typeof told.message === 'string' && told.message.length > 8 ? null : `${shown} without a sentence`
}

test('whatever is asked over HTTP is answered in words: nothing fails, hangs or comes as HTML', async ({ site }) => {
  test.setTimeout(600_000)
  const names = Object.keys(operations).filter(n => !seldom.has(n))
  const made = fc.constantFrom(...names).chain(name => requestOf(site, name))
  let asked = 0
  await fc.assert(fc.asyncProperty(fc.array(made, { minLength: batch, maxLength: batch }), async (all) => {
    const waiting = [...all]
    const faults: string[] = []
    await Promise.all(Array.from({ length: atOnce }, async () => {
      for (let next = waiting.pop(); next; next = waiting.pop()) {
        asked++
        const fault = faultOf(next, await send(next))
        if (fault) faults.push(fault)
      }
    }))
    if (faults.length) throw new Error(faults.slice(0, 5).join('\n'))
  }), { numRuns: many / batch, endOnFailure: true, seed: Number(process.env.KOVRIN_SEED ?? 20_261_127) })
  expect(asked).toBe(many)
  expect((await site.request.get('/api/health')).status()).toBe(200)
})
