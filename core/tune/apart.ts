import type { Curve } from '../dsp'
import { trusted } from '../measure'
import type { Decibels } from '../units'

const fewest = 24

/**
 * How far two levels on the same grid lie apart, in dB RMS over log frequency, where both may be trusted (coherence at
 * least `threshold`) and neither is 30 dB under its top; null where that is too little to tell.
 */
export function levelsApart(a: Curve, b: Curve, threshold: number): Decibels | null {
  const level = ({ re, im }: Curve) => Float64Array.from(re, (r, k) => 10 * Math.log10(r * r + im[k]! ** 2 + 1e-30))
  const [levelsA, levelsB] = [level(a), level(b)]
  const floor = (levels: Float64Array) => levels.reduce((top, v) => Math.max(top, v), -Infinity) - 30
  const [floorA, floorB] = [floor(levelsA), floor(levelsB)]
  const [trustA, trustB] = [trusted(a, threshold), trusted(b, threshold)]
  let sum = 0
  let count = 0
  for (let k = 0; k < levelsA.length; k++) {
    if (!trustA[k] || !trustB[k] || levelsA[k]! < floorA || levelsB[k]! < floorB) continue
    sum += (levelsA[k]! - levelsB[k]!) ** 2
    count++
  }
  return count < fewest ? null : Math.sqrt(sum / count)
}
