/** True in `npm run test:long`, which takes every statistic over all of its cases. */
export const long = process.env.KOVRIN_LONG === '1'

/** How many seeded cases a statistic is taken over: all of them in the long run, a few in the usual one. */
export const cases = (all: number, few: number): number => (long ? all : few)

/** All of some cases in the long run; a few of them, evenly spread with the first and last, in the usual one. */
export function sample<T>(all: readonly T[], few: number): T[] {
  if (long || all.length <= few) return [...all]
  return Array.from({ length: few }, (_, n) => all[Math.round((n * (all.length - 1)) / Math.max(1, few - 1))]!)
}
