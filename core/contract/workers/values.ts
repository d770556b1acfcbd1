import * as v from 'valibot'
import { isMessage, type Message } from '../../words'

/** A value of core's own making: that it is an object is all that is checked on the way. */
export const made = <T extends object>(what: string) =>
  v.custom<T>(value => typeof value === 'object' && value !== null, `${what} is missing.`)
export const shared = v.custom<SharedArrayBuffer>(
  value => typeof SharedArrayBuffer !== 'undefined' && value instanceof SharedArrayBuffer,
  'The ring is missing.',
)
/** Why something was not done: a code and its values. */
export const Told = v.custom<Message>(
  isMessage,
  'What is told has no code.',
)
export const count = v.pipe(v.number(), v.integer(), v.minValue(0))
export const finite = v.pipe(v.number(), v.finite())
export const samples = v.custom<Float32Array>(value => value instanceof Float32Array, 'The samples are missing.')
export const column = v.custom<Float64Array>(value => value instanceof Float64Array, 'A column is missing.')
export const columns = { re: column, im: column, coherence: column, averages: column }
/** What a worker tells where it could not do what was asked. */
export const failure = <T extends string>(type: T) => v.object({ type: v.literal(type), why: Told })
export const Failed = failure('failed')
