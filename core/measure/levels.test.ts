import { describe, expect, it } from 'vitest'
import { pinkNoise, whiteNoise, type Section } from '../dsp'
import { expectAccuracy } from '../reference/accuracy'
import { sample } from '../reference/cases'
import {
  bandFilter,
  bandLevels,
  bandLevelsOf,
  createBandMeter,
  createSoundLevel,
  fractionalOctaves,
  powerSpectrum,
  weightingAt,
} from './index'

const rate = 48_000
const rates = sample([rate, 44_100, 96_000], 1)
/** A tone that a meter settles to, and then whole periods of it for at least so many seconds: no step between. */
function steady(f: number, fs: number, settle: number, seconds: number, amplitude = 1) {
  const lead = Math.round(settle * fs)
  const periods = Math.ceil(seconds * f)
  const count = lead + Math.round((periods / f) * fs)
  const all = Float32Array.from({ length: count }, (_, n) => amplitude * Math.sin((2 * Math.PI * f * n) / fs))
  return [all.subarray(0, lead), all.subarray(lead)] as const
}
/** Magnitude in dB of sections at a frequency. */
const levelAt = (sections: readonly Section[], f: number, sampleRate = rate) =>
  sections.reduce((sum, [b0, b1, b2, a1, a2]) => {
    const w = (2 * Math.PI * f) / sampleRate
    const size = (c0: number, c1: number, c2: number) =>
      Math.hypot(c0 + c1 * Math.cos(w) + c2 * Math.cos(2 * w), c1 * Math.sin(w) + c2 * Math.sin(2 * w))
    return sum + 20 * Math.log10(size(b0, b1, b2) / size(1, a1, a2))
  }, 0)

// IEC 61260-1:2014 table 1, class 1: least and most attenuation at octave ratios from the middle (values from
// memory, hence ±0.1 dB of slack)
const limits: [exponent: number, least: number, most: number][] = [
  [0, -0.5, 0.5],
  [1 / 8, -0.5, 0.6],
  [1 / 4, -0.5, 0.8],
  [3 / 8, -0.5, 1.5],
  [1, 16.5, Infinity],
  [2, 40.4, Infinity],
  [3, 59.9, Infinity],
]

describe('fractional octaves', () => {
  it('middles are those of ISO 266, exact in base 10 (IEC 61260-1)', () => {
    expect(
      fractionalOctaves(3, 20, 20_000)
        .map(b => b.name)
        .slice(0, 6),
    ).toEqual(['20 Hz', '25 Hz', '31.5 Hz', '40 Hz', '50 Hz', '63 Hz'])
    expect(fractionalOctaves(3, 20, 20_000)).toHaveLength(31)
    expect(fractionalOctaves(1, 63, 8000).map(b => b.name)).toEqual([
      '63 Hz',
      '125 Hz',
      '250 Hz',
      '500 Hz',
      '1 kHz',
      '2 kHz',
      '4 kHz',
      '8 kHz',
    ])
    expect(fractionalOctaves(3).find(b => b.name === '20 Hz')!.middle).toBeCloseTo(19.953, 3)
    const twelfth = fractionalOctaves(12, 900, 1200)
    expect(twelfth[1]!.low / twelfth[0]!.high).toBeCloseTo(1, 12)
  })
  it.each([
    [1, 31.5],
    [1, 1000],
    [1, 8000],
    [3, 25],
    [3, 1000],
    [3, 12_500],
  ])('the filter of 1/%d octave about %d Hz is within class 1', (part, about) => {
    const band = fractionalOctaves(part, about / 1.05, about * 1.05)[0]!
    const filter = bandFilter(band, rate)
    const G = 10 ** 0.3
    for (const [exponent, least, most] of limits)
      for (const side of [1, -1]) {
        // eq. (9) of the standard carries the octave's breakpoints over to narrower bands
        const ratio = 1 + ((G ** (1 / (2 * part)) - 1) / (G ** 0.5 - 1)) * (G ** exponent - 1)
        const f = band.middle * ratio ** side
        if (f > 0.45 * rate) continue
        const loss = levelAt(filter, band.middle) - levelAt(filter, f)
        expect(loss, `${f.toFixed(0)} Hz`).toBeGreaterThanOrEqual(least)
        expect(loss, `${f.toFixed(0)} Hz`).toBeLessThanOrEqual(most)
      }
  })
  it('band levels add up to the level of the whole, white noise rises 3.01 dB an octave', () => {
    const x = new Float32Array(rate * 4)
    whiteNoise(3)(x)
    const power = powerSpectrum(x, 8192)
    expect(10 * Math.log10(power.reduce((a, b) => a + b))).toBeCloseTo(0, 1)
    const octaves = bandLevels(power, rate, fractionalOctaves(1, 250, 8000))
    for (let k = 1; k < octaves.length; k++) expect(octaves[k]! - octaves[k - 1]!).toBeCloseTo(3.01, 0)
    expect(bandLevels(new Float64Array(4097), rate, fractionalOctaves(1))[0]).toBe(-200)
  })
})

