import type { Decibels, Hertz } from '../units'
import { bandPass } from './bandPass'
import { realFft } from './fft'
import { fader, pinkNoise, seededRandom, whiteNoise, type SampleSource } from './noise'
import { exponentialSweep, type SweepPlan } from './exponentialSweep'
import { refusal, type Label } from '../words'

/** What the generator can play. `period` in samples (a power of two), frequencies in Hz. */
export type Signal
  = | { kind: 'pink' }
    | { kind: 'white' }
    | { kind: 'matched', period: number }
    | { kind: 'sine', frequency: Hertz }
    | { kind: 'band', low: Hertz, high: Hertz }
    | { kind: 'sweeps', low: Hertz, high: Hertz, seconds: number }
    | { kind: 'clicks' }
    | { kind: 'pulses' }
export type SignalKind = Signal['kind']

export const signalNames: Record<SignalKind, Label> = {
  pink: 'signal.pink',
  matched: 'signal.matched',
  white: 'signal.white',
  band: 'signal.band',
  sine: 'signal.sine',
  sweeps: 'signal.sweeps',
  clicks: 'signal.clicks',
  pulses: 'signal.pulses',
}

/**
 * One period of pink noise: every bin of a transform of `period` samples from 10 Hz up at random phase, RMS 1.
 * With a transform of that length no window is needed.
 */
export function matchedNoise(period: number, sampleRate: Hertz, seed: number): Float32Array {
  const random = seededRandom(seed)
  const re = new Float64Array(period / 2 + 1)
  const im = new Float64Array(period / 2 + 1)
  const out = new Float32Array(period)
  for (let k = 1; k < period / 2; k++) {
    const f = (k * sampleRate) / period
    const size = f < 10 ? 0 : 1 / Math.sqrt(f)
    const angle = 2 * Math.PI * random()
    re[k] = size * Math.cos(angle)
    im[k] = size * Math.sin(angle)
  }
  realFft(period).inverse(re, im, out)
  return levelled(out)
}

function levelled(x: Float32Array): Float32Array {
  const rms = Math.sqrt(x.reduce((s, v) => s + v * v, 0) / x.length)
  for (let n = 0; n < x.length; n++) x[n]! /= rms
  return x
}

/** Plays a table again and again. */
function looped(table: Float32Array): SampleSource {
  let at = 0
  return (block) => {
    for (let n = 0; n < block.length; n++) {
      block[n] = table[at]!
      at = at + 1 === table.length ? 0 : at + 1
    }
  }
}

/** Noise between two frequencies, RMS 1 within a tenth of a dB. */
function bandNoise(low: Hertz, high: Hertz, sampleRate: Hertz, seed: number): SampleSource {
  const white = whiteNoise(seed)
  const sections = bandPass(4, Math.max(5, low), Math.min(high, 0.49 * sampleRate), sampleRate)
  const state = new Float64Array(2 * sections.length)
  // a Butterworth of fourth order lets 2.6 % more noise through than its edges say
  const gain = Math.sqrt(sampleRate / 2 / (high - low) / 1.026)
  return (block) => {
    white(block)
    for (let n = 0; n < block.length; n++) {
      let v = block[n]! * gain
      for (let k = 0; k < sections.length; k++) {
        const [b0, b1, b2, a1, a2] = sections[k]!
        const y = b0 * v + state[2 * k]!
        state[2 * k] = b1 * v - a1 * y + state[2 * k + 1]!
        state[2 * k + 1] = b2 * v - a2 * y
        v = y
      }
      block[n] = v
    }
  }
}

/**
 * A signal as samples of RMS 1; clicks and pulses have a peak of 1 instead (their RMS says nothing). Throws
 * RangeError for
 * frequencies that the sample rate cannot carry.
 */
