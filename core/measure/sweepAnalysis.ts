import { curveOfImpulse, standardGrid, type SweepPlan } from '../dsp'
import { showNumber, type Decibels, type Hertz, type Seconds } from '../units'
import { bandLevels, fractionalOctaves } from './bands'
import { deconvolve, type BlockMaker } from './deconvolve'
import { distortionOf, type Distortion, type Harmonic, type NoiseFloor } from './distortion'
import { firstArrival } from './firstArrival'
import type { MeasuredCurve } from './gridReader'
import { powerSpectrum } from './level'
import { findSweep, recordingFault, type HeardSweep } from './sweepHeard'
import { jumpIn, splitOf } from './sweepJump'
import { skewOf } from './sweepSkew'
import { message, Refusal, refusal, type Message } from '../words'

/** Level of a sweep over the noise of one octave, as both are in the microphone's recording. */
export interface BandNoise {
  band: string
  middle: Hertz
  level: Decibels
}

export interface SweepResult {
  sampleRate: Hertz
  /** Response of microphone over reference; sample 0 is at time `start` (negative: before the reference). */
  impulse: Float32Array
  start: Seconds
  /** Time of the largest swing: what is taken out of the phase. */
  arrival: Seconds
  /** When it is first heard, by its own band; null where that cannot be told. */
  first: Seconds | null
  /** The response on the standard grid, delay taken out; its coherence is the part of it that is not noise. */
  curve: MeasuredCurve
  /**
   * Octaves: mean power of the sweep at the microphone over its length, over that of the noise in the silence before
   * it. Empty when there is no such silence, or not a sound in it: then nothing is known of the noise.
   */
  signalToNoise: BandNoise[]
  harmonics: Harmonic[]
  total: Distortion
  /** What must be known of the figures, in sentences. */
  warnings: Message[]
}

/** Silence before a sweep from which noise can be told, and what is left out before its start. */
const leastSilence: Seconds = 0.1
const beforeStart: Seconds = 0.01
/** Above this only the first 0.7 s count: nothing later matters to the ear's curve. */
const splitAt: Hertz = 200
const wholeFrames = 2 ** 17
const shortFrames = 2 ** 15
const noiseLength = 4096
/** Block of the spectra that octaves are told by. */
const bandFrames = 2 ** 14

/** The microphone in the silence before the sweep; null when there is none, or nothing in it. */
function silenceBefore(microphone: Float32Array, { start }: HeardSweep, sampleRate: Hertz): Float32Array | null {
  const count = start - Math.round(beforeStart * sampleRate)
  if (count < leastSilence * sampleRate) return null
  const part = microphone.subarray(0, count)
  return part.some(v => v !== 0) ? part : null
}

/** Sweep over noise by octave: all of its energy, less the noise's, spread over its length. */
function bandNoise(
  microphone: Float32Array,
  silence: Float32Array,
  { start, length }: HeardSweep,
  plan: SweepPlan,
  sampleRate: Hertz,
): BandNoise[] {
  const bands = fractionalOctaves(1, Math.max(31.5, plan.low), Math.min(16_000, plan.high / Math.SQRT2))
  // a block before it, so that its beginning, the lows, is no window's edge
  const heard = microphone.subarray(Math.max(0, start - bandFrames))
  const power = (x: Float32Array) =>
    bandLevels(powerSpectrum(x, bandFrames), sampleRate, bands).map(db => 10 ** (db / 10))
  const [both, noise] = [power(heard), power(silence)]
  return bands.map((band, k) => {
    const signal = ((both[k]! - noise[k]!) * heard.length) / length
    const level = 10 * Math.log10(Math.max(1e-2, signal / Math.max(1e-20, noise[k]!)))
    return { band: band.name, middle: band.middle, level }
  })
}

/** The silence's spectrum divided by the sweep's own: white noise of the microphone is tilted by the sweep. */
function noiseFloorOf(
  silence: Float32Array | null,
  { rms, length }: HeardSweep,
  plan: SweepPlan,
  sampleRate: Hertz,
): NoiseFloor {
  if (!silence) return () => 0
  const size = Math.min(noiseLength, 2 ** Math.floor(Math.log2(silence.length)))
  const power = powerSpectrum(silence, size)
  const sweepRate = Math.log(plan.high / plan.low) / plan.seconds
  return (f, frames) => {
    const place = (f * size) / sampleRate
    const k = Math.max(1, Math.min(size / 2 - 1, Math.floor(place)))
    const mix = Math.max(0, Math.min(1, place - k))
    const density = (power[k]! * (1 - mix) + power[k + 1]! * mix) * (size / 2)
    // |X(f)|² of an exponential sweep: its power times the time that it spends in a hertz (Farina 2000)
    const energy = (rms * rms * length * sampleRate) / (2 * f * sweepRate * plan.seconds)
    return (frames * density) / energy
  }
}

/** The response on the standard grid with how much of it is not noise. */
function curveOf(
  impulse: Float32Array,
  at: Seconds,
  sampleRate: Hertz,
  plan: SweepPlan,
  noise: NoiseFloor,
): SweepResult['curve'] {
  const split = standardGrid.findIndex(f => f >= splitAt)
  const part = (frames: number, from: number, to: number) =>
    curveOfImpulse(impulse.subarray(0, frames), sampleRate, at, standardGrid.subarray(from, to))
  const low = part(wholeFrames, 0, split)
  const high = part(shortFrames, split, standardGrid.length)
  const re = Float64Array.from([...low.re, ...high.re])
  const im = Float64Array.from([...low.im, ...high.im])
  const coherence = Float64Array.from(standardGrid, (f, k) => {
    if (f < plan.low / 1.03 || f > plan.high * 1.03) return 0
    const power = re[k]! ** 2 + im[k]! ** 2
    const frames = Math.min(impulse.length, k < split ? wholeFrames : shortFrames)
    return power > 0 ? Math.max(0, 1 - noise(f, frames) / power) : 0
  })
  return { frequencies: standardGrid, re, im, coherence, averages: new Float64Array(standardGrid.length).fill(1) }
}

