import { describe, expect, it } from 'vitest'
import { louderBy, parametersOf } from './index'
import { processor } from './testRig'

const by = (path: string, from: unknown, to: unknown) => louderBy(parametersOf(processor).get(path)!, from, to)
const band = (gain: number, frequency = 1000, on = true) => ({ on, type: 'peaking', frequency, gain, q: 1 })

describe('how much louder a change is at once', () => {
  it('levels and filters by their step', () => {
    expect(by('/outputs/1/gain', -20, 0)).toBe(20)
    expect(by('/outputs/1/gain', 0, -20)).toBe(-20)
    expect(by('/outputs/1/eq/0', band(-12), band(0))).toBeCloseTo(12, 6)
    expect(by('/outputs/1/eq/0', band(9, 1000, false), band(9))).toBeLessThanOrEqual(9)
    expect(by('/matrix/0/1', -30, -10)).toBe(20)
  })
  it('a deep cut that is a little less deep, here or beside it, is a little step', () => {
    expect(by('/outputs/1/eq/0', band(-12), band(-11.5))).toBeCloseTo(0.5, 6)
    expect(by('/outputs/1/eq/0', band(-12), band(-11.9, 1010))).toBeLessThan(0.5)
    expect(by('/outputs/1/eq/0', band(-12), band(-11.9, 4000))).toBeGreaterThan(10)
  })
  it('a filter that is moved, a delay, a polarity, and what is opened are no step', () => {
    expect(by('/outputs/1/eq/0', band(9), band(9, 2000))).toBe(-Infinity)
    expect(by('/outputs/1/delay', 0, 0.05)).toBe(-Infinity)
    expect(by('/outputs/1/polarity', 'normal', 'inverted')).toBe(-Infinity)
    expect(by('/outputs/1/mute', true, false)).toBe(-Infinity)
    expect(by('/matrix/0/1', null, 0)).toBe(-Infinity)
  })
})
