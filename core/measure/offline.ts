import { standardGrid } from '../dsp'
import { showFrequency, type Hertz, type Seconds } from '../units'
import { findArrival, type Arrival } from './arrival'
import { measuredCurve, type MeasuredCurve } from './gridReader'
import { createLive, levelOf, type LiveOptions } from './liveEngine'
import { createRing, ringWriter } from './ring'
import { isFlattened } from './sweepHeard'
import { fewBlocks, trustedPart, trustThreshold } from './trust'
import { message, refusal, type Message } from '../words'

export interface TransferOptions extends Pick<
  LiveOptions,
  'length' | 'averaging' | 'estimator' | 'window' | 'spectrum'
> {
  overlap?: number
  /** Delay of the microphone that is taken out: found in the recording, or given. */
  delay: 'auto' | Seconds
}

export interface TransferResult {
  curve: MeasuredCurve
  /** Found in the recording; null when nothing stands out, or when the delay was given. */
  arrival: Arrival | null
  delay: Seconds
  blocks: number
  /** What speaks against the figures. */
  warnings: Message[]
  /** Response behind the average; time 0 (after `delay`) at index 0, negative times wrapped to the end. */
  impulse: Float64Array
}

/** Peak in dBFS under which a channel is silent. */
const silence = -90

/** Arrival in a whole recording: looked for where the reference is loudest. */
function arrivalIn(reference: Float32Array, microphone: Float32Array, sampleRate: Hertz): Arrival | null {
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
  return findArrival(
    reference.subarray(from, from + frames),
    microphone.subarray(from, from + frames),
    sampleRate,
  )
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
    throw refusal('measure.lengthsDiffer')
  if (!(levelOf(reference).peak > silence))
    throw refusal('measure.referenceSilent')
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
  if (!live.heard && !(levelOf(microphone).peak > silence))
    throw refusal('measure.microphoneSilent')
  if (!live.heard)
    throw refusal('measure.tooShort', { seconds: (reference.length / sampleRate).toFixed(2) })
  const curve = measuredCurve(standardGrid)
  live.read(curve)
  const heard = arrival ?? live.trackArrival()
  const warnings = doubtsOf(reference, microphone, live.blocks, curve, heard?.band ?? null)
  if (options.delay === 'auto' && !arrival)
    warnings.unshift(message('measure.noArrival'))
  if (live.lowest > standardGrid[0]!)
    warnings.push(message('measure.tooCoarse', { length: options.length, lowest: Math.round(live.lowest) }))
  return { curve, arrival, delay, blocks: live.blocks, warnings, impulse: live.impulse() }
}

/** Whether some block of a recording is cut off at its top. */
function isClipped(signal: Float32Array): boolean {
  for (let at = 0; at < signal.length; at += 8192) if (isFlattened(signal.subarray(at, at + 8192))) return true
  return false
}

/** What a recording and its average say against the figures. */
function doubtsOf(
  reference: Float32Array,
  microphone: Float32Array,
  blocks: number,
  curve: MeasuredCurve,
  band: Arrival['band'] | null,
): Message[] {
  const doubts: Message[] = []
  for (const [what, signal] of [['reference', reference], ['microphone', microphone]] as const)
    if (isClipped(signal))
      doubts.push(message('measure.clipped', { what }))
  if (blocks < fewBlocks)
    doubts.push(message('measure.fewBlocks', { blocks }))
  const { part, band: [low, high] } = trustedPart(curve, band)
  if (part < 0.5) {
    doubts.push(message('measure.littleTrusted', {
      threshold: trustThreshold,
      percent: Math.round(100 * (1 - part)),
      low: showFrequency(Math.round(low)),
      high: showFrequency(Math.round(high)),
    }))
  }
  return doubts
}
