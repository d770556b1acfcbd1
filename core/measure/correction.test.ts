import { describe, expect, it } from 'vitest'
import {
  applySections,
  curveOfImpulse,
  filterThrough,
  magnitude,
  peaking,
  pinkNoise,
  standardGrid,
  unity,
} from '../dsp'
import { bandLevels, correctionOf, createSoundLevel, fractionalOctaves, powerSpectrum } from './index'

const rate = 48_000
/** A microphone that lifts 8 kHz by 6 dB and lacks 4 dB at 60 Hz. */
const sections = [peaking(8000, 6, 1, rate), peaking(60, -4, 0.8, rate)]
const itself = unity(standardGrid)
applySections(itself, sections, rate)
const levelOnly = { ...itself, re: itself.re.map((v, k) => Math.hypot(v, itself.im[k]!)), im: itself.im.map(() => 0) }
const noise = (seconds: number) => {
  const x = new Float32Array(seconds * rate)
  pinkNoise(rate, 4)(x)
  return x.map(v => v * 0.1)
}

describe('what a microphone adds is taken out of everything that is heard through it', () => {
  it('of a response: level and phase as they are given, the arrival where it was', () => {
    const pulse = new Float32Array(2 ** 15)
    pulse[4800] = 1
    const heard = Float32Array.from(filterThrough(sections, pulse))
    for (const curve of [itself, levelOnly]) {
      const clean = correctionOf(curve, rate).takeFromResponse(heard)
      expect(clean).toHaveLength(pulse.length)
      const level = magnitude(curveOfImpulse(clean, rate, -4800 / rate, standardGrid))
      const off = [...level.keys()].filter(k => standardGrid[k]! > 30 && standardGrid[k]! < 20_000)
        .map(k => Math.abs(level[k]!))
      expect(Math.max(...off)).toBeLessThan(0.2)
      expect(clean.reduce((best, v, n) => (Math.abs(v) > Math.abs(clean[best]!) ? n : best), 0)).toBe(4800)
    }
    const exact = correctionOf(itself, rate).takeFromResponse(heard)
    expect(exact[4800]).toBeCloseTo(1, 2)
  })
  it('of bands and of a sound level, whose sound itself is filtered', () => {
    const x = noise(8)
    const heard = Float32Array.from(filterThrough(sections, x))
    const correction = correctionOf(levelOnly, rate)
    const bands = fractionalOctaves(24, 30, 18_000)
    const levels = (of: Float32Array) => Float32Array.from(bandLevels(powerSpectrum(of, 2 ** 16), rate, bands))
    const [plain, told] = [levels(x), levels(heard)]
    correction.takeFromLevels(told, bands.map(b => b.middle))
    expect(Math.max(...told.map((v, k) => Math.abs(v - plain[k]!)))).toBeLessThan(0.3)
    const level = (of: Float32Array, through: (block: Float32Array) => Float32Array) => {
      const meter = createSoundLevel(rate, 'A', 'slow')
      for (let at = 0; at + 4096 <= of.length; at += 4096) meter.push(through(of.subarray(at, at + 4096)))
      return meter.read().running
    }
    const as = (block: Float32Array) => block
    expect(Math.abs(level(heard, as) - level(x, as))).toBeGreaterThan(0.5)
    expect(level(heard, correction.stream(4096))).toBeCloseTo(level(x, as), 1)
  })
})
