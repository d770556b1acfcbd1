import * as v from 'valibot'
import { Agreed, Change, Edit, Rise, Take, TakeInfo, Timing } from '../documents'
import { DeviceAct, Endpoint, Settings } from '../rig'

const text = (most: number) => v.pipe(v.string(), v.maxLength(most))
/** As far as a site's changes can be numbered. */
const count = v.pipe(v.number(), v.integer(), v.minValue(0), v.maxValue(2 ** 31 - 1))

/** Documents of a site by their keys; what each holds is told by core/documents. */
const DocumentsById = v.record(v.string(), v.unknown())

export const SiteAnswer = v.object({ id: v.string(), number: count, documents: DocumentsById })
export type SiteAnswer = v.InferOutput<typeof SiteAnswer>

export const ListedSite = v.object({ id: v.string(), touchedAt: v.string(), documents: DocumentsById })
export type ListedSite = v.InferOutput<typeof ListedSite>

export const LedgerAnswer = v.object({
  cells: count,
  fresh: count,
  stale: count,
  takes: count,
  /** What else is open: a code and its values each. */
  open: v.array(v.object({ code: v.string(), values: v.record(v.string(), v.unknown()) })),
})
export type LedgerAnswer = v.InferOutput<typeof LedgerAnswer>

export const TemplateAnswer = v.object({ id: v.string(), name: v.string(), about: v.string() })
export type TemplateAnswer = v.InferOutput<typeof TemplateAnswer>

/** What the asker agreed to of what was refused for being louder: the list that came with the refusal. */
const agreed = v.optional(Agreed, [])
/** What comes with a refusal for being louder. */
export const Louder = v.object({ louder: v.array(Rise) })
export type Louder = v.InferOutput<typeof Louder>

/** Edits that are all made, or none. `gesture` joins what is taken back together; null keeps it out of undo. */
export const EditsBody = v.strictObject({
  edits: v.pipe(v.array(Edit), v.minLength(1, 'There is nothing to change.'), v.maxLength(5000)),
  gesture: v.optional(v.nullable(text(60))),
  /** Settings go on to their devices at once. */
  live: v.optional(v.boolean(), false),
  /** The temporary state that they belong to: it puts them back when it ends. */
  lease: v.optional(text(60)),
  agreed,
})
export type EditsBody = v.InferInput<typeof EditsBody>

export const EditsAnswer = v.object({
  /** Number of the newest change; equal to that before where nothing changed. */
  number: count,
  changes: v.array(Change),
  /** Settings that are in their devices now, as `device/path`. */
  sent: v.array(v.string()),
  /** Why live settings are not in their devices. */
  why: v.nullable(v.string()),
})
export type EditsAnswer = v.InferOutput<typeof EditsAnswer>

/** What stands where an edit met a newer value. */
export const Overtaken = v.object({ document: v.string(), path: v.string(), value: v.optional(v.unknown()) })
export type Overtaken = v.InferOutput<typeof Overtaken>

export const UndoBody = v.strictObject({ live: v.optional(v.boolean(), false), agreed })
export const UndoAnswer = v.object({ what: v.string(), why: v.nullable(v.string()) })
export type UndoAnswer = v.InferOutput<typeof UndoAnswer>

/** Whose drafts are meant: everybody's, or those that the person who asks wrote last. */
const whose = v.optional(v.picklist(['all', 'mine']), 'all')
/** Values of several devices that are sent as one step: all unsent ones, or those of some devices. */
export const SendAllBody = v.strictObject({
  devices: v.optional(v.pipe(v.array(text(80)), v.maxLength(1000))),
  whose,
  agreed,
})
/** Some of a device's values; left out: all. */
const somePaths = v.optional(v.pipe(v.array(text(200)), v.minLength(1), v.maxLength(20_000)))
export const SendBody = v.strictObject({ agreed, paths: somePaths })
export const DropBody = v.optional(v.strictObject({ whose, paths: somePaths }), { whose: 'all' })
/** What a device shall do; `blind`: a preset is recalled although nobody can tell what is in it. */
export const ActBody = v.strictObject({ act: DeviceAct, blind: v.optional(v.boolean(), false), agreed })
export const ActAnswer = v.object({})
/** The settings that a preset would make; null: the device does not tell them. */
export const PresetAnswer = v.object({ settings: v.nullable(Settings) })
export type PresetAnswer = v.InferOutput<typeof PresetAnswer>
/** Who wrote each unsent value last, and when; a value that nobody changed is in no list. */
export const UnsentAnswer = v.array(v.object({
  device: v.string(), path: v.string(), who: v.string(), person: v.string(), at: v.string(),
}))
export type UnsentAnswer = v.InferOutput<typeof UnsentAnswer>
/** Settings that stand in devices only for a while, who set them, and for what. */
export const TemporaryAnswer = v.array(v.object({
  device: v.string(), path: v.string(), who: v.string(), what: v.string(),
}))
export type TemporaryAnswer = v.InferOutput<typeof TemporaryAnswer>
export const SendAnswer = v.object({
  sent: v.array(v.string()),
  left: v.array(v.object({ path: v.string(), why: v.string() })),
})
export type SendAnswer = v.InferOutput<typeof SendAnswer>
export const SendAllAnswer = v.object({ reports: v.array(v.object({ device: v.string(), ...SendAnswer.entries })) })
export type SendAllAnswer = v.InferOutput<typeof SendAllAnswer>
export const DropAnswer = v.object({ dropped: v.array(v.string()) })

