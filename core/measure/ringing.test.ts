import { describe, expect, it } from 'vitest'
import { classical, envelope, filterInPlace, peaking, seededRandom } from '../dsp'
import { scipy } from '../reference/scipy'
import { combOf, ringingModes } from '.'

const rate = 48_000
const at = 8192
const length = 2 ** 16
/**
 * A room's tail: noise that falls by 60 dB in `decay`, after a direct sound; so many dB of steady noise under
 * the direct sound.
 */
function room(decay: number, noise = -200) {
  const random = seededRandom(3)
  const x = Float64Array.from({ length }, (_, n) =>
    n < at ? 0 : (random() - 0.5) * 0.05 * 10 ** ((-3 * (n - at)) / rate / decay),
  )
  x[at]! += 1
  const hiss = 10 ** (noise / 20)
  return x.map(v => v + (random() - 0.5) * hiss)
}
const mode = (x: Float64Array, f: number, decay: number, size: number) =>
  x.map((v, n) =>
    n < at ? v : v + size * Math.sin((2 * Math.PI * f * (n - at)) / rate) * 10 ** ((-3 * (n - at)) / rate / decay),
  )

describe('ringing modes', () => {
  it.each([
    [63.4, 2.6],
    [112, 2.2],
    [41, 3],
  ])('a mode at %d Hz of %d s is found, with its frequency and its decay', (f, decay) => {
    const [found] = ringingModes(mode(room(0.9), f, decay, 0.02), rate, at)
    expect(Math.abs(12 * Math.log2(found!.frequency / f))).toBeLessThan(0.35) // a third of a semitone
    expect(Math.abs(found!.decay / decay - 1)).toBeLessThan(0.12)
    expect(found!.usual).toBeGreaterThan(0.7)
    expect(found!.usual).toBeLessThan(1.2)
  })
  it('a plain room has none, nor has one whose resonance dies with the rest, nor mere noise', () => {
    expect(ringingModes(room(0.9), rate, at)).toEqual([])
    expect(ringingModes(mode(room(0.9), 80, 0.9, 0.02), rate, at)).toEqual([])
    expect(ringingModes(room(0.9, -40), rate, at)).toEqual([])
    expect(ringingModes(room(0.9).subarray(0, at + 20_000), rate, at)).toEqual([]) // too short to tell
  })
  it('two modes are told apart, the more audible first', () => {
    const found = ringingModes(mode(mode(room(0.8), 55, 2, 0.01), 140, 2.5, 0.03), rate, at)
    expect(found.map(m => Math.round(m.frequency / 5) * 5)).toEqual([140, 55])
  })
})

describe('combs', () => {
  /** A loudspeaker: band-limited and bumpy. */
  const box = (x: Float64Array) => {
    filterInPlace(x, [
      ...classical('butterworth', 'high', 4, 80, rate),
      ...classical('butterworth', 'low', 4, 16_000, rate),
      peaking(900, 4, 1, rate),
      peaking(4000, -5, 2, rate),
    ])
    return x
  }
  const twice = (delay: number, ratio: number) => {
    const x = new Float64Array(length)
    x[at] = 1
    x[at + Math.round(delay * rate)]! += ratio
    return box(x)
  }
  it.each([
    [0.0005, 0.8],
    [0.001, 0.6],
    [0.003, -0.7],
    [0.008, 0.5],
    [0.0002, 0.9],
  ])('the same sound %d s later at %d is found with delay, level and polarity', (delay, ratio) => {
    const found = combOf(twice(delay, ratio), rate, at)!
    expect(Math.abs(found.delay - Math.round(delay * rate) / rate)).toBeLessThan(0.3 / rate)
    expect(Math.abs(found.level - 20 * Math.log10(Math.abs(ratio)))).toBeLessThan(2.5)
    expect(found.polarity).toBe(Math.sign(ratio))
  })
  it('a loudspeaker alone makes none, nor does a room’s tail, nor silence', () => {
    expect(combOf(twice(0.002, 0), rate, at)).toBeNull()
    expect(combOf(box(room(0.9)), rate, at)).toBeNull()
    expect(combOf(new Float64Array(length), rate, at)).toBeNull()
  })
})

describe('the envelope of a response', () => {
  it('is the size of scipy.signal.hilbert', async () => {
    const x = Float64Array.from(
      { length: 1000 },
      (_, n) => Math.exp(-n / 200) * Math.sin(n * 0.3) + (n === 400 ? 0.5 : 0),
    )
    const truth = await scipy<number[]>('envelope', { x, size: 1024 })
    const got = envelope(x)
    for (let n = 0; n < 1000; n++) expect(Math.abs(got[n]! - truth[n]!)).toBeLessThan(1e-6)
  })
  it('of a decaying tone is smooth and never under its peaks', () => {
    const x = Float64Array.from(
      { length: 4096 },
      (_, n) => Math.exp(-(((n - 2048) / 400) ** 2)) * Math.cos(n * 0.2),
    )
    const got = envelope(x)
    for (let n = 1000; n < 3000; n++) expect(got[n]!).toBeCloseTo(Math.exp(-(((n - 2048) / 400) ** 2)), 3)
  })
})
