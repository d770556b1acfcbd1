import { equal } from '../units'
import { valueIn, Working, type Change, type Edit } from './change'
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
  let { number } = mirror
  const working = new Working(mirror.documents)
  for (const change of fresh) {
    if (change.number !== number + 1) return { state: 'gap' }
    working.apply(change)
    number = change.number
  }
  return { state: 'taken', mirror: { number, documents: working.now }, changes: fresh }
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
  const working = new Working(documents)
  for (const edit of pending.flatMap(p => p.edits)) {
    try {
      working.apply(edit)
    }
    catch (error) {
      if (!(error instanceof RangeError)) throw error
    }
  }
  return working.now
}

/** Edits as they must be sent now: against what is confirmed, those that change nothing left out. */
export const against = (documents: Documents, edits: readonly Edit[]): Edit[] => {
  const working = new Working(documents)
  return edits.flatMap((edit) => {
    const old = valueIn(working.now, edit.document, edit.path)
    if (equal(old, edit.new)) return []
    const next = { ...edit, old }
    working.apply(next)
    return [next]
  })
}
