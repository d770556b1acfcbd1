import { describe, expect, it } from 'vitest'
import { logGrid, unity, type Curve } from '../dsp'
import { levelsApart, targets } from './index'

const grid = logGrid(12, 30, 16_000)
const curveOf = (level: (f: number) => number, coherence: (f: number) => number = () => 1): Curve => ({
  ...unity(grid),
  re: grid.map(f => 10 ** (level(f) / 20)),
  coherence: grid.map(coherence),
})

describe('how far two levels lie apart', () => {
  it('is nothing for the same, and a dB for a dB', () => {
    expect(levelsApart(curveOf(() => -3), curveOf(() => -3), 0.6)).toBeCloseTo(0, 9)
    expect(levelsApart(curveOf(() => -3), curveOf(() => -4), 0.6)).toBeCloseTo(1, 9)
    expect(levelsApart(curveOf(f => (f < 692 ? 2 : 0)), curveOf(() => 0), 0.6)).toBeCloseTo(2 / Math.SQRT2, 1)
  })
  it('leaves out what either does not let trust, and what lies 30 dB under the top', () => {
    const off = (f: number) => (f < 100 ? 20 : 0)
    expect(levelsApart(curveOf(off), curveOf(() => 0, f => (f < 100 ? 0.3 : 0.9)), 0.6)).toBeCloseTo(0, 9)
    const deep = (by: number) => curveOf(f => (f < 100 ? -40 - by : 0))
    expect(levelsApart(deep(0), deep(9), 0.6)).toBeCloseTo(0, 9)
  })
  it('cannot be told of too little', () => {
    expect(levelsApart(curveOf(() => 0, () => 0.2), curveOf(() => 0), 0.6)).toBeNull()
  })
})

describe('targets to begin with', () => {
  it.each(Object.entries(targets))('%s is near 0 dB at 1 kHz and never jumps', (_, { level }) => {
    expect(Math.abs(level(1000))).toBeLessThan(0.3)
    for (let k = 1; k < grid.length; k++) expect(Math.abs(level(grid[k]!) - level(grid[k - 1]!))).toBeLessThan(0.5)
  })
  it('do what their names say', () => {
    expect(targets.flat.level()).toBe(0)
    expect(targets.tilt.level(2000) - targets.tilt.level(8000)).toBeCloseTo(2, 9)
    expect(targets['low-shelf'].level(40) - targets['low-shelf'].level(1000)).toBeGreaterThan(3.3)
    expect(targets.speech.level(10_000)).toBeCloseTo(-3, 9)
  })
})
