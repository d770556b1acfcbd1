import { describe, expect, it } from 'vitest'
import fc from 'fast-check'
import {
  bandwidthOfQ,
  canonical,
  equal,
  niceRange,
  parseDelay,
  parseFrequency,
  parseLength,
  parseLevel,
  parseQ,
  qOfBandwidth,
  showDelay,
  showFrequency,
  showLength,
  showLevel,
  toStep,
  wrapDegrees,
} from './index'

const value = (p: { ok: boolean, value?: number }) => (p.ok ? p.value : undefined)

describe('what technicians type', () => {
  it.each([
    ['80', 80],
    ['1k25', 1250],
    ['1.25k', 1250],
    ['2,5 kHz', 2500],
    [' 16000 Hz ', 16000],
  ])('frequency %s is %d Hz', (text, hz) => {
    expect(value(parseFrequency(text))).toBeCloseTo(hz, 9)
  })
  it.each([
    ['-6,5', -6.5],
    ['−6.5 dB', -6.5],
    ['+3', 3],
    ['.5', 0.5],
  ])('level %s is %d dB', (text, db) => {
    expect(value(parseLevel(text))).toBe(db)
  })
  it.each([
    ['4.5', 0.0045],
    ['4,5 ms', 0.0045],
    ['0.2 s', 0.2],
    ['250 us', 0.00025],
    ['96 smp', 0.001],
    ['343.2 m', 1],
    ['10 ft', 3.048 / 343.2],
  ])('delay %s', (text, s) => {
    expect(value(parseDelay(text, { speedOfSound: 343.2, sampleRate: 96000 }))).toBeCloseTo(s, 9)
  })
  it('refuses samples without a rate, words, and nothing, with an example', () => {
    for (const p of [
      parseDelay('96 smp'),
      parseDelay('soon'),
      parseDelay(''),
      parseFrequency('3 dB'),
      parseLevel('1..2'),
      parseQ('-1'),
    ])
      expect(p).toMatchObject({ ok: false, why: expect.stringMatching(/Try|example/) })
  })
  // handbook values: Q 1.414 is 1 octave, 4.318 is 1/3 octave, 0.667 is 2 octaves
  it.each([
    [1, 1.414],
    [1 / 3, 4.318],
    [2, 0.667],
  ])('bandwidth of %d octaves is Q %d', (octaves, q) => {
    expect(qOfBandwidth(octaves)).toBeCloseTo(q, 3)
    expect(value(parseQ(`${octaves} oct`))).toBeCloseTo(q, 3)
    expect(value(parseQ(`${octaves * 3}/3 octaves`))).toBeCloseTo(q, 3)
  })
})

describe('properties', () => {
  it('bandwidth and Q are inverses', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0.05, max: 60, noNaN: true }),
        q => Math.abs(qOfBandwidth(bandwidthOfQ(q)) / q - 1) < 1e-9,
      ),
    )
  })
  it('what is shown reads back as what was shown', () => {
    fc.assert(
      fc.property(fc.integer({ min: -600, max: 600 }), (n) => {
        expect(value(parseLevel(showLevel(n / 10)))).toBeCloseTo(n / 10, 9)
        expect(value(parseDelay(showDelay(Math.abs(n) / 1e5)))).toBeCloseTo(Math.abs(n) / 1e5, 9)
      }),
    )
    fc.assert(fc.property(fc.integer({ min: 20, max: 9999 }), f => value(parseFrequency(showFrequency(f))) === f))
  })
  it('a stepped value is the nearest multiple and stays put', () => {
    fc.assert(
      fc.property(
        fc.double({ min: -100, max: 100, noNaN: true }),
        fc.constantFrom(0.1, 0.5, 0.01, 1 / 96000),
        (v, step) => {
          const held = toStep(v, step)
          expect(Math.abs(held - v)).toBeLessThanOrEqual(step / 2 + 1e-9)
          expect(toStep(held, step)).toBe(held)
        },
      ),
    )
  })
  it('wrapped angles stay in (-180, 180] and keep their direction', () => {
    fc.assert(
      fc.property(fc.double({ min: -1e4, max: 1e4, noNaN: true }), (a) => {
        const w = wrapDegrees(a)
        expect(w).toBeGreaterThan(-180)
        expect(w).toBeLessThanOrEqual(180)
        expect(Math.cos((a * Math.PI) / 180)).toBeCloseTo(Math.cos((w * Math.PI) / 180), 6)
      }),
    )
  })
})

