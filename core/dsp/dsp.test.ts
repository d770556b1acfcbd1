import { describe, expect, it } from 'vitest'
import fc from 'fast-check'
import { scipy, worstError, type ComplexValues } from '../reference/scipy'
import {
  allPass,
  applySections,
  classical,
  complexFft,
  fader,
  filterInPlace,
  hann,
  highShelf,
  logGrid,
  lowShelf,
  magnitude,
  notch,
  peaking,
  phase,
  pinkNoise,
  pinkShaping,
  realFft,
  seededRandom,
  unity,
  whiteNoise,
  type Section,
} from './index'

const random = (size: number, seed = 1) => {
  const next = seededRandom(seed)
  return Float64Array.from({ length: size }, () => next() - 0.5)
}

const frequencies = logGrid(12, 20, 20_000)
const respond = (sections: Section[], rate: number) => {
  const curve = unity(frequencies)
  applySections(curve, sections, rate)
  return curve
}

describe('Fourier transform against scipy.fft', () => {
  it.each([4, 8, 64, 2048, 8192, 65536])('real transform of %d points', async (size) => {
    const x = random(size)
    const re = new Float64Array(size / 2 + 1)
    const im = new Float64Array(size / 2 + 1)
    const fft = realFft(size)
    fft.forward(x, re, im)
    expect(worstError(re, im, await scipy<ComplexValues>('rfft', { x }))).toBeLessThan(1e-11)
    const back = new Float64Array(size)
    fft.inverse(re, im, back)
    expect(Math.max(...back.map((v, n) => Math.abs(v - x[n]!)))).toBeLessThan(1e-14)
  })
  it.each([1, 2, 32, 1024])('complex transform of %d points', async (size) => {
    const re = random(size, 2)
    const im = random(size, 3)
    const truth = await scipy<ComplexValues>('complex_fft', { re, im })
    complexFft(size).forward(re, im)
    expect(worstError(re, im, truth)).toBeLessThan(1e-12)
  })
  it('refuses sizes that are no power of two', () => {
    expect(() => realFft(1000)).toThrow(/power of two/)
    expect(() => complexFft(0)).toThrow(/power of two/)
  })
  it('Hann window', async () => {
    const truth = await scipy<number[]>('window', { name: 'hann', size: 1024 })
    expect(worstError(hann(1024), new Float64Array(1024), { re: truth, im: truth.map(() => 0) })).toBeLessThan(
      1e-15,
    )
  })
})

