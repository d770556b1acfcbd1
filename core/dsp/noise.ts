import type { Decibels, Hertz } from '../units'
import { applySections, type Section } from './biquad'

/** A stream of samples: fills `block` with the next ones. */
export type SampleSource = (block: Float32Array) => void

/**
 * Uniform random numbers in [0, 1) from a 32-bit seed (xorshift-multiply, period 2^32): repeatable, so tests
 * and stand-ins agree.
 */
export function seededRandom(seed: number): () => number {
  let state = seed >>> 0
  return () => {
    state = (state + 0x9e3779b9) >>> 0
    let t = state ^ (state >>> 16)
    t = Math.imul(t, 0x21f0aaad)
    t ^= t >>> 15
    t = Math.imul(t, 0x735a2d97)
    return ((t ^ (t >>> 15)) >>> 0) / 4294967296
  }
}

/** White noise of RMS 1 (uniform amplitude, crest factor 4.8 dB). */
export function whiteNoise(seed: number): SampleSource {
  const random = seededRandom(seed)
  const scale = 2 * Math.sqrt(3)
  return (block) => {
    for (let n = 0; n < block.length; n++) block[n] = (random() - 0.5) * scale
  }
}

const pinkFrom = 2
const pinkStep = Math.LN2 / 2

/**
 * First-order sections that tilt white noise by -3.01 dB an octave: on the bilinear transform's axis Ω =
 * tan(πf/fs), cut into
 * half-octaves, each section drops by what 1/√f drops there (the slope fades towards Nyquist, where Ω runs away
 * from f).
 * Neighbours leak into one another, so the drops are corrected until their sum has the right slope at every centre.
 */
export function pinkShaping(sampleRate: Hertz): Section[] {
  const first = Math.log(Math.tan((Math.PI * pinkFrom) / sampleRate))
  const last = Math.log(60)
  const centres = Array.from(
    { length: Math.ceil((last - first) / pinkStep) },
    (_, n) => first + (n + 0.5) * pinkStep,
  )
  const wanted = centres.map((c) => {
    const w = Math.exp(c)
    return w / ((1 + w * w) * Math.atan(w))
  })
  const corner = (n: number, side: 1 | -1, slope: number) => Math.exp(centres[n]! + (side * slope * pinkStep) / 4)
  // d ln|H|² / d ln Ω of one pole is -2Ω²/(Ω² + p²), of one zero the same with the other sign
  const tilt = (omega: number, breakpoint: number) => (2 * omega ** 2) / (omega ** 2 + breakpoint ** 2)
  const slopes = [...wanted]
  for (let round = 0; round < 20; round++) {
    const actual = centres.map((c) => {
      const omega = Math.exp(c)
      return centres.reduce(
        (sum, _, n) => sum + tilt(omega, corner(n, -1, slopes[n]!)) - tilt(omega, corner(n, 1, slopes[n]!)),
        0,
      )
    })
    slopes.forEach((slope, n) => {
      slopes[n] = slope + 0.7 * (wanted[n]! - actual[n]!)
    })
  }
  return slopes.map((slope, n) => {
    const p = corner(n, -1, slope)
    const z = corner(n, 1, slope)
    return [(1 + 1 / z) / (1 + 1 / p), (1 - 1 / z) / (1 + 1 / p), 0, (1 - 1 / p) / (1 + 1 / p), 0] as const
  })
}

const shapings = new Map<Hertz, { sections: Section[], gain: number }>()
/** The shaping of a rate and what brings it to RMS 1; kept, rates are few. */
function shapingOf(sampleRate: Hertz) {
  const known = shapings.get(sampleRate)
  if (known) return known
  const sections = pinkShaping(sampleRate)
  const made = { sections, gain: 1 / rmsGain(sections, sampleRate) }
  shapings.set(sampleRate, made)
  return made
}

/** Samples shaped in one go: they stay near the processor. */
const pinkAtOnce = 4096

