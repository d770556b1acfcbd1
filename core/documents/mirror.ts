import { equal } from '../units'
import { applyEdit, valueIn, type Change, type Edit } from './change'
import type { Documents } from './kinds'

/** The documents of a site as one page or server knows them: all changes up to `number`. */
export interface Mirror {
  number: number
  documents: Documents
}

/**
 * What became of changes that came in: taken in, known already, or so far ahead that those between must be
 * asked for.
 */
export type Heard
  = { state: 'taken', mirror: Mirror, changes: readonly Change[] } | { state: 'known' } | { state: 'gap' }

/**
 * Takes in changes in the order of their numbers. What is known already is passed over; nothing is taken past a
 * hole.
 */
export function hear(mirror: Mirror, changes: readonly Change[]): Heard {
  const fresh = changes.filter(c => c.number > mirror.number)
  if (!fresh.length) return { state: 'known' }
  let { number, documents } = mirror
  for (const change of fresh) {
    if (change.number !== number + 1) return { state: 'gap' }
    documents = applyEdit(documents, change)
    number = change.number
  }
  return { state: 'taken', mirror: { number, documents }, changes: fresh }
}

/** An edit that is shown but not confirmed yet. */
export interface Pending {
  id: number
  edits: readonly Edit[]
}

/**
 * Documents as they are shown: confirmed ones with the pending edits over them. A pending edit whose place has
 * gone meanwhile is
 * left out: the server will refuse it.
 */
export function shown(documents: Documents, pending: readonly Pending[]): Documents {
  return pending
    .flatMap(p => p.edits)
    .reduce((now, edit) => {
      try {
        return applyEdit(now, edit)
      }
      catch (error) {
        if (error instanceof RangeError) return now
        throw error
      }
    }, documents)
}

/** Edits as they must be sent now: against what is confirmed, those that change nothing left out. */
export const against = (documents: Documents, edits: readonly Edit[]): Edit[] => {
  let now = documents
  return edits.flatMap((edit) => {
    const old = valueIn(now, edit.document, edit.path)
    if (equal(old, edit.new)) return []
    const next = { ...edit, old }
    now = applyEdit(now, next)
    return [next]
  })
}
