import * as v from 'valibot'
import { upgradeTakeBytes, type OldInfo } from '../formats/take'
import {
  compact,
  driveKey,
  endpointKey,
  outputsOf,
  parametersOf,
  partOf,
  snapshotOf,
  testFeed,
  type BlockCapability,
  type Capability,
  type Endpoint,
  type Rig,
  type Settings,
  type Wiring,
} from '../rig'
import { canonical } from '../units'
import { sheetLibrary } from './sheet'
import { currentVersion, inOneGo, SiteFile, type FileTools } from './siteFile'
import { refusal } from '../words'

/** What an upgrade needs from outside. */
export interface Tools extends FileTools {
  newId: () => string
  base64Of: (bytes: Uint8Array) => string
}

// What documents of the first version looked like; they were checked when they were made.
interface OldRange {
  min: number
  max: number
  step: number
}
interface OldChannel {
  gain: OldRange
  delay?: OldRange
  highPass?: { orders: Record<string, number[]>, frequency: OldRange }
  lowPass?: { orders: Record<string, number[]>, frequency: OldRange }
  eq?: { bands: number, types: string[], frequency: OldRange, gain: OldRange, q: OldRange }
}
interface OldCapability {
  version: 1
  model: string
  kind: Capability['kind']
  sampleRate: number
  latency: number
  inputs: { count: number, channel: OldChannel }
  outputs: { count: number, channel: OldChannel }
  matrix: OldRange | null
}
interface OldSettingsChannel {
  gain: number
  mute: boolean
  turned: boolean
  delay: number
  highPass: unknown
  lowPass: unknown
  eq: unknown[]
}
export interface OldSettings {
  version: 1
  inputs: OldSettingsChannel[]
  outputs: OldSettingsChannel[]
  matrix: (number | null)[][]
}
interface OldElement {
  model: string
  place: unknown
  aim: unknown
  output: Endpoint
}
type OldTakeInfo = OldInfo & Record<string, unknown> & { delay: number, geometry?: unknown, revisions?: unknown }
interface OldTake {
  source: string
  position: string
  name: string
  info: OldTakeInfo
  feed: Endpoint
  settings: Record<string, OldSettings>
  who: string
  at: string
  note?: string
  hue?: number | null
  offset?: number
  shift?: number
  place?: number | null
  deleted?: boolean
  /** Its key, where it had one. */
  id?: string
  data: string
}
/** A site of the first version, as its file held it; the database adds what is deleted and what devices held. */
export interface OldSite {
  version: 1
  name: string
  archived?: boolean
  deleted?: boolean
  plan: {
    room: { size: unknown, outline?: unknown, surfaces: unknown }
    areas?: { id: string }[]
    air: unknown
    airLater: unknown
    feed: Endpoint
    wires: { from: Endpoint, to: Endpoint }[]
  }
  sources: { id: string, name: string, hue: number, elements: OldElement[] }[]
  positions: { id: string }[]
  devices: {
    id: string
    name: string
    address: string
    capability: OldCapability
    draft: OldSettings
    held?: OldSettings | null
  }[]
  takes: OldTake[]
}

function stripBlocks({ gain, delay, highPass, lowPass, eq }: OldChannel): BlockCapability[] {
  const blocks: unknown[] = [
    { kind: 'gain', id: 'gain', range: gain },
    { kind: 'mute', id: 'mute' },
    { kind: 'polarity', id: 'polarity' },
  ]
  if (delay) blocks.push({ kind: 'delay', id: 'delay', range: delay })
  if (highPass) blocks.push({ kind: 'pass', id: 'highPass', side: 'high', ...highPass })
  if (lowPass) blocks.push({ kind: 'pass', id: 'lowPass', side: 'low', ...lowPass })
  if (eq) {
    const { bands, ...rest } = eq
    blocks.push({ kind: 'band', id: 'eq', count: bands, ...rest })
  }
  return blocks as BlockCapability[]
}

