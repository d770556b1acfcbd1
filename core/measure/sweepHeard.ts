import { exponentialSweep, type SweepPlan } from '../dsp'
import type { Hertz } from '../units'
import { deconvolve, type BlockMaker } from './deconvolve'
import { message, refusal, type Message } from '../words'

/** Where a sweep lies in its reference: first sample and samples, and its level there. */
export interface HeardSweep {
  start: number
  length: number
  /** RMS of the reference while it plays. */ rms: number
}

const segments = 48
/** Periods that a segment must hold to be judged. */
const leastPeriods = 2
/** Part of a segment's level that must be the announced tone. */
const leastAlike = 0.9
/** A segment that is so much quieter than the loudest is not played (a high-pass in the reference's way). */
const unheard = 1e-3
/** A fall between neighbours that no filter makes within a seventh of an octave: the sweep ended there. */
const steepest = 18
/** Zeros in a row that are a hole: somewhat under a block of sound cards and browsers. */
const hole = 112
/** Samples that come twice in a row when a block is repeated. */
const repeated = 64

interface Segment {
  from: number
  to: number
  frequency: Hertz
  level: number
  alike: number
}

/** How much of each part of the reference is the tone that the sweep plays there. */
function compare(reference: ArrayLike<number>, start: number, plan: SweepPlan, sampleRate: Hertz): Segment[] {
  const length = Math.round(plan.seconds * sampleRate)
  const rate = Math.log(plan.high / plan.low) / plan.seconds
  const found: Segment[] = []
  const frequencyAt = (n: number) => plan.low * Math.exp((rate * n) / sampleRate)
  // its fades are left out
  let from = Math.round(0.02 * length)
  const last = Math.round(0.985 * length)
  while (from < last) {
    const periods = Math.round((leastPeriods * sampleRate) / frequencyAt(from))
    const to = Math.min(last, from + Math.max(Math.round(length / segments), periods))
    let sine = 0
    let cosine = 0
    let power = 0
    for (let n = from; n < to; n++) {
      const phase = ((2 * Math.PI * plan.low) / rate) * (Math.exp((rate * n) / sampleRate) - 1)
      const x = reference[start + n] ?? 0
      sine += x * Math.sin(phase)
      cosine += x * Math.cos(phase)
      power += x * x
    }
    const count = to - from
    const alike = power > 0 ? Math.sqrt((2 * (sine * sine + cosine * cosine)) / (count * power)) : 0
    found.push({ from, to, frequency: frequencyAt((from + to) / 2), level: Math.sqrt(power / count), alike })
    from = to
  }
  return found
}

/**
 * Steps in the tone: a sine of slowly moving frequency is foretold by its last two samples; where it jumps it is not.
 */
function hasStep(reference: ArrayLike<number>, start: number, { from, to, frequency, level }: Segment, rate: Hertz) {
  const turn = 2 * Math.cos((2 * Math.PI * frequency) / rate)
  const off = new Float64Array(Math.max(0, to - from - 2))
  // the tone moves within a segment: its own misfit is smooth, and only what stands out of it is a step
  for (let n = 0; n < off.length; n++) {
    const at = start + from + n
    off[n] = Math.abs((reference[at + 2] ?? 0) - turn * (reference[at + 1] ?? 0) + (reference[at] ?? 0))
  }
  const most = off.reduce((a, b) => Math.max(a, b), 0)
  const usual = off.toSorted()[Math.floor(0.9 * off.length)] ?? 0
  return most > 0.12 * level * Math.SQRT2 && most > 6 * usual
}

/**
 * Finds the announced sweep in its reference. Throws RangeError with the reason when it is not there, or not whole:
 * silence, another signal or length, an end that is missing, dropped or repeated samples.
 */
export function findSweep(
  reference: ArrayLike<number>,
  plan: SweepPlan,
  sampleRate: Hertz,
  make?: BlockMaker,
): HeardSweep {
  const ideal = exponentialSweep({ ...plan, level: 0 }, sampleRate)
  let power = 0
  for (let n = 0; n < reference.length; n++) power += reference[n]! * reference[n]!
  if (!(power > 0)) throw refusal('measure.referenceSilent')
  const lags = deconvolve(ideal, reference, plan, sampleRate, make)
  const size = lags.length
  let start = 0
  for (let n = 0; n < size; n++) if (Math.abs(lags[n]!) > Math.abs(lags[start]!)) start = n
  if (start > size / 2) start -= size
  const found = compare(reference, start, plan, sampleRate)
  const top = found.reduce((most, s) => Math.max(most, s.level), 0)
  const heard = found.filter(s => s.level > unheard * top)
  const alike = heard.filter(s => s.alike >= leastAlike)
  if (alike.length < heard.length / 2)
    throw refusal('sweep.notHeld', { low: plan.low, high: plan.high, seconds: plan.seconds })
  if (start < -0.02 * ideal.length)
    throw refusal('sweep.startMissing')
  const ends = found.findIndex((s, k) => k > 0 && 20 * Math.log10(found[k - 1]!.level / (s.level || 1e-12)) > steepest)
  if (start + 0.98 * ideal.length > reference.length || ends > 0)
    throw refusal('sweep.endMissing')
  const broken = heard.find(s => s.alike < leastAlike || hasStep(reference, start, s, sampleRate))
  if (broken)
    throw refusal('sweep.broken', { frequency: Math.round(broken.frequency) })
  const rms = Math.sqrt(heard.reduce((sum, s) => sum + s.level ** 2 * (s.to - s.from), 0)
    / heard.reduce((sum, s) => sum + s.to - s.from, 0))
  return { start, length: ideal.length, rms }
}

