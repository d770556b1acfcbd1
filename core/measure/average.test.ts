import { describe, expect, it } from 'vitest'
import { logGrid, type Curve } from '../dsp'
import { average } from './index'

const grid = logGrid(3, 50, 5000)
const curveOf = (ratio: number, coherence: number | null, angle = 0): Curve => ({
  frequencies: grid,
  re: grid.map(() => ratio * Math.cos(angle)),
  im: grid.map(() => ratio * Math.sin(angle)),
  coherence: coherence === null ? null : grid.map(() => coherence),
})
const level = ({ curve: { re, im } }: { curve: Curve }) => 20 * Math.log10(Math.hypot(re[0]!, im[0]!))
const one = (curve: Curve, weight = 1) => ({ curve, weight })

describe('an average over positions', () => {
  it('of powers, complex values and levels is each by its own definition', () => {
    const two = [one(curveOf(1, 0.9)), one(curveOf(3, 0.9, Math.PI))]
    expect(level(average(two, 'power'))).toBeCloseTo(10 * Math.log10(5), 9)
    expect(level(average(two, 'complex'))).toBeCloseTo(0, 9)
    expect(level(average(two, 'level'))).toBeCloseTo(10 * Math.log10(3), 9)
  })
  it('has the coherence of what went in, or none where any had none', () => {
    const both = average([one(curveOf(1, 0.4)), one(curveOf(1, 0.8))], 'power')
    expect(both.curve.coherence![0]).toBeGreaterThanOrEqual(0.4)
    expect(both.curve.coherence![0]).toBeLessThanOrEqual(0.8)
    expect(average([one(curveOf(1, 0.4)), one(curveOf(1, null))], 'power').curve.coherence).toBeNull()
  })
  it('counts a position by its weight, and by trust where that is asked for', () => {
    const quiet = curveOf(1, 1)
    const loud = curveOf(10, 0.1)
    expect(level(average([one(quiet, 1), one(loud, 0)], 'level'))).toBeCloseTo(0, 9)
    expect(level(average([one(quiet), one(loud)], 'level'))).toBeCloseTo(10, 9)
    expect(level(average([one(quiet), one(loud)], 'level', true))).toBeCloseTo(20 * (0.1 / 1.1), 6)
  })
  it('spreads as far as its curves do, and refuses what cannot be averaged', () => {
    const { low, high } = average([one(curveOf(1, 1)), one(curveOf(10, 1))], 'level')
    expect(low[0]).toBeCloseTo(0, 6)
    expect(high[0]).toBeCloseTo(20, 6)
    expect(() => average([], 'power')).toThrow(/nothing to average/)
    expect(() => average([one(curveOf(1, 1), 0)], 'power')).toThrow(/weight 0/)
  })
})
