import type { Decibels, Degrees, Ratio } from './types'

/** Amplitude ratio of a level in dB: 10^(dB/20). */
export const ratioOf = (level: Decibels): Ratio => 10 ** (level / 20)

/** Level in dB of an amplitude ratio: 20 lg |r|; -Infinity for 0. */
export const decibelsOf = (ratio: Ratio): Decibels => 20 * Math.log10(Math.abs(ratio))

/** The same angle in (-180, 180] degrees. */
export const wrapDegrees = (angle: Degrees): Degrees => {
  const turned = ((((angle + 180) % 360) + 360) % 360) - 180
  return turned === -180 ? 180 : turned
}

/** Nearest multiple of `step` to `value`, free of binary dust (0.1 + 0.2 style). `step` must be above 0. */
export const toStep = (value: number, step: number): number =>
  Number((Math.round(value / step) * step).toPrecision(12))
