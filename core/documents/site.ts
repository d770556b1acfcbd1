import type { Rig, Settings } from '../rig'
import type * as v from 'valibot'
import type { documentKinds, DocumentKindId, Documents } from './kinds'
import { phrase } from '../words'

/** What each kind of document holds, by its schema. */
export type Contents = { [K in DocumentKindId]: v.InferOutput<(typeof documentKinds)[K]['schema']> }

/** A document by its key; undefined where there is none. Stored documents were checked when they were made. */
export const contentOf = <K extends DocumentKindId>(
  documents: Documents,
  kind: K,
  id?: string,
): Contents[K] | undefined => documents[id === undefined ? kind : `${kind}/${id}`] as Contents[K] | undefined

/** What stands for the name of a thing that is not there any more. */
export const goneName = (kind: 'source' | 'position' | 'device') => phrase('documents.aThatIsGone', { kind })

/** What a thing is called by its name; never by its key. */
export const nameIn = (documents: Documents, kind: 'source' | 'position' | 'device', id: string): string =>
  contentOf(documents, kind, id)?.name ?? goneName(kind)

type Ordered = Contents['area' | 'source' | 'position' | 'device' | 'target' | 'group' | 'alternative']

const sorted = new WeakMap<Documents, Partial<Record<DocumentKindId, unknown[]>>>()

/** Documents by their kinds, sorted once for each state of the documents. */
function kindsOf(documents: Documents): Partial<Record<DocumentKindId, unknown[]>> {
  const known = sorted.get(documents)
  if (known) return known
  const kinds: Partial<Record<DocumentKindId, unknown[]>> = {}
  for (const key in documents) {
    const at = key.indexOf('/')
    const kind = (at < 0 ? key : key.slice(0, at)) as DocumentKindId
    const list = (kinds[kind] ??= [])
    list.push(documents[key])
  }
  for (const list of Object.values(kinds))
    list.sort((a, b) => ((a as Ordered).order ?? 0) - ((b as Ordered).order ?? 0))
  sorted.set(documents, kinds)
  return kinds
}

/** All documents of a kind, in the order of their lists. */
export const allOf = <K extends DocumentKindId>(documents: Documents, kind: K): Contents[K][] =>
  (kindsOf(documents)[kind] ?? []) as Contents[K][]

/** What a device of a site shall hold: its draft, else what it last confirmed, else nothing set. */
export const draftOf = (documents: Documents, device: string): Settings =>
  contentOf(documents, 'settings', device) ?? contentOf(documents, 'held', device) ?? {}

/** What a device holds as far as is known: what it last confirmed, else its draft. */
export const heldOf = (documents: Documents, device: string): Settings =>
  contentOf(documents, 'held', device) ?? contentOf(documents, 'settings', device) ?? {}

/** The rig of a site, with what its devices hold or with what they shall hold. */
export function rigOf(documents: Documents, which: 'held' | 'draft'): Rig {
  const settings = which === 'held' ? heldOf : draftOf
  const devices = allOf(documents, 'device').map(
    ({ id, capability }) => [id, { capability, settings: settings(documents, id) }] as const,
  )
  return { devices: Object.fromEntries(devices), wiring: contentOf(documents, 'wiring')! }
}
