import * as v from 'valibot'
import { decodeTake } from '../formats/take'
import { Capability, Snapshot } from '../rig'
import { splitKey, type Documents } from './kinds'
import { readDocument, siteFaults } from './rules'
import { allOf, contentOf } from './site'

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
  /** Bytes of each take by its key. */
  data: v.record(v.string(), v.pipe(v.string(), v.base64('not base64'))),
})
export type SiteFile = v.InferOutput<typeof SiteFile>

/**
 * The documents of a file as their schemas read them. Throws RangeError with the first reasons why it cannot
 * be: a document that is
 * none, things that name what is not there, a take without its bytes. `hashOf` gives the hash of a content.
 */
export function checkSiteFile(
  file: SiteFile,
  hashOf: (content: unknown) => string,
  bytesOf: (base64: string) => Uint8Array,
): Documents {
  const documents: Record<string, unknown> = {}
  for (const [key, content] of Object.entries(file.documents)) {
    const read = readDocument(key, content)
    if (!read.ok) throw new RangeError(read.why)
    documents[key] = read.content
  }
  for (const kind of ['site', 'plan', 'wiring'] as const) {
    if (!contentOf(documents, kind)) throw new RangeError(`The file has no ${kind}.`)
  }
  const faults = siteFaults(documents, Object.keys(documents))
  if (faults.length) throw new RangeError(faults.slice(0, 4).join(' '))
  for (const key of Object.keys(documents)) {
    const at = splitKey(key)!
    if (['settings', 'held', 'link'].includes(at.kind) && !documents[`device/${at.id}`]) {
      throw new RangeError(`The file has settings of “${at.id}”, a device that it does not have.`)
    }
  }
  for (const [key, content] of Object.entries(file.contents)) {
    if (hashOf(content) !== key)
      throw new RangeError('The file was changed: what takes share does not fit its hash.')
    if (!v.is(Snapshot, content) && !v.is(Capability, content))
      throw new RangeError('The file shares what is no snapshot.')
  }
  checkTakes(file, documents, bytesOf)
  return documents
}

function checkTakes(file: SiteFile, documents: Documents, bytesOf: (base64: string) => Uint8Array) {
  for (const take of allOf(documents, 'take')) {
    if (!contentOf(documents, 'source', take.source) || !contentOf(documents, 'position', take.position)) {
      throw new RangeError(`The take “${take.name}” belongs to a source or position that the file does not have.`)
    }
    if (take.snapshot !== null) {
      const snapshot = v.safeParse(Snapshot, file.contents[take.snapshot])
      const whole
        = snapshot.success
          && Object.values(snapshot.output.devices).every(d => file.contents[d.capability] !== undefined)
      if (!whole)
        throw new RangeError(`The take “${take.name}” was made with settings that the file does not have.`)
    }
    const data = file.data[take.id]
    if (data === undefined) throw new RangeError(`The take “${take.name}” has no data in the file.`)
    decodeTake(bytesOf(data))
  }
}
