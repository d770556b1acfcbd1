import { addTo, applyGainAndDelay, copyOf, silence, standardGrid, type Curve } from '../dsp'
import { trusted } from '../measure'
import type { Decibels, Hertz, Seconds } from '../units'
import type { Pair } from './alignTask'
import { overlapOf } from './alignImpulses'
import { refusal } from '../words'

/** What a source reads at a position, complex, on the standard grid; `delay` was taken out of its phase. */
export interface Reading {
  curve: Curve
  delay: Seconds
}
/** Two sources at one position, by one clock. */
export interface Both {
  reference: Reading
  move: Reading
  /** By how much longer the moved source's sound flies, where that is known; electronics do not go by the air. */
  apart: Seconds | null
}

/** A reading as if `delay` had been taken out of its phase. */
export function inTimeOf({ curve, delay: own }: Reading, delay: Seconds): Curve {
  const turned = copyOf(curve)
  applyGainAndDelay(turned, 1, own - delay)
  return turned
}

/** The least coherence of several curves at each frequency; null where none has any. */
function leastCoherence(curves: readonly Curve[]): Float64Array | null {
  const known = curves.flatMap(c => c.coherence ?? [])
  if (!known.length) return null
  return Float64Array.from(known[0]!, (_, k) => known.reduce((least, c) => Math.min(least, c[k]!), 1))
}

/**
 * The complex sum of what sounds together at a position, by the time of the earliest; trusted where all parts are.
 * Throws when there is nothing.
 */
export function sumOf(readings: readonly Reading[]): Reading {
  if (!readings.length) throw refusal('sum.nothing')
  const delay = Math.min(...readings.map(r => r.delay))
  const coherence = leastCoherence(readings.map(r => r.curve))
  const sum: Curve = { ...silence(readings[0]!.curve.frequencies), coherence }
  for (const r of readings) addTo(sum, inTimeOf(r, delay))
  return { curve: sum, delay }
}

/** Both trusted at more than this part of the positions, a frequency counts. */
const trustedPart = 1 / 3
const unheard: Decibels = -200

/** Mean power of one of both over the positions, in dB. */
const meanOf = (places: readonly Both[], which: 'reference' | 'move') => Array.from(standardGrid, (_, k) => {
  const sum = places.reduce((s, { [which]: { curve } }) => s + curve.re[k]! ** 2 + curve.im[k]! ** 2, 0)
  return 10 * Math.log10(Math.max(1e-30, sum / places.length))
})

/** Where two sources are heard within 10 dB of each other, as a mean of the positions, and trusted; null: nowhere. */
export function overlapIn(places: readonly Both[], trust: number): [Hertz, Hertz] | null {
  if (!places.length) return null
  const flags = places.map(p => [p.reference.curve, p.move.curve].map(c => trusted(c, trust)))
  const seen = (level: Decibels, k: number) =>
    (flags.filter(([a, b]) => a![k] && b![k]).length > flags.length * trustedPart ? level : unheard)
  return overlapOf(meanOf(places, 'reference').map(seen), meanOf(places, 'move').map(seen), [...standardGrid])
}

/** What a search for the best sum is given of two sources over a band: complex values by the reference's time. */
export function pairsIn(places: readonly Both[], [low, high]: readonly [Hertz, Hertz]) {
  const at = [...standardGrid.keys()].filter(k => standardGrid[k]! >= low && standardGrid[k]! <= high)
  const frequencies = Float64Array.from(at, k => standardGrid[k]!)
  const cut = ({ re, im }: Curve) =>
    ({ re: Float64Array.from(at, k => re[k]!), im: Float64Array.from(at, k => im[k]!) })
  const pairs = places.map(({ reference, move, apart }): Pair => ({
    reference: cut(reference.curve),
    move: cut(inTimeOf(move, reference.delay)),
    ...(apart === null ? {} : { apart }),
  }))
  // on a logarithmic grid each point stands for a bandwidth that grows with its frequency
  return { frequencies, widths: frequencies.slice(), pairs }
}
