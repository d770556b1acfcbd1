import {
  absorptionOf,
  airLoss,
  atFrequency,
  cosineTo,
  distance,
  octaveBands,
  patternFactor,
  roomAreas,
  soundPaths,
  speedOfSound,
  type Place,
  type SoundPath,
} from '../../core/acoustics'
import { roomDecay, sides, type Element, type Plan, type Sheet, type SheetBand } from '../../core/documents'
import { realFft, seededRandom, silence, type Curve } from '../../core/dsp'
import { applyLoudspeaker } from './loudspeakers'
import { usualOrder } from './offers'

export const venueRate = 48_000
/** Length of every simulated response in samples: 2.7 s. */
export const responseLength = 2 ** 17
const tailLength = 2 ** 16
/** Upholstered rows swallow part of the tail before it has built up: 3 dB off the ideal diffuse field. */
const seating = 0.7
/**
 * Furniture and people scatter: each reflection keeps this much of the pressure that its absorption leaves in
 * one piece.
 */
const unscattered = 0.8

/** Frequencies of the response's bins. */
export const venueBins = Float64Array.from(
  { length: responseLength / 2 + 1 },
  (_, k) => (k * venueRate) / responseLength,
)

/** Walls, directivity and air are smooth: one value for so many bins, 23 Hz. */
const lossStep = 64

const hash = (text: string) =>
  [...text].reduce((h, c) => Math.imul(h ^ c.charCodeAt(0), 0x01000193), 0x811c9dc5) >>> 0

/** One band of one cabinet in its place; `number` counts the cabinets of its source. */
export interface Radiating {
  source: string
  number: number
  element: Element
  sheet: Sheet
  band: SheetBand
  /** Wired the wrong way round inside. */
  inverted: boolean
}

/**
 * What reaches a microphone from one band of a cabinet that is given an impulse: direct sound and wall
 * reflections up to `order`
 * with the walls' absorption, the band's directivity and the air's loss, and a decaying tail; as a spectrum on
 * `venueBins`.
 */
export function roomSpectrum(plan: Plan, radiating: Radiating, microphone: Place, order = usualOrder): Curve {
  const { source, number, element, sheet, band, inverted } = radiating
  const curve = silence(venueBins)
  const loss = Float64Array.from({ length: Math.ceil(venueBins.length / lossStep) }, (_, k) =>
    airLoss(Math.max(1, venueBins[k * lossStep]!), plan.air),
  )
  for (const path of soundPaths(plan.room, element.place, microphone, order)) {
    addArrival(curve, plan, radiating, path, loss)
  }
  // the bands of a cabinet stand in one place: they excite the same tail
  const seed = hash(`${source}/${number}/${JSON.stringify(microphone)}`)
  addTail(curve, plan, band, distance(element.place, microphone), seed)
  applyLoudspeaker(curve, sheet, band, inverted)
  return curve
}

/** Pressure per octave that is left of one way's sound at the microphone, 1/r and air apart. */
function pathFactors(plan: Plan, { element, band }: Radiating, path: SoundPath): number[] {
  const cosine = cosineTo(element.aim, element.place, path.seen)
  return octaveBands.map((_, o) =>
    sides.reduce(
      (left, side) => left * Math.sqrt(1 - absorptionOf(plan.room.surfaces[side])[o]!) ** path.hits[side],
      patternFactor(cosine, band.q[o]!) * unscattered ** path.order,
    ),
  )
}

/** Adds the sound of one way: 1/r, walls, directivity, the air's loss, its flight time to a fraction of a sample. */
function addArrival({ re, im }: Curve, plan: Plan, radiating: Radiating, path: SoundPath, loss: Float64Array) {
  const metres = Math.max(0.1, path.length)
  const factors = pathFactors(plan, radiating, path)
  const turn = (((2 * Math.PI * venueRate) / responseLength) * metres) / speedOfSound(plan.air)
  const cs = Math.cos(turn)
  const sn = -Math.sin(turn)
  for (let k0 = 0; k0 < re.length; k0 += lossStep) {
    const f = Math.max(1, venueBins[k0]!)
    const gain = (atFrequency(factors, f) / metres) * 10 ** ((-loss[k0 / lossStep]! * metres) / 20)
    let c = Math.cos(turn * k0)
    let s = -Math.sin(turn * k0)
    for (let k = k0; k < Math.min(k0 + lossStep, re.length); k++) {
      re[k]! += gain * c
      im[k]! += gain * s
      const t = c * cs - s * sn
      s = s * cs + c * sn
      c = t
    }
  }
}

/**
 * Adds a diffuse tail: noise an octave wide each, decaying by the room's time, as strong as the diffuse field
 * of the room is
 * (critical distance 0.057 · √(Q·V/T): Kuttruff, Room Acoustics, ch. 5).
 */
function addTail(curve: Curve, plan: Plan, { q }: SheetBand, metres: number, seed: number) {
  const random = seededRandom(seed)
  const noise = new Float64Array(tailLength)
  for (let n = 0; n < tailLength; n++) noise[n] = (random() - 0.5) * Math.sqrt(12)
  const half = tailLength / 2 + 1
  const fft = realFft(tailLength)
  const nr = new Float64Array(half)
  const ni = new Float64Array(half)
  const br = new Float64Array(half)
  const bi = new Float64Array(half)
  fft.forward(noise, nr, ni)
  const band = new Float64Array(tailLength)
  const tail = new Float64Array(responseLength)
  const { volume } = roomAreas(plan.room)
  const decay = roomDecay(plan)
  const start = Math.round((metres / speedOfSound(plan.air)) * venueRate)
  const rise = Math.round(0.012 * venueRate)
  octaveBands.forEach((_, o) => {
    const time = decay[o]!
    const fall = 6.91 / (time * venueRate)
    const energy = ((q[o]! * volume) / time) * 0.057 ** 2
    const level = Math.sqrt((2 * fall) / energy) * seating
    for (let k = 0; k < half; k++) {
      const share = octaveShares[o]![k]!
      br[k] = nr[k]! * share
      bi[k] = ni[k]! * share
    }
    fft.inverse(br, bi, band)
    for (let n = 0; start + n < tailLength; n++)
      tail[start + n]! += band[n]! * level * Math.exp(-fall * n) * Math.min(1, n / rise)
  })
  const re = new Float64Array(responseLength / 2 + 1)
  const im = new Float64Array(responseLength / 2 + 1)
  realFft(responseLength).forward(tail, re, im)
  for (let k = 0; k < re.length; k++) {
    curve.re[k]! += re[k]!
    curve.im[k]! += im[k]!
  }
}

/**
 * Part of a frequency's amplitude that belongs to an octave; the squares of all octaves sum to 1. The outer
 * ones run on to the ends.
 */
function octaveShare(f: number, centre: number, index: number): number {
  if (f <= 0) return 0
  const away = Math.log2(f / centre)
  if ((index === 0 && away < 0) || (index === octaveBands.length - 1 && away > 0)) return 1
  return Math.abs(away) < 1 ? Math.cos((Math.PI / 2) * Math.abs(away)) : 0
}
const octaveShares = octaveBands.map((centre, o) =>
  Float32Array.from({ length: tailLength / 2 + 1 }, (_, k) => octaveShare((k * venueRate) / tailLength, centre, o)),
)
