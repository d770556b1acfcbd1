import { describe, expect, it } from 'vitest'
import { createInterpolator, magnitude, pinkNoise, seededRandom, standardGrid, type Curve } from '../dsp'
import { cases, long, sample } from '../reference/cases'
import {
  createFollower,
  createLive,
  createRing,
  measuredCurve,
  ringWriter,
  type LiveOptions,
} from './index'

const rate = 48_000
const options: LiveOptions = {
  reference: 0,
  microphone: 1,
  length: 4096,
  overlap: 0.5,
  averaging: { kind: 'blocks', count: 8 },
}
const noise = (frames: number, seed: number) => {
  const x = new Float32Array(frames)
  pinkNoise(rate, seed)(x)
  return x.map(v => v * 0.1)
}
function rig(o: Partial<LiveOptions> = {}, capacity = 2 ** 17) {
  const ring = createRing(rate, 2, capacity)
  const writer = ringWriter(ring)
  const live = createLive(ring, { ...options, ...o })
  const feed = (ref: Float32Array, mic: Float32Array, poll = true) => {
    for (let at = 0; at < ref.length; at += 480) {
      writer.write([ref.subarray(at, at + 480), mic.subarray(at, at + 480)], Math.min(480, ref.length - at))
      if (poll) live.poll()
    }
  }
  const read = () => {
    const curve = measuredCurve(standardGrid)
    live.read(curve)
    return curve
  }
  return { live, feed, read }
}
const at1k = standardGrid.findIndex(f => f >= 999)

