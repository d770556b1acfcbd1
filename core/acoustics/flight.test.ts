import { describe, expect, it } from 'vitest'
import { criticalDistance, distanceLoss, flightChange, flightTime, nearest, speedOfSound } from './index'

const air = { temperature: 20, humidity: 50, pressure: 101.325 }
const at = (x: number) => ({ x, y: 0, z: 0 })

describe('how sound gets to a place', () => {
  it('comes first from the nearest cabinet', () => {
    expect(nearest(at(10), [at(0), at(7), at(20)])).toBe(3)
    expect(flightTime([at(0), at(7)], at(10), air)).toBeCloseTo(3 / speedOfSound(air), 9)
    expect(nearest(at(0), [])).toBe(Infinity)
  })
  it('loses 6 dB each time that the distance doubles, from 1 m (inverse square law)', () => {
    expect([1, 2, 4, 10].map(m => Number(distanceLoss(m).toFixed(2)))).toEqual([0, 6.02, 12.04, 20])
    expect(distanceLoss(0)).toBe(distanceLoss(0.3))
  })
  it('is as loud as the room at the critical distance (Kuttruff, Room Acoustics, ch. 5)', () => {
    // by its definition: direct Q/4πr² against reverberant 4/A, A = 0.161·V/T
    const [volume, decay, q] = [4000, 1.6, 10]
    const r = criticalDistance(volume, decay, q)
    expect((q / (4 * Math.PI * r ** 2)) / (4 / (0.161 * volume / decay))).toBeCloseTo(1, 1)
  })
  it('takes longer in colder air', () => {
    expect(flightChange(air, air)).toBe(0)
    expect(flightChange(air, { ...air, temperature: 10 })).toBeCloseTo(Math.sqrt(293.15 / 283.15) - 1, 2)
  })
})
