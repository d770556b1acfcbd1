import { holdParameter, parameterName, parametersOf, showParameter } from '../rig'
import { equal } from '../units'
import { applyEdit, noSuch, valueIn, type Edit } from './change'
import type { Rise } from './gate'
import { documentKinds, splitKey, type Documents } from './kinds'
import { readDocument, siteFaults } from './rules'
import { contentOf, nameIn } from './site'

export type Refusal
  = | { status: 'missing', why: string }
    | { status: 'refused', why: string }
  /** It would make loudspeakers louder than goes without a question: nothing is done until that is agreed to. */
    | { status: 'louder', why: string, rises: Rise[] }
  /** `now` is what stands at the place of the edit that met a newer value. */
    | { status: 'overtaken', why: string, now: { document: string, path: string, value: unknown } }

export type Planned = { ok: true, edits: Edit[], documents: Documents } | ({ ok: false } & Refusal)

/** Who edits: a person may not change what only a device or the server can know. */
export type Hand = 'person' | 'server'

class Refused extends Error {
  constructor(readonly refusal: Refusal) {
    super(refusal.why)
  }
}
const refuse = (why: string): never => {
  throw new Refused({ status: 'refused', why })
}
const missing = (why: string): never => {
  throw new Refused({ status: 'missing', why })
}

const takeFields = ['name', 'note', 'hue', 'offset', 'shift', 'arrival', 'place', 'deleted'].map(f => `/${f}`)

function mayEdit({ document, path }: Edit, hand: Hand) {
  const at = splitKey(document) ?? missing(`“${document.slice(0, 80)}” is no kind of document.`)
  if (hand === 'server') return at
  if ('told' in documentKinds[at.kind]) refuse('Only the device itself can say this.')
  if (at.kind === 'device' && (path === '/capability' || path.startsWith('/capability/'))) {
    refuse('Only the device itself can say what it is able to do.')
  }
  if (at.kind === 'take' && !takeFields.includes(path))
    refuse('What was measured cannot be changed, only how it is shown.')
  return at
}

/** An edit of a setting: as the device would keep it, against the value that stands, neutral where nothing is set. */
function planSetting(
  documents: Documents,
  edit: Edit,
  device: string,
  hand: Hand,
): { edit: Edit, documents: Documents } {
  const record = contentOf(documents, 'device', device)
  if (!record) return missing('There is no such device any more.')
  const { capability } = record
  const parameter = parametersOf(capability).get(edit.path)
  if (!parameter && hand === 'person') {
    return refuse(`${record.name} has no parameter ${edit.path.slice(0, 80)}.`)
  }
  const draft = contentOf(documents, 'settings', device) ?? missing(`${record.name} has no settings.`)
  const before = Object.hasOwn(draft, edit.path) ? draft[edit.path] : undefined
  const now = before === undefined ? parameter?.neutral : before
  const old = edit.old === undefined ? parameter?.neutral : edit.old
  if (!equal(now, old)) {
    const why = `${parameterName(capability, edit.path)} was changed meanwhile.`
    throw new Refused({ status: 'overtaken', why, now: { document: edit.document, path: edit.path, value: now } })
  }
  let value = edit.new
  if (hand === 'person') {
    const held = holdParameter(capability, edit.path, value === undefined ? parameter?.neutral : value)
    if (!held.ok) return refuse(held.why)
    value = held.value
  }
  const kept = parameter && equal(value, parameter.neutral) ? undefined : value
  const planned = { document: edit.document, path: edit.path, old: before, new: kept }
  return { edit: planned, documents: applyEdit(documents, planned) }
}

/** Any other edit: against the value that stands, checked as the whole document that it makes. */
function planPlain(documents: Documents, edit: Edit): { edit: Edit, documents: Documents } {
  const before = valueIn(documents, edit.document, edit.path)
  const { document, path } = edit
  if (path !== '' && documents[document] === undefined) return missing(noSuch(document))
  if (!equal(before, edit.old)) {
    const why = 'This was changed meanwhile; the newer one is shown. Do it again if you still want it.'
    throw new Refused({ status: 'overtaken', why, now: { document, path, value: before } })
  }
  const next = applyEdit(documents, edit)
  const content = next[document]
  if (content === undefined) {
    if ('single' in documentKinds[splitKey(document)!.kind]) refuse('This cannot be taken away.')
    return { edit: { document, path, old: before }, documents: next }
  }
  const read = readDocument(document, content)
  if (!read.ok) return refuse(read.why)
  const kept = { ...next, [document]: read.content }
  return { edit: { document, path, old: before, new: valueIn(kept, document, path) }, documents: kept }
}

/**
 * What several edits would do together: each as it will be kept, and the documents after all of them; or why
 * none of them is. Every
 * edit is held against what stands before it, so that a newer value is never overwritten unseen.
 */
export function planEdits(documents: Documents, edits: readonly Edit[], hand: Hand): Planned {
  try {
    let now = documents
    const kept = edits.map((edit) => {
      const at = mayEdit(edit, hand)
      const isSetting = at.kind === 'settings' && edit.path !== ''
      const planned = isSetting ? planSetting(now, edit, at.id, hand) : planPlain(now, edit)
      now = planned.documents
      return planned.edit
    })
    const touched = [...new Set(kept.map(e => e.document))]
    // what was loose before (a device came back smaller) must not stand in the way of everything else
    const known = new Set(hand === 'person' ? siteFaults(documents, touched) : [])
    const faults = hand === 'person' ? siteFaults(now, touched).filter(f => !known.has(f)) : []
    if (faults.length) return { ok: false, status: 'refused', why: faults.slice(0, 4).join(' ') }
    return { ok: true, edits: kept, documents: now }
  }
  catch (error) {
    if (error instanceof Refused) return { ok: false, ...error.refusal }
    if (error instanceof RangeError) return { ok: false, status: 'refused', why: error.message }
    throw error
  }
}

/** An edit in words, by what the site calls things: 'System processor: output 1 gain is −3.0 dB'. */
export function sayEdit(documents: Documents, { document, path, new: value }: Edit): string {
  const at = splitKey(document)
  if (!at) return document
  if (at.kind === 'settings' || at.kind === 'held') {
    const device = contentOf(documents, 'device', at.id)
    const name = parameterName(device?.capability, path)
    const words = showParameter(device?.capability, path, value)
    return `${nameIn(documents, 'device', at.id)}: ${name[0]!.toLowerCase()}${name.slice(1)} is ${words}`
  }
  if (at.kind === 'take') {
    const take = contentOf(documents, 'take', at.id)
    if (path === '/deleted') return `“${take?.name}” is ${value ? 'out of' : 'in'} the ledger`
    return `“${take?.name}” is changed`
  }
  const { name } = documentKinds[at.kind]
  const own = (documents[document] as { name?: string } | undefined)?.name
  return own && own !== name ? `The ${name} “${own}” is changed` : `The ${name} is changed`
}