describe('a live measurement', () => {
  it('shows nothing before the first block, and zeros rather than nonsense when read', () => {
    const { live, read } = rig()
    expect(live.blocks).toBe(0)
    expect(live.poll()).toBe(false)
    expect(Array.from(read().coherence!).every(v => v === 0)).toBe(true)
    expect(live.findArrival()).toBeNull()
    expect(live.trackArrival()).toBeNull()
  })
  it('leaves pauses of the reference out of the average: the trace stands through them', () => {
    const { live, feed, read } = rig()
    const x = noise(rate, 1)
    feed(
      x,
      x.map(v => v * 0.5),
    )
    const before = magnitude(read())[at1k]!
    feed(new Float32Array(rate), noise(rate, 2)) // a silent reference while people talk
    expect(live.blocks).toBe(8)
    expect(magnitude(read())[at1k]).toBeCloseTo(before, 1)
    expect(live.gaps.dropped).toBe(0)
  })
  it('counts what it was too slow to take, and goes on', () => {
    const { live, feed, read } = rig({}, 2 ** 15)
    const x = noise(4 * rate, 3)
    feed(x, x, false)
    expect(live.poll()).toBe(true)
    expect(live.gaps.lost).toBeGreaterThan(2 * rate)
    expect(magnitude(read())[at1k]).toBeCloseTo(0, 1)
  })
  it('a microphone ahead of the reference is measured with a negative delay', () => {
    const { live, feed, read } = rig()
    const early = 96
    const x = noise(rate, 4)
    live.setDelay(-early / rate)
    feed(
      x,
      x.map((_, n) => x[n + early] ?? 0),
    )
    expect(read().coherence![at1k]).toBeGreaterThan(0.99)
    expect(live.trackArrival()!.time * rate).toBeCloseTo(-early, 1)
  })
  it('unrelated noise at the microphone lowers coherence as γ² = 1/(1 + noise/signal)', () => {
    const { live, feed, read } = rig({ averaging: { kind: 'blocks', count: 64 } })
    const x = noise(6 * rate, 5)
    const y = noise(6 * rate, 6)
    feed(
      x,
      x.map((v, n) => v + y[n]!),
    ) // as loud as the signal: γ² = 1/2
    const gamma = read().coherence!
    const band = standardGrid.map((f, k) => (f > 500 && f < 10_000 ? gamma[k]! : -1)).filter(v => v >= 0)
    expect(live.blocks).toBe(64)
    expect(band.reduce((a, b) => a + b) / band.length).toBeCloseTo(0.5, 1)
  })
  it('finds the arrival with a strong reflection behind it and a clock’s worth of noise', () => {
    const { live, feed } = rig()
    const x = noise(2 * rate, 7)
    const random = seededRandom(8)
    feed(
      x,
      x.map((_, n) => 0.4 * (x[n - 1000] ?? 0) + 0.3 * (x[n - 1700] ?? 0) + 0.02 * (random() - 0.5)),
    )
    expect(live.findArrival()!.time * rate).toBeCloseTo(1000, 1)
  })
  it('a search after a restart hears nothing of what was before it', () => {
    const { live, feed } = rig()
    const x = noise(2 * rate, 9)
    feed(
      x,
      x.map((_, n) => x[n - 500] ?? 0),
    )
    live.restart()
    expect(live.findArrival()).toBeNull()
    const y = noise(2 * rate, 10)
    feed(
      y,
      y.map((_, n) => y[n - 2500] ?? 0),
    )
    expect(live.findArrival()!.time * rate).toBeCloseTo(2500, 1)
  })
  it.each([
    { kind: 'blocks', count: 8 },
    { kind: 'exponential', time: 1 },
  ] as const)('following a movement keeps the average and turns its phase (%o)', (averaging) => {
    const { live, feed, read } = rig({ averaging })
    const x = noise(3 * rate, 11)
    const late = (n: number) => x.map((_, k) => x[k - n] ?? 0)
    live.setDelay(480 / rate)
    feed(x.subarray(0, rate), late(480).subarray(0, rate))
    const before = live.blocks
    live.follow(480.4 / rate)
    expect(live.blocks).toBe(before)
    const shifted = read()
    const angle = (Math.atan2(shifted.im[at1k]!, shifted.re[at1k]!) * 180) / Math.PI
    expect(angle).toBeCloseTo((360 * standardGrid[at1k]! * 0.4) / rate, 0)
    live.follow(490 / rate)
    const turned = read()
    const wanted = (360 * standardGrid[at1k]! * 10) / rate
    expect((Math.atan2(turned.im[at1k]!, turned.re[at1k]!) * 180) / Math.PI).toBeCloseTo(wanted, 0)
    feed(x.subarray(rate), late(490).subarray(rate)) // the sound has moved there
    expect(Math.abs((Math.atan2(read().im[at1k]!, read().re[at1k]!) * 180) / Math.PI)).toBeLessThan(
      averaging.kind === 'blocks' ? 1 : 12,
    )
  })
  it.each([
    { kind: 'all' } as const,
    { kind: 'exponential', time: 1 } as const,
    { kind: 'blocks', count: 8 } as const,
  ])('a delay that was set is turned in the average, not measured anew ($kind)', (averaging) => {
    const x = noise(3 * rate, 31)
    const delay = (at: number) => x.map((_, n) => 0.5 * (n < 2 * rate ? (x[n] ?? 0) : (x[n - at] ?? 0)))
    const later = 37
    const { live, feed, read } = rig({ averaging })
    feed(x.subarray(0, 2 * rate), delay(later).subarray(0, 2 * rate))
    const blocks = live.blocks
    live.later(later / rate)
    expect(live.blocks).toBe(blocks)
    const turned = read()
    feed(x.subarray(2 * rate), delay(later).subarray(2 * rate))
    expect(live.blocks).toBeGreaterThanOrEqual(blocks)
    for (const f of [100, 1000, 4000, 12_000]) {
      const k = standardGrid.findIndex(g => g >= f)
      const wanted = -2 * Math.PI * standardGrid[k]! * (later / rate)
      for (const curve of [turned, read()]) {
        const off = Math.atan2(curve.im[k]!, curve.re[k]!) - wanted
        expect(Math.abs(Math.atan2(Math.sin(off), Math.cos(off))), `${f} Hz`).toBeLessThan(0.12)
        expect(Math.hypot(curve.re[k]!, curve.im[k]!)).toBeCloseTo(0.5, 2)
      }
      // no block held both
      expect(read().coherence[k]!).toBeGreaterThan(0.97)
    }
  })
  it('a disturbance that the system did not make can be left out, and a change of the system is not '
    + 'taken for one', () => {
    const x = noise(4 * rate, 21)
    const cough = noise(4 * rate, 22)
    const disturbed = x.map((v, n) => 0.5 * v + (n > 2 * rate && n < 2.4 * rate ? 3 * cough[n]! : 0))
    const measured = (dropPoor: boolean) => {
      const r = rig({ dropPoor, averaging: { kind: 'all' } })
      r.feed(x, disturbed)
      return {
        ...r,
        error: Math.abs(20 * Math.log10(magnitudeAt(r.read()) / 0.5)),
        gamma: mean(r.read().coherence!),
      }
    }
    const magnitudeAt = (c: Curve) => Math.hypot(c.re[at1k]!, c.im[at1k]!)
    const mean = (a: Float64Array) => a.slice(100, 400).reduce((s, v) => s + v, 0) / 300
    const plain = measured(false)
    const careful = measured(true)
    expect(plain.live.gaps.poor).toBe(0)
    expect(plain.gamma).toBeLessThan(0.8)
    // every block that touches the 0.4 s; one in nine is let in, lest a change were never seen
    expect(careful.live.gaps.poor).toBeGreaterThanOrEqual(8)
    expect(careful.gamma).toBeGreaterThan(plain.gamma + 0.1)
    expect(careful.error).toBeLessThan(0.5)
    const changing = rig({ dropPoor: true, averaging: { kind: 'blocks', count: 8 } })
    changing.feed(
      x,
      x.map((v, n) => (n < 2 * rate ? v : 0.1 * v)),
    )
    expect(magnitudeAt(changing.read())).toBeCloseTo(0.1, 3)
  })
  it('a clock that falls behind steadily is taken out: phase stands still, and so does the coherence', () => {
    const ppm = 60
    const x = noise(6 * rate, 23)
    const interpolator = createInterpolator()
    const padded = new Float32Array(2 ** 19)
    padded.set(x)
    const late = (n: number) => 200 + n * ppm * 1e-6
    const y = Float32Array.from(x, (_, n) => (n < 300 ? 0 : interpolator.read(padded, 2 ** 19 - 1, n - late(n))))
    const run = (rate2: number) => {
      const r = rig({ averaging: { kind: 'exponential', time: 1 } }, 2 ** 19)
      r.live.setDelay(200 / rate)
      r.live.setDrift(rate2)
      r.feed(x, y)
      const curve = r.read()
      const k = standardGrid.findIndex(f => f >= 12_000)
      return {
        delay: r.live.delay,
        apart: r.live.apart,
        gamma: curve.coherence![k]!,
        angle: (Math.abs(Math.atan2(curve.im[k]!, curve.re[k]!)) * 180) / Math.PI,
      }
    }
    const with_ = run(ppm * 1e-6)
    const without = run(0)
    expect(with_.delay).toBeCloseTo(late(0) / rate, 6)
    expect(with_.apart).toBeCloseTo((late(6 * rate) - late(0)) / rate, 6)
    expect(with_.gamma).toBeGreaterThan(0.995) // within a block the drift smears by a quarter of a sample
    expect(with_.angle).toBeLessThan(3)
    expect(without.gamma).toBeLessThan(0.9)
  })
  it('between two clocks what is told stands still: arrival and delay within 0.05 ms over minutes', () => {
    for (const ppm of sample([100, -100], 1)) {
      const { live, feed } = rig({ averaging: { kind: 'exponential', time: 1 } }, 2 ** 17)
      const follower = createFollower(live)
      const interpolator = createInterpolator()
      const span = 2 ** 19
      const x = noise(span, 31)
      const padded = Float32Array.from(x)
      const random = seededRandom(7)
      const told: number[] = []
      const delays: number[] = []
      live.setDelay(200 / rate)
      for (let second = 0; second < cases(600, 90); second++) {
        const from = second * rate
        const at = (n: number) => x[n & (span - 1)]!
        const late = 200 + (from + rate / 2) * ppm * 1e-6
        const ref = Float32Array.from({ length: rate }, (_, n) => at(from + n))
        const mic = Float32Array.from({ length: rate }, (_, n) =>
          interpolator.read(padded, span - 1, from + n - late - (n - rate / 2) * ppm * 1e-6)
          + 0.01 * (random() - 0.5))
        feed(ref, mic)
        const found = live.trackArrival()
        if (!found) continue
        follower.heard(second, found.time, false, true)
        if (second < 10) continue
        told.push(live.trackArrival()!.time)
        delays.push(live.delay)
      }
      const spread = (values: number[]) => Math.max(...values) - Math.min(...values)
      expect(live.drift * 1e6).toBeCloseTo(ppm, 0)
      expect(spread(told)).toBeLessThan(5e-5)
      expect(spread(delays)).toBeLessThan(5e-5)
      expect(told[0]).toBeCloseTo(200 / rate, 3)
      // found anew, it is told as before: within what the drift is known by after so long
      expect(Math.abs(live.findArrival()!.time - told[0]!)).toBeLessThan(long ? 5e-5 : 1e-4)
    }
  })
  it('what was heard while it was paused does not count', () => {
    const { live, feed } = rig({ averaging: { kind: 'all' } })
    const x = noise(rate, 24)
    feed(x, x)
    const before = live.blocks
    feed(x, x, false)
    live.skip()
    live.poll()
    expect(live.blocks).toBe(before)
    feed(x, x)
    expect(live.blocks).toBeGreaterThan(before)
  })
})
