import * as v from 'valibot'
import { between } from '../acoustics'
import type { Decibels, Hertz } from '../units'
import { id, name, order } from './parts'

const point = v.strictObject({
  frequency: between(10, 40_000, 'The frequency of a point', 'Hz'),
  level: between(-60, 60, 'The level of a point', 'dB'),
})
export type TargetPoint = v.InferOutput<typeof point>

/** Most points of a target. */
export const mostTargetPoints = 200

/** A curve aimed for, drawn straight between its points on a logarithmic axis; beyond its ends it goes on level. */
export const Target = v.pipe(
  v.strictObject({
    id,
    name,
    order,
    points: v.pipe(
      v.array(point),
      v.minLength(1, 'A target needs at least one point'),
      v.maxLength(mostTargetPoints, `A target has ${mostTargetPoints} points at most`),
    ),
    /** dB that may be off it. */
    tolerance: between(0.1, 20, 'What may be off it', 'dB'),
    /** Where its level is fitted to what is measured. */
    range: v.strictTuple([between(10, 40_000, 'The range', 'Hz'), between(10, 40_000, 'The range', 'Hz')]),
    /** dB on the chart at which its 0 dB lies; null: fitted. */
    level: v.nullable(between(-120, 120, 'The level', 'dB')),
  }),
  v.check(t => t.points.every((p, k) => k === 0 || p.frequency > t.points[k - 1]!.frequency),
    'The points of a target must ascend'),
  v.check(t => t.range[1] > t.range[0], 'The range must end above its start'),
)
export type Target = v.InferOutput<typeof Target>

/** Level of a target at a frequency. */
export function targetLevel(points: readonly TargetPoint[], f: Hertz): Decibels {
  const next = points.findIndex(p => p.frequency >= f)
  if (next <= 0) return (next < 0 ? points.at(-1)! : points[0]!).level
  const [a, b] = [points[next - 1]!, points[next]!]
  return a.level + (b.level - a.level) * (Math.log(f / a.frequency) / Math.log(b.frequency / a.frequency))
}

/** A curve as few points: those between which straight lines stay within `most` dB of it (Douglas and Peucker 1973). */
export function asPoints(
  frequencies: ArrayLike<number>,
  levels: ArrayLike<number>,
  most: Decibels,
): TargetPoint[] {
  const kept = new Set([0, frequencies.length - 1])
  const split = (from: number, to: number) => {
    let [worst, at] = [most, -1]
    for (let k = from + 1; k < to; k++) {
      const share = Math.log(frequencies[k]! / frequencies[from]!) / Math.log(frequencies[to]! / frequencies[from]!)
      const off = Math.abs(levels[k]! - levels[from]! - (levels[to]! - levels[from]!) * share)
      if (off > worst) [worst, at] = [off, k]
    }
    if (at < 0) return
    kept.add(at)
    split(from, at)
    split(at, to)
  }
  split(0, frequencies.length - 1)
  const rounded = (x: number, places: number) => Number(x.toFixed(places))
  return [...kept].sort((a, b) => a - b)
    .map(k => ({ frequency: rounded(frequencies[k]!, 1), level: rounded(levels[k]!, 2) }))
}
