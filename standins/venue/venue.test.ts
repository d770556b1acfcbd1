import { describe, expect, it } from 'vitest'
import { scipy } from '../../core/reference/scipy'
import { distance, speedOfSound } from '../../core/acoustics'
import { magnitude, seededRandom, standardGrid } from '../../core/dsp'
import { createLive, createRing, measuredCurve, ringWriter, smooth } from '../../core/measure'
import { outputsOf, pathResponse, routeDelay, routeTo } from '../../core/rig'
import { blockSize, createConvolver } from './convolver'
import { delivered, edited, fast, hall, plan, positions, sources, wiring, type PluggedRig } from './testHall'
import { createVenue } from './venue'

const source = sources[0]!
const position = positions[0]!
const from = wiring.feeds.test!.from
const high = outputsOf(wiring, source.id)[1]!

/** Measures the venue with the live engine for some seconds, as the page does. */
function measure(rig: PluggedRig, seconds = 6, then?: { at: number, rig: PluggedRig }) {
  const venue = createVenue(fast, hall, rig, position.place)
  venue.generator.start()
  const ring = createRing(venue.sampleRate, 2, 2 ** 18)
  const writer = ringWriter(ring)
  const live = createLive(ring, {
    reference: 1,
    microphone: 0,
    length: 16_384,
    overlap: 0.75,
    averaging: { kind: 'exponential', time: 2 },
  })
  const playback = new Float32Array(blockSize)
  const heard = new Float32Array(blockSize)
  let found = false
  let changed = false
  let loudestStep = 0
  let last = 0
  for (let n = 0; n < (seconds * venue.sampleRate) / blockSize; n++) {
    if (then && !changed && n * blockSize >= then.at * venue.sampleRate) {
      venue.holds(then.rig)
      live.restart()
      changed = true
    }
    venue.process(playback, heard)
    for (const v of heard) {
      loudestStep = Math.max(loudestStep, Math.abs(v - last))
      last = v
    }
    writer.write([heard, playback], blockSize)
    const arrival = !found && n * blockSize > 48_000 ? live.findArrival() : null
    if (arrival) {
      found = true
      live.setDelay(arrival.time)
    }
    live.poll()
  }
  const curve = measuredCurve(standardGrid)
  live.read(curve)
  return { live, curve, loudestStep }
}

describe('the simulated hall', () => {
  const route = routeTo(delivered, from, high)!
  const flight = distance(source.elements[0]!.place, position.place) / speedOfSound(plan.air)
  const before = measure(delivered)

  it('sound arrives when electronics and distance say', () => {
    // the cabinet and its crossover add a tenth
    expect(Math.abs(before.live.trackArrival()!.time - flight - routeDelay(delivered, route))).toBeLessThan(0.0003)
  })
  it('a setting in the device changes the measurement by exactly its response', () => {
    const rig = edited(delivered, {
      '/outputs/1/eq/3': { on: true, type: 'peaking', frequency: 3000, gain: -9, q: 1 },
    })
    const after = measure(rig, 8, { at: 3, rig })
    const was = magnitude(pathResponse(delivered, from, high, standardGrid))
    const is = magnitude(pathResponse(rig, from, high, standardGrid))
    const a = magnitude(smooth(before.curve, 6))
    const b = magnitude(smooth(after.curve, 6)) // noise and reflections scatter single points
    standardGrid.forEach((f, k) => {
      if (f > 2500 && f < 8000) expect(Math.abs(b[k]! - a[k]! - (is[k]! - was[k]!)), `${f} Hz`).toBeLessThan(1)
    })
  })
  it('a muted device is silent: no arrival, no coherence', () => {
    const { live, curve } = measure(edited(delivered, { '/outputs/0/mute': true, '/outputs/1/mute': true }), 4)
    expect(live.trackArrival()).toBeNull()
    expect(curve.coherence!.slice(100, 400).reduce((a, b) => a + b, 0) / 300).toBeLessThan(0.2)
  })
  it('a change of settings does not click', () => {
    const steady = measure(delivered, 4).loudestStep
    const changing = measure(delivered, 4, {
      at: 2,
      rig: edited(delivered, { '/outputs/0/polarity': 'inverted', '/outputs/1/polarity': 'inverted' }),
    }).loudestStep
    expect(changing).toBeLessThan(steady * 1.2)
  })
})

describe('streaming convolution', () => {
  it('equals scipy.signal.lfilter with the whole response', async () => {
    const random = seededRandom(2)
    const h = Float64Array.from({ length: 3000 }, () => random() - 0.5)
    const x = Float32Array.from({ length: blockSize * 6 }, () => random() - 0.5)
    const convolver = createConvolver(4096, fast)
    const y = new Float32Array(x.length)
    convolver.respond(h)
    const zero = new Float32Array(blockSize)
    convolver.process(zero, new Float32Array(blockSize)) // the take-over fade
    for (let at = 0; at < x.length; at += blockSize)
      convolver.process(x.subarray(at, at + blockSize), y.subarray(at, at + blockSize))
    const truth = await scipy<number[]>('lfilter', { b: h, a: [1], x })
    truth.forEach((v, n) => expect(Math.abs(y[n]! - v)).toBeLessThan(1e-4))
  })
  it('two microphones hear the same loudspeaker from where each stands; one is moved, the other goes on', () => {
    const venue = createVenue(fast, hall, delivered, position.place, positions[1]!.place)
    const playback = new Float32Array(blockSize)
    const heard = [new Float32Array(blockSize), new Float32Array(blockSize)]
    venue.generator.signal({ kind: 'clicks' })
    venue.generator.level(-6)
    venue.generator.start()
    const first = [Infinity, Infinity]
    const play = (seconds: number) => {
      first.fill(Infinity)
      let clicked = -1
      for (let n = 0; n < (seconds * venue.sampleRate) / blockSize; n++) {
        venue.process(playback, ...heard)
        playback.forEach((v, k) => {
          if (Math.abs(v) > 0.1 && (clicked < 0 || n * blockSize + k - clicked > 30_000)) {
            clicked = n * blockSize + k
            first.fill(Infinity)
          }
        })
        if (clicked >= 0)
          heard.forEach((h, m) => {
            const k = h.findIndex(v => Math.abs(v) > 0.02)
            if (k >= 0 && first[m] === Infinity) first[m] = n * blockSize + k - clicked
          })
      }
    }
    play(3.6)
    const apart = (a: number, b: number) =>
      ((distance(source.elements[0]!.place, positions[a]!.place)
        - distance(source.elements[0]!.place, positions[b]!.place))
      / speedOfSound(plan.air))
    * venue.sampleRate
    expect(Math.abs(first[0]! - first[1]! - apart(0, 1))).toBeLessThan(12)
    venue.moveMicrophones([position.place, positions[2]!.place])
    play(3.6)
    expect(Math.abs(first[0]! - first[1]! - apart(0, 2))).toBeLessThan(12)
  })
})
