import { describe, expect, it } from 'vitest'
import { bandPass, filterThrough, seededRandom, whiteNoise, type Section } from '../dsp'
import { scipy, type ComplexValues } from '../reference/scipy'
import {
  decayOf,
  decayTimes,
  modulations,
  onset,
  speechTransmission,
  stiOfModulation,
} from './index'

const rate = 48_000
/** Magnitude in dB of sections at a frequency. */
const levelAt = (sections: readonly Section[], f: number, sampleRate = rate) =>
  sections.reduce((sum, [b0, b1, b2, a1, a2]) => {
    const w = (2 * Math.PI * f) / sampleRate
    const size = (c0: number, c1: number, c2: number) =>
      Math.hypot(c0 + c1 * Math.cos(w) + c2 * Math.cos(2 * w), c1 * Math.sin(w) + c2 * Math.sin(2 * w))
    return sum + 20 * Math.log10(size(b0, b1, b2) / size(1, a1, a2))
  }, 0)

describe('filters', () => {
  it.each([
    [3, 900, 1100],
    [3, 44, 88],
    [2, 5600, 11_200],
    [5, 300, 3000],
  ])('band-pass of order %d, %d to %d Hz, is scipy.signal.butter’s', async (order, low, high) => {
    const frequencies = [20, low * 0.9, low, Math.sqrt(low * high), high, Math.min(high * 1.3, 23_000)]
    const truth = await scipy<ComplexValues>('butter_band', { order, low, high, rate, frequencies })
    frequencies.forEach((f, k) =>
      expect(levelAt(bandPass(order, low, high, rate), f)).toBeCloseTo(
        20 * Math.log10(Math.hypot(truth.re[k]!, truth.im[k]!)),
        5,
      ),
    )
  })
  it('filtering is scipy.signal.sosfilt’s', async () => {
    const x = new Float32Array(1024)
    const sections = bandPass(3, 400, 800, rate)
    whiteNoise(5)(x)
    const truth = await scipy<number[]>('sosfilt', { sections, x })
    const out = filterThrough(sections, x)
    truth.forEach((v, n) => expect(out[n]).toBeCloseTo(v, 9))
    expect(() => bandPass(3, 20, 30_000, rate)).toThrow('not possible')
  })
})

/** Noise that decays by 60 dB in `time`, after a silence, over a floor. */
function decaying(time: number, seed: number, floor = 0, seconds = 3 * time, lead = 480) {
  const random = seededRandom(seed)
  const gauss = () => Math.sqrt(-2 * Math.log(1 - random())) * Math.cos(2 * Math.PI * random())
  return Float32Array.from(
    { length: Math.round(seconds * rate) + lead },
    (_, n) => (n < lead ? 0 : gauss() * 10 ** ((-3 * (n - lead)) / rate / time)) + floor * gauss(),
  )
}

describe('decay', () => {
  it.each([0.4, 1.1, 2.5])('times of a decay of %d s are within 2 %, with a noise 60 dB down', (time) => {
    const mean = (pick: (d: ReturnType<typeof decayOf>) => number) =>
      [1, 2, 3, 4].reduce((s, seed) => s + pick(decayOf(decaying(time, seed, 0.001), rate, 480)) / 4, 0)
    for (const of of ['early', 't20', 't30'] as const)
      expect(Math.abs(mean(d => d[of]!.time) / time - 1), of).toBeLessThan(0.02)
  })
  it('a response that sinks into noise too early has no T30, and says how far it reaches', () => {
    const d = decayOf(decaying(1, 6, 0.03), rate, 480)
    expect(d.t30).toBeNull()
    expect(d.range).toBeGreaterThan(20)
    expect(d.range).toBeLessThan(40)
  })
  it('bands decay by their own times', () => {
    const low = filterThrough(bandPass(3, 88, 177, rate), decaying(2, 7))
    const high = filterThrough(bandPass(3, 2828, 5657, rate), decaying(0.6, 8, 0, 6))
    const bands = decayTimes(
      Float32Array.from(low, (v, n) => v + high[n]!),
      rate,
    )
    expect(bands.find(b => b.band === '125 Hz')!.t20!.time).toBeCloseTo(2, 0)
    expect(Math.abs(bands.find(b => b.band === '4 kHz')!.t20!.time / 0.6 - 1)).toBeLessThan(0.1)
    expect(decayTimes(decaying(1, 9), rate, 3)).toHaveLength(23)
  })
  it('the onset lies where the direct sound begins', () => {
    expect(Math.abs(onset(decaying(1, 10)) - 480)).toBeLessThan(3)
    expect(onset(new Float32Array(100))).toBe(0)
  })
})

describe('speech transmission', () => {
  /** Closed form for exponential decay (Houtgast, Steeneken & Plomp 1980): m = 1/√(1 + (2πFT/13.8)²). */
  const closed = (time: number, noise = 1) =>
    stiOfModulation(
      Array.from({ length: 7 }, () =>
        modulations.map(f => noise / Math.sqrt(1 + ((2 * Math.PI * f * time) / 13.8155) ** 2)),
      ),
    )
  it.each([0.5, 1, 2])('of an exponential decay of %d s is within 0.01 of the closed form', (time) => {
    const mean = [1, 2, 3].reduce((s, seed) => s + speechTransmission(decaying(time, seed), rate)! / 3, 0)
    expect(Math.abs(mean - closed(time))).toBeLessThan(0.01)
  })
  it('is 1 without reverberation or noise, 0.5 at equal speech and noise', () => {
    const click = new Float32Array(rate)
    click[1000] = 1
    expect(speechTransmission(click, rate)!).toBeGreaterThan(0.98)
    // m = 1/2 but for masking and threshold, which are small here: 0 dB (IEC 60268-16)
    const levels = { speech: Array<number>(7).fill(60), noise: Array<number>(7).fill(60) }
    expect(speechTransmission(click, rate, levels)!).toBeCloseTo(0.5, 1)
    expect(speechTransmission(click, 16_000)).toBeNull()
  })
})
