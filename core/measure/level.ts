import { bandPass, createOversampler, exactSpectrum, hann, type Section } from '../dsp'
import type { Decibels, Hertz, Seconds } from '../units'

export type Weighting = 'A' | 'C' | 'Z'
export type TimeWeighting = 'fast' | 'slow' | 'impulse'
/** Rise and fall of the detector (IEC 61672-1; impulse as IEC 60651). */
const times: Record<TimeWeighting, [rise: Seconds, fall: Seconds]> = {
  fast: [0.125, 0.125],
  slow: [1, 1],
  impulse: [0.035, 1.5],
}

/** Pole frequencies of the weightings: IEC 61672-1 annex E. */
const [f1, f2, f3, f4] = [20.598997, 107.65265, 737.86223, 12194.217]

/** Weighting at a frequency, 0 dB at 1 kHz. Source: IEC 61672-1, eqs (6) to (8). */
export function weightingAt(weighting: Weighting, f: Hertz): Decibels {
  const c = (x: Hertz) => (f4 ** 2 * x ** 2) / ((x ** 2 + f1 ** 2) * (x ** 2 + f4 ** 2))
  const a = (x: Hertz) => (c(x) * x ** 2) / Math.sqrt((x ** 2 + f2 ** 2) * (x ** 2 + f3 ** 2))
  const of = weighting === 'A' ? a : c
  return weighting === 'Z' ? 0 : 20 * Math.log10(of(f) / of(1000))
}

/** Numerators of a section by how many of its zeros lie at 0 Hz. */
const numerators: readonly (readonly [number, number, number])[] = [[1, 2, 1], [1, 0, -1], [1, -2, 1]]

/**
 * Digital sections of a weighting by the bilinear transform with prewarped poles, 0 dB at 1 kHz. Meant for rates far
 * over the audible band: at 176 kHz within 0.3 dB of the analogue curve up to 20 kHz.
 */
function weightingSections(weighting: Weighting, sampleRate: Hertz): Section[] {
  if (weighting === 'Z') return []
  const pole = (f: Hertz) => Math.tan((Math.PI * f) / sampleRate)
  /** (numerator zeros at 0: both, poles p and q) → one section. */
  const section = (p: number, q: number, zeros: 0 | 1 | 2): Section => {
    const d = (1 + p) * (1 + q)
    const b = numerators[zeros]!
    return [b[0] / d, b[1] / d, b[2] / d, (2 * p * q - 2) / d, ((1 - p) * (1 - q)) / d]
  }
  const high = pole(f4)
  const sections
    = weighting === 'C'
      ? [section(pole(f1), pole(f1), 2), section(high, high, 0)]
      : [section(pole(f1), pole(f1), 2), section(pole(f2), pole(f3), 2), section(high, high, 0)]
  const w = (2 * Math.PI * 1000) / sampleRate
  let gain = 1
  for (const [b0, b1, b2, a1, a2] of sections) {
    const at = (c0: number, c1: number, c2: number) =>
      Math.hypot(c0 + c1 * Math.cos(w) + c2 * Math.cos(2 * w), c1 * Math.sin(w) + c2 * Math.sin(2 * w))
    gain *= at(b0, b1, b2) / at(1, a1, a2)
  }
  const [b0, b1, b2, a1, a2] = sections[0]!
  return [[b0 / gain, b1 / gain, b2 / gain, a1, a2], ...sections.slice(1)]
}

/**
 * What a sound level meter shows. dB re full scale (RMS of a full-scale sine is -3.01 dB), to which a
 * calibration adds its offset.
 */
export interface SoundLevel {
  /** Now, by the time weighting. */ now: Decibels
  /** Equivalent level since the restart. */ equivalent: Decibels
  /** Equivalent level of the last `runningOver` seconds, or of all of it while it is shorter. */ running: Decibels
  runningOver: Seconds
  /** Sound exposure level: the equivalent level if all of it had come within one second. */ exposure: Decibels
  largest: Decibels
  /** Largest weighted value, between the samples too. */ peak: Decibels
  /** Largest value of the signal itself, unweighted: of the samples, and between them (4 × oversampled). */
  samplePeak: Decibels
  truePeak: Decibels
  /** Levels exceeded for 10, 50 and 90 % of the time; null before the detector has run in. */
  exceeded: { L10: Decibels | null, L50: Decibels | null, L90: Decibels | null }
  seconds: Seconds
}

/** So many values a sample: weighting is then exact up to 20 kHz, and no peak hides between samples (BS.1770-4). */
const oversampling = 4
/** DC is kept out by a high-pass of first order here: 0.01 dB at 20 Hz. */
const dcCutoff: Hertz = 1
const levelStep: Seconds = 0.05
/** Levels are counted in tenths of a dB from here on. */
const lowest: Decibels = -200
const steps = 2300
/** Time constants after which the detector shows what it hears. */
const runIn = 5

/** How long each level was there, for levels exceeded for a part of the time. */
function createDistribution() {
  const counts = new Uint32Array(steps)
  let total = 0
  return {
    add(level: Decibels) {
      counts[Math.max(0, Math.min(steps - 1, Math.round((level - lowest) * 10)))]!++
      total++
    },
    clear() {
      counts.fill(0)
      total = 0
    },
    /** Level exceeded for `percent` of the time. */
    exceeded(percent: number): Decibels | null {
      if (total === 0) return null
      let above = 0
      for (let k = steps - 1; k >= 0; k--) {
        above += counts[k]!
        if (above >= (percent / 100) * total) return lowest + k / 10
      }
      return lowest
    },
  }
}

