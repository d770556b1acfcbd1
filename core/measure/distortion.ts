import type { SweepPlan } from '../dsp'
import type { Hertz } from '../units'
import { fractionalOctaves } from './bands'
import { exactBlock } from './deconvolve'

/** Energy a Hz of the noise behind the division by the sweep, in a response of so many samples. */
export type NoiseFloor = (f: Hertz, frames: number) => number

/** A harmonic's level over the fundamental in dB, by the frequency that excited it; NaN where noise governs. */
export interface Harmonic {
  order: number
  frequencies: Float64Array
  level: Float64Array
}
/** Total distortion over the fundamental in dB, by the frequency that excited it; NaN where nothing is known. */
export interface Distortion {
  frequencies: Float64Array
  /** Harmonics 2 to 5 together. */ harmonic: Float64Array
  /** With the noise of the whole range. */ withNoise: Float64Array
}

const orders = [2, 3, 4, 5] as const
const highest = 6
/** A harmonic counts when it stands as far over its noise as the noise itself: 3 dB. */
const overNoise = 1

/** Energy over a sixth of an octave: one noisy bin says nothing of distortion. */
function around(power: Float64Array, f: Hertz, bin: Hertz): number {
  let sum = 0
  let count = 0
  const last = Math.min(power.length - 1, Math.ceil((f * 1.06) / bin))
  for (let k = Math.max(1, Math.floor(f / 1.06 / bin)); k <= last; k++, count++) sum += power[k]!
  return count ? sum / count : 0
}

/** |spectrum|² of a part of the response, its last tenth faded out. */
function powerOf(part: Float32Array): { power: Float64Array, frames: number } {
  const size = 2 ** Math.ceil(Math.log2(Math.max(2048, part.length)))
  const block = new Float32Array(size)
  const fade = part.length / 10
  for (let n = 0; n < part.length; n++) block[n] = part[n]! * Math.min(1, (n + 1) / 8, (part.length - n) / fade)
  const s = exactBlock(size).forward(block)
  return {
    power: Float64Array.from({ length: size / 2 + 1 }, (_, k) => s[2 * k]! ** 2 + s[2 * k + 1]! ** 2),
    frames: part.length,
  }
}

/**
 * Harmonics 2 to 5 and total distortion of a sweep's response. Harmonic k lies T·ln k / ln(f2/f1) before the peak
 * (Farina 2000); what of its reverberation is cut off by the next lower order, and what of the next higher one lies
 * in its place, is told from the room's own response at the same frequency. `background` is the noise's power over
 * the reference's.
 */
export function distortionOf(
  cut: (from: number, count: number) => Float32Array,
  peak: number,
  apart: (order: number) => number,
  plan: SweepPlan,
  sampleRate: Hertz,
  noise: NoiseFloor,
  background: number,
  length: number,
): { harmonics: Harmonic[], total: Distortion } {
  const before = Math.round(Math.min(0.005 * sampleRate, (apart(highest) - apart(highest - 1)) / 10))
  const gap = (order: number) => Math.round(apart(order) - apart(order - 1)) - before
  const frames = (order: number) => Math.max(64, Math.round(0.95 * gap(order)))
  const linear = powerOf(cut(peak - before, before + length))
  /** The room's response as long as an order's own place, and in the place of the order below it. */
  const within = new Map(orders.map(o => [o as number, powerOf(cut(peak - before, before + frames(o)))]))
  const behind = new Map(orders.map(o => [
    o as number,
    powerOf(cut(peak + gap(o + 1), before + frames(o))),
  ]))
  const measured = new Map([...orders, highest].map(o => [
    o as number,
    powerOf(cut(peak - Math.round(apart(o)) - before, before + frames(o))),
  ]))
  const binOf = ({ power }: { power: Float64Array }) => sampleRate / 2 / (power.length - 1)
  const at = (of: { power: Float64Array }, f: Hertz) => around(of.power, f, binOf(of))
  /** Energy of an order at the frequency where it sounds, noise and the next order's reverberation taken off. */
  const energyAt = (order: number, f: Hertz): { energy: number, noise: number } => {
    const own = measured.get(order)!
    const floor = noise(f, own.frames)
    let energy = at(own, f) - floor
    if (order < highest) {
      const next = at(measured.get(order + 1)!, f) - noise(f, frames(order + 1))
      const room = at(within.get(Math.min(5, order + 1))!, f)
      if (next > 0 && room > 0) energy -= (next * at(behind.get(order)!, f)) / room
    }
    return { energy, noise: floor }
  }
  const top = Math.min(plan.high, sampleRate / 2)
  const fundamental = (f: Hertz) => Math.max(1e-30, at(linear, f) - noise(f, linear.frames))
  const harmonics = orders.map((order): Harmonic => {
    const frequencies = fractionalOctaves(6, Math.max(20, plan.low), top / order / 1.1).map(b => b.middle)
    const level = frequencies.map((f) => {
      const { energy, noise: floor } = energyAt(order, order * f)
      if (!(energy > overNoise * floor)) return NaN
      const part = at(within.get(order)!, order * f) / Math.max(1e-30, at(linear, order * f))
      return 10 * Math.log10(energy / Math.min(1, part) / fundamental(f))
    })
    return { order, frequencies: Float64Array.from(frequencies), level: Float64Array.from(level) }
  })
  return { harmonics, total: totalOf(harmonics, f => background / fundamental(f)) }
}

/** All harmonics together, and with the noise over the fundamental. */
function totalOf(harmonics: readonly Harmonic[], noiseAt: (f: Hertz) => number): Distortion {
  const { frequencies } = harmonics[0]!
  const ratio = (level: number | undefined) => (level === undefined || Number.isNaN(level) ? 0 : 10 ** (level / 10))
  const sums = Float64Array.from(frequencies, (_, k) => harmonics.reduce((sum, h) => sum + ratio(h.level[k]), 0))
  const db = (x: number) => (x > 0 ? 10 * Math.log10(x) : NaN)
  return {
    frequencies,
    harmonic: sums.map(db),
    withNoise: sums.map((sum, k) => db(sum + noiseAt(frequencies[k]!))),
  }
}
