import { describe, expect, it } from 'vitest'
import { applyGainAndDelay, standardGrid, unity, type Curve } from '../../dsp'
import { fractionalOctaves, driftOf, type RoomTold } from '../../measure'
import { findingsOf, hasMoved, isHeard, isKnown, levelAdvice, type Observed } from './index'
import { wordsOf } from '../../words'

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
  arrival: { time: 0.02, polarity: 1, uncertainty: 1e-6 },
  expected: 0.0203,
  room: {
    band: [40, 18_000],
    echoes: [{ time: 0, level: 0, polarity: 1 }],
    definition: 0.8,
    coherence: 0.8,
    modes: [],
    comb: null,
  },
  spectrum: { bands, microphone: pink() },
  silence: null,
  hum: null,
  flattened: false,
  others: [],
  unfed: null,
  drift: 0,
  compensated: false,
  clocks: false,
  speedOfSound: 343.2,
}
const at = (time: number) => ({ time, polarity: 1 as const, uncertainty: 1e-6 })
const scaled = (c: Curve, gain: number): Curve => ({ ...c, re: c.re.map(v => gain * v), im: c.im.map(v => gain * v) })
const room = (change: Partial<RoomTold>): RoomTold => ({ ...good.room!, ...change })
const ids = (change: Partial<Observed>) => findingsOf({ ...good, ...change }).map(f => f.id)
const quiet = { sounding: false, reference: { peak: -90, rms: -100 }, curve: null, arrival: null, room: null }
const text = (change: Partial<Observed>) =>
  findingsOf({ ...good, ...change })
    .map(f => wordsOf(f.told))
    .join(' ')