describe('biquads', () => {
  // Published formulas: Audio EQ Cookbook (W3C Note); their defining values, and scipy.signal.freqz of the same
  // coefficients.
  const rate = 96_000
  const cases: [string, Section, (f: number) => number | null][] = [
    ['peaking +6 dB', peaking(1000, 6, 1.4, rate), f => (f === 1000 ? 6 : null)],
    ['peaking -12 dB', peaking(1000, -12, 8, rate), f => (f === 1000 ? -12 : null)],
    ['low shelf', lowShelf(1000, 6, Math.SQRT1_2, rate), f => new Map([[1000, 3], [10, 6]]).get(f) ?? null],
    ['high shelf', highShelf(1000, -8, Math.SQRT1_2, rate), f => new Map([[1000, -4], [10, 0]]).get(f) ?? null],
    ['all-pass', allPass(1000, 0.7, rate), () => 0],
  ]
  it.each(cases)('%s', async (_, section, expected) => {
    const at = Float64Array.from([10, 100, 1000, 5000, 20_000])
    const curve = unity(at)
    applySections(curve, [section], rate)
    const [b0, b1, b2, a1, a2] = section
    expect(
      worstError(
        curve.re,
        curve.im,
        await scipy<ComplexValues>('freqz', { b: [b0, b1, b2], a: [1, a1, a2], rate, frequencies: at }),
      ),
    ).toBeLessThan(1e-9)
    magnitude(curve).forEach((db, k) => {
      const e = expected(at[k]!)
      if (e !== null) expect(db).toBeCloseTo(e, 2)
    })
  })
  it('an all-pass turns the phase half-way at its frequency and a notch is silent there', () => {
    const one = unity(Float64Array.from([1000]))
    applySections(one, [allPass(1000, 0.7, rate)], rate)
    expect(Math.abs(phase(one)[0]!)).toBeCloseTo(180, 6)
    applySections(one, [notch(1000, 4, rate)], rate)
    expect(magnitude(one)[0]).toBeLessThan(-150)
  })
  it('a boost and the equal cut undo each other', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 25, max: 18_000, noNaN: true }),
        fc.double({ min: -24, max: 24, noNaN: true }),
        fc.double({ min: 0.2, max: 30, noNaN: true }),
        (f, gain, q) => {
          const both = respond([peaking(f, gain, q, rate), peaking(f, -gain, q, rate)], rate)
          return magnitude(both).every(db => Math.abs(db) < 1e-6)
        },
      ),
    )
  })
  it('time-domain filtering equals scipy.signal.lfilter', async () => {
    const x = random(500)
    const [b0, b1, b2, a1, a2] = peaking(3000, 7, 2, 48_000)
    const truth = await scipy<number[]>('lfilter', { b: [b0, b1, b2], a: [1, a1, a2], x })
    filterInPlace(x, [[b0, b1, b2, a1, a2]])
    expect(
      worstError(
        x,
        x.map(() => 0),
        { re: truth, im: truth.map(() => 0) },
      ),
    ).toBeLessThan(1e-12)
  })
  it('refuses what does not fit the sample rate', () => {
    expect(() => peaking(30_000, 3, 1, 48_000)).toThrow(/does not fit/)
    expect(() => peaking(100, 3, 0, 48_000)).toThrow(/Q must be above 0/)
  })
})

describe('classical filters', () => {
  const orders = [1, 2, 3, 4, 5, 6, 7, 8]
  it.each(['butterworth', 'bessel'] as const)('%s orders 1 to 8, both kinds, equal scipy.signal', async (family) => {
    for (const order of orders) {
      for (const [kind, f] of [
        ['low', 120],
        ['high', 120],
        ['low', 11_000],
        ['high', 2500],
      ] as const) {
        const curve = respond(classical(family, kind, order, f, 96_000), 96_000)
        const truth = await scipy<ComplexValues>(family, { order, kind, f, rate: 96_000, frequencies })
        expect(worstError(curve.re, curve.im, truth), `${kind} ${order} at ${f}`).toBeLessThan(1e-6)
      }
    }
  })
  // Linkwitz 1976: -6.02 dB each at the crossover, and the sum is an all-pass.
  it.each([2, 4, 6, 8])('Linkwitz–Riley order %d sums flat', async (order) => {
    const low = respond(classical('linkwitz-riley', 'low', order, 800, 48_000), 48_000)
    const high = respond(classical('linkwitz-riley', 'high', order, 800, 48_000), 48_000)
    const turn = order % 4 === 2 ? -1 : 1 // 12 and 36 dB an octave need one side's polarity inverted
    const sum = low.re.map((re, k) => Math.hypot(re + turn * high.re[k]!, low.im[k]! + turn * high.im[k]!))
    for (const r of sum) expect(20 * Math.log10(r)).toBeCloseTo(0, 2)
    const single = await scipy<ComplexValues>('butterworth', {
      order: order / 2,
      kind: 'low',
      f: 800,
      rate: 48_000,
      frequencies,
    })
    const squared = {
      re: single.re.map((r, k) => r * r - single.im[k]! ** 2),
      im: single.re.map((r, k) => 2 * r * single.im[k]!),
    }
    expect(worstError(low.re, low.im, squared)).toBeLessThan(1e-9)
    const at = unity(Float64Array.from([800]))
    applySections(at, classical('linkwitz-riley', 'low', order, 800, 48_000), 48_000)
    expect(magnitude(at)[0]).toBeCloseTo(-6.0206, 3)
  })
  it.each([['magnitude', 'mag'], ['delay', 'delay'], ['phase', 'phase']] as const)(
    'Bessel by its %s is scipy.signal’s, orders 1 to 8',
    async (norm, theirs) => {
      for (const order of orders)
        for (const kind of ['low', 'high'] as const) {
          const curve = respond(classical('bessel', kind, order, 900, 96_000, norm), 96_000)
          const asked = { order, kind, f: 900, rate: 96_000, frequencies, norm: theirs }
          const truth = await scipy<ComplexValues>('bessel', asked)
          expect(worstError(curve.re, curve.im, truth), `${kind} ${order}`).toBeLessThan(1e-6)
        }
    },
  )
  it('refuses odd Linkwitz–Riley orders and orders above 8', () => {
    expect(() => classical('linkwitz-riley', 'low', 3, 100, 48_000)).toThrow(/even order/)
    expect(() => classical('bessel', 'low', 9, 100, 48_000)).toThrow(/1 to 8/)
  })
})

