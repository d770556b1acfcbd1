import { describe, expect, it } from 'vitest'
import { scipy } from '../../core/reference/scipy'
import { speedOfSound } from '../../core/acoustics'
import { fast, hall, plan, positions, unfed } from './testHall'
import { createBackground } from './background'
import { backgroundIds, backgrounds, type BackgroundId } from './offers'
import { createVenue } from './venue'

const rate = 48_000
const block = 1024
function record(id: BackgroundId, seconds: number) {
  const background = createBackground(rate)
  const out = new Float32Array(Math.floor((seconds * rate) / block) * block)
  background.choose(id)
  for (let at = 0; at < out.length; at += block) background.addTo(out.subarray(at, at + block))
  return out
}
const rms = (x: Float32Array) => 10 * Math.log10(x.reduce((s, v) => s + v * v, 0) / x.length)

describe('what goes on in the hall', () => {
  it.each(backgroundIds)('%s: never louder than it says, and does not click', (id) => {
    const x = record(id, 20)
    expect(rms(x)).toBeLessThan(backgrounds[id].level + 1.5)
    let largest = 0
    let sum = 0
    for (let n = 1; n < x.length; n++) {
      const step = Math.abs(x[n]! - x[n - 1]!)
      largest = Math.max(largest, step)
      sum += step * step
    }
    expect(largest).toBeLessThan(12 * Math.sqrt(sum / x.length)) // a click stands far out of the steps around it
  })
  it('hum stands 20 dB over its neighbours at 50 Hz and its harmonics (scipy.signal.welch)', async () => {
    const { frequencies, power } = await scipy<{ frequencies: number[], power: number[] }>('power_spectrum', {
      x: record('hum', 12),
      rate,
      length: 32_768,
    })
    const at = (f: number) => 10 * Math.log10(power[frequencies.findIndex(g => g >= f - 0.8)]!)
    for (const f of [50, 100, 150]) expect(at(f) - at(f + 20)).toBeGreaterThan(20)
  })
  it('the evening takes the air to show time, and the plan takes it back', () => {
    const venue = createVenue(fast, hall, unfed, positions[0]!.place)
    const playback = new Float32Array(block)
    const heard = new Float32Array(block)
    venue.evening(true)
    for (let n = 0; n < (300 * rate) / block; n++) venue.process(playback, heard)
    expect(venue.air.temperature).toBeGreaterThan(22)
    expect(venue.air.temperature).toBeLessThan(23)
    expect(speedOfSound(venue.air)).toBeGreaterThan(speedOfSound(plan.air))
    venue.evening(false)
    expect(venue.air).toEqual(plan.air)
  })
})
