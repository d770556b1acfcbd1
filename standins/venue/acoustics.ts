import { airLoss, distance, images, speedOfSound, type Air, type Place } from '../../core/acoustics'
import { realFft, seededRandom, type Curve } from '../../core/dsp'
import type { Element, SitePlan } from '../../core/rig'
import { applyLoudspeaker, modelOf } from './loudspeakers'

export const venueRate = 48_000
/** Length of every simulated response in samples: 2.7 s. */
export const responseLength = 2 ** 17
const tailLength = 2 ** 16
const octaves = [63, 125, 250, 500, 1000, 2000, 4000, 8000]
/** Upholstered rows swallow part of the tail before it has built up: 3 dB off the ideal diffuse field. */
const seating = 0.7
const surfaces = { front: 0.35, back: 0.3, left: 0.22, right: 0.22, floor: 0.3, ceiling: 0.25 }

/** Frequencies of the response's bins. */
export const venueBins = Float64Array.from({ length: responseLength / 2 + 1 }, (_, k) => k * venueRate / responseLength)

const hash = (text: string) => [...text].reduce((h, c) => Math.imul(h ^ c.charCodeAt(0), 0x01000193), 0x811C9DC5) >>> 0

/**
 * What reaches a microphone from one cabinet that is given an impulse: direct sound, first-order wall reflections, air and a
 * decaying tail, coloured by the cabinet; as a spectrum on `venueBins`.
 */
export function roomSpectrum(plan: SitePlan, source: string, number: number, element: Element, microphone: Place): Curve {
  const bins = venueBins.length
  const curve: Curve = { frequencies: venueBins, re: new Float64Array(bins), im: new Float64Array(bins), coherence: null }
  for (const image of images(plan.room.size, surfaces, element.place, 1)) {
    addArrival(curve, distance(image.place, microphone), image.factor * (image.order ? 0.7 : 1), plan.air)
  }
  addTail(curve, plan, element, distance(element.place, microphone), hash(`${source}/${number}/${JSON.stringify(microphone)}`))
  applyLoudspeaker(curve, source, number, element.model)
  return curve
}

/** Adds sound that travelled `metres`: 1/r, the air's loss, its flight time to a fraction of a sample. */
function addArrival({ re, im }: Curve, metres: number, factor: number, air: Air) {
  const step = 64 // the air's loss is smooth: one value every 23 Hz
  const turn = 2 * Math.PI * venueRate / responseLength * metres / speedOfSound(air.temperature)
  const cs = Math.cos(turn), sn = -Math.sin(turn)
  let gain = 0
  for (let k0 = 0; k0 < re.length; k0 += step) {
    gain = factor / metres * 10 ** (-airLoss(Math.max(1, venueBins[k0]!), air) * metres / 20)
    let c = Math.cos(turn * k0), s = -Math.sin(turn * k0)
    for (let k = k0; k < Math.min(k0 + step, re.length); k++) {
      re[k]! += gain * c
      im[k]! += gain * s
      const t = c * cs - s * sn
      s = s * cs + c * sn
      c = t
    }
  }
}

/**
 * Adds a diffuse tail: noise an octave wide each, decaying by the room's time, as strong as the diffuse field of the room is
 * (critical distance 0.057 · √(Q·V/T): Kuttruff, Room Acoustics, ch. 5).
 */
function addTail(curve: Curve, plan: SitePlan, element: Element, metres: number, seed: number) {
  const random = seededRandom(seed)
  const noise = Float64Array.from({ length: tailLength }, () => (random() + random() + random() - 1.5) * 2)
  const half = tailLength / 2 + 1, fft = realFft(tailLength)
  const nr = new Float64Array(half), ni = new Float64Array(half), br = new Float64Array(half), bi = new Float64Array(half)
  fft.forward(noise, nr, ni)
  const band = new Float64Array(tailLength), tail = new Float64Array(responseLength)
  const { size, decay } = plan.room, volume = size.x * size.y * size.z
  const start = Math.round(metres / speedOfSound(plan.air.temperature) * venueRate), rise = Math.round(0.012 * venueRate)
  octaves.forEach((centre, o) => {
    const time = decay[o]!, fall = 6.91 / (time * venueRate)
    const energy = modelOf(element.model).q[o]! * volume / time * 0.057 ** 2
    const level = Math.sqrt(2 * fall / energy) * seating
    for (let k = 0; k < half; k++) {
      const share = octaveShare(k * venueRate / tailLength, centre, o)
      br[k] = nr[k]! * share
      bi[k] = ni[k]! * share
    }
    fft.inverse(br, bi, band)
    for (let n = 0; start + n < tailLength; n++) tail[start + n]! += band[n]! * level * Math.exp(-fall * n) * Math.min(1, n / rise)
  })
  const re = new Float64Array(responseLength / 2 + 1), im = new Float64Array(responseLength / 2 + 1)
  realFft(responseLength).forward(tail, re, im)
  for (let k = 0; k < re.length; k++) {
    curve.re[k]! += re[k]!
    curve.im[k]! += im[k]!
  }
}

/** Part of a frequency's amplitude that belongs to an octave; the squares of all octaves sum to 1. The outer ones run on to the ends. */
function octaveShare(f: number, centre: number, index: number): number {
  if (f <= 0) return 0
  const away = Math.log2(f / centre)
  if ((index === 0 && away < 0) || (index === octaves.length - 1 && away > 0)) return 1
  return Math.abs(away) < 1 ? Math.cos(Math.PI / 2 * Math.abs(away)) : 0
}
