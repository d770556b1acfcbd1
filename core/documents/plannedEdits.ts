import { holdParameter, parameterName, parametersOf, showParameter } from '../rig'
import { equal } from '../units'
import { noSuch, valueIn, Working, type Edit } from './change'
import type { Rise } from './gate'
import { documentKinds, splitKey, type DocumentKey, type DocumentKindId, type Documents } from './kinds'
import { readDocument, siteFaults } from './rules'
import { contentOf, nameIn } from './site'
import { message, toldOf, type Message, phrase } from '../words'

export type EditRefusal
  = | { status: 'missing', why: Message }
    | { status: 'refused', why: Message }
  /** It would make loudspeakers louder than goes without a question: nothing is done until that is agreed to. */
    | { status: 'louder', why: Message, rises: Rise[] }
  /** `now` is what stands at the place of the edit that met a newer value. */
    | { status: 'overtaken', why: Message, now: { document: string, path: string, value: unknown } }

export type Planned = { ok: true, edits: Edit[], documents: Documents } | ({ ok: false } & EditRefusal)

/** Who edits: a person may not change what only a device or the server can know. */
export type Hand = 'person' | 'server'

class Refused extends Error {
  constructor(readonly refusal: EditRefusal) { super(refusal.why.code) }
}
const refuse = (why: Message): never => {
  throw new Refused({ status: 'refused', why })
}
const missing = (why: Message): never => {
  throw new Refused({ status: 'missing', why })
}

const takeFields = ['name', 'note', 'hue', 'offset', 'shift', 'arrival', 'place', 'deleted'].map(f => `/${f}`)

function mayEdit({ document, path }: Edit, hand: Hand) {
  const at = splitKey(document) ?? missing(message('edit.noDocument', { document: document.slice(0, 80) }))
  if (hand === 'server') return at
  if ('told' in documentKinds[at.kind]) refuse(message('edit.ofDevice'))
  if (at.kind === 'device' && (path === '/capability' || path.startsWith('/capability/'))) {
    refuse(message('edit.capability'))
  }
  if (at.kind === 'take' && !takeFields.includes(path))
    refuse(message('edit.measured'))
  return at
}

/** Paths of a document that were edited and not checked yet, with those above them. */
interface Open {
  edits: Edit[]
  paths: Set<string>
  above: Set<string>
}

/** Edits in the making, against the documents as those before them leave them. */
class Planning {
  readonly working: Working
  private readonly open = new Map<DocumentKey, Open>()

  constructor(documents: Documents, private readonly hand: Hand) {
    this.working = new Working(documents)
  }

  /** One more edit as it will be kept; its new value is final once `check` was called. Throws Refused. */
  edit(edit: Edit): Edit {
    const at = mayEdit(edit, this.hand)
    if (this.hand === 'person' && edit.path === '') this.whole(at, edit)
    return at.kind === 'settings' && edit.path !== '' ? this.setting(edit, at.id) : this.plain(edit)
  }

  /** A whole document goes through the rules of its parts. Throws Refused. */
  private whole({ kind, id }: { kind: DocumentKindId, id: string }, { new: value }: Edit) {
    if (value === undefined) return
    const record = contentOf(this.working.now, 'device', id)
    if (kind === 'device' && record && !equal((value as { capability?: unknown }).capability, record.capability))
      refuse(message('edit.capability'))
    if (kind !== 'settings' || !record) return
    for (const [path, wish] of Object.entries(value as object)) {
      const named = { device: record.name, path: path.slice(0, 80) }
      if (!parametersOf(record.capability).has(path)) refuse(message('edit.noParameter', named))
      const held = holdParameter(record.capability, path, wish)
      if (!held.ok) refuse(held.why)
      else if (!equal(held.value, wish)) refuse(message('edit.notHeld', named))
    }
  }

  /** A setting: as the device would keep it, against the value that stands, neutral where nothing is set. */
  private setting(edit: Edit, device: string): Edit {
    const { now: documents } = this.working
    const record = contentOf(documents, 'device', device)
    if (!record) return missing(message('edit.noDevice'))
    const { capability } = record
    const parameter = parametersOf(capability).get(edit.path)
    if (!parameter && this.hand === 'person') {
      return refuse(message('edit.noParameter', { device: record.name, path: edit.path.slice(0, 80) }))
    }
    const draft = contentOf(documents, 'settings', device)
      ?? missing(message('edit.noSettings', { device: record.name }))
    const before = Object.hasOwn(draft, edit.path) ? draft[edit.path] : undefined
    const now = before === undefined ? parameter?.neutral : before
    const old = edit.old === undefined ? parameter?.neutral : edit.old
    if (!equal(now, old)) {
      const why = message('edit.parameterOvertaken', { parameter: parameterName(capability, edit.path) })
      throw new Refused({ status: 'overtaken', why, now: { document: edit.document, path: edit.path, value: now } })
    }
    let value = edit.new
    if (this.hand === 'person') {
      const held = holdParameter(capability, edit.path, value === undefined ? parameter?.neutral : value)
      if (!held.ok) return refuse(held.why)
      value = held.value
    }
    const kept = parameter && equal(value, parameter.neutral) ? undefined : value
    const planned = { document: edit.document, path: edit.path, old: before, new: kept }
    this.working.apply(planned)
    return planned
  }

