import { describe, expect, it } from 'vitest'
import { standardGrid, unity } from '../../dsp'
import { hearSilence, isSounding, noSilence, observe, type RunningNow, type Silence } from './index'

const now: RunningNow = {
  microphone: { peak: -20, rms: -32 },
  reference: { peak: -10, rms: -20 },
  running: true,
  searching: false,
  noise: true,
  noiseFor: 10,
  blocks: 20,
  complete: true,
  curve: unity(standardGrid),
  delay: 0.02,
  arrival: { time: 0.02, polarity: 1, uncertainty: 1e-6 },
  expected: 0.0203,
  assumed: false,
  room: { band: [40, 18_000], echoes: [], definition: 0.8, coherence: 0.8, modes: [], comb: null },
  spectrum: null,
  silence: null,
  hum: null,
  flattened: false,
  rig: { others: [{ name: 'Main R', time: 0.01 }], unfed: 'Main L' },
  drift: 3,
  mayDrift: true,
  compensated: false,
  clocks: false,
  speedOfSound: 343,
}
const seen = (change: Partial<RunningNow>) => observe({ ...now, ...change })

describe('what of a running measurement can be judged', () => {
  it('is everything while it is whole, long enough and sounding', () => {
    expect(seen({})).toMatchObject({
      sounding: true, curve: now.curve, arrival: now.arrival, expected: 0.0203, room: now.room, unfed: 'Main L',
      drift: 3,
    })
  })
  it('is nothing while it stands still, or while the noise is only rising', () => {
    expect(seen({ running: false })).toBeNull()
    expect(seen({ searching: true, noiseFor: 1 })).toBeNull()
    expect(seen({ searching: true, noiseFor: 5 })).not.toBeNull()
    expect(seen({ searching: true, noiseFor: 1, noise: false })).not.toBeNull()
  })
  it('is no curve of few blocks or with holes, no room of few blocks, and no arrival while it is looked for', () => {
    expect(seen({ blocks: 7 })).toMatchObject({ curve: null, room: null, arrival: now.arrival })
    expect(seen({ complete: false })).toMatchObject({ curve: null, room: now.room })
    expect(seen({ searching: true })).toMatchObject({ arrival: null })
  })
  it('is no arrival and no room of silence; what another program plays is sound as well', () => {
    const silent = { noise: false, reference: { peak: -70, rms: -80 } }
    expect(seen(silent)).toMatchObject({ sounding: false, arrival: null, room: null })
    expect(seen({ noise: false })).toMatchObject({ sounding: true })
    expect(isSounding(false, { peak: -50, rms: -60 })).toBe(false)
  })
  it('is no disagreement with a plan that was itself taken for the arrival, and no drift of one clock', () => {
    expect(seen({ assumed: true })).toMatchObject({ expected: null })
    expect(seen({ mayDrift: false })).toMatchObject({ drift: null })
    expect(seen({ rig: null })).toMatchObject({ others: [], unfed: null })
  })
})

describe('what silence sounds like', () => {
  const bands = (...levels: number[]) => Float32Array.from(levels)
  const look = (before: Silence, at: number, heard: Float32Array | null, sounding = false, microphone = 'a/0') =>
    hearSilence(before, { microphone, sounding, heard, at, noiseSince: 0 })
  const after = (times: readonly number[], of = (n: number) => bands(-60 - n, -80 + n)) =>
    times.reduce((state, at, n) => look(state, at, of(n)), noSilence)
  it('is the lowest of each band in five looks a second apart, once the room has died away', () => {
    expect(after([4, 5.1, 6.2, 7.3]).steady).toBeNull()
    expect([...after([4, 5.1, 6.2, 7.3, 8.4]).steady!]).toEqual([-64, -80])
    expect(after([1, 2, 2.9]).looks).toHaveLength(0)
    expect(after([4, 4.5, 4.9, 5.1]).looks).toHaveLength(2)
  })
  it('keeps to the last five, begins anew after a sound, and knows nothing of another microphone', () => {
    const known = after([4, 5.1, 6.2, 7.3, 8.4, 9.5])
    expect([...known.steady!]).toEqual([-65, -79])
    const sounded = look(known, 10, bands(0, 0), true)
    expect([sounded.looks.length, sounded.steady]).toEqual([0, known.steady])
    expect(look(known, 20, bands(0, 0), false, 'b/0')).toMatchObject({ steady: null, looks: [bands(0, 0)] })
    expect(look(known, 20, null)).toBe(known)
  })
})