/** Why a recording that ends before the sweep has arrived cannot be used. */
function cutShort(microphone: Float32Array, { start, length }: HeardSweep, sampleRate: Hertz): Message | null {
  const missing = start + 0.98 * length - microphone.length
  return missing > 0 ? message('sweep.late', { seconds: showNumber(missing / sampleRate, 2) }) : null
}

/** Throws RangeError when samples are missing from the microphone's recording, or came twice. */
function refuseJumps(
  microphone: Float32Array,
  circular: Float64Array,
  peak: number,
  heard: HeardSweep,
  plan: SweepPlan,
  sampleRate: Hertz,
) {
  const jump = jumpIn(microphone, heard, plan, sampleRate)
  if (jump !== null) {
    const f = plan.low * (plan.high / plan.low) ** ((jump - heard.start) / heard.length)
    throw refusal('sweep.jumps', { at: (jump / sampleRate).toFixed(2), frequency: Math.round(f) })
  }
  const half = Math.round(0.1 * sampleRate)
  const size = circular.length
  const near = Float32Array.from({ length: 2 * half }, (_, n) => circular[(((peak - half + n) % size) + size) % size]!)
  const split = splitOf(near, half, sampleRate)
  if (split)
    throw refusal('sweep.leftOut', {
      frequency: Math.round(split.frequency),
      shift: Math.abs(1000 * split.later).toFixed(2),
      direction: split.later > 0 ? 'later' : 'earlier',
    })
}

function firstArrivalIn(impulse: Float32Array, start: Seconds, sampleRate: Hertz): Seconds | null {
  const first = firstArrival(impulse, sampleRate)
  return first === null ? null : start + first
}

/**
 * Analyses the recording of an announced sweep, which must be whole in its reference, with silence before it to tell
 * the noise and a tail behind it. `longest` limits the response kept after its arrival. Throws RangeError with the
 * reason when the sweep is not there, is damaged, or the microphone's recording is. `heard` is where the reference
 * holds it, when that is known already. Source: Farina 2000.
 */
export function analyseSweep(
  reference: Float32Array,
  microphone: Float32Array,
  plan: SweepPlan,
  sampleRate: Hertz,
  longest: Seconds = 3,
  make?: BlockMaker,
  heard = findSweep(reference, plan, sampleRate, make),
): SweepResult {
  if (reference.length !== microphone.length) throw refusal('measure.lengthsDiffer')
  const circular = deconvolve(reference, microphone, plan, sampleRate, make)
  const size = circular.length
  const at = (n: number) => circular[((n % size) + size) % size]!
  let peak = 0
  for (let n = 1; n < size; n++) {
    const lag = n < size / 2 ? n : n - size
    if (Math.abs(circular[n]!) > Math.abs(at(peak))) peak = lag
  }
  // where the sweep lies in the microphone's recording, however late it is heard there
  const late = { ...heard, start: heard.start + peak }
  const fault = recordingFault(microphone, late, plan, sampleRate) ?? cutShort(microphone, late, sampleRate)
  if (fault) throw new Refusal(fault)
  const warnings: Message[] = []
  refuseJumps(microphone, circular, peak, late, plan, sampleRate)
  const skew = skewOf(circular, peak, plan, sampleRate)
  if (skew !== null)
    warnings.push(
      message('sweep.twoSpeeds', {
        percent: showNumber(100 * Math.abs(skew), 2),
        direction: skew > 0 ? 'later' : 'earlier',
      }),
    )
  const tail = Math.max(0, reference.length - Math.max(0, heard.start) - heard.length - Math.max(0, peak))
  if (tail < 0.2 * sampleRate)
    warnings.push(message('sweep.noTail'))
  const apart = (order: number) => ((plan.seconds * Math.log(order)) / Math.log(plan.high / plan.low)) * sampleRate
  const early = Math.round(Math.min(0.05 * sampleRate, apart(2) / 4))
  const length = Math.min(Math.round(longest * sampleRate), Math.max(tail, Math.round(0.1 * sampleRate)), size / 2)
  const cut = (from: number, count: number) => Float32Array.from({ length: count }, (_, n) => at(from + n))
  const impulse = cut(peak - early, early + length)
  const silence = silenceBefore(microphone, heard, sampleRate)
  if (!silence) warnings.push(message('sweep.noSilence'))
  const noise = noiseFloorOf(silence, heard, plan, sampleRate)
  const start = (peak - early) / sampleRate
  const background = silence ? silence.reduce((sum, v) => sum + v * v, 0) / silence.length : 0
  return {
    sampleRate,
    impulse,
    start,
    arrival: peak / sampleRate,
    first: firstArrivalIn(impulse, start, sampleRate),
    curve: curveOf(impulse, -early / sampleRate, sampleRate, plan, noise),
    signalToNoise: silence ? bandNoise(microphone, silence, heard, plan, sampleRate) : [],
    ...distortionOf(cut, peak, apart, plan, sampleRate, noise, background / heard.rms ** 2, length),
    warnings,
  }
}
