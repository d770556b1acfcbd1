import { describe, expect, it } from 'vitest'
import { applyGainAndDelay, standardGrid, unity } from '../../core/dsp'
import { coherenceTrace, magnitudeTrace, phaseTrace, type Drawn } from './traces'

const drawn = (change: (d: Drawn) => void = () => {}): Drawn => {
  const d: Drawn = {
    id: 'live',
    name: 'Main L now',
    hue: 0,
    dash: 0,
    predicted: false,
    strong: true,
    curve: { ...unity(standardGrid), coherence: new Float64Array(standardGrid.length).fill(0.9) },
  }
  change(d)
  return d
}

describe('lines on the plate', () => {
  it('magnitude is 20 lg of the ratio, and silence is lifted off the paper', () => {
    const half = magnitudeTrace(
      drawn((d) => {
        applyGainAndDelay(d.curve, 0.5, 0)
      }),
    )
    expect(half.values[100]).toBeCloseTo(-6.02, 2)
    const silent = magnitudeTrace(
      drawn((d) => {
        d.curve.re.fill(0)
      }),
    )
    expect(silent.values.every(Number.isNaN)).toBe(true)
  })
  it('phase never draws the jump from -180° to 180°, and loses nothing else', () => {
    const { values } = phaseTrace(
      drawn((d) => {
        applyGainAndDelay(d.curve, 1, 0.002)
      }),
    )
    for (let k = 1; k < values.length; k++)
      if (Number.isFinite(values[k]!) && Number.isFinite(values[k - 1]!))
        expect(Math.abs(values[k]! - values[k - 1]!)).toBeLessThanOrEqual(180)
    const low = values.slice(0, 150) // 0.002 s turns 360° in 500 Hz: few wraps down there
    expect(low.filter(Number.isNaN).length).toBeLessThan(3)
  })
  it('a trace of too few blocks is pale throughout, but there', () => {
    const young = magnitudeTrace({ ...drawn(), young: true })
    expect(young.trusted.some(Boolean)).toBe(false)
    expect(young.values.every(Number.isFinite)).toBe(true)
  })
  it('a poor point is pale but there; coherence itself and data without coherence are never pale', () => {
    const poor = drawn((d) => {
      d.curve.coherence!.fill(0.2, 0, 50)
    })
    const line = magnitudeTrace(poor)
    expect(line.trusted.slice(0, 51)).toEqual([...Array<boolean>(50).fill(false), true])
    expect(line.values.every(Number.isFinite)).toBe(true)
    expect(coherenceTrace(poor).trusted.every(Boolean)).toBe(true)
    expect(
      magnitudeTrace(
        drawn((d) => {
          d.curve.coherence = null
        }),
      ).trusted.every(Boolean),
    ).toBe(true)
  })
})
