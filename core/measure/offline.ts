import { standardGrid, type Curve } from '../dsp'
import type { Hertz, Seconds } from '../units'
import { clearArrival, findArrival, type Arrival } from './arrival'
import { createLive, levelOf, type LiveOptions } from './live'
import { createRing, ringWriter } from './ring'

export interface TransferOptions extends Pick<
  LiveOptions,
  'length' | 'averaging' | 'magnitude' | 'window' | 'spectrum'
> {
  overlap?: number
  /** Delay of the microphone that is taken out: found in the recording, or given. */
  delay: 'auto' | Seconds
}

export interface TransferResult {
  curve: Curve & { coherence: Float64Array }
  /** Found in the recording; null when nothing stands out, or when the delay was given. */
  arrival: Arrival | null
  delay: Seconds
  blocks: number
  /** Response behind the average; time 0 (after `delay`) at index 0, negative times wrapped to the end. */
  impulse: Float64Array
}

/** Arrival in a whole recording: looked for where the reference is loudest. */
export function arrivalIn(reference: Float32Array, microphone: Float32Array, sampleRate: Hertz): Arrival | null {
  const frames
    = 2 ** Math.min(17, Math.floor(Math.log2(Math.max(2, Math.min(reference.length, microphone.length)))))
  if (frames < 1024) return null
  let from = 0
  let loudest = -Infinity
  for (let at = 0; at + frames <= reference.length; at += frames >> 1) {
    const { rms } = levelOf(reference.subarray(at, at + frames))
    if (rms > loudest) {
      loudest = rms
      from = at
    }
  }
  const found = findArrival(
    reference.subarray(from, from + frames),
    microphone.subarray(from, from + frames),
    sampleRate,
  )
  return found && found.clearness >= clearArrival ? found : null
}

/**
 * Transfer function with coherence of a recording, through the same engine as live sound. Throws RangeError
 * with the reason when the
 * channels are of different length, the reference is silent, or the recording is too short for one block.
 */
export function transferOf(
  reference: Float32Array,
  microphone: Float32Array,
  sampleRate: Hertz,
  options: TransferOptions,
): TransferResult {
  if (reference.length !== microphone.length)
    throw new RangeError('Reference and microphone must be of one length.')
  if (!(levelOf(reference).peak > -90))
    throw new RangeError('The reference is silent: there is nothing to compare the microphone with.')
  const arrival = options.delay === 'auto' ? arrivalIn(reference, microphone, sampleRate) : null
  const delay = options.delay === 'auto' ? (arrival?.time ?? 0) : options.delay
  const ring = createRing(sampleRate, 2, 2 ** 20)
  const writer = ringWriter(ring)
  const live = createLive(ring, { overlap: 0.75, ...options, reference: 0, microphone: 1 })
  if (delay !== 0) live.setDelay(delay)
  const chunk = 8192
  for (let at = 0; at < reference.length; at += chunk) {
    const end = Math.min(at + chunk, reference.length)
    writer.write([reference.subarray(at, end), microphone.subarray(at, end)], end - at)
    live.poll()
  }
  if (!live.heard)
    throw new RangeError(
      `The recording of ${(reference.length / sampleRate).toFixed(2)} s is too short for one block.`,
    )
  const curve = {
    frequencies: standardGrid,
    re: new Float64Array(standardGrid.length),
    im: new Float64Array(standardGrid.length),
    coherence: new Float64Array(standardGrid.length),
  }
  live.read(curve)
  return { curve, arrival, delay, blocks: live.blocks, impulse: live.impulse() }
}
