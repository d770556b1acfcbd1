import type { Decibels, Hertz } from '../units'

/** Parts of an octave on offer. */
export const bandParts = [1, 3, 6, 12, 24] as const
export type BandPart = (typeof bandParts)[number]

/** One fractional-octave band: its exact middle, edges, and the number it goes by. */
export interface FrequencyBand {
  middle: Hertz
  low: Hertz
  high: Hertz
  name: string
}

/** Octave ratio of base 10. */
const G = 10 ** 0.3
/** Nominal middles of thirds over one decade (ISO 266). */
const nominal = [1, 1.25, 1.6, 2, 2.5, 3.15, 4, 5, 6.3, 8]

function nameOf(middle: Hertz, part: number): string {
  const decade = 10 ** Math.floor(Math.log10(middle) + 1e-6)
  const f
    = part <= 3
      ? nominal.reduce(
        (a, b) => (Math.abs(Math.log((b * decade) / middle)) < Math.abs(Math.log((a * decade) / middle)) ? b : a),
        10,
      ) * decade
      : Number(middle.toPrecision(3))
  return f >= 1000 ? `${Number((f / 1000).toPrecision(4))} kHz` : `${Number(f.toPrecision(4))} Hz`
}

/**
 * Bands of 1/`part` octave whose middles lie within `low` … `high`, base 10, as IEC 61260-1 eqs (2) to (5);
 * even parts lie beside 1 kHz.
 */
export function fractionalOctaves(part: number, low: Hertz = 20, high: Hertz = 20_000): FrequencyBand[] {
  const middleOf = (x: number) => 1000 * G ** (part % 2 ? x / part : (2 * x + 1) / (2 * part))
  const half = G ** (1 / (2 * part))
  const first = Math.floor((Math.log(low / 1000) / Math.log(G)) * part) - 1
  const last = Math.ceil((Math.log(high / 1000) / Math.log(G)) * part) + 1
  const reach = G ** (1 / (4 * part)) // nominal 20 Hz is exactly 19.95 Hz
  return Array.from({ length: last - first + 1 }, (_, k) => middleOf(first + k))
    .filter(m => m >= low / reach && m <= high * reach)
    .map(middle => ({ middle, low: middle / half, high: middle * half, name: nameOf(middle, part) }))
}

/**
 * Level of each band from a power spectrum on `bins.length` = length/2 + 1 bins (a full-scale square wave is 0
 * dB: `power` is mean square
 * a bin). A bin that an edge cuts is shared. Silence is -200 dB.
 */
export function bandLevels(
  power: ArrayLike<number>,
  sampleRate: Hertz,
  bands: readonly FrequencyBand[],
): Decibels[] {
  const bin = sampleRate / 2 / (power.length - 1)
  return bands.map(({ low, high }) => {
    let sum = 0
    for (let k = Math.max(0, Math.floor(low / bin - 0.5)); k < power.length && (k - 0.5) * bin < high; k++) {
      const share = Math.min(high, (k + 0.5) * bin) - Math.max(low, (k - 0.5) * bin)
      if (share > 0) sum += (power[k]! * share) / bin
    }
    return 10 * Math.log10(Math.max(1e-20, sum))
  })
}

/** Level of a wider band from those of narrower ones whose middles lie in it. Silence is -200 dB. */
export function bandLevelOf(
  levels: ArrayLike<Decibels>,
  narrow: readonly FrequencyBand[],
  { low, high }: Pick<FrequencyBand, 'low' | 'high'>,
): Decibels {
  let sum = 1e-20
  narrow.forEach((b, k) => {
    if (b.middle >= low && b.middle < high) sum += 10 ** (levels[k]! / 10)
  })
  return 10 * Math.log10(sum)
}