  /** Any other edit: against the value that stands; what it makes of its document is checked with the next of it. */
  private plain({ document, path, old, new: value }: Edit): Edit {
    const open = this.open.get(document)
    if (open && (path === '' || meets(open, path))) this.check(document)
    const { now } = this.working
    const before = valueIn(now, document, path)
    if (path !== '' && now[document] === undefined) return missing(noSuch(document))
    if (!equal(before, old)) {
      const why = message('edit.overtaken')
      throw new Refused({ status: 'overtaken', why, now: { document, path, value: before } })
    }
    const planned: Edit = { document, path, old: before, new: value }
    this.working.apply(planned)
    if (now[document] !== undefined) {
      const list = this.open.get(document) ?? { edits: [], paths: new Set(), above: new Set() }
      note(list, planned)
      this.open.set(document, list)
      if (path === '') this.check(document)
    }
    else if ('single' in documentKinds[splitKey(document)!.kind]) refuse(message('edit.stays'))
    return planned
  }

  /** Reads a document that was edited as a whole; what its edits set becomes what is kept of it. */
  private check(document: DocumentKey) {
    const read = readDocument(document, this.working.now[document])
    if (!read.ok) return refuse(read.why)
    this.working.put(document, read.content)
    for (const edit of this.open.get(document)!.edits) edit.new = valueIn(this.working.now, document, edit.path)
    this.open.delete(document)
  }

  /** Checks one document that is still open; false when there is none. */
  checkNext(): boolean {
    const [next] = this.open.keys()
    if (next !== undefined) this.check(next)
    return next !== undefined
  }
}

const pathsAbove = (path: string): string[] => {
  const parts = path.split('/')
  return parts.map((_, k) => parts.slice(0, k).join('/')).filter(p => p !== '')
}
/** True where a path was edited already, lies in what was, or holds some of it. */
const meets = ({ paths, above }: Open, path: string): boolean =>
  paths.has(path) || above.has(path) || pathsAbove(path).some(p => paths.has(p))
function note({ edits, paths, above }: Open, edit: Edit) {
  edits.push(edit)
  paths.add(edit.path)
  for (const p of pathsAbove(edit.path)) above.add(p)
}

/** `planEdits`, stopping between its parts so that others may have their turn. */
export function* planning(documents: Documents, edits: readonly Edit[], hand: Hand): Generator<undefined, Planned> {
  try {
    const plan = new Planning(documents, hand)
    const kept: Edit[] = []
    for (const edit of edits) {
      kept.push(plan.edit(edit))
      yield
    }
    while (plan.checkNext()) yield
    const { now } = plan.working
    const touched = [...new Set(kept.map(e => e.document))]
    // what was loose before (a device came back smaller) must not stand in the way of everything else
    const known = hand === 'person' ? siteFaults(documents, touched) : []
    yield
    const faults = hand === 'person' ? siteFaults(now, touched).filter(f => !known.some(k => equal(k, f))) : []
    if (faults.length) return { ok: false, status: 'refused', why: message('several', { list: faults.slice(0, 4) }) }
    return { ok: true, edits: kept, documents: now }
  }
  catch (error) {
    if (error instanceof Refused) return { ok: false, ...error.refusal }
    if (error instanceof RangeError) return { ok: false, status: 'refused', why: toldOf(error) }
    throw error
  }
}

/**
 * What several edits would do together: each as it will be kept, and the documents after all of them; or why none of
 * them is. Every edit is held against what stands before it, so that a newer value is never overwritten unseen.
 */
export function planEdits(documents: Documents, edits: readonly Edit[], hand: Hand): Planned {
  const plan = planning(documents, edits, hand)
  for (;;) {
    const step = plan.next()
    if (step.done) return step.value
  }
}

/** What became of a document by an edit, in a participle. */
function became(kind: DocumentKindId, { path, old, new: value }: Edit): string {
  if (path === '' && old === undefined) return 'added'
  if (path === '' && value === undefined) return 'removed'
  // a take is made deleted and then brought in: taking it and restoring it are one edit
  const back = kind === 'take' ? phrase('documents.addedToTheLedger') : 'restored'
  if (path === '/deleted') return value ? 'deleted' : back
  if (path === '/name') return 'renamed'
  return /\/place(\/|$)/.test(path) ? 'moved' : 'changed'
}

/** An edit in words, by what the site calls things: 'System processor, output 1 gain is −3.0 dB', 'Main L moved'. */
export function sayEdit(documents: Documents, edit: Edit): string {
  const at = splitKey(edit.document)
  if (!at) return edit.document
  if (at.kind === 'settings' || at.kind === 'held') {
    const device = contentOf(documents, 'device', at.id)
    const owner = nameIn(documents, 'device', at.id)
    if (edit.path === '') return phrase('documents.allSettings', { owner, part: edit.new ? 'set' : 'removed' })
    const name = parameterName(device?.capability, edit.path)
    const words = showParameter(device?.capability, edit.path, edit.new)
    return `${owner}, ${name[0]!.toLowerCase()}${name.slice(1)} is ${words}`
  }
  const name = phrase(documentKinds[at.kind].name)
  const content = documents[edit.document] ?? edit.new ?? edit.old
  const own = (content as { name?: string } | undefined)?.name
  return `${own ?? `${name[0]!.toUpperCase()}${name.slice(1)}`} ${became(at.kind, edit)}`
}