describe('sound level', () => {
  // IEC 61672-1 table 3: A and C weights (published, tenths of a dB)
  it.each([
    [31.5, -39.4, -3.0],
    [63, -26.2, -0.8],
    [125, -16.1, -0.2],
    [250, -8.6, 0],
    [500, -3.2, 0],
    [1000, 0, 0],
    [2000, 1.2, -0.2],
    [4000, 1.0, -0.8],
    [8000, -1.1, -3.0],
    [16_000, -6.6, -8.5],
  ])('weights at %d Hz', (nominal, a, c) => {
    const f = 1000 * 10 ** (Math.round(10 * Math.log10(nominal / 1000)) / 10)
    expect(weightingAt('A', f)).toBeCloseTo(a, 0)
    expect(Math.abs(weightingAt('A', f) - a)).toBeLessThan(0.06)
    expect(Math.abs(weightingAt('C', f) - c)).toBeLessThan(0.06)
    expect(weightingAt('Z', f)).toBe(0)
  })
  it.each(rates)('A, C, Z are the analogue curves to 16 kHz, class 1 to 20 kHz, at %d Hz', (fs) => {
    // IEC 61672-1:2013 table 3, class 1 (value from memory: +2.5/-16 dB at 16 kHz, +3/-∞ at 20 kHz)
    let worst = 0
    for (const w of ['A', 'C', 'Z'] as const)
      for (const f of [20, 31.5, 63, 250, 1000, 4000, 8000, 12_500, 16_000, 20_000]) {
        const meter = createSoundLevel(fs, w, 'fast')
        const [before, tone] = steady(f, fs, 1, 1, 0.5)
        meter.push(before)
        meter.restart()
        meter.push(tone)
        const off = meter.read().equivalent - 20 * Math.log10(0.5 / Math.SQRT2) - weightingAt(w, f)
        if (f <= 16_000) worst = Math.max(worst, Math.abs(off))
        expect(Math.abs(off), `${w} at ${f} Hz`).toBeLessThan(1)
      }
    expectAccuracy({
      what: `A, C and Z weighting at ${fs} Hz, 20 Hz to 16 kHz`,
      measured: worst,
      limit: 0.3,
      unit: 'dB',
      source: 'IEC 61672-1, analogue curves (annex E)',
    })
  })
  const sine = (seconds: number, amplitude = 1) =>
    Float32Array.from({ length: seconds * rate }, (_, n) => amplitude * Math.sin((2 * Math.PI * 1000 * n) / rate))
  it('a full-scale sine reads -3.01 dB, Fast falls 34.7 dB a second, Slow 4.3 (IEC 61672-1, 5.8.2)', () => {
    const fast = createSoundLevel(rate, 'A', 'fast')
    const slow = createSoundLevel(rate, 'Z', 'slow')
    for (const meter of [fast, slow]) {
      meter.push(sine(8))
      expect(meter.read().now).toBeCloseTo(-3.01, 1)
      expect(meter.read().equivalent).toBeCloseTo(-3.01, 1)
    }
    for (const [meter, fall] of [
      [fast, 34.7],
      [slow, 4.3],
    ] as const) {
      const before = meter.read().now
      meter.push(new Float32Array(rate))
      expect(before - meter.read().now).toBeCloseTo(fall, 0)
      expect(meter.read().largest).toBeCloseTo(-3.01, 1)
    }
    fast.restart()
    expect(fast.read().seconds).toBe(0)
  })
  it('a 200 ms burst reads 1.0 dB under the steady sine on Fast (IEC 61672-1 table 4)', () => {
    const meter = createSoundLevel(rate, 'A', 'fast')
    meter.push(new Float32Array(rate))
    meter.push(sine(0.2))
    meter.push(new Float32Array(rate))
    expect(meter.read().largest).toBeCloseTo(-3.01 - 1, 1)
  })
  it('a peak between the samples is found: 3 dB more at a quarter of the rate, 45° off (BS.1770-4)', () => {
    const meter = createSoundLevel(rate, 'Z', 'fast')
    meter.push(Float32Array.from({ length: rate }, (_, n) => Math.SQRT1_2 * Math.sin((Math.PI / 2) * n + Math.PI / 4)))
    const { samplePeak, truePeak } = meter.read()
    expect(samplePeak).toBeCloseTo(-6.02, 1)
    // the swing at the tone's beginning goes higher than the tone
    expect(Math.abs(truePeak + 3.01)).toBeLessThan(0.7)
  })
  it('DC is no sound', () => {
    const meter = createSoundLevel(rate, 'Z', 'slow')
    meter.push(sine(2, 0.01).map(v => v + 0.3))
    expect(meter.read().equivalent).toBeCloseTo(-43.01, 1)
    expect(meter.read().samplePeak).toBeCloseTo(-40, 1)
  })
  it('exposure is the equivalent level over one second, and the running level forgets', () => {
    const meter = createSoundLevel(rate, 'Z', 'fast', 1)
    meter.push(sine(4))
    expect(meter.read().exposure - meter.read().equivalent).toBeCloseTo(10 * Math.log10(4), 6)
    meter.push(sine(1, 0.1))
    expect(meter.read().running).toBeCloseTo(-23.01, 0)
    expect(meter.read().runningOver).toBeCloseTo(1, 6)
    expect(meter.read().equivalent).toBeCloseTo(10 * Math.log10((0.5 * 4 + 0.005) / 5), 1)
  })
  it('levels exceeded: loud for a fifth of the time is L10, quiet for the rest is L50 and L90', () => {
    const meter = createSoundLevel(rate, 'Z', 'fast')
    expect(meter.read().exceeded.L50).toBeNull()
    for (let k = 0; k < 4; k++) {
      meter.push(sine(8, 0.01))
      meter.push(sine(2, 1))
    }
    const { L10, L50, L90 } = meter.read().exceeded
    expect(L10).toBeCloseTo(-3, 0)
    expect(L50).toBeCloseTo(-43, 0)
    expect(L90).toBeCloseTo(-43, 0)
    expect(meter.exceeded(15)!).toBeCloseTo(-3, 0)
  })
})