/** Samples through first-order sections `from` to `from + 3`: each waits for itself only, not for the others. */
function throughFour(x: Float64Array, count: number, sections: readonly Section[], state: Float64Array, from: number) {
  const [a0, a1, , a2] = sections[from]!
  const [b0, b1, , b2] = sections[from + 1]!
  const [c0, c1, , c2] = sections[from + 2]!
  const [d0, d1, , d2] = sections[from + 3]!
  let za = state[from]!
  let zb = state[from + 1]!
  let zc = state[from + 2]!
  let zd = state[from + 3]!
  for (let n = 0; n < count; n++) {
    const v = x[n]!
    const a = a0 * v + za
    za = a1 * v - a2 * a
    const b = b0 * a + zb
    zb = b1 * a - b2 * b
    const c = c0 * b + zc
    zc = c1 * b - c2 * c
    const d = d0 * c + zd
    zd = d1 * c - d2 * d
    x[n] = d
  }
  state[from] = za
  state[from + 1] = zb
  state[from + 2] = zc
  state[from + 3] = zd
}
const nothing: Section = [1, 0, 0, 0, 0]

/** Pink noise of RMS 1, -3.01 dB an octave (20 Hz to 20 kHz within 0.25 dB at 44.1 kHz and above). */
export function pinkNoise(sampleRate: Hertz, seed: number): SampleSource {
  const { sections: own, gain } = shapingOf(sampleRate)
  const sections = Array.from({ length: 4 * Math.ceil(own.length / 4) }, (_, k) => own[k] ?? nothing)
  const white = whiteNoise(seed)
  const state = new Float64Array(sections.length)
  const exact = new Float64Array(pinkAtOnce)
  return (block) => {
    white(block)
    for (let at = 0; at < block.length; at += pinkAtOnce) {
      const count = Math.min(pinkAtOnce, block.length - at)
      for (let n = 0; n < count; n++) exact[n] = block[at + n]! * gain
      for (let k = 0; k < sections.length; k += 4) throughFour(exact, count, sections, state, k)
      for (let n = 0; n < count; n++) block[at + n] = exact[n]!
    }
  }
}

/**
 * RMS gain of a filter for white noise: the square root of the mean of |H|², summed on a grid dense at low
 * frequencies.
 */
function rmsGain(sections: readonly Section[], sampleRate: Hertz): number {
  const count = 4000
  const low = 0.01
  const ratio = ((0.5 * sampleRate) / low) ** (1 / count)
  const frequencies = Float64Array.from({ length: count }, (_, k) => low * ratio ** (k + 0.5))
  const curve = { frequencies, re: new Float64Array(count).fill(1), im: new Float64Array(count), coherence: null }
  applySections(curve, sections, sampleRate)
  let sum = 0
  for (let k = 0; k < count; k++) sum += (curve.re[k]! ** 2 + curve.im[k]! ** 2) * low * ratio ** k * (ratio - 1)
  return Math.sqrt(sum / (0.5 * sampleRate))
}

/**
 * A gain that only ever glides: towards a level in dB, or to silence, linear in dB at `rate` dB a second from a
 * floor of -70 dB.
 */
export interface Fader {
  /** Level to glide to; -Infinity is silence. */
  aim(level: Decibels): void
  /** To silence within `seconds`, whatever the level. */
  hush(seconds: number): void
  /** Multiplies `block` by the gain, sample by sample. */
  apply(block: Float32Array): void
  /** True while any sound passes or is about to. */
  readonly sounding: boolean
}

const faderFloor = -70

/** A fader at silence. `rise` and `fall` are in dB a second. */
export function fader(sampleRate: Hertz, rise = 80, fall = 400): Fader {
  let level = faderFloor
  let target = faderFloor
  let down = fall
  return {
    aim(next) {
      target = Math.max(faderFloor, next)
      down = fall
    },
    hush(seconds) {
      target = faderFloor
      down = Math.max(fall, (level - faderFloor) / seconds)
    },
    apply(block) {
      const up = rise / sampleRate
      const drop = down / sampleRate
      for (let n = 0; n < block.length; n++) {
        if (level < target) level = Math.min(target, level + up)
        else if (level > target) level = Math.max(target, level - drop)
        block[n] = level <= faderFloor ? 0 : block[n]! * 10 ** (level / 20)
      }
    },
    get sounding() {
      return level > faderFloor || target > faderFloor
    },
  }
}