describe('noise', () => {
  // references.md: -3.01 dB an octave within 0.25 dB, 20 Hz to 20 kHz.
  it.each([44_100, 48_000, 96_000])('pink shaping at %d Hz falls 3.01 dB an octave', (rate) => {
    const shaped = unity(logGrid(3, 20, 20_000))
    applySections(shaped, pinkShaping(rate), rate)
    const tilted = magnitude(shaped).map((db, k) => db + 10 * Math.log10(shaped.frequencies[k]!))
    expect(Math.max(...tilted) - Math.min(...tilted)).toBeLessThan(0.25)
  })
  it('pink noise has RMS 1 and the shaped spectrum (scipy.signal.welch)', async () => {
    const x = new Float32Array(2 ** 19)
    const rate = 48_000
    pinkNoise(rate, 7)(x)
    expect(Math.sqrt(x.reduce((sum, v) => sum + v * v, 0) / x.length)).toBeCloseTo(1, 1)
    const { frequencies: f, power } = await scipy<{ frequencies: number[], power: number[] }>('power_spectrum', {
      x,
      rate,
      length: 4096,
    })
    const octave = (centre: number) =>
      power.reduce((sum, p, k) => (f[k]! >= centre / Math.SQRT2 && f[k]! < centre * Math.SQRT2 ? sum + p : sum), 0)
    for (const centre of [500, 1000, 2000, 4000, 8000])
      // equal power an octave; a random signal, hence 0.5 dB
      expect(Math.abs(10 * Math.log10(octave(centre) / octave(1000)))).toBeLessThan(0.5)
  })
  it('white noise has RMS 1 and repeats with its seed', () => {
    const a = new Float32Array(50_000)
    const b = new Float32Array(50_000)
    whiteNoise(3)(a)
    whiteNoise(3)(b)
    expect(a).toEqual(b)
    expect(Math.sqrt(a.reduce((sum, v) => sum + v * v, 0) / a.length)).toBeCloseTo(1, 2)
  })
  it('a fader starts silent, rises without a jump and never passes the level agreed to', () => {
    const gain = fader(48_000)
    const block = new Float32Array(48_000)
    gain.apply(block.fill(1))
    expect(Math.max(...block)).toBe(0)
    gain.aim(-12)
    gain.apply(block.fill(1))
    expect(Math.max(...block)).toBeCloseTo(10 ** (-12 / 20), 6)
    for (let n = 1; n < block.length; n++) expect(block[n]! - block[n - 1]!).toBeLessThan(0.0005)
    gain.hush(0.01)
    gain.apply(block.fill(1))
    expect(block.subarray(480).every(v => v === 0)).toBe(true)
    expect(gain.sounding).toBe(false)
  })
})
