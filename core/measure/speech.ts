import { filterThrough, type Section } from '../dsp'
import type { Decibels, Hertz } from '../units'
import { fractionalOctaves } from './bands'
import { onset } from './decay'
import { extentOf, heardLength, type Extent } from './extent'
import { bandFilter } from './level'

/** Modulation frequencies in Hz: thirds of an octave (IEC 60268-16). */
export const modulations = [0.63, 0.8, 1, 1.25, 1.6, 2, 2.5, 3.15, 4, 5, 6.3, 8, 10, 12.5] as const
/** Middles of the octaves that speech is judged by. */
export const speechOctaves = [125, 250, 500, 1000, 2000, 4000, 8000] as const
/**
 * Weights of the octaves from 125 Hz to 8 kHz and of what neighbours share, male speech (IEC 60268-16 ed. 4,
 * table A.2: value from memory).
 */
const alpha = [0.085, 0.127, 0.23, 0.233, 0.309, 0.224, 0.173]
const beta = [0.085, 0.078, 0.065, 0.011, 0.047, 0.095]
/** Level of each octave under which nothing is heard, dB SPL (IEC 60268-16 ed. 4, table A.4: value from memory). */
const threshold: readonly Decibels[] = [46, 27, 12, 6.5, 7.5, 8, 12]
/**
 * Octave levels of male speech over its A-weighted level (IEC 60268-16 ed. 4, table A.5: value from memory).
 */
export const speechSpectrum: readonly Decibels[] = [2.9, 2.9, -0.8, -6.8, -12.8, -18.8, -24.8]

/** Levels of speech and noise at the listener, seven octaves from 125 Hz on, dB SPL. */
export interface SpeechLevels {
  speech: readonly Decibels[]
  noise: readonly Decibels[]
}

/** How far an octave of this level masks the next higher one, in dB (IEC 60268-16 ed. 4, A.2.5.2: from memory). */
function maskingOf(level: Decibels): Decibels {
  if (level < 63) return 0.5 * level - 65
  if (level < 67) return 1.8 * level - 146.9
  return level < 100 ? 0.5 * level - 59.8 : -10
}

/**
 * What is left of each octave's modulation by noise, by what the octave below masks, and by the threshold of
 * hearing. Source: IEC 60268-16 ed. 4, annex A.
 */
export function modulationLeft({ speech, noise }: SpeechLevels): number[] {
  const intensity = (level: Decibels) => 10 ** (level / 10)
  const total = speech.map((s, k) => intensity(s) + intensity(noise[k]!))
  return speech.map((s, k) => {
    const below = k === 0 ? 0 : total[k - 1]! * intensity(maskingOf(10 * Math.log10(total[k - 1]!)))
    return intensity(s) / (total[k]! + below + intensity(threshold[k]!))
  })
}

/**
 * Speech transmission index from the modulation transfer of seven octaves (125 Hz to 8 kHz), each with one
 * value a modulation frequency.
 */
export function stiOfModulation(transfer: readonly (readonly number[])[]): number {
  const octave = transfer.map((row) => {
    const index = row.map((m) => {
      const ratio
        = 10 * Math.log10(Math.max(1e-9, Math.min(1 - 1e-9, m)) / (1 - Math.max(1e-9, Math.min(1 - 1e-9, m))))
      return (Math.max(-15, Math.min(15, ratio)) + 15) / 30
    })
    return index.reduce((a, b) => a + b) / index.length
  })
  const sum
    = octave.reduce((s, m, k) => s + alpha[k]! * m, 0)
      - beta.reduce((s, b, k) => s + b * Math.sqrt(octave[k]! * octave[k + 1]!), 0)
  return Math.max(0, Math.min(1, sum))
}

/** How far a response must stand over its noise, and over its own end, for its modulation to be read off it. */
const leastRange: Decibels = 18
const noMissing: Extent = { end: 0, noise: 0, missing: 0, constant: 0, range: 0, cut: false }

/** Samples over which a phase is turned step by step: it is off by 1e-13 at most then. */
const exactEvery = 512

