import * as v from 'valibot'
import type { Curve } from '../../dsp'
import { made, samples, Told } from './values'

/** To the worker that reads files. */
export const FileRequest = v.object({ name: v.string(), bytes: v.instance(ArrayBuffer) })
export type FileRequest = v.InferOutput<typeof FileRequest>
const FileRead = v.object({
  curve: made<Curve>('The curve'),
  impulse: samples,
  sampleRate: v.number(),
  start: v.number(),
  blocks: v.number(),
  arrival: v.nullable(v.number()),
  delay: v.number(),
  note: v.string(),
})
export type FileRead = v.InferOutput<typeof FileRead>
export const FileAnswer = v.variant('ok', [
  v.object({ ok: v.literal(true), answer: FileRead }),
  v.object({ ok: v.literal(false), why: Told }),
])
export type FileAnswer = v.InferOutput<typeof FileAnswer>
