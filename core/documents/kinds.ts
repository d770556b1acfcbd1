import type * as v from 'valibot'
import { Housekeeping, Wiring } from '../rig'
import { Alternative } from './alternative'
import { Device, LinkState, Settings } from './device'
import { Group } from './group'
import { Area, Plan, Position, SiteInfo, Source } from './plan'
import { Sheet } from './sheet'
import { Take } from './take'
import { Target } from './target'
import type { Label } from '../words'

interface DocumentKind {
  schema: v.GenericSchema
  /** There is one in a site, and its key is its kind. */
  single?: boolean
  /** Its paths are keys, not pointers into depth. */
  flat?: boolean
  /** Only the server changes it: what a device told. */
  told?: boolean
  /** What it is called in a sentence. */
  name: Label
}

/** Everything that a site consists of. A new kind of document is one line here. */
export const documentKinds = {
  site: { schema: SiteInfo, single: true, name: 'kind.site' },
  plan: { schema: Plan, single: true, name: 'kind.plan' },
  wiring: { schema: Wiring, single: true, name: 'kind.wiring' },
  area: { schema: Area, name: 'kind.area' },
  source: { schema: Source, name: 'kind.source' },
  position: { schema: Position, name: 'kind.position' },
  sheet: { schema: Sheet, name: 'kind.sheet' },
  device: { schema: Device, name: 'kind.device' },
  settings: { schema: Settings, flat: true, name: 'kind.settings' },
  held: { schema: Settings, flat: true, told: true, name: 'kind.held' },
  housekeeping: { schema: Housekeeping, told: true, name: 'kind.housekeeping' },
  link: { schema: LinkState, told: true, name: 'kind.link' },
  take: { schema: Take, name: 'kind.take' },
  target: { schema: Target, name: 'kind.target' },
  group: { schema: Group, name: 'kind.group' },
  alternative: { schema: Alternative, name: 'kind.alternative' },
} as const satisfies Record<string, DocumentKind>
export type DocumentKindId = keyof typeof documentKinds

/** Every document of a site by its key: 'plan', 'source/main-l', 'settings/processor'. */
export type Documents = Readonly<Record<string, unknown>>
export type DocumentKey = string

/** A document's kind and its own key within the kind; null for a key that names none. */
export function splitKey(key: DocumentKey): { kind: DocumentKindId, id: string } | null {
  const at = key.indexOf('/')
  const kind = (at < 0 ? key : key.slice(0, at)) as DocumentKindId
  const known: DocumentKind | undefined = Object.hasOwn(documentKinds, kind) ? documentKinds[kind] : undefined
  if (!known || (known.single === true) !== (at < 0)) return null
  const id = at < 0 ? kind : key.slice(at + 1)
  return /^[\w-]{1,60}$/.test(id) ? { kind, id } : null
}

export const kindOf = (key: DocumentKey): DocumentKind | null => {
  const at = splitKey(key)
  return at && documentKinds[at.kind]
}
