import * as v from 'valibot'
import { between } from '../acoustics'

/** The key of a document: letters, digits, _ and -. */
export const id = v.pipe(
  v.string(),
  v.regex(/^[\w-]{1,60}$/, 'A key has 1 to 60 letters, digits, _ and -'),
)
const clean = v.pipe(
  v.string(),
  v.trim(),
  // PostgreSQL keeps no NUL, and a name with line breaks is none
  // eslint-disable-next-line no-control-regex
  v.regex(/^[^\u0000-\u001F]*$/, 'A name has no control characters'),
)
export const name = v.pipe(
  clean,
  v.minLength(1, 'A name needs at least one character'),
  v.maxLength(80, 'A name has at most 80 characters'),
)
/** Place in a list, earlier first. */
export const order = between(-1e9, 1e9, 'The place in the list', '')
export const hue = v.pipe(v.number(), v.integer(), v.minValue(0), v.maxValue(999))

/** The place after all of a list. */
export const nextOrder = (list: readonly { order: number }[]): number => Math.max(-1, ...list.map(x => x.order)) + 1
