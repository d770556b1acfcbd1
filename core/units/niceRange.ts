const widths = [1, 2, 5]
/** Part of the values at either end that may lie outside: single points say little. */
const outside = 0.02

/**
 * An axis that follows values: round ends and a round step, at most `most` steps, of at least `least`. What single
 * points say is cut off; NaN and infinite values do not count. Null where none does.
 */
export function niceRange(
  values: Iterable<number>,
  { most = 8, least = 1 } = {},
): { min: number, max: number, step: number } | null {
  const sorted = Float64Array.from([...values].filter(Number.isFinite)).sort()
  if (!sorted.length) return null
  const at = (part: number) => sorted[Math.round(part * (sorted.length - 1))]!
  const [low, high] = [at(outside), at(1 - outside)]
  let step = least
  for (let n = 1; Math.ceil(high / step) - Math.floor(low / step) > most; n++)
    step = least * widths[n % 3]! * 10 ** Math.floor(n / 3)
  const min = Math.floor(low / step) * step
  return { min, max: Math.max(min + step, Math.ceil(high / step) * step), step }
}
