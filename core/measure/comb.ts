import { realFft } from '../dsp'
import type { Decibels, Hertz, Seconds } from '../units'

/** The same sound twice: the second `delay` after the first, `level` against it, turned when `polarity` is -1. */
export interface Comb {
  delay: Seconds
  level: Decibels
  polarity: 1 | -1
}

const shortest: Seconds = 0.00012
const longest: Seconds = 0.012
const taken: Seconds = 0.03
/** How far a peak must stand over the RMS of the rest of the cepstrum; noise alone reaches 4. */
const clear = 8

/**
 * A comb in a response: the strongest peak of its power cepstrum (Bogert, Healy & Tukey 1963) between 0.12 and
 * 12 ms, from the 30 ms
 * after the arrival (sample `at`). Finds a second arrival that hides in the first one's own ringing. Null when
 * none stands out.
 */
export function combOf(response: ArrayLike<number>, sampleRate: Hertz, at: number): Comb | null {
  const size = 2 ** Math.ceil(Math.log2(4 * taken * sampleRate))
  const count = Math.round(taken * sampleRate)
  const lead = Math.round(0.001 * sampleRate)
  const bins = size / 2 + 1
  const part = new Float64Array(size)
  const re = new Float64Array(bins)
  const im = new Float64Array(bins)
  const fft = realFft(size)
  for (let n = 0; n < count + lead; n++)
    part[n] = (response[at - lead + n] ?? 0) * Math.min(1, (count + lead - n) / (count / 2))
  fft.forward(part, re, im)
  // up to where loudspeakers reach: the log of nothing would drown the rest
  const from = Math.ceil((150 * size) / sampleRate)
  const to = Math.floor((Math.min(12_000, 0.45 * sampleRate) * size) / sampleRate)
  let power = 0
  for (let k = from; k <= to; k++) power += re[k]! ** 2 + im[k]! ** 2
  if (power <= 0) return null
  const floor = (power / (to - from)) * 1e-4
  const log = Float64Array.from(
    { length: to - from + 1 },
    (_, n) => 0.5 * Math.log(re[from + n]! ** 2 + im[from + n]! ** 2 + floor),
  )
  // the loudspeaker's own slow course goes out: a mean over 1/`shortest`, which no comb sought is wider than
  const wide = Math.round(size / sampleRate / shortest / 2)
  const sums = new Float64Array(log.length + 1)
  log.forEach((v, n) => {
    sums[n + 1] = sums[n]! + v
  })
  const spectrum = new Float64Array(bins)
  const nothing = new Float64Array(bins)
  const cepstrum = new Float64Array(size)
  log.forEach((v, n) => {
    const a = Math.max(0, n - wide)
    const b = Math.min(log.length, n + wide + 1)
    spectrum[from + n]
      = (v - (sums[b]! - sums[a]!) / (b - a)) * (0.5 - 0.5 * Math.cos((2 * Math.PI * n) / (log.length - 1)))
  })
  fft.inverse(spectrum, nothing, cepstrum)
  const first = Math.ceil(shortest * sampleRate)
  const end = Math.floor(longest * sampleRate)
  let best = first
  for (let n = first; n <= end; n++) if (Math.abs(cepstrum[n]!) > Math.abs(cepstrum[best]!)) best = n
  // against everything but the peak and its multiples
  let energy = 0
  let others = 0
  for (let n = first; n <= end; n++)
    if (Math.abs(n - best * Math.round(n / best)) > 4) {
      energy += cepstrum[n]! ** 2
      others++
    }
  if (best === first || best === end || Math.abs(cepstrum[best]!) < clear * Math.sqrt(energy / others)) return null
  const a = Math.abs(cepstrum[best - 1]!)
  const b = Math.abs(cepstrum[best]!)
  const c = Math.abs(cepstrum[best + 1]!)
  const delay = (best + (0.5 * (a - c)) / (a - 2 * b + c)) / sampleRate
  // |1 + r e^(-iωτ)|: the cepstrum has r at τ, scaled by the part of the spectrum that was looked at
  const ratio = Math.min(1, (2 * b * size) / 2 / (log.length * 0.5))
  const polarity = cepstrum[best]! < 0 ? -1 : 1
  return { delay, level: 20 * Math.log10(ratio), polarity }
}
