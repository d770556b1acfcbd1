import { describe, expect, it } from 'vitest'
import { applyGainAndDelay, standardGrid, unity, type Curve } from '../dsp'
import { fractionalOctaves, driftOf } from '../measure'
import { findingsOf, levelAdvice, type Observed } from './index'

const bands = fractionalOctaves(24, 16, 20_000)
const coherent = (value: number): Curve => ({
  ...unity(standardGrid),
  coherence: new Float64Array(standardGrid.length).fill(value),
})
const pink = () => Float32Array.from(bands, () => -50)
const good: Observed = {
  microphone: { peak: -20, rms: -32 },
  reference: { peak: -10, rms: -20 },
  sounding: true,
  curve: (() => {
    const c = coherent(0.95)
    applyGainAndDelay(c, 0.3, 0)
    return c
  })(),
  delay: 0.02,
  arrival: { time: 0.02, polarity: 1 },
  echoes: [{ time: 0, level: 0, polarity: 1 }],
  definition: 0.8,
  modes: [],
  comb: null,
  spectrum: { bands, microphone: pink(), reference: pink() },
  others: [],
  unfed: null,
  drift: 0,
  compensated: false,
  speedOfSound: 343.2,
}
const ids = (change: Partial<Observed>) => findingsOf({ ...good, ...change }).map(f => f.id)
const quiet = { sounding: false, reference: { peak: -90, rms: -100 }, curve: null, arrival: null, echoes: null }
const text = (change: Partial<Observed>) =>
  findingsOf({ ...good, ...change })
    .map(f => f.text)
    .join(' ')
const withLines = (lines: number[]) => {
  const m = pink()
  for (const f of lines) m[bands.findIndex(b => f >= b.low && f < b.high)] = -25
  return m
}

