import { filterThrough } from '../dsp'
import type { Decibels, Hertz } from '../units'
import { fractionalOctaves } from './bands'
import { onset } from './decay'
import { bandFilter } from './level'

/** Modulation frequencies in Hz: thirds of an octave (IEC 60268-16). */
export const modulations = [0.63, 0.8, 1, 1.25, 1.6, 2, 2.5, 3.15, 4, 5, 6.3, 8, 10, 12.5] as const
/**
 * Weights of the octaves from 125 Hz to 8 kHz and of what neighbours share, male speech (IEC 60268-16 ed. 4,
 * table A.2: value from memory).
 */
const alpha = [0.085, 0.127, 0.23, 0.233, 0.309, 0.224, 0.173]
const beta = [0.085, 0.078, 0.065, 0.011, 0.047, 0.095]

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

/**
 * Speech transmission index behind an impulse response by Schroeder's modulation transfer (Schroeder 1981),
 * with speech over noise
 * of `signalToNoise` dB an octave where it is given (no auditory masking, no threshold). Null when the sample
 * rate leaves out 8 kHz.
 */
export function speechTransmission(
  response: ArrayLike<number>,
  sampleRate: Hertz,
  signalToNoise?: readonly Decibels[],
): number | null {
  if (sampleRate < 23_000) return null
  const start = Math.max(0, onset(response) - Math.round(0.002 * sampleRate))
  return stiOfModulation(
    fractionalOctaves(1, 125, 8000).map((band, octave) => {
      const filtered = filterThrough(bandFilter(band, sampleRate), response)
      const noise = signalToNoise ? 1 / (1 + 10 ** (-signalToNoise[octave]! / 10)) : 1
      return modulations.map((f) => {
        let re = 0
        let im = 0
        let sum = 0
        const w = (2 * Math.PI * f) / sampleRate
        for (let n = start; n < filtered.length; n++) {
          const e = filtered[n]! * filtered[n]!
          sum += e
          re += e * Math.cos(w * n)
          im += e * Math.sin(w * n)
        }
        return sum > 0 ? (Math.hypot(re, im) / sum) * noise : 0
      })
    }),
  )
}
