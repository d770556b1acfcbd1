import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import {
  applySections,
  families,
  logGrid,
  peaking,
  qOfWidth,
  unity,
  widthConventions,
  widthOfQ,
  type Section,
  type WidthConvention,
} from '../dsp'
import { scipy, worstError, type ComplexValues } from '../reference/scipy'
import { decibelsOf } from '../units'
import { shapeResponse, shapeSections, type ShapeBlock } from './index'

const rate = 96_000
const grid = logGrid(12, 20, 40_000)

describe('response of blocks', () => {
  it.each<ShapeBlock>([
    { kind: 'peaking', frequency: 1000, gain: -6, q: 1.4 },
    { kind: 'low-shelf', frequency: 120, gain: 5, slope: 0.8 },
    { kind: 'high-shelf', frequency: 8000, gain: -4, q: 0.6 },
    { kind: 'notch', frequency: 50, q: 20 },
    { kind: 'band-pass', frequency: 500, bandwidth: 1 },
    { kind: 'all-pass', frequency: 300, q: 0.7 },
    { kind: 'all-pass-1', frequency: 2500 },
    { kind: 'high-pass', frequency: 40, q: 1.2 },
  ])('$kind equals scipy’s freqz of its coefficients to 1e-9', async (block) => {
    const [[b0, b1, b2, a1, a2]] = shapeSections(block, rate) as [Section]
    const truth = await scipy<ComplexValues>('freqz', { b: [b0, b1, b2], a: [1, a1, a2], rate, frequencies: grid })
    const { re, im } = shapeResponse([block], rate, grid)
    expect(worstError(re, im, truth)).toBeLessThan(1e-9)
  })
  it.each(families.flatMap(family => [1, 2, 3, 4, 5, 6, 7, 8].map(order => ({ family, order }))))(
    '$family of order $order equals scipy’s design to 1e-6',
    async ({ family, order }) => {
      const block = { kind: 'high-pass', family, order, frequency: 700 } as const
      if (family === 'linkwitz-riley' && order % 2) {
        expect(() => shapeResponse([block], rate, grid)).toThrow(/Block 1, high-pass: .*even order/)
        return
      }
      const { re, im } = shapeResponse([block], rate, grid)
      const half = family === 'linkwitz-riley'
      const design = half ? 'butterworth' : family
      const args = { order: half ? order / 2 : order, kind: 'high', f: 700, rate, frequencies: grid }
      const truth = await scipy<ComplexValues>(design, args)
      const squared = half
        ? { re: truth.re.map((r, k) => r * r - truth.im[k]! ** 2), im: truth.re.map((r, k) => 2 * r * truth.im[k]!) }
        : truth
      expect(worstError(re, im, squared)).toBeLessThan(1e-6)
    })
  it('first- and second-order all-passes turn the phase by 90 and 180° at their frequency and leave the level', () => {
    for (const [kind, degrees] of [['all-pass-1', -90], ['all-pass', 180]] as const) {
      const block = { kind, frequency: 1000, ...(kind === 'all-pass' ? { q: 2 } : {}) } as ShapeBlock
      const { re, im } = shapeResponse([block], rate, Float64Array.of(30, 1000, 30_000))
      for (let k = 0; k < 3; k++) expect(Math.hypot(re[k]!, im[k]!)).toBeCloseTo(1, 9)
      expect(Math.abs((Math.atan2(im[1]!, re[1]!) * 180) / Math.PI)).toBeCloseTo(Math.abs(degrees), 6)
    }
  })
  it('gain, polarity, delay and coefficients are what they say', () => {
    const { re, im } = shapeResponse(
      [
        { kind: 'gain', gain: 6 },
        { kind: 'polarity' },
        { kind: 'delay', seconds: 0.001 },
        { kind: 'fir', taps: [0, 1] },
      ],
      48_000,
      Float64Array.of(250),
    )
    const angle = -2 * Math.PI * 250 * (0.001 + 1 / 48_000)
    expect(re[0]).toBeCloseTo(-(10 ** 0.3) * Math.cos(angle), 9)
    expect(im[0]).toBeCloseTo(-(10 ** 0.3) * Math.sin(angle), 9)
  })
  it('a cut and its mirror cancel; Linkwitz–Riley bands sum flat', () => {
    fc.assert(fc.property(
      fc.double({ min: 25, max: 18_000, noNaN: true }), fc.double({ min: -18, max: 18, noNaN: true }),
      fc.double({ min: 0.3, max: 20, noNaN: true }), fc.constantFrom(2, 4, 6, 8),
      (frequency, gain, q, order) => {
        const kinds = ['peaking', 'low-shelf', 'high-shelf'] as const
        const both = kinds.flatMap(kind => [gain, -gain].map(g => ({ kind, frequency, gain: g, q })))
        const { re, im } = shapeResponse(both, rate, grid)
        re.forEach((v, k) => expect(Math.hypot(v - 1, im[k]!)).toBeLessThan(1e-7))
        const side = (kind: 'low-pass' | 'high-pass') =>
          shapeResponse([{ kind, family: 'linkwitz-riley', order, frequency }], rate, grid)
        const [low, high] = [side('low-pass'), side('high-pass')]
        const sign = order % 4 === 0 ? 1 : -1
        low.re.forEach((v, k) =>
          expect(Math.hypot(v + sign * high.re[k]!, low.im[k]! + sign * high.im[k]!)).toBeCloseTo(1, 7))
      },
    ), { numRuns: 40 })
  })
  it('says which block cannot be, and why', () => {
    const say = (block: ShapeBlock) => () => shapeResponse([{ kind: 'polarity' }, block], 48_000, grid.slice(0, 60))
    expect(say({ kind: 'peaking', frequency: 1000, gain: 3 })).toThrow('Block 2, peaking: Give q, or bandwidth')
    expect(say({ kind: 'notch', frequency: 30_000, q: 1 })).toThrow(/Block 2, notch: .*sample rate/)
    expect(say({ kind: 'low-shelf', frequency: 100, gain: 3, q: 1, slope: 1 })).toThrow(/q or slope, not both/)
    expect(say({ kind: 'high-pass', frequency: 100, q: 1, order: 4 })).toThrow(/q, or family and order/)
    expect(() => shapeResponse([], 48_000, Float64Array.of(25_000))).toThrow(/above half the sample rate/)
  })
})

