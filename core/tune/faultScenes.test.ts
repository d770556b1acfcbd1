import { describe, expect, it } from 'vitest'
import { bandLevels } from '../measure'
import { pinkNoise, realFft, seededRandom } from '../dsp'
import { findingsOf, type Observed } from './index'
import { bands, full, observe, pass, rate, shares, sharesOf, some, type Scene } from './testScenes'

const sources = [full, pass(28, 90), pass(200, 2000), pass(1400, 18_000)]
const rooms = (n: number) => ({
  time: 0.4 + 0.06 * n,
  over: 8,
  source: sources[n % sources.length]!,
  ...(n % sources.length === 1 ? { lasts: 'narrow' as const } : {}),
})

// twelve scenes each, of sources that play all or a part of the band
describe('faults of wiring and setting in seeded scenes', { timeout: 240_000 }, () => {
  const fine = some(12, rooms).map(observe)
  /** The same scenes with a plan that puts the sound so much earlier. */
  const planned = (off: (n: number) => number) =>
    fine.map((seen, n) => ({ ...seen, expected: seen.expected! - off(n) }))
  it('of what is as it should be none of them is said', () => {
    const amiss = ['swapped', 'same', 'polarity', 'mic-flat', 'mic-clips', 'plan', 'unfed']
    expect(sharesOf(fine, amiss)[0]).toBeLessThanOrEqual(0.02)
  })
  it.each<[Scene['fault'], string[]]>([
    ['swapped', ['swapped']],
    ['same', ['same']],
    ['clipped', ['mic-flat']],
  ])('%s is said', (fault, ids) => {
    const scenes = some(12, n => ({ ...rooms(n), fault, ...(fault === 'swapped' ? { source: full, over: 12 } : {}) }))
    expect(shares(scenes, ids)[0]).toBeGreaterThanOrEqual(0.9)
  })
  it('a turned polarity is said, of whatever band tells it', () => {
    const scenes = some(12, n => ({ ...rooms(n % 2), time: 0.4 + 0.06 * n, fault: 'turned' as const }))
    expect(shares(scenes, ['polarity'])[0]).toBeGreaterThanOrEqual(0.9)
  })
  it('a plan that is off by more than it can be is doubted, early or late; one that is nearly right is not', () => {
    const off = planned(n => (n % 2 ? 1 : -1) * (0.006 + 0.001 * n))
    expect(sharesOf(off, ['plan'])[0]).toBeGreaterThanOrEqual(0.9)
    const near = planned(n => (n % 2 ? 1 : -1) * 0.0008)
    expect(sharesOf(near, ['plan'])[0]).toBeLessThanOrEqual(0.02)
  })
})

/** Levels per 24th of an octave of a block, as the page has them. */
function spectrumOf(x: Float32Array): Float32Array {
  const size = x.length
  const [re, im] = [new Float64Array(size / 2 + 1), new Float64Array(size / 2 + 1)]
  const windowed = Float64Array.from(x, (v, n) => v * (0.5 - 0.5 * Math.cos((2 * Math.PI * n) / size)))
  realFft(size).forward(windowed, re, im)
  const power = re.map((v, k) => ((v * v + im[k]! * im[k]!) * 2) / (0.375 * size * size))
  return Float32Array.from(bandLevels(power, rate, bands))
}
const length = 2 ** 14
/** What a quiet hall sounds like with something in it, as the lowest of five looks. */
function silenceWith(seed: number, sound: (look: number, n: number) => number): Observed {
  const looks = Array.from({ length: 5 }, (_, look) => {
    const noise = new Float32Array(length)
    pinkNoise(rate, 10 * seed + look)(noise)
    return spectrumOf(noise.map((v, n) => 0.001 * v + sound(look, n)))
  })
  return {
    microphone: { peak: -40, rms: -50 },
    reference: { peak: -100, rms: -110 },
    sounding: false,
    curve: null,
    delay: 0.02,
    arrival: null,
    expected: null,
    room: null,
    spectrum: { bands, microphone: looks[4]! },
    silence: looks[0]!.map((_, k) => Math.min(...looks.map(l => l[k]!))),
    flattened: false,
    others: [],
    unfed: null,
    drift: null,
    compensated: false,
    clocks: false,
    speedOfSound: 343,
  }
}
const hums = (count: number, scene: (n: number) => Observed) =>
  Array.from({ length: count }, (_, n) => findingsOf(scene(n + 1)).some(f => f.id === 'hum')).filter(Boolean).length
  / count
const tone = (f: number, n: number) => Math.sin((2 * Math.PI * f * n) / rate)

describe('hum and buzz in seeded halls', () => {
  it.each([
    ['hum of 50 Hz', [50]],
    ['hum of 60 Hz', [60]],
    ['buzz of 100, 200 and 300 Hz', [100, 200, 300]],
    ['buzz of 120, 240 and 360 Hz', [120, 240, 360]],
  ] as const)('%s that stays is said', (_, lines) => {
    const level = (n: number) => 0.004 + 0.002 * (n % 5)
    const mains = (n: number) => 1 + 0.0005 * (n % 3)
    const hall = (n: number) =>
      silenceWith(n, (look, t) =>
        lines.reduce((sum, f, k) => sum + (level(n) / (1 + 0.3 * k)) * tone(f * mains(n), t + 911 * look), 0))
    expect(hums(20, hall)).toBeGreaterThanOrEqual(0.9)
  })
  it('noise, a ventilator’s blades and music do not hum', () => {
    expect(hums(20, n => silenceWith(n, () => 0))).toBeLessThanOrEqual(0.02)
    const blades = (n: number) => silenceWith(n, (look, t) => 0.004 * tone(83 + 2.3 * n, t + 500 * look))
    expect(hums(20, blades)).toBeLessThanOrEqual(0.02)
    const music = (n: number) => {
      const random = seededRandom(n)
      // five chords of other notes, loud
      const chords = Array.from({ length: 5 }, () =>
        Array.from({ length: 3 }, () => 55 * 2 ** (Math.floor(random() * 36) / 12)))
      return silenceWith(n, (look, t) => 0.02 * chords[look]!.reduce((sum, f) => sum + tone(f, t), 0))
    }
    expect(hums(20, music)).toBeLessThanOrEqual(0.02)
  })
})