/** How near to the largest value a flat top lies. */
const flat = 5e-4

/**
 * Flat tops: places where the largest value of a signal is held, above or below, for `longest` samples and more, which
 * may go by the place (a slow sine is flat by itself).
 */
function clippedParts(
  signal: ArrayLike<number>,
  from = 0,
  to = signal.length,
  longest: (n: number) => number = () => 4,
): number {
  let most = 0
  for (let n = from; n < to; n++) most = Math.max(most, Math.abs(signal[n]!))
  if (most === 0) return 0
  let parts = 0
  let run = 0
  for (let n = from; n < to; n++) {
    run = Math.abs(signal[n]!) > (1 - flat) * most ? run + 1 : 0
    if (run > 0 && run === Math.ceil(longest(n))) parts++
  }
  return parts
}

/** A block's places, and its level, from which a flat top is told of it. */
const blockClipped = 3
const blockAudible = 0.003
/** The coarsest step of a converter: 16 bits. */
const converterStep = 2 ** -15

/** Whether a block of any sound is cut off at its top, at whatever level; slow tones are flat there by themselves. */
export function isFlattened(block: ArrayLike<number>): boolean {
  let most = 0
  let crossings = 1
  for (let n = 0; n < block.length; n++) {
    most = Math.max(most, Math.abs(block[n]!))
    if (n > 0 && block[n]! * block[n - 1]! < 0) crossings++
  }
  if (most < blockAudible) return false
  // the steps of a converter make tops flat as well
  const level = Math.max(flat, converterStep / most)
  const natural = (3 * Math.sqrt(8 * level) * block.length) / (Math.PI * crossings)
  return clippedParts(block, 0, block.length, () => 2 + natural) >= blockClipped
}

/** How often of late blocks were flattened, after one more; from `flatOften` on it is told. */
export const followFlat = (often: number, flattened: boolean): number =>
  flattened ? Math.min(10, often + 1) : Math.max(0, often - 0.2)
export const flatOften = 3

/** Places from which on a flat top is clipping and no accident. */
const clippedFrom = 5

/** Lengths of the blocks that machines work in (common practice). */
const blockLengths = [64, 128, 192, 240, 256, 384, 441, 480, 512, 882, 960, 1024, 2048, 4096]

/** Whether a block follows itself, sample for sample. What does not change says nothing of that. */
function comesTwice(signal: ArrayLike<number>, from: number, to: number): boolean {
  for (const length of blockLengths) {
    let same = 0
    for (let n = Math.max(from, length); n < to; n++) {
      if (signal[n] !== signal[n - length]) same = 0
      else if (signal[n] !== signal[n - 1]) same++
      if (same === repeated) return true
    }
  }
  return false
}

/** Why a microphone's recording of a sweep cannot be used; null when it can. */
export function recordingFault(
  microphone: ArrayLike<number>,
  { start, length }: HeardSweep,
  plan: SweepPlan,
  sampleRate: Hertz,
): Message | null {
  const from = Math.max(0, start)
  const to = Math.min(microphone.length, start + length)
  let most = 0
  let power = 0
  let zeros = 0
  let holes = 0
  let heard = false
  for (let n = from; n < to; n++) {
    const x = microphone[n]!
    most = Math.max(most, Math.abs(x))
    power += x * x
    if (x !== 0) {
      if (heard && zeros >= hole) holes++
      zeros = 0
      heard = true
    }
    else zeros++
  }
  if (!(power > 0)) return message('sweep.microphoneSilent')
  if (most >= 0.989) return message('sweep.clips')
  const sweepRate = Math.log(plan.high / plan.low) / plan.seconds
  // three times as long as a sine of the tone that plays lies within a flat top by itself
  const toneAt = (n: number) => plan.low * Math.exp((sweepRate * (n - start)) / sampleRate)
  const natural = (n: number) => 4 + (3 * Math.sqrt(8 * flat) * sampleRate) / (2 * Math.PI * toneAt(n))
  if (clippedParts(microphone, from, to, natural) >= clippedFrom)
    return message('sweep.flattened')
  if (holes) return message('sweep.gaps', { gaps: holes })
  if (comesTwice(microphone, from, to)) return message('sweep.twice')
  return null
}
