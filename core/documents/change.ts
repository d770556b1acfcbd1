import * as v from 'valibot'
import { equal } from '../units'
import { kindOf, type DocumentKey, type Documents } from './kinds'
import { message, Refusal, refusal, type Message } from '../words'

/**
 * The only way to change anything stored: the value at a path of a document was `old` and becomes `new`; a
 * missing one stands for
 * nothing there. Path '' is the whole document, otherwise a JSON pointer (RFC 6901); of flat documents it is
 * the key itself.
 */
export const Edit = v.strictObject({
  document: v.pipe(v.string(), v.maxLength(80)),
  path: v.pipe(v.string(), v.maxLength(300)),
  old: v.optional(v.unknown()),
  new: v.optional(v.unknown()),
})
export type Edit = v.InferOutput<typeof Edit>

/**
 * Where a change came from: a person's hand, undo or redo, the device itself, a confirmation, a lease that
 * ended, the link.
 */
export const origins = ['edit', 'undo', 'redo', 'device', 'sent', 'lease', 'link'] as const

/**
 * An edit that was made: by whom, when, as part of what. Numbered by its site, it is also the event that every
 * page hears of.
 */
export const Change = v.strictObject({
  ...Edit.entries,
  number: v.pipe(v.number(), v.integer()),
  /** Changes of one gesture by one person are taken back together. */
  gesture: v.nullable(v.string()),
  who: v.string(),
  person: v.string(),
  origin: v.picklist(origins),
  at: v.string(),
  /** It shall go on to the device at once. */
  live: v.boolean(),
})
export type Change = v.InferOutput<typeof Change>

const forbidden = new Set(['__proto__', 'constructor', 'prototype'])

function tokens(path: string): string[] {
  if (!path.startsWith('/')) throw refusal('change.noSlash', { path: path.slice(0, 80) })
  const parts = path
    .slice(1)
    .split('/')
    .map(t => t.replaceAll('~1', '/').replaceAll('~0', '~'))
  if (parts.some(p => forbidden.has(p))) throw refusal('change.noPath', { path: path.slice(0, 80) })
  return parts
}

type Container = Record<string, unknown> | unknown[]
const isContainer = (x: unknown): x is Container => typeof x === 'object' && x !== null
const childOf = (at: unknown, key: string): unknown =>
  isContainer(at) && Object.hasOwn(at, key) ? (at as Record<string, unknown>)[key] : undefined

/** The value at a path of a document; undefined where there is nothing. Throws RangeError for what is no path. */
export function valueIn(documents: Documents, document: DocumentKey, path: string): unknown {
  const content = Object.hasOwn(documents, document) ? documents[document] : undefined
  if (path === '') return content
  if (kindOf(document)?.flat) return childOf(content, path)
  return tokens(path).reduce(childOf, content)
}

function replaced(at: unknown, [key, ...rest]: string[], value: unknown): unknown {
  if (key === undefined) return value
  if (!isContainer(at)) throw refusal('change.nothingThere')
  if (rest.length && childOf(at, key) === undefined) throw refusal('change.noSuchKey', { key })
  const next = replaced(childOf(at, key), rest, value)
  if (Array.isArray(at)) {
    const n = Number(key)
    if (!Number.isInteger(n) || n < 0 || n >= at.length || next === undefined) {
      throw refusal('change.noSuchPlace', { length: at.length, key })
    }
    return at.map((old, k) => (k === n ? next : old))
  }
  const { [key]: _, ...others } = at
  return next === undefined ? others : { ...others, [key]: next }
}

/** Says that a document is not there. */
export const noSuch = (document: DocumentKey): Message =>
  message('edit.noSuch', { document: kindOf(document)?.name ?? 'document' })

/**
 * Documents in the making: those that were given stay as they are, and each that is touched is copied once, so that
 * many edits cost what they change and not what they change it in. Nothing may keep `now` before the last edit.
 */
export class Working {
  private readonly own = new Set<DocumentKey>()
  readonly now: Record<DocumentKey, unknown>

  constructor(documents: Documents) {
    this.now = { ...documents }
  }

  /** Makes an edit. Throws RangeError when there is no such place; nothing is changed then. */
  apply({ document, path, new: value }: Edit) {
    if (path === '') return this.put(document, value)
    const content = this.now[document]
    if (!isContainer(content)) throw new Refusal(noSuch(document))
    if (!kindOf(document)?.flat) return this.put(document, replaced(content, tokens(path), value))
    if (forbidden.has(path)) throw refusal('change.noPath', { path })
    if (!this.own.has(document)) this.put(document, { ...content })
    this.own.add(document)
    const flat = this.now[document] as Record<string, unknown>
    if (value === undefined) Reflect.deleteProperty(flat, path)
    else flat[path] = value
  }

  /** Sets or takes away a whole document. */
  put(document: DocumentKey, content: unknown) {
    this.own.delete(document)
    if (content === undefined) Reflect.deleteProperty(this.now, document)
    else this.now[document] = content
  }
}

/** Documents after an edit; those before are left as they were. Throws RangeError when there is no such place. */
export function applyEdit(documents: Documents, edit: Edit): Documents {
  const working = new Working(documents)
  working.apply(edit)
  return working.now
}

/** The edit that takes an edit back. */
export const invertEdit = ({ document, path, old, new: value }: Edit): Edit => ({
  document,
  path,
  old: value,
  new: old,
})

/**
 * Several edits as few: of each place the first old and the last new value, what came back to where it was left
 * out. Edits of places
 * within one another stay apart and in order.
 */
export function mergeEdits(edits: readonly Edit[]): Edit[] {
  const merged: Edit[] = []
  for (const e of edits) {
    const at = merged.findIndex(m => m.document === e.document && m.path === e.path)
    const later = at < 0 ? [] : merged.slice(at + 1)
    if (at < 0 || later.some(m => nested(m, e))) merged.push({ ...e })
    else merged[at] = { ...merged[at]!, new: e.new }
  }
  return merged.filter(m => !equal(m.old, m.new))
}

/** True when one of two places lies within the other. */
export function nested(a: Pick<Edit, 'document' | 'path'>, b: Pick<Edit, 'document' | 'path'>): boolean {
  if (a.document !== b.document || a.path === b.path) return false
  if (a.path === '' || b.path === '') return true
  if (kindOf(a.document)?.flat) return false
  return a.path.startsWith(`${b.path}/`) || b.path.startsWith(`${a.path}/`)
}