describe('lengths', () => {
  it.each([
    ['3.5', 'm', 3.5],
    ['12 ft', 'm', 3.6576],
    ['12', 'ft', 3.6576],
    ['2 m', 'ft', 2],
    ['6\'', 'm', 1.8288],
  ] as const)('%s in a field of %s is %d m', (text, unit, metres) => {
    expect(parseLength(text, unit)).toEqual({ ok: true, value: expect.closeTo(metres, 9) })
    expect(parseLength(showLength(metres, unit, 4), unit)).toEqual({ ok: true, value: expect.closeTo(metres, 3) })
  })
  it('refuses what is no length', () => {
    expect(parseLength('3 s').ok).toBe(false)
    expect(parseLength('').ok).toBe(false)
  })
})

describe('a comma with three digits behind it', () => {
  it.each(['1,200', '−12,500 Hz', '3,125 ms'])('%s has two readings, and both are told', (text) => {
    for (const read of [parseFrequency(text), parseLevel(text), parseDelay(text)]) {
      expect(read.ok).toBe(false)
      expect(!read.ok && read.why).toMatch(/can be −?-?[\d.]+ or −?-?\d+: type one of them/)
    }
  })
  it('other commas are decimal', () => {
    expect(parseLevel('-6,5')).toEqual({ ok: true, value: -6.5 })
    expect(parseLevel('0,125')).toEqual({ ok: true, value: 0.125 })
    expect(parseLevel('1.234,5')).toEqual({ ok: true, value: 1234.5 })
    expect(parseFrequency('2,5 kHz')).toEqual({ ok: true, value: 2500 })
  })
})

describe('an axis that follows its values', () => {
  it('holds them, but for single points, in at most eight round steps', () => {
    fc.assert(fc.property(
      fc.array(fc.double({ min: -1e4, max: 1e4, noNaN: true }), { minLength: 1, maxLength: 300 }),
      (values) => {
        const { min, max, step } = niceRange(values)!
        const inside = values.filter(v => v >= min - 1e-9 && v <= max + 1e-9).length
        expect(inside / values.length).toBeGreaterThan(values.length < 25 ? 0.85 : 0.9)
        expect((max - min) / step).toBeLessThanOrEqual(8 + 1e-9)
        expect([1, 2, 5].some(w => Math.abs(Math.log10(step / w) % 1) < 1e-9)).toBe(true)
      },
    ))
    expect(niceRange([Number.NaN, Infinity])).toBeNull()
    expect(niceRange([3, 3.2])).toEqual({ min: 3, max: 4, step: 1 })
  })
})

describe('equal', () => {
  const key = fc.constantFrom('a', 'b', 'c')
  const leaf = fc.constantFrom<unknown>(undefined, null, true, 0, -0, 1, Number.NaN, Infinity, '', 'x', '1')
  const { tree } = fc.letrec<{ tree: unknown }>(tie => ({
    tree: fc.oneof({ depthSize: 'small' }, leaf, fc.array(tie('tree'), { maxLength: 3 }),
      fc.dictionary(key, tie('tree'), { maxKeys: 3 })),
  }))
  const anObject = fc.oneof(fc.array(tree, { maxLength: 3 }), fc.dictionary(key, tree, { maxKeys: 3 }))
  it('is what JSON with sorted keys says of anything that has members', () => {
    fc.assert(fc.property(anObject, anObject, (a, b) => {
      expect(equal(a, b)).toBe(canonical(a) === canonical(b))
      expect(equal(a, structuredClone(a))).toBe(true)
    }), { numRuns: 3000 })
  })
})
