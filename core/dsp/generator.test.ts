import { describe, expect, it } from 'vitest'
import { scipy } from '../reference/scipy'
import { createGenerator, matchedNoise, realFft, signalSource, type Signal } from './index'

const rate = 48_000
const play = (signal: Signal, seconds: number) => {
  const x = new Float32Array(Math.round(seconds * rate))
  signalSource(signal, rate, 5)(x)
  return x
}
const rms = (x: ArrayLike<number>) => 10 * Math.log10(Array.from(x).reduce((s, v) => s + v * v, 0) / x.length)

describe('test signals', () => {
  it.each([
    { kind: 'pink' },
    { kind: 'white' },
    { kind: 'matched', period: 16_384 },
    { kind: 'sine', frequency: 1000 },
    { kind: 'band', low: 500, high: 2000 },
    { kind: 'sweeps', low: 20, high: 20_000, seconds: 1 },
  ] as Signal[])('$kind has an RMS of 1', (signal) => {
    expect(Math.abs(rms(play(signal, 8)))).toBeLessThan(0.3)
  })
  it('matched noise repeats with its period and falls 3.01 dB an octave in every bin of its transform', () => {
    const x = matchedNoise(4096, rate, 3)
    const re = new Float64Array(2049)
    const im = new Float64Array(2049)
    realFft(4096).forward(x, re, im)
    const level = (k: number) => 20 * Math.log10(Math.hypot(re[k]!, im[k]!))
    for (const k of [4, 32, 500]) expect(level(k) - level(2 * k)).toBeCloseTo(3.01, 2)
    const twice = play({ kind: 'matched', period: 4096 }, 8192 / rate)
    expect(Array.from(twice.subarray(0, 4096))).toEqual(Array.from(twice.subarray(4096)))
  })
  it('a band of noise lies in its band (scipy.signal.welch)', async () => {
    const { frequencies, power } = await scipy<{ frequencies: number[], power: number[] }>('power_spectrum', {
      x: play({ kind: 'band', low: 500, high: 2000 }, 4),
      rate,
      length: 4096,
    })
    const at = (f: number) => 10 * Math.log10(power[frequencies.findIndex(g => g >= f)]!)
    expect(at(1000) - at(200)).toBeGreaterThan(25)
    expect(at(1000) - at(6000)).toBeGreaterThan(35)
  })
  it('clicks come once a second, pulses swing upwards only', () => {
    expect(play({ kind: 'clicks' }, 2).filter(v => v !== 0)).toHaveLength(2)
    const pulses = play({ kind: 'pulses' }, 1)
    expect(Math.min(...pulses)).toBeGreaterThanOrEqual(0)
    expect(Math.max(...pulses)).toBeCloseTo(1, 2)
  })
  it('refuses what cannot sound', () => {
    expect(() => signalSource({ kind: 'sine', frequency: 30_000 }, rate, 1)).toThrow('not possible')
    expect(() => signalSource({ kind: 'band', low: 500, high: 100 }, rate, 1)).toThrow('not possible')
  })
})

describe('the generator', () => {
  const run = (g: ReturnType<typeof createGenerator>, seconds: number) => {
    const out = new Float32Array(Math.round(seconds * rate))
    for (let at = 0; at < out.length; at += 128) g.fill(out.subarray(at, Math.min(at + 128, out.length)))
    return out
  }
  const loudest = (x: Float32Array) => x.reduce((m, v) => Math.max(m, Math.abs(v)), 0)
  it('another signal is faded to: never louder than the level, and silent in between', () => {
    const g = createGenerator(rate, 1)
    g.signal({ kind: 'sine', frequency: 500 })
    g.level(-20)
    g.start()
    run(g, 2)
    g.signal({ kind: 'sine', frequency: 2000 })
    const change = run(g, 3)
    const steps = change.map((v, n) => (n ? Math.abs(v - change[n - 1]!) : 0))
    expect(loudest(change)).toBeLessThan(10 ** (-19.9 / 20) * Math.SQRT2)
    expect(loudest(steps)).toBeLessThan(0.04) // of a 2 kHz sine at -20 dBFS; a jump would be 0.14
    expect(rms(change.subarray(-rate))).toBeCloseTo(-20, 0)
  })
  it('plays one sweep from silence and is silent after it; the level is limited to -6 dBFS', () => {
    const g = createGenerator(rate, 1)
    g.sweep({ low: 20, high: 20_000, seconds: 1, level: 20 })
    const x = run(g, 1.5)
    expect(rms(x.subarray(4800, 43_200))).toBeCloseTo(-6, 0)
    expect(loudest(x.subarray(48_100))).toBe(0)
    expect(g.sounding).toBe(false)
  })
  it('Hush ends a sweep within 10 ms without a click', () => {
    const g = createGenerator(rate, 1)
    g.sweep({ low: 20, high: 200, seconds: 2, level: -6 })
    run(g, 1)
    g.hush()
    const x = run(g, 0.1)
    const steps = x.map((v, n) => (n ? Math.abs(v - x[n - 1]!) : 0))
    expect(loudest(x.subarray(600))).toBe(0)
    expect(loudest(steps)).toBeLessThan(0.05)
  })
})