/** The two frequencies at which a peaking filter has a level, on either side of its middle. */
function edgesOf(section: Section, f: number, level: number, sampleRate: number): [number, number] {
  const at = (x: number) => {
    const curve = unity(Float64Array.of(x))
    applySections(curve, [section], sampleRate)
    return Math.abs(decibelsOf(Math.hypot(curve.re[0]!, curve.im[0]!)))
  }
  const find = (inner: number, outer: number) => {
    let [a, b] = [inner, outer]
    for (let n = 0; n < 100; n++) {
      const middle = (a + b) / 2
      if (at(middle) > level) a = middle
      else b = middle
    }
    return a
  }
  return [find(f, 1e-3), find(f, sampleRate / 2 - 1e-3)]
}

describe('width in octaves by what a device means', () => {
  it.each([
    ['half-gain', (gain: number) => gain / 2],
    ['three-db', (gain: number) => gain - 10 * Math.log10(2)],
  ] as const)('%s: between the very points that it names, also near half the sample rate', (convention, levelOf) => {
    for (const f of [40, 1000, 15_000]) {
      for (const gain of [-15, -4, 6, 12]) {
        for (const octaves of [0.1, 1 / 3, 1]) {
          const q = qOfWidth(octaves, convention, f, gain, 48_000)
          const [low, high] = edgesOf(peaking(f, gain, q, 48_000), f, levelOf(Math.abs(gain)), 48_000)
          expect(Math.log2(high / low)).toBeCloseTo(octaves, 6)
        }
      }
    }
  })
  it('resonance: the same poles at every gain of a boost, whose own band is that wide', () => {
    for (const gain of [1, 6, 15]) {
      const q = qOfWidth(1, 'resonance', 1000, gain, 48_000)
      const [, , , a1, a2] = peaking(1000, gain, q, 48_000)
      const resonance: Section = [(1 - a2) / 2, 0, (a2 - 1) / 2, a1, a2] // the band-pass of these poles
      const curve = unity(logGrid(2000, 500, 2000))
      applySections(curve, [resonance], 48_000)
      const power = Float64Array.from(curve.re, (re, k) => re * re + curve.im[k]! ** 2)
      const inside = curve.frequencies.filter((_, k) => power[k]! > 0.5)
      expect(Math.log2(inside.at(-1)! / inside[0]!)).toBeCloseTo(1, 2)
    }
  })
  it('handbook values: Q 1.414 is 1 octave, 4.318 a third, 0.667 two (common practice)', () => {
    for (const [q, octaves] of [[1.414, 1], [4.318, 1 / 3], [0.667, 2]] as const) {
      expect(qOfWidth(octaves, 'half-gain-analogue', 1000, 6, 48_000)).toBeCloseTo(q, 3)
      expect(qOfWidth(octaves, 'cookbook', 10, 6, 48_000)).toBeCloseTo(q, 3)
    }
  })
  it('comes back: from Q to octaves to Q, for every convention', () => {
    fc.assert(fc.property(
      fc.constantFrom<WidthConvention>(...widthConventions), fc.double({ min: 0.4, max: 30, noNaN: true }),
      fc.double({ min: 30, max: 15_000, noNaN: true }), fc.double({ min: 3.2, max: 18, noNaN: true }),
      (convention, q, f, gain) => {
        const octaves = widthOfQ(q, convention, f, gain, 48_000)!
        expect(qOfWidth(octaves, convention, f, gain, 48_000) / q).toBeCloseTo(1, 6)
      },
    ))
    expect(widthOfQ(2, 'three-db', 1000, 2, 48_000)).toBeNull()
    expect(() => qOfWidth(1, 'three-db', 1000, 2, 48_000)).toThrow(/no points 3 dB/)
  })
})