describe('findings', () => {
  it('says nothing of a measurement that is as it should be', () => {
    expect(ids({})).toEqual([])
  })
  it.each([
    ['a clipping microphone', { microphone: { peak: 0, rms: -8 } }, 'mic-clips'],
    ['a clipping reference', { reference: { peak: 0, rms: -8 } }, 'ref-clips'],
    ['a silent reference', { reference: { peak: -90, rms: -100 } }, 'ref-silent'],
    ['a quiet microphone', { microphone: { peak: -52, rms: -65 } }, 'mic-quiet'],
    ['the same signal twice', { curve: coherent(1), delay: 0, arrival: { time: 0, polarity: 1 as const } }, 'same'],
    ['swapped inputs', { delay: -0.02, arrival: { time: -0.02, polarity: 1 as const } }, 'swapped'],
    ['an arrival that moved', { arrival: { time: 0.023, polarity: 1 as const } }, 'moved'],
    ['turned polarity', { arrival: { time: 0.02, polarity: -1 as const } }, 'polarity'],
    ['two clocks', { drift: 14 }, 'drift'],
    ['a loud room', { curve: coherent(0.4), definition: 0.5 }, 'low-room'],
    ['noise', { curve: coherent(0.4), definition: 0.9 }, 'low-noise'],
    ['a wrong arrival', { curve: coherent(0.3), arrival: { time: 0.03, polarity: 1 as const } }, 'low-arrival'],
    [
      'hum of 50 Hz',
      { ...quiet, spectrum: { bands, microphone: withLines([50, 100, 150]), reference: pink() } },
      'hum',
    ],
    ['hum of 60 Hz', { ...quiet, spectrum: { bands, microphone: withLines([60, 180]), reference: pink() } }, 'hum'],
  ] as [string, Partial<Observed>, string][])('%s', (_, change, id) => {
    expect(ids(change)).toContain(id)
  })
  it('tells how much is missing, in numbers', () => {
    expect(text({ microphone: { peak: -52, rms: -65 } })).toContain('Raise it by about 22 dB')
    expect(text({ drift: 14 })).toContain('14 ppm, 0.84 ms a minute')
  })
  it('a reflection has its time, level, way and comb: 1 ms nulls at 500 Hz (references.md)', () => {
    const echoes = [
      { time: 0, level: 0, polarity: 1 as const },
      { time: 0.001, level: -4, polarity: 1 as const },
      { time: 0.02, level: -15, polarity: 1 as const },
    ]
    expect(text({ echoes })).toMatch(
      /1\.00 ms after the direct sound, −4\.0 dB: a way 0\.34 m longer.*dips at 500 Hz/,
    )
    expect(text({ echoes: [echoes[0]!, { ...echoes[1]!, polarity: -1 }] })).toContain('peaks at 500 Hz')
    expect(ids({ echoes: [echoes[0]!, echoes[2]!] })).toEqual([])
  })
  it('a second loudspeaker is told from a reflection by when it would arrive', () => {
    const echoes = [
      { time: 0, level: 0, polarity: 1 as const },
      { time: 0.012, level: -3, polarity: 1 as const },
    ]
    expect(text({ echoes, others: [{ name: 'Delay L', time: 0.0122 }] })).toContain(
      'when Delay L would by the plan',
    )
    expect(ids({ echoes, others: [{ name: 'Delay L', time: 0.03 }] })).toEqual(['echo'])
  })
  it('what is in the reference too, or stands out while the noise plays, is no hum; what is wrong stands first', () => {
    expect(
      ids({ ...quiet, spectrum: { bands, microphone: withLines([50, 100]), reference: withLines([50, 100]) } }),
    ).toEqual([])
    // the noise plays: a room's peaks look alike
    expect(ids({ spectrum: { bands, microphone: withLines([50, 100]), reference: pink() } })).toEqual([])
    expect(findingsOf({ ...good, drift: 9, microphone: { peak: 0, rms: -5 } }).map(f => f.weight)).toEqual([
      'wrong',
      'mind',
    ])
  })
  it('drift is the slope of the arrivals, and a jump is none', () => {
    const history = (slope: number, jump = 0) =>
      Array.from({ length: 40 }, (_, n) => ({
        at: n / 2,
        arrival: 0.02 + (slope * n) / 2 + (n > 20 ? jump : 0) + 1e-8 * Math.sin(n * 7),
      }))
    expect(driftOf(history(14e-6))).toBeCloseTo(14, 0)
    expect(Math.abs(driftOf(history(0))!)).toBeLessThan(0.5)
    expect(driftOf(history(0, 0.002))).toBeNull()
    expect(driftOf(history(14e-6).slice(0, 10))).toBeNull()
  })
  it('says how far to turn a microphone, and nothing of one that is well', () => {
    const advice = (peak: number) => levelAdvice({ peak, rms: peak - 12 })
    expect([-20, -39, -7].map(advice)).toEqual([null, null, null])
    expect(advice(-46)).toBe('quiet: raise the microphone by 16 dB')
    expect(advice(-3)).toContain('down by 9 dB')
    expect(advice(0)).toContain('clips')
    expect(advice(-Infinity)).toContain('silent')
  })
  it('names a ringing mode with its frequency and decay', () => {
    expect(text({ modes: [{ frequency: 63.2, decay: 2.64, over: 11, usual: 0.92 }] })).toContain(
      '63 Hz rings: it takes 2.6 s to fall by 60 dB, the rest about 0.9 s',
    )
  })
  it('names a comb by its delay and its first dip, unless a reflection of its own tells it already', () => {
    expect(text({ comb: { delay: 0.0005, level: -2, polarity: 1 } })).toMatch(
      /twice, 0\.50 ms apart, .*dips at 1(\.00)? kHz and every odd multiple/,
    )
    expect(text({ comb: { delay: 0.0005, level: -2, polarity: -1 } })).toMatch(
      /and turned: a comb with dips at 2(\.00)? kHz and every multiple/,
    )
    expect(
      findingsOf({
        ...good,
        comb: { delay: 0.003, level: -5, polarity: 1 },
        echoes: [
          { time: 0, level: 0, polarity: 1 },
          { time: 0.003, level: -5, polarity: 1 },
        ],
      }).map(f => f.id),
    ).not.toContain('comb')
    expect(findingsOf({ ...good, comb: { delay: 0.0005, level: -18, polarity: 1 } }).map(f => f.id)).not.toContain(
      'comb',
    )
  })
  it('sound from a source that gets no signal is another one’s', () => {
    expect(text({ unfed: 'Main R', others: [{ name: 'Main L', time: 0 }] })).toContain(
      'Main R gets no signal, yet sound arrives: Main L is what is measured',
    )
    expect(findingsOf({ ...good, unfed: 'Main R', arrival: null }).map(f => f.id)).not.toContain('unfed')
  })
})