/**
 * A sound level meter: weighting, detector, equivalent, running and largest level, exposure, peaks and statistics.
 * `push` takes blocks of any length and allocates nothing. Source: IEC 61672-1; true peak: ITU-R BS.1770-4, annex 2.
 */
export function createSoundLevel(
  sampleRate: Hertz,
  weighting: Weighting,
  time: TimeWeighting,
  runningOver: Seconds = 60,
) {
  const between = createOversampler(oversampling)
  const sections = weightingSections(weighting, sampleRate * oversampling)
  const state = new Float64Array(2 * sections.length)
  const [rise, fall] = times[time].map(t => 1 - Math.exp(-1 / (t * sampleRate))) as [number, number]
  const dcFollows = 1 - Math.exp((-2 * Math.PI * dcCutoff) / sampleRate)
  const step = Math.round(levelStep * sampleRate)
  const recent = new Float64Array(Math.max(1, Math.round(runningOver / levelStep)))
  const distribution = createDistribution()
  const settled = runIn * times[time][1] * sampleRate
  let dc: number | null = null
  let mean = 0
  let heard = 0
  let sum = 0
  let count = 0
  let part = 0
  let parts = 0
  let largest = 0
  let peak = 0
  let samplePeak = 0
  let truePeak = 0
  const db = (x: number) => (x > 0 ? 10 * Math.log10(x) : -Infinity)

  /** Mean square of one sample's weighted values. */
  function weighed(x: number): number {
    const values = between.push(x)
    let squares = 0
    for (let p = 0; p < oversampling; p++) {
      let v = values[p]!
      if (v * v > truePeak) truePeak = v * v
      for (let k = 0; k < sections.length; k++) {
        const s = sections[k]!
        const y = s[0] * v + state[2 * k]!
        state[2 * k] = s[1] * v - s[3] * y + state[2 * k + 1]!
        state[2 * k + 1] = s[2] * v - s[4] * y
        v = y
      }
      const square = v * v
      squares += square
      if (square > peak) peak = square
    }
    return squares / oversampling
  }
  function endPart() {
    recent[parts++ % recent.length] = part / step
    part = 0
    if (heard >= settled) distribution.add(db(mean))
  }
  return {
    push(block: ArrayLike<number>) {
      if (block.length === 0) return
      if (dc === null) {
        dc = 0
        for (let n = 0; n < block.length; n++) dc += block[n]! / block.length
      }
      for (let n = 0; n < block.length; n++) {
        dc += dcFollows * (block[n]! - dc)
        const x = block[n]! - dc
        if (x * x > samplePeak) samplePeak = x * x
        const square = weighed(x)
        mean += (square > mean ? rise : fall) * (square - mean)
        sum += square
        part += square
        if (mean > largest) largest = mean
        heard++
        if (++count % step === 0) endPart()
      }
    },
    restart() {
      sum = count = largest = peak = samplePeak = truePeak = part = parts = 0
      distribution.clear()
    },
    /** Level exceeded for any part of the time, in per cent; null before the detector has run in. */
    exceeded: (percent: number) => distribution.exceeded(percent),
    read(): SoundLevel {
      const filled = Math.min(parts, recent.length)
      let running = 0
      for (let k = 0; k < filled; k++) running += recent[k]! / filled
      const { exceeded } = distribution
      return {
        now: db(mean),
        equivalent: db(sum / Math.max(1, count)),
        running: filled ? db(running) : db(sum / Math.max(1, count)),
        runningOver: filled ? filled * levelStep : count / sampleRate,
        exposure: db(sum / sampleRate),
        largest: db(largest),
        peak: db(peak),
        samplePeak: db(samplePeak),
        truePeak: db(truePeak),
        exceeded: { L10: exceeded(10), L50: exceeded(50), L90: exceeded(90) },
        seconds: count / sampleRate,
      }
    },
  }
}

/**
 * Mean square a bin of a signal, Hann-windowed halves overlapping by half (Welch 1967): `length / 2 + 1` values
 * whose sum is the mean square.
 */
export function powerSpectrum(signal: Float32Array, length: number): Float64Array {
  const fft = exactSpectrum(length)
  const window = hann(length)
  const power = new Float64Array(length / 2 + 1)
  const energy = window.reduce((s, w) => s + w * w, 0) * length
  const padded = signal.length >= length ? signal : Float32Array.from({ length }, (_, n) => signal[n] ?? 0)
  let blocks = 0
  for (let at = 0; at + length <= padded.length; at += length / 2, blocks++) {
    const s = fft.forward(padded.subarray(at, at + length), window)
    for (let k = 0; k < power.length; k++)
      power[k]! += (s[2 * k]! ** 2 + s[2 * k + 1]! ** 2) * (k === 0 || k === length / 2 ? 1 : 2)
  }
  for (let k = 0; k < power.length; k++) power[k]! /= energy * blocks
  return power
}

/**
 * Butterworth filter of a fractional-octave band, class 1 of IEC 61260-1: of third order, of fourth where the
 * bilinear transform flattens its lower skirt.
 */
export const bandFilter = (band: { low: Hertz, high: Hertz }, sampleRate: Hertz): Section[] =>
  bandPass(band.high > 0.2 * sampleRate ? 4 : 3, band.low, Math.min(band.high, 0.499 * sampleRate), sampleRate)
