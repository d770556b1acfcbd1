import { addTo, applyGainAndDelay, applyTaps, realFft, silence, standardGrid, unity, type Curve } from '../dsp'
import type { Decibels, Hertz, Seconds } from '../units'
import { alignSources, type AlignCandidate } from './bestSum'
import type { AlignTask, Pair } from './alignTask'
import { refusal } from '../words'

/** Impulse responses of one source, one a position; sample 0 lies at the same moment in all. */
export type Responses = readonly Float32Array[]

export interface AlignImpulses extends Omit<AlignTask, 'frequencies' | 'widths' | 'pairs' | 'weights' | 'step'> {
  sampleRate: Hertz
  reference: Responses
  move: Responses
  step?: Seconds | undefined
  band?: readonly [Hertz, Hertz] | undefined
  weights?: readonly number[] | undefined
  /** By how much longer the moved source's sound flies at each position: what a change of air costs goes by it. */
  flights?: readonly Seconds[] | undefined
}

const usualStep: Seconds = 2e-5
/** dB by which two sources may differ where they overlap, and by which each may lie under its own loudest. */
const [apart, under] = [10, 30]
const perOctave = 6
/** A gap of a sixth of an octave is bridged. */
const bridged = 2 ** (1 / 6) * (1 + 1e-9)

interface Spectrum {
  re: Float64Array
  im: Float64Array
}
function spectraOf(responses: Responses, size: number): Spectrum[] {
  const fft = realFft(size)
  return responses.map((samples) => {
    const padded = new Float64Array(size)
    padded.set(samples)
    const re = new Float64Array(size / 2 + 1)
    const im = re.slice()
    fft.forward(padded, re, im)
    return { re, im }
  })
}

/** Mean power over positions by sixths of an octave, from 16 Hz upwards, in dB; NaN where no frequency lies. */
function levelsOf(spectra: readonly Spectrum[], spacing: Hertz, bands: readonly Hertz[]): Decibels[] {
  const edge = 2 ** (1 / (2 * perOctave))
  return bands.map((f) => {
    const [from, to] = [Math.ceil(f / edge / spacing), Math.floor((f * edge) / spacing)]
    let [sum, count] = [0, 0]
    for (const { re, im } of spectra) {
      for (let k = Math.max(1, from); k <= Math.min(to, re.length - 1); k++) {
        sum += re[k]! ** 2 + im[k]! ** 2
        count++
      }
    }
    return count ? 10 * Math.log10(Math.max(1e-30, sum / count)) : Number.NaN
  })
}

/**
 * Where two sources overlap: both within 10 dB of each other and within 30 dB of their own loudest, in the widest run
 * of sixths of an octave. Null where they do not.
 */
export function overlapOf(
  a: readonly Decibels[],
  b: readonly Decibels[],
  bands: readonly Hertz[],
): [Hertz, Hertz] | null {
  const top = (list: readonly Decibels[]) => Math.max(...list.filter(Number.isFinite))
  const [topA, topB] = [top(a), top(b)]
  const both = bands.map((_, k) =>
    Math.abs(a[k]! - b[k]!) <= apart && a[k]! >= topA - under && b[k]! >= topB - under)
  let best: [number, number] | null = null
  for (let k = 0; k < bands.length; k++) {
    if (!both[k]) continue
    let end = k
    // a dip of a comb, or of trust, is no end
    for (let next = k + 1; next < bands.length && bands[next]! <= bands[end]! * bridged; next++)
      if (both[next]) end = next
    if (!best || end - k > best[1] - best[0]) best = [k, end]
    k = end
  }
  if (!best || best[1] === best[0]) return null
  const edge = 2 ** (1 / (2 * perOctave))
  return [bands[best[0]]! / edge, bands[best[1]]! * edge]
}

/**
 * `alignSources` from impulse responses, with the band found from them unless it is given. Throws RangeError with what
 * is wrong with them.
 */
export function alignImpulses(
  wish: AlignImpulses,
): { candidates: AlignCandidate[], band: [Hertz, Hertz] } {
  const { reference, move, sampleRate, flights, band: given, step = usualStep, ...rest } = wish
  const weights = wish.weights ?? reference.map(() => 1)
  const longest = Math.max(...[...reference, ...move].map(s => s.length))
  const size = 2 ** Math.max(10, Math.ceil(Math.log2(longest)))
  const spacing = sampleRate / size
  const [r, m] = [spectraOf(reference, size), spectraOf(move, size)]
  const bands = Array.from({ length: perOctave * 10 }, (_, k) => 16 * 2 ** (k / perOctave))
    .filter(f => f < sampleRate / 2.2)
  const band = given
    ? [...given] as [Hertz, Hertz]
    : overlapOf(levelsOf(r, spacing, bands), levelsOf(m, spacing, bands), bands)
  if (!band)
    throw refusal('align.noOverlap')
  if (band[1] >= sampleRate / 2)
    throw refusal('align.bandBeyondRate', { half: sampleRate / 2 })
  const [from, to] = [Math.max(1, Math.ceil(band[0] / spacing)), Math.floor(band[1] / spacing)]
  if (to < from) throw refusal('align.tooShort')
  const frequencies = Float64Array.from({ length: to - from + 1 }, (_, k) => (from + k) * spacing)
  const cut = ({ re, im }: Spectrum) => ({ re: re.subarray(from, to + 1), im: im.subarray(from, to + 1) })
  const pairs = r.map((one, n): Pair => ({
    reference: cut(one),
    move: cut(m[n]!),
    ...(flights ? { apart: flights[n]! } : {}),
  }))
  const widths = frequencies.map(() => 1)
  return { candidates: alignSources({ ...rest, frequencies, widths, pairs, weights, step }), band }
}

/** How one source goes into a sum. */
export interface SumPart {
  responses: Responses
  gain: Decibels
  delay: Seconds
  polarity: 1 | -1
}

/** The complex sum of sources at each position, from their impulse responses, on the standard grid to half the rate. */
export function sumImpulses(parts: readonly SumPart[], sampleRate: Hertz): Curve[] {
  const at = standardGrid.filter(f => f < sampleRate / 2)
  const count = parts[0]?.responses.length ?? 0
  return Array.from({ length: count }, (_, n) => {
    const sum = silence(at)
    for (const { responses, gain, delay, polarity } of parts) {
      const curve = unity(at)
      applyTaps(curve, responses[n]!, sampleRate)
      applyGainAndDelay(curve, polarity * 10 ** (gain / 20), delay)
      addTo(sum, curve)
    }
    return sum
  })
}