describe('levels by band', () => {
  const tone = (f: number, fs: number, seconds: number) =>
    Float32Array.from({ length: Math.round(seconds * fs) }, (_, n) => Math.sin((2 * Math.PI * f * n) / fs))
  const G = 10 ** 0.3
  const bandsTried = [
    [1, 31.5],
    [1, 8000],
    [3, 25],
    [3, 16_000],
    [6, 1000],
    [12, 63],
    [24, 20.6],
    [24, 18_900],
  ] as const
  it.each(rates)('class 1 of IEC 61260-1 by the whole meter, to 1/24 octave, at %d Hz', (fs) => {
    let worst = 0
    for (const [part, about] of bandsTried) {
      const off = (b: { middle: number }) => Math.abs(Math.log(b.middle / about))
      const band = fractionalOctaves(part, about / 1.5, about * 1.5).reduce((a, b) => (off(b) < off(a) ? b : a))
      for (const [exponent, least, most] of limits.filter(([e]) => [0, 1 / 4, 3 / 8, 1, 3].includes(e)))
        for (const side of exponent === 0 ? [1] : [1, -1]) {
          const ratio = 1 + ((G ** (1 / (2 * part)) - 1) / (G ** 0.5 - 1)) * (G ** exponent - 1)
          const f = band.middle * ratio ** side
          if (f > 20_500 || f < 2) continue
          const width = band.high - band.low
          const meter = createBandMeter(fs, [band])
          const [before, then] = steady(f, fs, Math.max(0.1, 4 / width), 0.2)
          meter.push(before)
          meter.restart()
          meter.push(then)
          const loss = -3.0103 - meter.equivalent()[0]!
          expect(loss, `1/${part} at ${f.toFixed(1)} Hz for ${band.middle.toFixed(1)}`).toBeGreaterThanOrEqual(least)
          expect(loss, `1/${part} at ${f.toFixed(1)} Hz for ${band.middle.toFixed(1)}`).toBeLessThanOrEqual(most)
          if (exponent === 0) worst = Math.max(worst, Math.abs(loss))
        }
    }
    expectAccuracy({
      what: `Fractional-octave levels in the middle of bands, 1/1 to 1/24, at ${fs} Hz`,
      measured: worst,
      limit: 0.2,
      unit: 'dB',
      source: 'IEC 61260-1 class 1; sines of known level',
    })
  })
  it('a recording counts in full however short it is, and its last part too', () => {
    const [band] = fractionalOctaves(3, 990, 1010)
    // energy that spills beside the band is lost to it: less the shorter
    expect(bandLevelsOf(tone(1000, rate, 0.1), rate, [band!])[0]).toBeCloseTo(-3.01, 0)
    const late = new Float32Array(rate)
    late.set(tone(1000, rate, 0.25), rate - rate / 4)
    expect(bandLevelsOf(late, rate, [band!])[0]!).toBeCloseTo(-3.01 - 6.02, 0)
  })
  it('the bands of pink noise are equal, and together they are the whole', () => {
    const x = new Float32Array(rate * 10)
    pinkNoise(rate, 4)(x)
    const thirds = bandLevelsOf(x, rate, fractionalOctaves(3, 40, 16_000))
    const middle = thirds.reduce((a, b) => a + b) / thirds.length
    for (const level of thirds.slice(6)) expect(Math.abs(level - middle)).toBeLessThan(0.8)
    const octaves = bandLevelsOf(x, rate, fractionalOctaves(1, 125, 8000))
    octaves.forEach((level, k) => {
      const of = thirds.slice(3 * k + 4, 3 * k + 7).reduce((sum, l) => sum + 10 ** (l / 10), 0)
      expect(level).toBeCloseTo(10 * Math.log10(of), 0)
    })
  })
  it('Fast of a band falls 34.7 dB a second once its tone is over (IEC 61672-1, 5.8.2)', () => {
    const meter = createBandMeter(rate, fractionalOctaves(1, 990, 1010))
    meter.push(tone(1000, rate, 2))
    const before = meter.now()[0]!
    meter.push(new Float32Array(rate / 2))
    expect(before - meter.now()[0]!).toBeCloseTo(34.7 / 2, 0)
    expect(meter.largest()[0]).toBeCloseTo(-3.01, 1)
  })
})
