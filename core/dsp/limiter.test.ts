import { describe, expect, it } from 'vitest'
import { createLimiter, type LimiterNumbers } from './index'

const rate = 48_000
const usual: LimiterNumbers = { detector: 'peak', threshold: -12, attack: 0.001, hold: 0.02, release: 0.1 }
const sine = (level: number, seconds: number, f = 1000) =>
  Float32Array.from({ length: seconds * rate }, (_, n) => 10 ** (level / 20) * Math.sin((2 * Math.PI * f * n) / rate))
const topOf = (x: Float32Array) => 20 * Math.log10(x.reduce((a, v) => Math.max(a, Math.abs(v)), 0))
const rmsOf = (x: Float32Array) => 10 * Math.log10(x.reduce((s, v) => s + v * v, 0) / x.length)

describe('limiter', () => {
  it('leaves what is under its threshold as it is, to the bit', () => {
    const x = sine(-12.1, 0.5)
    const y = x.slice()
    expect(createLimiter(rate)(y, y.slice(), usual)).toBe(0)
    expect(y).toEqual(x)
  })
  it('brings a loud sine to its threshold: of the peak, and of the RMS level', () => {
    for (const [detector, levelOf] of [['peak', topOf], ['rms', rmsOf]] as const) {
      const y = sine(0, 2)
      createLimiter(rate)(y, y.slice(), { ...usual, detector, attack: detector === 'rms' ? 0.05 : 0.0005 })
      expect(Math.abs(levelOf(y.subarray(rate)) + 12), detector).toBeLessThan(0.7)
    }
  })
  it('takes its attack’s time down, waits its hold, and comes back in its release’s', () => {
    // a constant is a level without ripple
    const constant = (level: number, seconds: number) => new Float32Array(seconds * rate).fill(10 ** (level / 20))
    const limit = createLimiter(rate)
    const numbers = { ...usual, attack: 0.01, hold: 0.05, release: 0.2 }
    const loud = constant(0, 0.01)
    limit(loud, loud.slice(), numbers)
    const target = 10 ** (-12 / 20)
    expect(loud.at(-1)).toBeCloseTo(target + (1 - target) / Math.E, 2) // 63 % of the way
    const settle = constant(0, 0.5)
    limit(settle, settle.slice(), numbers)
    const held = constant(-40, 0.049)
    expect(limit(held, held.slice(), numbers)).toBeCloseTo(12, 1)
    expect(held.at(-1)! / held[0]!).toBeCloseTo(1, 6)
    const back = constant(-40, 0.201)
    limit(back, back.slice(), numbers)
    expect(back.at(-1)! / 10 ** (-40 / 20)).toBeCloseTo(1 - (1 - target) / Math.E, 1)
  })
  it('listens elsewhere where it is told to: the same gain for what it lets through', () => {
    const y = sine(-30, 1)
    const taken = createLimiter(rate)(y, sine(0, 1), usual)
    expect(taken).toBeGreaterThan(11)
    expect(topOf(y.subarray(rate / 2))).toBeLessThan(-40)
  })
  it('lets no peak through where it hears ahead for as long as its attack needs', () => {
    const ahead = 48
    const x = new Float32Array(rate / 2)
    // single samples 12 dB over the threshold, far apart
    for (let n = 1000; n < x.length; n += 4000) x[n] = 1
    const late = new Float32Array(x.length)
    late.set(x.subarray(0, x.length - ahead), ahead)
    const numbers = { ...usual, attack: 0.0002, hold: 0 }
    const taken = createLimiter(rate, ahead / rate)(late, x, numbers)
    expect(taken).toBeGreaterThan(11.8)
    expect(topOf(late)).toBeLessThan(-11.8)
    const blunt = x.slice()
    createLimiter(rate)(blunt, x, numbers)
    expect(topOf(blunt)).toBeGreaterThan(-3)
  })
})