/** What a device said of itself in the first version, as it would say it now. */
function upgradeCapability(old: OldCapability): Capability {
  const { model, kind, sampleRate, latency, inputs, outputs, matrix } = old
  const list = (count: number) => Array.from({ length: count }, (_, n) => n)
  const loudspeaker = kind === 'amplifier'
  const from = (n: number) => (matrix ? { mixer: 'matrix' } : { strip: `inputs/${n}` })
  return {
    version: 2,
    model,
    kind,
    sampleRate,
    latency,
    inputs: list(inputs.count).map(n => ({ name: `Input ${n + 1}`, kind: 'line' })),
    outputs: list(outputs.count).map(n => ({
      name: `Output ${n + 1}`,
      kind: loudspeaker ? 'loudspeaker' : 'line',
      strip: `outputs/${n}`,
    })),
    strips: [
      ...list(inputs.count).map(n => ({
        id: `inputs/${n}`,
        name: `Input ${n + 1}`,
        from: { port: n },
        blocks: stripBlocks(inputs.channel),
      })),
      ...list(outputs.count).map(n => ({
        id: `outputs/${n}`,
        name: `Output ${n + 1}`,
        from: from(n),
        blocks: stripBlocks(outputs.channel),
      })),
    ],
    mixers: matrix
      ? [
          {
            id: 'matrix',
            name: 'Matrix',
            from: list(inputs.count).map(n => `inputs/${n}`),
            to: list(outputs.count).map(n => `outputs/${n}`),
            crosspoint: { kind: 'crosspoint', id: 'point', range: matrix } as BlockCapability,
          },
        ]
      : [],
    sensors: [],
    slots: 0,
  }
}

/** Settings of the first version by their paths. */
function upgradeSettings(capability: Capability, old: OldSettings): Settings {
  const flat: Record<string, unknown> = {}
  for (const side of ['inputs', 'outputs'] as const) {
    old[side].forEach((channel, n) => {
      const at = `/${side}/${n}`
      flat[`${at}/gain`] = channel.gain
      flat[`${at}/mute`] = channel.mute
      flat[`${at}/polarity`] = channel.turned ? 'inverted' : 'normal'
      if (channel.delay) flat[`${at}/delay`] = channel.delay
      if (channel.highPass) flat[`${at}/highPass`] = channel.highPass
      if (channel.lowPass) flat[`${at}/lowPass`] = channel.lowPass
      channel.eq.forEach((band, k) => {
        flat[`${at}/eq/${k}`] = band
      })
    })
  }
  if (capability.mixers.length) {
    old.matrix.forEach((row, i) =>
      row.forEach((level, o) => {
        if (level !== null) flat[`/matrix/${i}/${o}`] = level
      }),
    )
  }
  // the first version gave every channel all of its fields, whatever the device had
  const known = parametersOf(capability)
  return compact(capability, Object.fromEntries(Object.entries(flat).filter(([path]) => known.has(path))))
}

/** What a device keeps of itself through a power cut. */
const DeviceMemory = v.strictObject({
  version: v.literal(currentVersion),
  settings: v.record(v.string(), v.unknown()),
})

/**
 * A device's memory of any version as it is now. Throws RangeError for one that is newer than this application,
 * or damaged.
 */
export function upgradeMemory(capability: Capability, stored: unknown): Settings {
  const version = versionOf(stored, 'memory')
  if (version === 1) return upgradeSettings(capability, stored as OldSettings)
  const read = v.safeParse(DeviceMemory, stored)
  if (!read.success) throw refusal('site.memoryDamaged')
  return read.output.settings
}

function versionOf(document: unknown, what: string): number {
  const version = (document as { version?: unknown } | null)?.version
  if (typeof version !== 'number' || !Number.isInteger(version) || version < 1) {
    throw refusal('site.noVersion', { what })
  }
  if (version > currentVersion) {
    throw refusal('site.newerVersion', { what, version, known: currentVersion })
  }
  return version
}

/** Simulated devices of the first version had one rack; it has a name now, and is delivered as it was then. */
const rackOf = (address: string) => (/^standin:[\w-]+$/.test(address) ? `${address}@first` : address)

function wiringOf({ plan, sources }: OldSite): Wiring {
  const drives = sources.flatMap(s =>
    s.elements.map((e, element) => [driveKey({ source: s.id, element, band: 'full' }), e.output] as const),
  )
  return {
    version: 1,
    feeds: { [testFeed]: { name: 'Kovrin’s signal', from: plan.feed } },
    cables: Object.fromEntries(plan.wires.map(w => [endpointKey(w.to), w.from])),
    drives: Object.fromEntries(drives),
  }
}

