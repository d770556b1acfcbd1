import { describe, expect, it } from 'vitest'
import { calibrationOf, fractionalOctaves } from './index'

const bands = fractionalOctaves(24, 16, 20_000)
const heard = (tone: number, rest: number) => {
  const inside = bands.findIndex(b => b.low <= 1000 && b.high > 1000)
  return Float32Array.from(bands, (_, k) => (k === inside ? tone : rest))
}

describe('a calibrator on a microphone', () => {
  it('says what 0 dBFS is: its level over that of its tone', () => {
    expect(calibrationOf(heard(-26, -110), bands, 94)).toBeCloseTo(120, 1)
    expect(calibrationOf(heard(-6, -110), bands, 114)).toBeCloseTo(120, 1)
  })
  it.each([
    ['speech, with no tone in it', heard(-40, -40)],
    ['a tone that the room drowns', heard(-40, -62)],
    ['a tone so soft that nothing is on the microphone', heard(-80, -130)],
  ])('is not taken for %s', (_, levels) => {
    expect(() => calibrationOf(levels, bands, 94)).toThrow('No calibrator is heard')
  })
})
