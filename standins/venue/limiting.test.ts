import { describe, expect, it } from 'vitest'
import type { Limiter } from '../../core/rig'
import { blockSize } from './convolver'
import { delivered, edited, fast, hall, positions, type PluggedRig } from './testHall'
import { createVenue } from './venue'

const limiter = (threshold: number, more: Partial<Limiter> = {}): Limiter =>
  ({ on: true, detector: 'peak', threshold, attack: 0.001, hold: 0.01, release: 0.2, ...more })
/** The level heard of noise in the last second of two, and what limiters took away at its end. */
function hear(rig: PluggedRig, level = -20) {
  const venue = createVenue(fast, hall, rig, positions[0]!.place)
  venue.generator.level(level)
  venue.generator.start()
  const played = new Float32Array(blockSize)
  const heard = new Float32Array(blockSize)
  let power = 0
  let count = 0
  const blocks = (3 * venue.sampleRate) / blockSize
  for (let n = 0; n < blocks; n++) {
    venue.process(played, heard)
    if (n < (2 * blocks) / 3) continue
    for (const v of heard) power += v * v
    count += blockSize
  }
  return { level: 10 * Math.log10(power / count), taken: venue.limiting() }
}
const withLimiters = (threshold: number, more?: Partial<Limiter>) =>
  edited(delivered, {
    '/outputs/0/limiter': limiter(threshold, more),
    '/outputs/1/limiter': limiter(threshold, more),
  })

describe('limiters in the simulated hall', () => {
  it('do nothing under their threshold, and are known to be there', () => {
    const open = hear(delivered)
    const idle = hear(withLimiters(0))
    expect(open.taken).toEqual({})
    expect(Object.keys(idle.taken).sort()).toEqual(['processor outputs/0', 'processor outputs/1'])
    for (const taken of Object.values(idle.taken)) expect(taken).toBe(0)
    expect(idle.level).toBeCloseTo(open.level, 6)
  })
  it('hold a loud sound where they are set: 10 dB more in, not 10 dB more out, and say how much they take', () => {
    const set = withLimiters(-24, { detector: 'rms', attack: 0.05 })
    const quiet = hear(set, -40)
    const loud = hear(set, -15)
    const louder = hear(set, -5)
    expect(loud.level - quiet.level).toBeLessThan(20)
    expect(louder.level - loud.level).toBeLessThan(1.5)
    expect(louder.taken['processor outputs/0']! - loud.taken['processor outputs/0']!).toBeGreaterThan(7)
  })
  it('stand in amplifiers too, behind what the processor leaves of a sound', () => {
    const amp = delivered.devices['amp-a']!
    const settings = Object.fromEntries([0, 1].map(n => [`/outputs/${n}/limiter`, limiter(-30)]))
    const rig = { ...delivered, devices: { ...delivered.devices, 'amp-a': { ...amp, settings } } }
    const limited = hear(rig)
    expect(hear(delivered).level - limited.level).toBeGreaterThan(3)
    expect(Object.keys(limited.taken).sort()).toEqual(['amp-a outputs/0', 'amp-a outputs/1'])
  })
})
