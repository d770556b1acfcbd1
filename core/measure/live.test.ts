import { describe, expect, it } from 'vitest'
import { magnitude, pinkNoise, seededRandom, standardGrid, unity, type Curve } from '../dsp'
import { createLive, createRing, ringWriter, type LiveOptions } from './index'

const rate = 48_000, options: LiveOptions = { reference: 0, microphone: 1, length: 4096, overlap: 0.5, averaging: { kind: 'blocks', count: 8 } }
const noise = (frames: number, seed: number) => {
  const x = new Float32Array(frames)
  pinkNoise(rate, seed)(x)
  return x.map(v => v * 0.1)
}
function rig(o: Partial<LiveOptions> = {}, capacity = 2 ** 17) {
  const ring = createRing(rate, 2, capacity), writer = ringWriter(ring), live = createLive(ring, { ...options, ...o })
  const feed = (ref: Float32Array, mic: Float32Array, poll = true) => {
    for (let at = 0; at < ref.length; at += 480) {
      writer.write([ref.subarray(at, at + 480), mic.subarray(at, at + 480)], Math.min(480, ref.length - at))
      if (poll) live.poll()
    }
  }
  const read = () => {
    const curve: Curve = { ...unity(standardGrid), coherence: new Float64Array(standardGrid.length) }
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
    const { live, feed, read } = rig(), x = noise(rate, 1)
    feed(x, x.map(v => v * 0.5))
    const before = magnitude(read())[at1k]!
    feed(new Float32Array(rate), noise(rate, 2)) // a silent reference while people talk
    expect(live.blocks).toBe(8)
    expect(magnitude(read())[at1k]).toBeCloseTo(before, 1)
    expect(live.gaps.dropped).toBe(0)
  })
  it('counts what it was too slow to take, and goes on', () => {
    const { live, feed, read } = rig({}, 2 ** 15), x = noise(4 * rate, 3)
    feed(x, x, false)
    expect(live.poll()).toBe(true)
    expect(live.gaps.lost).toBeGreaterThan(2 * rate)
    expect(magnitude(read())[at1k]).toBeCloseTo(0, 1)
  })
  it('a microphone ahead of the reference is measured with a negative delay', () => {
    const { live, feed, read } = rig(), early = 96, x = noise(rate, 4)
    live.setDelay(-early / rate)
    feed(x, x.map((_, n) => x[n + early] ?? 0))
    expect(read().coherence![at1k]).toBeGreaterThan(0.99)
    expect(live.trackArrival()!.time * rate).toBeCloseTo(-early, 1)
  })
  it('unrelated noise at the microphone lowers coherence as γ² = 1/(1 + noise/signal)', () => {
    const { live, feed, read } = rig({ averaging: { kind: 'blocks', count: 64 } }), x = noise(6 * rate, 5), y = noise(6 * rate, 6)
    feed(x, x.map((v, n) => v + y[n]!)) // as loud as the signal: γ² = 1/2
    const gamma = read().coherence!, band = standardGrid.map((f, k) => f > 500 && f < 10_000 ? gamma[k]! : -1).filter(v => v >= 0)
    expect(live.blocks).toBe(64)
    expect(band.reduce((a, b) => a + b) / band.length).toBeCloseTo(0.5, 1)
  })
  it('finds the arrival with a strong reflection behind it and a clock’s worth of noise', () => {
    const { live, feed } = rig(), x = noise(2 * rate, 7), random = seededRandom(8)
    feed(x, x.map((_, n) => 0.4 * (x[n - 1000] ?? 0) + 0.3 * (x[n - 1700] ?? 0) + 0.02 * (random() - 0.5)))
    expect(live.findArrival()!.time * rate).toBeCloseTo(1000, 1)
  })
  it('a search after a restart hears nothing of what was before it', () => {
    const { live, feed } = rig(), x = noise(2 * rate, 9)
    feed(x, x.map((_, n) => x[n - 500] ?? 0))
    live.restart()
    expect(live.findArrival()).toBeNull()
    const y = noise(2 * rate, 10)
    feed(y, y.map((_, n) => y[n - 2500] ?? 0))
    expect(live.findArrival()!.time * rate).toBeCloseTo(2500, 1)
  })
  it.each([{ kind: 'blocks', count: 8 }, { kind: 'exponential', time: 1 }] as const)('following a movement keeps the average and turns its phase (%o)', (averaging) => {
    const { live, feed, read } = rig({ averaging }), x = noise(3 * rate, 11), late = (n: number) => x.map((_, k) => x[k - n] ?? 0)
    live.setDelay(480 / rate)
    feed(x.subarray(0, rate), late(480).subarray(0, rate))
    const before = live.blocks
    live.follow(480.4 / rate)
    expect(live.blocks).toBe(before)
    const shifted = read(), angle = Math.atan2(shifted.im[at1k]!, shifted.re[at1k]!) * 180 / Math.PI
    expect(angle).toBeCloseTo(360 * standardGrid[at1k]! * 0.4 / rate, 0)
    live.follow(490 / rate)
    const turned = read(), wanted = 360 * standardGrid[at1k]! * 10 / rate
    expect(Math.atan2(turned.im[at1k]!, turned.re[at1k]!) * 180 / Math.PI).toBeCloseTo(wanted, 0)
    feed(x.subarray(rate), late(490).subarray(rate)) // the sound has moved there
    expect(Math.abs(Math.atan2(read().im[at1k]!, read().re[at1k]!) * 180 / Math.PI)).toBeLessThan(averaging.kind === 'blocks' ? 1 : 12)
  })
})
