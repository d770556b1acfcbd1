import { describe, expect, it } from 'vitest'
import { distance, octaveBands, rectangle, soundPaths, speedOfSound, type Place } from '../../core/acoustics'
import { realFft } from '../../core/dsp'
import { sample } from '../../core/reference/cases'
import { roomDecay, type Plan } from '../../core/documents'
import { responseLength, roomSpectrum, venueBins, venueRate, type Radiating } from './acoustics'
import { hall, plan, positions, sources } from './testHall'

const element = sources[0]!.elements[0]!
const sheet = hall.sheets.find(s => s.id === 'top-12')!
/** A full-range top where Main L hangs. */
const radiating: Radiating = { source: 'main-l', number: 0, element, sheet, band: sheet.bands[0]!, inverted: false }
const microphone = positions[2]!.place

/**
 * Response of the hall in one octave (cosine edges), squared and summed backwards: Schroeder 1965, as ISO
 * 3382-1 uses it.
 */
function decayAt(plan: Plan, centre: number, microphone: Place): number {
  const { re, im } = roomSpectrum(plan, radiating, microphone)
  for (let k = 0; k < re.length; k++) {
    const away = Math.abs(Math.log2(Math.max(1, venueBins[k]!) / centre))
    const share = Math.cos((Math.max(0, Math.min(1, (away - 0.5) / 0.2)) * Math.PI) / 2)
    re[k]! *= share
    im[k]! *= share
  }
  const response = new Float64Array(responseLength)
  realFft(responseLength).inverse(re, im, response)
  const energy = response.subarray(0, 65_536).map(v => v * v)
  for (let n = energy.length - 2; n >= 0; n--) energy[n]! += energy[n + 1]!
  const level = (n: number) => 10 * Math.log10(energy[n]! / energy[0]!)
  const at = (db: number) => energy.findIndex((_, n) => level(n) <= db)
  return (60 * (at(-25) - at(-5))) / 20 / venueRate // T20
}

/** Mean over three positions, as ISO 3382-1 asks for. */
const decayTime = (plan: Plan, centre: number) =>
  [0, 2, 3].reduce((sum, n) => sum + decayAt(plan, centre, positions[n]!.place) / 3, 0)

describe('the hall follows its plan', () => {
  it('decays within 10 % of Eyring in every octave, and within 10 % again with curtains all round', () => {
    const dull: Plan = {
      ...plan,
      room: { ...plan.room, surfaces: { ...plan.room.surfaces, left: 'curtain', right: 'curtain' } },
    }
    for (const p of sample([plan, dull], 1))
      roomDecay(p).forEach((t, o) => {
        if (o > 0) expect(Math.abs(decayTime(p, octaveBands[o]!) / t - 1), `${octaveBands[o]} Hz`).toBeLessThan(0.1)
      })
  })
  it('moving the loudspeaker moves the arrival by the formula, to 0.01 ms', () => {
    const arrival = (x: number) => {
      const moved = { ...element, place: { ...element.place, x } }
      const { re, im } = roomSpectrum(plan, { ...radiating, element: moved }, microphone)
      const response = new Float64Array(responseLength)
      realFft(responseLength).inverse(re, im, response)
      const peak = response.reduce((best, v, n) => (Math.abs(v) > Math.abs(response[best]!) ? n : best), 0)
      const [a, b, c] = [response[peak - 1]!, response[peak]!, response[peak + 1]!]
      return {
        measured: (peak + (0.5 * (a - c)) / (a - 2 * b + c)) / venueRate,
        formula: distance(moved.place, microphone) / speedOfSound(plan.air),
      }
    }
    const near = arrival(4)
    const far = arrival(3)
    expect(Math.abs(far.measured - near.measured - (far.formula - near.formula))).toBeLessThan(1e-5)
  })
  it('a hall drawn by its corners sounds like the same hall drawn as a rectangle, and a fan decays by its '
    + 'own volume', () => {
    const drawn: Plan = { ...plan, room: { ...plan.room, outline: rectangle(31, 14) } }
    const a = roomSpectrum(plan, radiating, microphone)
    const b = roomSpectrum(drawn, radiating, microphone)
    for (let k = 50; k < a.re.length; k += 997)
      expect(Math.hypot(a.re[k]! - b.re[k]!, a.im[k]! - b.im[k]!)).toBeLessThan(1e-6)
    const fan: Plan = {
      ...plan,
      room: {
        ...plan.room,
        outline: [
          { x: 0, y: 3 },
          { x: 31, y: 0 },
          { x: 31, y: 14 },
          { x: 0, y: 11 },
        ],
      },
    }
    expect(Math.abs(decayTime(fan, 1000) / roomDecay(fan)[4]! - 1)).toBeLessThan(0.1)
  })
  it('reflections are followed up to the order chosen', () => {
    const direct = roomSpectrum(plan, radiating, microphone, 0)
    const first = roomSpectrum(plan, radiating, microphone, 1)
    const response = new Float64Array(responseLength)
    realFft(responseLength).inverse(
      first.re.map((v, k) => v - direct.re[k]!),
      first.im.map((v, k) => v - direct.im[k]!),
      response,
    )
    const bounces = soundPaths(plan.room, element.place, microphone, 1)
      .filter(p => p.order === 1)
      .map(p => (p.length / speedOfSound(plan.air)) * venueRate)
    const top = response.reduce((m, x) => Math.max(m, Math.abs(x)), 0)
    const early = response.findIndex(v => Math.abs(v) > 0.05 * top)
    expect(early).toBeGreaterThan(Math.min(...bounces) - 60)
    expect(early).toBeLessThan(Math.min(...bounces) + 200)
  })
})