describe('findings', () => {
  it('says nothing of a measurement that is as it should be', () => {
    expect(ids({})).toEqual([])
  })
  it.each([
    ['a clipping microphone', { microphone: { peak: 0, rms: -8 } }, 'mic-clips'],
    ['a clipping reference', { reference: { peak: 0, rms: -8 } }, 'ref-clips'],
    ['a silent reference', { reference: { peak: -90, rms: -100 } }, 'ref-silent'],
    ['a quiet microphone', { microphone: { peak: -52, rms: -65 } }, 'mic-quiet'],
    ['the same signal twice', { curve: coherent(1), delay: 0, arrival: at(0) }, 'same'],
    ['the same at -6 dB', { curve: scaled(coherent(1), 0.5), delay: 0, arrival: at(0) }, 'same'],
    ['swapped inputs', { delay: -0.02, arrival: { time: -0.02, polarity: 1 as const, uncertainty: 1e-6 } }, 'swapped'],
    ['an arrival that moved', { arrival: { time: 0.023, polarity: 1 as const, uncertainty: 1e-6 } }, 'moved'],
    ['turned polarity', { arrival: { time: 0.02, polarity: -1 as const, uncertainty: 1e-6 } }, 'polarity'],
    ['two clocks', { drift: 14 }, 'drift'],
    ['a loud room', { curve: coherent(0.4), room: room({ definition: 0.5, coherence: 0.45 }) }, 'low-room'],
    ['noise', { curve: coherent(0.4), room: room({ definition: 0.9, coherence: 0.9 }) }, 'low-noise'],
    ['a wrong arrival', { curve: coherent(0.3), arrival: at(0.03) }, 'low-arrival'],
    ['hum of 50 Hz', { ...quiet, hum: { mains: 50, lines: [50, 100, 150] } }, 'hum'],
    ['buzz of a dimmer', { ...quiet, hum: { mains: 60, lines: [120, 240, 360] } }, 'hum'],
    ['a clip before full scale', { flattened: true }, 'mic-flat'],
  ] as [string, Partial<Observed>, string][])('%s', (_, change, id) => {
    expect(ids(change)).toContain(id)
  })
  it('tells how much is missing, in numbers', () => {
    expect(text({ microphone: { peak: -52, rms: -65 } })).toContain('Raise its gain by about 22 dB')
    expect(text({ drift: 14 })).toContain('14 ppm, 0.84 ms a minute')
  })
  it('a reflection has its time, level, way and comb: 1 ms nulls at 500 Hz (references.md)', () => {
    const echoes = [
      { time: 0, level: 0, polarity: 1 as const },
      { time: 0.001, level: -4, polarity: 1 as const },
      { time: 0.02, level: -15, polarity: 1 as const },
    ]
    expect(text({ room: room({ echoes }) })).toMatch(
      /1\.00 ms after the direct sound, −4\.0 dB: a way 0\.34 m longer.*dips at 500 Hz/,
    )
    expect(text({ room: room({ echoes: [echoes[0]!, { ...echoes[1]!, polarity: -1 }] }) })).toContain('dips at 1 kHz')
    expect(ids({ room: room({ echoes: [echoes[0]!, echoes[2]!] }) })).toEqual([])
  })
  it('a second loudspeaker is told from a reflection by when it would arrive', () => {
    const echoes = [
      { time: 0, level: 0, polarity: 1 as const },
      { time: 0.012, level: -3, polarity: 1 as const },
    ]
    expect(text({ room: room({ echoes }), others: [{ name: 'Delay L', time: 0.0122 }] })).toContain(
      'when Delay L would by the plan',
    )
    expect(ids({ room: room({ echoes }), others: [{ name: 'Delay L', time: 0.03 }] })).toEqual(['echo'])
  })
  it('hum is said in silence alone; what is wrong stands first', () => {
    const hum = { mains: 50 as const, lines: [50, 100, 150] }
    expect(ids({ hum })).toEqual([])
    expect(ids({ ...quiet, hum, reference: { peak: -40, rms: -52 } })).toEqual([])
    expect(ids({ ...quiet, hum: null })).toEqual([])
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
    const advice = (peak: number) => {
      const told = levelAdvice({ peak, rms: peak - 12 })
      return told && wordsOf(told)
    }
    expect([-20, -39, -7].map(advice)).toEqual([null, null, null])
    expect(advice(-46)).toBe('quiet: raise the microphone by 16 dB')
    expect(advice(-3)).toContain('down by 9 dB')
    expect(advice(0)).toContain('clips')
    expect(advice(-Infinity)).toContain('silent')
  })
  it('names a ringing mode with its frequency and decay', () => {
    expect(text({ room: room({ modes: [{ frequency: 63.2, decay: 2.64, over: 11, usual: 0.92 }] }) })).toContain(
      '63 Hz rings: it takes 2.6 s to fall by 60 dB, the rest about 0.9 s',
    )
  })
  it('names a comb by its delay and its first dip, unless a reflection of its own tells it already', () => {
    expect(text({ room: room({ comb: { delay: 0.0005, level: -2, polarity: 1 } }) })).toMatch(
      /twice, 0\.50 ms apart, .*dips at 1(\.00)? kHz and every odd multiple/,
    )
    expect(text({ room: room({ comb: { delay: 0.0005, level: -2, polarity: -1 } }) })).toMatch(
      /and inverted: a comb with dips at 2(\.00)? kHz and every multiple/,
    )
    const echoes = [
      { time: 0, level: 0, polarity: 1 as const },
      { time: 0.003, level: -5, polarity: 1 as const },
    ]
    expect(ids({ room: room({ comb: { delay: 0.003, level: -5, polarity: 1 }, echoes }) })).not.toContain('comb')
    expect(ids({ room: room({ comb: { delay: 0.0005, level: -18, polarity: 1 } }) })).not.toContain('comb')
  })
  it('noise is told from reflections by what silence sounds like, and by how much the room explains', () => {
    const loud = Float32Array.from(bands, () => -52)
    const still = Float32Array.from(bands, () => -80)
    const low = { curve: coherent(0.15), room: room({ definition: 0.75, coherence: 0.7 }) }
    expect(ids({ ...low, silence: loud })).toEqual(['low-noise'])
    expect(text({ ...low, silence: loud })).not.toContain('louder or')
    const reverberant = { curve: coherent(0.4), room: room({ definition: 0.4, coherence: 0.42 }) }
    expect(ids({ ...reverberant, silence: still })).toEqual(['low-room'])
    const [unknown] = findingsOf({ ...good, ...reverberant })
    expect([unknown!.sure, wordsOf(unknown!.told)]).toEqual([false, expect.stringMatching(/^Likely: Coherence is low/)])
  })
  it('coherence is judged only where the source plays', () => {
    const sub = coherent(0.05)
    standardGrid.forEach((f, k) => {
      if (f > 28 && f < 110) sub.coherence![k] = 0.97
    })
    expect(ids({ curve: sub, room: room({ band: [30, 100], echoes: [] }) })).toEqual([])
  })
  it('no finding advises a louder level as a first step', () => {
    const noisy = { curve: coherent(0.1), room: room({ definition: 0.9, coherence: 0.9 }) }
    expect(text(noisy)).toMatch(/Find what makes it.*Only then play/)
  })
  it('sound from a source that gets no signal is another one’s', () => {
    expect(text({ unfed: 'Main R', others: [{ name: 'Main L', time: 0 }] })).toContain(
      'Main R gets no signal, yet sound arrives: Main L is what is measured',
    )
    // its way comes first: what level, noise and room say waits until it is whole
    const quietly = { unfed: 'Main R', arrival: null, microphone: { peak: -62, rms: -75 }, curve: coherent(0.2) }
    expect(ids(quietly)).toEqual(['unfed'])
    expect(text(quietly)).toBe('Main R gets no signal. The path ribbon says where Main R’s path ends.')
    expect(ids({ ...quietly, unfed: null })).toEqual(['mic-quiet', 'low-noise'])
    expect(ids({ ...quietly, sounding: false })).toEqual([])
  })
})

describe('what is worth keeping', () => {
  it('needs a signal at both sides, and a curve that is known somewhere', () => {
    expect(isHeard({ microphone: { peak: -30, rms: -42 }, reference: { peak: -8, rms: -20 } })).toBe(true)
    expect(isHeard({ microphone: { peak: -70, rms: -80 }, reference: { peak: -8, rms: -20 } })).toBe(false)
    expect(isHeard({ microphone: { peak: -30, rms: -42 }, reference: { peak: -90, rms: -120 } })).toBe(false)
    const curve = (coherence: number) =>
      ({ ...unity(standardGrid), coherence: standardGrid.map(() => coherence) })
    expect([isKnown(curve(0.9)), isKnown(curve(0.1)), isKnown(unity(standardGrid))]).toEqual([true, false, true])
  })
  it('an arrival has moved by what it cannot be off itself', () => {
    expect(hasMoved({ time: 0.0404, uncertainty: 1e-5 }, 0.04)).toBe(false)
    expect(hasMoved({ time: 0.0406, uncertainty: 1e-5 }, 0.04)).toBe(true)
    expect(hasMoved({ time: 0.042, uncertainty: 5e-4 }, 0.04)).toBe(false)
  })
})
