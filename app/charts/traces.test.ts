import { describe, expect, it } from 'vitest'
import { applyGainAndDelay, standardGrid, unity } from '../../core/dsp'
import { coherenceTrace, harmonicTraces, magnitudeTrace, phaseTrace, type Drawn } from './traces'

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
  it('confidence is a band round a measured line, wider where coherence is lower, and only on wish', () => {
    const measured = drawn((d) => {
      d.curve.averages = new Float64Array(standardGrid.length).fill(20)
      d.curve.coherence!.fill(0.5, 0, 100)
    })
    expect(magnitudeTrace(measured).band).toBeUndefined()
    const { values, band } = magnitudeTrace(measured, undefined, true)
    const [low, high] = band!
    values.forEach((v, k) => expect(low[k]! < v && v < high[k]!).toBe(true))
    expect(high[50]! - low[50]!).toBeGreaterThan(2 * (high[200]! - low[200]!))
    const [from, to] = phaseTrace(measured, undefined, false, true).band!
    expect(to[50]! - from[50]!).toBeGreaterThan(to[200]! - from[200]!)
    expect(magnitudeTrace({ ...measured, predicted: true }, undefined, true).band).toBeUndefined()
    expect(magnitudeTrace(drawn(d => d.curve.coherence!.fill(0.9)), undefined, true).band).toBeUndefined()
    const upside = magnitudeTrace({ ...measured, inverted: true }, undefined, true).band!
    expect(upside[0][200]).toBeCloseTo(-high[200]!, 9)
  })
  it('harmonics add up to THD; THD+N stands beside it and is none of them', () => {
    const frequencies = Float32Array.of(100, 120, 140)
    const harmonics = [2, 3, 0].map(order => ({ order, frequencies, level: Float32Array.of(-40, -40, -40) }))
    const traces = harmonicTraces({ ...drawn(() => {}), harmonics })
    const at = standardGrid.findIndex(f => f >= 115)
    const named = (name: string) => traces.find(t => t.name === name)!.values[at]!
    expect(named('THD')).toBeCloseTo(-36.99, 1)
    expect(named('THD+N')).toBeCloseTo(-40, 5)
    expect(traces.map(t => t.name)).toEqual(['harmonic 2', 'harmonic 3', 'THD', 'THD+N'])
  })
})
