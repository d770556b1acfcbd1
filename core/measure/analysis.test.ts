import { describe, expect, it } from 'vitest'
import { bandPass, exponentialSweep, filterThrough, seededRandom, whiteNoise, type Section } from '../dsp'
import { scipy, worstError, type ComplexValues } from '../reference/scipy'
import {
  analyseSweep,
  bandFilter,
  bandLevels,
  createSoundLevel,
  decayOf,
  decayTimes,
  fractionalOctaves,
  modulations,
  onset,
  powerSpectrum,
  speechTransmission,
  stiOfModulation,
  weightingAt,
  weightingSections,
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
  it('the filters stay within class 1 of IEC 61672-1 (from memory: ±1.1 dB to 4 kHz, +1.5/-2.5 at 8, +2.5/-16 '
    + 'at 16 kHz)', () => {
    for (const sampleRate of [44_100, 48_000, 96_000])
      for (const w of ['A', 'C'] as const)
        for (const [f, up, down] of [
          [31.5, 1.5, 1.5],
          [63, 1.1, 1.1],
          [250, 1, 1],
          [1000, 0.7, 0.7],
          [4000, 1.1, 1.1],
          [8000, 1.5, 2.5],
          [12_500, 2, 5],
          [16_000, 2.5, 16],
        ] as const) {
          const off = levelAt(weightingSections(w, sampleRate), f, sampleRate) - weightingAt(w, f)
          expect(off, `${w} ${f}`).toBeLessThanOrEqual(up)
          expect(off, `${w} ${f}`).toBeGreaterThanOrEqual(-down)
        }
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
  it('C50, C80 and D50 are those of an exponential decay: 10 lg(e^(13.82 t/T) - 1)', () => {
    const d = decayOf(decaying(1.1, 5), rate, 480)
    expect(d.c80).toBeCloseTo(10 * Math.log10(Math.exp((13.815 * 0.08) / 1.1) - 1), 0)
    expect(d.c50).toBeCloseTo(10 * Math.log10(Math.exp((13.815 * 0.05) / 1.1) - 1), 0)
    expect(d.d50).toBeCloseTo(1 - Math.exp((-13.815 * 0.05) / 1.1), 1)
    expect(d.t20!.straightness).toBeGreaterThan(0.995)
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
    expect(speechTransmission(click, rate, Array(7).fill(0))!).toBeCloseTo(0.5, 1) // m = 1/2, 0 dB: IEC 60268-16
    expect(speechTransmission(click, 16_000)).toBeNull()
  })
})

describe('sweep', () => {
  const plan = { low: 20, high: 20_000, seconds: 3, level: -12 }
  const sweep = exponentialSweep(plan, rate)
  const silence = (frames: number) => new Float32Array(frames)
  const joined = (...parts: Float32Array[]) => {
    const out = new Float32Array(parts.reduce((s, p) => s + p.length, 0))
    let at = 0
    for (const p of parts) {
      out.set(p, at)
      at += p.length
    }
    return out
  }
  const reference = joined(sweep, silence(rate))
  it('has the level asked for and starts and ends at nothing', () => {
    const rms = 10 * Math.log10(sweep.reduce((s, v) => s + v * v, 0) / sweep.length)
    expect(rms).toBeCloseTo(-12, 0)
    expect([sweep[0], sweep[sweep.length - 1]]).toEqual([0, expect.closeTo(0, 6)])
    expect(() => exponentialSweep({ ...plan, high: 30_000 }, rate)).toThrow('not possible')
    expect(() => exponentialSweep({ ...plan, seconds: 0 }, rate)).toThrow('0.1 to 60')
  })
  it('finds a known system: its delay, its response as scipy filters it, and noise as low as it is', async () => {
    const sections = bandPass(1, 200, 5000, rate)
    const out = await scipy<number[]>('sosfilt', { sections, x: joined(silence(960), sweep, silence(rate - 960)) })
    const result = analyseSweep(reference, out, plan, rate, 1)
    const direct = filterThrough(
      sections,
      Float32Array.from({ length: 4096 }, (_, n) => (n === 0 ? 1 : 0)),
    )
    const zero = Math.round((960 / rate - result.start) * rate)
    // a band of 20 Hz to 20 kHz makes the pulse wider: compare the two as spectra
    const size = 4096
    const ours = await scipy<ComplexValues>('rfft', { x: result.impulse.subarray(zero - 20, zero - 20 + size) })
    const truth = await scipy<ComplexValues>('rfft', { x: direct })
    for (const f of [100, 300, 1000, 3000, 10_000]) {
      const k = Math.round((f / rate) * size)
      expect(
        20 * Math.log10(Math.hypot(ours.re[k]!, ours.im[k]!) / Math.hypot(truth.re[k]!, truth.im[k]!)),
        `${f} Hz`,
      ).toBeCloseTo(0, 1)
    }
    expect(Math.abs(result.arrival - 960 / rate)).toBeLessThan(3 / rate)
    expect(
      Math.min(...result.signalToNoise.filter(b => b.middle > 200 && b.middle < 9000).map(b => b.level)),
    ).toBeGreaterThan(50)
  })
  it('noise shows in the signal-to-noise of its own band', () => {
    const hum = Float32Array.from(reference, (v, n) => v + 0.02 * Math.sin((2 * Math.PI * 125 * n) / rate))
    const clean = analyseSweep(reference, reference, plan, rate, 1)
    const dirty = analyseSweep(reference, hum, plan, rate, 1)
    const at = (r: typeof clean, band: string) => r.signalToNoise.find(b => b.band === band)!.level
    expect(at(dirty, '125 Hz')).toBeLessThan(at(clean, '125 Hz') - 20)
    expect(at(dirty, '4 kHz')).toBeGreaterThan(60)
  })
  it('separates harmonics: x + 0.02 x² + 0.01 x³ distorts as its Chebyshev terms say', () => {
    const amplitude = 10 ** (plan.level / 20) * Math.SQRT2
    const result = analyseSweep(
      reference,
      reference.map(v => v + 0.2 * v * v + 0.1 * v ** 3),
      plan,
      rate,
      1,
    )
    const level = (order: number) => {
      const h = result.harmonics.find(x => x.order === order)!
      const k = h.frequencies.findIndex(f => f > 900)
      return h.level[k]!
    }
    expect(level(2)).toBeCloseTo(20 * Math.log10((0.2 * amplitude) / 2), 0)
    expect(level(3)).toBeCloseTo(20 * Math.log10((0.1 * amplitude ** 2) / 4), 0)
    expect(level(4)).toBeLessThan(level(3) - 20)
  })
  it('a silent reference is refused in words', () => {
    expect(() => analyseSweep(silence(1000), silence(1000), plan, rate)).toThrow('The reference is silent')
  })
  it('deconvolution is scipy’s division of spectra', async () => {
    const x = sweep.subarray(0, 4096)
    const y = filterThrough(bandPass(1, 200, 5000, rate), x)
    const { deconvolve } = await import('./index')
    const ours = deconvolve(x, y, { low: 1, high: 24_000 }, rate)
    const truth = await scipy<number[]>('deconvolve', { x, y, size: 8192, floor: 1e-9 })
    expect(worstError(ours, new Float64Array(8192), { re: truth, im: new Array(8192).fill(0) })).toBeLessThan(1e-6)
  })
})
