import * as v from 'valibot'
import { decodeTake } from '../formats/take'
import { Capability, misshapen, Snapshot, type Settings } from '../rig'
import { splitKey, type Documents } from './kinds'
import { readDocument, siteFaults } from './rules'
import { allOf, contentOf } from './site'
import type { Take } from './take'
import { Refusal, refusal } from '../words'

/** The version of everything that is stored: a site's documents in the database and in a file, a device's memory. */
export const currentVersion = 2

const hash = v.pipe(v.string(), v.regex(/^[0-9a-f]{64}$/, 'no hash'))

/** A whole site as one file (docs/formats.md): its documents, what takes share by hash, and their bytes as base64. */
export const SiteFile = v.strictObject({
  format: v.literal('kovrin-site'),
  version: v.literal(currentVersion),
  /** What such a file does not hold, in words. */
  without: v.optional(v.string()),
  documents: v.record(v.pipe(v.string(), v.maxLength(80)), v.unknown()),
  /** Snapshots and capabilities by the hash of their text. */
  contents: v.record(hash, v.unknown()),
  /** Bytes of each take by its key, as base64: looked at one by one by `siteFileChecks`. */
  data: v.record(v.string(), v.string()),
})
export type SiteFile = v.InferOutput<typeof SiteFile>

/** What a check of a site file needs from outside. */
export interface FileTools {
  hashOf: (content: unknown) => string
  /** Bytes of a base64 text; what is none of it is passed over. */
  bytesOf: (base64: string) => Uint8Array
}

/** Runs work that stops between its parts without a stop. */
export function inOneGo<T>(work: Generator<unknown, T>): T {
  for (;;) {
    const step = work.next()
    if (step.done) return step.value
  }
}

/**
 * Checks a file part after part, so that whoever runs it can do other things between, and returns its documents as
 * their schemas read them. Throws RangeError with the first reasons why it cannot be: a document that is none, things
 * that name what is not there, settings that are none, a take without its bytes. `hashOf` gives the hash of a content.
 */
export function* siteFileChecks(file: SiteFile, tools: FileTools): Generator<undefined, Documents> {
  const documents: Record<string, unknown> = {}
  for (const [key, content] of Object.entries(file.documents)) {
    const read = readDocument(key, content)
    if (!read.ok) throw new Refusal(read.why)
    documents[key] = read.content
    yield
  }
  for (const kind of ['site', 'plan', 'wiring'] as const) {
    if (!contentOf(documents, kind)) throw refusal('site.lacksKind', { kind })
  }
  const faults = siteFaults(documents, Object.keys(documents))
  if (faults.length) throw refusal('several', { list: faults.slice(0, 4) })
  yield
  checkSettings(documents)
  yield* contentChecks(file, tools)
  yield* takeChecks(file, documents, tools)
  return documents
}

/** A device may lack what is set, or hold less of it; but what is set must be of its kind. */
function refuseMisshapen(name: string, capability: Capability, settings: Settings) {
  const [first] = misshapen(capability, settings)
  if (first) throw refusal('site.settingNotPossible', { name, path: first.path, why: first.why })
}

function checkSettings(documents: Documents) {
  for (const [key, content] of Object.entries(documents)) {
    const at = splitKey(key)!
    if (!['settings', 'held', 'link', 'housekeeping'].includes(at.kind)) continue
    const device = contentOf(documents, 'device', at.id)
    if (!device) throw refusal('site.unknownDevice', { id: at.id })
    const isSettings = at.kind === 'settings' || at.kind === 'held'
    if (isSettings) refuseMisshapen(device.name, device.capability, content as Settings)
  }
}

function* contentChecks({ contents }: SiteFile, { hashOf }: FileTools): Generator<undefined> {
  for (const [key, content] of Object.entries(contents)) {
    if (hashOf(content) !== key)
      throw refusal('site.hashDiffers')
    if (!v.is(Snapshot, content) && !v.is(Capability, content))
      throw refusal('site.noSnapshot')
    yield
  }
}

/** The settings that a take was made with: all there, and of their kinds. */
function checkSnapshot({ contents }: SiteFile, take: Take) {
  const snapshot = v.safeParse(Snapshot, contents[take.snapshot!])
  const lost = refusal('site.takeWithoutSettings', { name: take.name })
  if (!snapshot.success) throw lost
  for (const [name, { capability, settings }] of Object.entries(snapshot.output.devices)) {
    const read = v.safeParse(Capability, contents[capability])
    if (!read.success) throw lost
    refuseMisshapen(name, read.output, settings)
  }
}

/** Bytes of a base64 text: as many come out of it when nothing else stands in it (RFC 4648, section 4). */
function lengthOf(base64: string): number {
  const padding = base64.endsWith('==') ? 2 : Number(base64.endsWith('='))
  return base64.length / 4 * 3 - padding
}

function* takeChecks(file: SiteFile, documents: Documents, { bytesOf }: FileTools): Generator<undefined> {
  for (const take of allOf(documents, 'take')) {
    if (!contentOf(documents, 'source', take.source) || !contentOf(documents, 'position', take.position)) {
      throw refusal('site.takeWithoutEnds', { name: take.name })
    }
    if (take.snapshot !== null) checkSnapshot(file, take)
    const data = file.data[take.id]
    if (data === undefined) throw refusal('site.takeWithoutData', { name: take.name })
    const bytes = bytesOf(data)
    if (bytes.length !== lengthOf(data)) throw refusal('site.takeNotBase64', { name: take.name })
    decodeTake(bytes)
    yield
  }
}