/** The first version's documents, but for its takes. */
function upgradeDocuments(old: OldSite): Record<string, unknown> {
  const { room, air, airLater, areas = [] } = old.plan
  const documents: Record<string, unknown> = {
    site: { name: old.name, archived: old.archived ?? false, deleted: old.deleted ?? false },
    plan: { room: { ...room, outline: room.outline ?? null }, air, airLater },
    wiring: wiringOf(old),
  }
  for (const sheet of sheetLibrary) documents[`sheet/${sheet.id}`] = sheet
  areas.forEach((area, order) => {
    documents[`area/${area.id}`] = { ...area, order }
  })
  old.positions.forEach((position, order) => {
    documents[`position/${position.id}`] = { ...position, order }
  })
  old.sources.forEach(({ elements, ...source }, order) => {
    const cabinets = elements.map(({ model, place, aim }) => ({ sheet: model, place, aim }))
    documents[`source/${source.id}`] = { ...source, order, elements: cabinets }
  })
  old.devices.forEach(({ id, name, address, capability, draft, held }, order) => {
    const now = upgradeCapability(capability)
    documents[`device/${id}`] = { id, name, order, address: rackOf(address), capability: now }
    documents[`settings/${id}`] = upgradeSettings(now, draft)
    if (held) documents[`held/${id}`] = upgradeSettings(now, held)
  })
  return documents
}

/** The rig of a take of the first version: its settings, in the devices and behind the cables of today. */
function rigOfTake(documents: Record<string, unknown>, take: OldTake): Rig {
  const devices = Object.entries(take.settings).flatMap(([id, settings]) => {
    const device = documents[`device/${id}`] as { capability: Capability } | undefined
    if (!device) return []
    return [
      [id, { capability: device.capability, settings: upgradeSettings(device.capability, settings) }] as const,
    ]
  })
  return { devices: Object.fromEntries(devices), wiring: documents.wiring as Wiring }
}

function upgradeTake(documents: Record<string, unknown>, old: OldTake, tools: Tools, file: SiteFile) {
  const { delay, geometry, revisions: _, impulseStart: __, sweep, ...info } = old.info
  const { low, high, seconds, level, repeats } = (sweep ?? {}) as Record<string, number | undefined>
  const id = old.id ?? tools.newId()
  let snapshot: string | null = null
  if (Object.keys(old.settings).length && outputsOf(documents.wiring as Wiring, old.source).length) {
    const part = partOf(rigOfTake(documents, old), old.feed, old.source)
    const share = (content: unknown) => {
      const key = tools.hashOf(content)
      file.contents[key] = content
      return key
    }
    const stored = snapshotOf(part, text => share(JSON.parse(text)))
    snapshot = share(JSON.parse(canonical(stored)))
  }
  documents[`take/${id}`] = {
    id,
    source: old.source,
    position: old.position,
    only: null,
    name: old.name,
    note: old.note ?? '',
    hue: old.hue ?? null,
    offset: old.offset ?? 0,
    shift: old.shift ?? 0,
    place: old.place ?? null,
    deleted: old.deleted ?? false,
    who: old.who,
    at: old.at,
    info: { ...info, sweep: sweep ? { low, high, seconds, level, repeats } : null },
    timing: { reference: '', sameClock: false, drift: null, delay },
    snapshot,
    geometry: geometry ?? null,
  }
  file.data[id] = tools.base64Of(upgradeTakeBytes(tools.bytesOf(old.data), old.info))
}

function* fromFirst(old: OldSite, tools: Tools): Generator<undefined, SiteFile> {
  const documents = upgradeDocuments(old)
  const file: SiteFile = { format: 'kovrin-site', version: currentVersion, documents, contents: {}, data: {} }
  for (const take of old.takes) {
    upgradeTake(documents, take, tools, file)
    yield
  }
  return file
}

/** Each step of the one chain: from a version to the next, part after part. */
const steps: Record<number, (file: unknown, tools: Tools) => Generator<undefined, unknown>> = {
  1: (file, tools) => fromFirst(file as OldSite, tools),
}

/** `siteUpgrade`, all in one go. */
export const upgradeSite = (document: unknown, tools: Tools): SiteFile => inOneGo(siteUpgrade(document, tools))

/**
 * A site of any version as it is now, made part after part, so that whoever runs it can do other things between.
 * Throws RangeError for one that is newer than this application, says no version, or cannot be read; the document
 * given is left as it is.
 */
export function* siteUpgrade(document: unknown, tools: Tools): Generator<undefined, SiteFile> {
  let now = document
  try {
    while (versionOf(now, 'site') < currentVersion) now = yield* steps[versionOf(now, 'site')]!(now, tools)
  }
  catch (error) {
    if (error instanceof TypeError) throw refusal('site.noSite')
    throw error
  }
  const read = v.safeParse(SiteFile, now)
  if (read.success) return read.output
  const issue = read.issues[0]
  throw refusal('site.notUnderstood', { where: v.getDotPath(issue) ?? 'the file', why: issue.message })
}