/** Head of a take that is kept; its bytes follow. */
export const TakeHead = v.strictObject({
  /** The asker's own: what is sent again, because no answer came, is kept once. */
  id: v.optional(v.pipe(v.string(), v.uuid())),
  source: text(60),
  position: text(60),
  only: v.nullable(Endpoint),
  feed: v.optional(text(60), 'test'),
  info: TakeInfo,
  timing: Timing,
  name: v.optional(v.pipe(v.string(), v.trim(), v.minLength(1), v.maxLength(120))),
  number: count,
})
export type TakeHead = v.InferInput<typeof TakeHead>
export const TakeAnswer = Take

export const SessionBody = v.strictObject({ who: v.pipe(text(60), v.trim(), v.minLength(1)) })
/** How the person of a session is called, and the key that tells two of one name apart. */
export const SessionAnswer = v.object({ who: v.string(), person: v.string() })
export type SessionAnswer = v.InferOutput<typeof SessionAnswer>

/** The address that a person read and means. */
export const ConfirmBody = v.strictObject({ address: text(200) })

export const LeaseBody = v.strictObject({ what: text(80) })
export const LeaseAnswer = v.object({ id: v.string(), seconds: v.number() })
export type LeaseAnswer = v.InferOutput<typeof LeaseAnswer>
/** `left` were changed by somebody else and stay; `waiting` are put back as soon as their device takes them. */
export const LeaseEnd = v.object({ restored: count, left: count, waiting: count })
export type LeaseEnd = v.InferOutput<typeof LeaseEnd>

export const ContentsBody = v.strictObject({
  hashes: v.pipe(v.array(v.pipe(v.string(), v.length(64))), v.maxLength(5000)),
})
/** Snapshots and capabilities by their hashes. */
export const ContentsAnswer = v.record(v.string(), v.unknown())

export const HistoryAnswer = v.object({
  changes: v.array(Change),
  /** `what` in English; `code` and `values` say the same for other words, and are missing in rows of before. */
  log: v.array(v.object({
    id: v.number(),
    who: v.string(),
    what: v.string(),
    code: v.nullable(v.string()),
    values: v.nullable(v.record(v.string(), v.union([v.string(), v.number()]))),
    at: v.string(),
  })),
})
export type HistoryAnswer = v.InferOutput<typeof HistoryAnswer>

/** What a page says of itself while it sounds: who sits there, what sounds, and seconds until it ends, if known. */
const sounding = { who: text(60), what: text(80), left: v.nullable(v.pipe(v.number(), v.finite(), v.minValue(0))) }
export type Sounding = v.InferOutput<v.ObjectSchema<typeof sounding, undefined>>

/** What the server tells a page over its socket. */
export const LiveMessage = v.variant('type', [
  v.object({ type: v.literal('hello'), number: count }),
  v.object({ type: v.literal('changes'), changes: v.array(Change) }),
  /** So much was missed that the site must be read whole. */
  v.object({ type: v.literal('reload') }),
  v.object({ type: v.literal('pong') }),
  /** Every test signal of the site ends at once. */
  v.object({ type: v.literal('hush') }),
  /** The page that asked may sound on. */
  v.object({ type: v.literal('sound') }),
  /** Another page of the site sounds; told about once a second for as long as it does. */
  v.object({ type: v.literal('other'), page: v.string(), ...sounding }),
])
export type LiveMessage = v.InferOutput<typeof LiveMessage>
/**
 * What a page tells the server: whether anyone is there, that it follows from a number, that it sounds and asks whether
 * it may go on, and that all are to be silent.
 */
export const PageMessage = v.variant('type', [
  v.strictObject({ type: v.literal('ping') }),
  v.strictObject({ type: v.literal('sounding'), ...sounding }),
  v.strictObject({ type: v.literal('hush') }),
  v.strictObject({ type: v.literal('follow'), number: count }),
])
export type PageMessage = v.InferOutput<typeof PageMessage>
