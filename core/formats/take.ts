import * as v from 'valibot'
import type { Curve } from '../dsp'
import { Place } from '../rig'

const finite = v.pipe(v.number(), v.finite())

/** What a take says about itself, beside its data. Times in seconds, levels in dBFS RMS, frequencies in Hz. */
export const TakeInfo = v.strictObject({
  method: v.picklist(['live', 'sweep', 'import', 'average']),
  input: v.pipe(v.string(), v.maxLength(200)),
  sampleRate: v.pipe(finite, v.minValue(8000), v.maxValue(768_000)),
  length: v.pipe(v.number(), v.integer(), v.minValue(64), v.maxValue(2 ** 21)),
  blocks: v.pipe(v.number(), v.integer(), v.minValue(1)),
  /** Delay taken out of the curve's phase. */
  delay: finite,
  arrival: v.nullable(finite),
  microphoneLevel: v.nullable(finite),
  referenceLevel: v.nullable(finite),
  /** Time of the impulse response's first sample, after `delay`. */
  impulseStart: finite,
  /** What a sweep says besides its response: levels in dB, harmonics over the fundamental. */
  sweep: v.optional(
    v.strictObject({
      low: finite,
      high: finite,
      seconds: finite,
      level: finite,
      repeats: finite,
      signalToNoise: v.pipe(v.array(v.strictObject({ middle: finite, level: finite })), v.maxLength(40)),
      harmonics: v.pipe(
        v.array(
          v.strictObject({
            order: finite,
            frequencies: v.pipe(v.array(finite), v.maxLength(200)),
            level: v.pipe(v.array(finite), v.maxLength(200)),
          }),
        ),
        v.maxLength(8),
      ),
    }),
  ),
  /** Where cabinets and microphone stood; the server fills it in. Takes of the first version have none. */
  geometry: v.optional(v.strictObject({ cabinets: v.array(Place), microphone: Place })),
  /** Revision of every device's confirmed settings while it was measured. */
  revisions: v.record(v.string(), v.pipe(v.number(), v.integer())),
})
export type TakeInfo = v.InferOutput<typeof TakeInfo>

/** The data of a take: its curve with coherence, and the impulse response behind it. */
export interface TakeData {
  curve: Curve
  impulse: Float32Array
}

const magic = 0x4b56_5431 // 'KVT1'
const headerBytes = 16
const mostPoints = 100_000
const mostSamples = 2 ** 22

/**
 * A take's data as bytes, little-endian: 'KVT1' (uint32 0x4B565431), number of curve points (uint32), 1 when
 * there is coherence
 * (uint32), number of impulse samples (uint32), then Float32: frequencies in Hz, re, im, coherence if any, impulse.
 */
export function encodeTake({ curve, impulse }: TakeData): Uint8Array<ArrayBuffer> {
  const columns = [curve.frequencies, curve.re, curve.im, ...(curve.coherence ? [curve.coherence] : []), impulse]
  const bytes = new Uint8Array(headerBytes + 4 * columns.reduce((sum, c) => sum + c.length, 0))
  const view = new DataView(bytes.buffer)
  ;[magic, curve.frequencies.length, curve.coherence ? 1 : 0, impulse.length].forEach((word, k) =>
    view.setUint32(4 * k, word, true),
  )
  let at = headerBytes
  for (const column of columns) {
    for (let k = 0; k < column.length; k++) view.setFloat32(at + 4 * k, column[k]!, true)
    at += 4 * column.length
  }
  return bytes
}

/**
 * The inverse of `encodeTake`. Throws RangeError with the reason when the bytes are no take, are cut short, or
 * hold what cannot be.
 */
export function decodeTake(bytes: Uint8Array): TakeData {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  if (bytes.length < headerBytes || view.getUint32(0, true) !== magic)
    throw new RangeError('These bytes are not a take.')
  const [points, coherent, samples] = [1, 2, 3].map(k => view.getUint32(4 * k, true)) as [number, number, number]
  if (points < 2 || points > mostPoints || samples > mostSamples || coherent > 1)
    throw new RangeError(`A take of ${points} points and ${samples} samples is not possible.`)
  const expected = headerBytes + 4 * (points * (3 + coherent) + samples)
  if (bytes.length !== expected)
    throw new RangeError(`The take is cut short or too long: ${bytes.length} bytes, ${expected} expected.`)
  let at = headerBytes
  const column = (length: number, name: string): Float64Array => {
    const values = Float64Array.from({ length }, (_, k) => view.getFloat32(at + 4 * k, true))
    if (!values.every(Number.isFinite)) throw new RangeError(`The take's ${name} has values that are not numbers.`)
    at += 4 * length
    return values
  }
  const frequencies = column(points, 'frequencies')
  if (!frequencies.every((f, k) => f > (k ? frequencies[k - 1]! : 0)))
    throw new RangeError('The take’s frequencies do not ascend.')
  const re = column(points, 'curve')
  const im = column(points, 'curve')
  const coherence = coherent ? column(points, 'coherence') : null
  return {
    curve: { frequencies, re, im, coherence },
    impulse: Float32Array.from(column(samples, 'impulse response')),
  }
}