export function signalSource(signal: Signal, sampleRate: Hertz, seed: number): SampleSource {
  switch (signal.kind) {
    case 'pink':
      return pinkNoise(sampleRate, seed)
    case 'white':
      return whiteNoise(seed)
    case 'matched':
      return looped(matchedNoise(signal.period, sampleRate, seed))
    case 'band': {
      if (!(signal.low > 0 && signal.high > signal.low && signal.low < sampleRate / 2))
        throw refusal('generator.noNoise', { low: signal.low, high: signal.high })
      return bandNoise(signal.low, Math.min(signal.high, 0.49 * sampleRate), sampleRate, seed)
    }
    case 'sine': {
      if (!(signal.frequency > 0 && signal.frequency < sampleRate / 2))
        throw refusal('generator.noSine', { frequency: signal.frequency, sampleRate })
      const step = (2 * Math.PI * signal.frequency) / sampleRate
      let angle = 0
      return (block) => {
        for (let n = 0; n < block.length; n++) {
          block[n] = Math.SQRT2 * Math.sin(angle)
          angle = (angle + step) % (2 * Math.PI)
        }
      }
    }
    case 'sweeps':
      return looped(
        exponentialSweep(
          { low: signal.low, high: Math.min(signal.high, sampleRate / 2), seconds: signal.seconds, level: 0 },
          sampleRate,
        ),
      )
    case 'clicks':
      return looped(Float32Array.from({ length: Math.round(sampleRate) }, (_, n) => (n === 0 ? 1 : 0)))
    case 'pulses':
      return looped(
        Float32Array.from({ length: Math.round(sampleRate / 2) }, (_, n) =>
          n < sampleRate * 0.0025 ? Math.sin((Math.PI * n) / (sampleRate * 0.0025)) ** 2 : 0,
        ),
      )
  }
}

/** Kovrin's own test signal: starts quiet, ramps, and hushes at once. */
export interface Generator {
  /** Level in dBFS RMS; moves the running signal there by a ramp. */
  level(value: Decibels): void
  /** Another signal: what runs is faded out and the new one in. */
  signal(next: Signal): void
  start(): void
  stop(): void
  /** One sweep at its own level, from silence; `hush` ends it. */
  sweep(plan: SweepPlan): void
  /** Silence within 10 ms. */
  hush(): void
  fill(block: Float32Array): void
  readonly sounding: boolean
}

const usualLevel: Decibels = -20
const highestLevel: Decibels = -6

/** A silent generator of pink noise at -20 dBFS RMS. */
export function createGenerator(sampleRate: Hertz, seed: number): Generator {
  const gain = fader(sampleRate)
  const hushed = Math.round(0.01 * sampleRate)
  let source = signalSource({ kind: 'pink' }, sampleRate, seed)
  let next: SampleSource | null = null
  let level: Decibels = usualLevel
  let on = false
  let sweep: Float32Array | null = null
  let swept = 0
  let ending = 0
  return {
    level(value) {
      level = Math.min(highestLevel, value)
      if (on) gain.aim(level)
    },
    signal(wanted) {
      const made = signalSource(wanted, sampleRate, seed)
      if (!gain.sounding) {
        source = made
        return
      }
      next = made
      gain.hush(0.05)
    },
    start() {
      on = true
      gain.aim(level)
    },
    stop() {
      on = false
      gain.aim(-Infinity)
    },
    sweep(plan) {
      on = false
      gain.hush(0.01)
      sweep = exponentialSweep({ ...plan, level: Math.min(highestLevel, plan.level) }, sampleRate)
      swept = ending = 0
    },
    hush() {
      on = false
      gain.hush(0.01)
      if (sweep && !ending) ending = hushed
    },
    fill(block) {
      if (next && !gain.sounding) {
        source = next
        next = null
        if (on) gain.aim(level)
      }
      if (!gain.sounding) block.fill(0)
      else {
        source(block)
        gain.apply(block)
      }
      for (let n = 0; sweep && n < block.length; n++) {
        const fade = ending ? --ending / hushed : 1
        block[n]! += sweep[swept++]! * fade
        if (swept === sweep.length || (ending === 0 && fade < 1)) sweep = null
      }
      for (let n = 0; n < block.length; n++) block[n] = Math.max(-1, Math.min(1, block[n]!))
    },
    get sounding() {
      return gain.sounding || sweep !== null
    },
  }
}