/** Modulation of the energy up to `end`, with the decay that is missing behind it. */
function modulationsOf(energy: Float64Array, { end, noise, missing, constant }: Extent, sampleRate: Hertz): number[] {
  return modulations.map((f) => {
    const w = (2 * Math.PI * f) / sampleRate
    let re = 0
    let im = 0
    let sum = 0
    const [turnRe, turnIm] = [Math.cos(w), Math.sin(w)]
    for (let from = 0; from < end; from += exactEvery) {
      let c = Math.cos(w * from)
      let s = Math.sin(w * from)
      for (let n = from; n < Math.min(end, from + exactEvery); n++) {
        const e = energy[n]! - noise
        sum += e
        re += e * c
        im += e * s
        const next = c * turnRe - s * turnIm
        s = c * turnIm + s * turnRe
        c = next
      }
    }
    // ∫ from the end on of an exponential, turned on by its phase there
    const size = 1 + (w * constant) ** 2
    const [c, s] = [Math.cos(w * end), Math.sin(w * end)]
    re += (missing * (c - w * constant * s)) / size
    im += (missing * (s + w * constant * c)) / size
    return Math.hypot(re, im) / (sum + missing)
  })
}

/** Energy behind a band's filter, and how far it can be followed. */
function behindFilter(response: Float64Array, sections: readonly Section[], sampleRate: Hertz, width: Hertz) {
  const energy = filterThrough(sections, response).map(v => v * v)
  return { energy, extent: extentOf(energy, sampleRate, width) }
}

/**
 * Speech transmission index behind an impulse response by Schroeder's modulation transfer (Schroeder 1981): of the
 * room alone, or with `levels` of speech and noise at the listener, auditory masking and threshold (IEC 60268-16
 * ed. 4). Null where there is no decay to read it off in every octave: silence, tones, noise, a response that is
 * cut too early, or a sample rate that leaves out 8 kHz.
 */
export function speechTransmission(
  response: ArrayLike<number>,
  sampleRate: Hertz,
  levels?: SpeechLevels,
): number | null {
  if (sampleRate < 23_000) return null
  const start = onset(response)
  const last = lastHeard(response)
  if (last < start) return null
  const ringing = Math.round(0.1 * sampleRate)
  const padded = new Float64Array(Math.max(response.length, last + ringing) - start)
  for (let n = start; n < response.length; n++) padded[n - start] = response[n]!
  const click = padded.map((_, n) => (n === 0 ? 1 : 0)).subarray(0, 4 * ringing)
  const left = levels ? modulationLeft(levels) : null
  const transfer: number[][] = []
  for (const [octave, band] of fractionalOctaves(1, 125, 8000).entries()) {
    const sections = bandFilter(band, sampleRate)
    const width = band.high - band.low
    if (endsTooEarly(padded, last - start + 1, sections, sampleRate, width)) return null
    const { energy, extent } = behindFilter(padded, sections, sampleRate, width)
    if (extent.range < leastRange) return null
    // what the filter itself smears is the same for every response
    const own = behindFilter(click, sections, sampleRate, width)
    const ideal = modulationsOf(own.energy, { ...noMissing, end: own.energy.length }, sampleRate)
    const read = modulationsOf(energy, extent, sampleRate)
    transfer.push(read.map((m, k) => Math.min(1, m / ideal[k]!) * (left?.[octave] ?? 1)))
  }
  return stiOfModulation(transfer)
}

function lastHeard(response: ArrayLike<number>): number {
  let last = response.length - 1
  while (last >= 0 && response[last] === 0) last--
  return last
}

/** Independent values from which on a band’s own decay is looked at. */
const enoughValues = 16

/** True where sound that is still loud ends at once: what came after is not known. A click of 1 ms is all there is. */
function endsTooEarly(
  response: Float64Array,
  length: number,
  sections: readonly Section[],
  sampleRate: Hertz,
  width: Hertz,
): boolean {
  if (length < 0.001 * sampleRate) return false
  const heard = response.subarray(0, length)
  const early = ({ cut, range }: Extent) => cut && range < leastRange
  if (early(extentOf(heard.map(v => v * v), sampleRate, sampleRate / 2))) return true
  const backwards = filterThrough(sections, heard.toReversed()).reverse().map(v => v * v)
  return (width * heardLength(backwards)) / sampleRate >= enoughValues && early(extentOf(backwards, sampleRate, width))
}
