import { describe, expect, it } from 'vitest'
import { cosineTo, distance, speedOfSound } from '../../core/acoustics'
import { pinkNoise, realFft, seededRandom } from '../../core/dsp'
import { findArrival, firstArrival } from '../../core/measure'
import { sample } from '../../core/reference/cases'
import { feedOnly, outputsOf, routeDelay, routeTo } from '../../core/rig'
import { isReflected, usualOff, withSettings } from '../../core/tune'
import { delivered, plan, positions, soundHall, sources, wiring } from './testHall'
import { impulseIn } from './testSweep'

const rate = 48_000
const from = wiring.feeds.test!.from
const placeOf = (id: string) => positions.find(p => p.id === id)!.place
/** When the plan lets a source be heard, and when it is first heard in the hall. */
function both(id: string, position: string) {
  const outputs = outputsOf(wiring, id)
  const rig = { ...withSettings(delivered, feedOnly(delivered, from, outputs)), wiring }
  const { elements } = sources.find(s => s.id === id)!
  const electronics = Math.min(...outputs.map(to => routeDelay(rig, routeTo(rig, from, to)!)))
  const far = Math.min(...elements.map(e => distance(e.place, placeOf(position))))
  const planned = electronics + far / speedOfSound(plan.air)
  const impulse = impulseIn(soundHall, rig, placeOf(position))
  return { planned, impulse, found: firstArrival(impulse, rate) }
}
/** What is heard of a signal through a response, in some noise of its own. */
function over(signal: Float32Array, impulse: Float32Array): Float32Array {
  const size = 2 ** 18
  const spectrumOf = (x: ArrayLike<number>) => {
    const padded = new Float64Array(size)
    padded.set(x)
    const [re, im] = [new Float64Array(size / 2 + 1), new Float64Array(size / 2 + 1)]
    realFft(size).forward(padded, re, im)
    return { re, im }
  }
  const [x, h] = [spectrumOf(signal), spectrumOf(impulse.subarray(0, 2 ** 17))]
  const re = x.re.map((v, k) => v * h.re[k]! - x.im[k]! * h.im[k]!)
  const im = x.re.map((v, k) => v * h.im[k]! + x.im[k]! * h.re[k]!)
  const sound = new Float64Array(size)
  realFft(size).inverse(re, im, sound)
  const heard = sound.subarray(0, signal.length)
  const loud = Math.sqrt(heard.reduce((sum, v) => sum + v * v, 0) / heard.length)
  const random = seededRandom(1)
  return Float32Array.from(heard, v => v + 0.3 * loud * (random() - 0.5))
}

describe('the first arrival of a source in the hall', () => {
  it.each([
    ['main-l', 'mix'],
    // behind these the walls are louder than they are themselves
    ['delay-l', 'row-1'],
    ['balcony', 'mid'],
  ])('%s at %s is its direct sound, not the strongest reflection: within 0.2 ms of the plan', (id, position) => {
    const { planned, found } = both(id, position)
    expect(Math.abs(found! - planned)).toBeLessThan(2e-4)
  })
  it('of subs is the onset in their own band: within 1 ms of the plan', () => {
    const { planned, found } = both('subs', 'mix')
    expect(Math.abs(found! - planned)).toBeLessThan(1e-3)
  })
})

describe('what is heard off the axis of a loudspeaker', () => {
  it('is its direct sound, by a sweep and over noise, where the walls are louder than it is', () => {
    const frames = 2 ** 16
    const played = new Float32Array(2 * frames)
    pinkNoise(rate, 3)(played)
    const behind = sources.filter(s => s.id !== 'subs').flatMap(({ id, elements }) => positions.flatMap((p) => {
      const near = elements.reduce((a, b) => (distance(b.place, p.place) < distance(a.place, p.place) ? b : a))
      const cosine = cosineTo(near.aim, near.place, p.place)
      return cosine > 0.5 ? [] : [{ id, p, cosine }]
    }))
    expect(behind.length).toBeGreaterThan(8)
    const all = sample(behind, 5).map(({ id, p, cosine }) => {
      const { planned, found, impulse } = both(id, p.id)
      const heard = over(played, impulse).subarray(frames)
      const live = findArrival(played.subarray(frames), heard, rate, planned)
      return { id: `${id} at ${p.id}`, cosine, off: (found ?? 9) - planned, live: (live?.time ?? 9) - planned }
    })
    expect(all.filter(p => Math.abs(p.off) > 3e-4 || Math.abs(p.live) > 3e-4)).toEqual([])
    expect(all.filter(p => isReflected(p, usualOff(all)))).toEqual([])
  })
  it('a plan that is wrong by as much everywhere, or in front of it, is no reflection', () => {
    const at = (off: number, cosine: number | null) => ({ off, cosine })
    const late = [at(0.02, 1), at(0.021, 0.9), at(0.0205, 0.1)]
    expect(late.some(p => isReflected(p, usualOff(late)))).toBe(false)
    expect(isReflected(at(0.05, 0.95), 0)).toBe(false)
    expect(isReflected(at(0.05, null), 0)).toBe(false)
    expect(isReflected(at(0.05, 0.2), 0)).toBe(true)
  })
})

describe('an impulse response', () => {
  const click = (at: number, level = 1) => {
    const x = new Float32Array(8192)
    x[at] = level
    return x
  }
  it('of one click tells it, whatever comes louder later', () => {
    expect(firstArrival(click(500), rate)! * rate).toBeCloseTo(500, 0)
    const both = click(500, 0.5)
    both[900] = 1
    expect(firstArrival(both, rate)! * rate).toBeCloseTo(500, 0)
    // what is far under the loudest is no arrival
    const faint = click(500, 0.1)
    faint[900] = 1
    expect(firstArrival(faint, rate)! * rate).toBeCloseTo(900, 0)
  })
  it('of nothing tells nothing', () => {
    expect(firstArrival(new Float32Array(4096), rate)).toBeNull()
  })
})
