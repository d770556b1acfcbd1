import { showFrequency, type Hertz } from '~~/core/units'

/** Two frequencies, or one where they say the same: 'at 86 Hz', 'from 86 Hz to 210 Hz'. */
export function sayRange([low, high]: readonly [low: Hertz, high: Hertz]): string {
  const [from, to] = [low, high].map(f => showFrequency(Math.round(f)))
  return from === to ? `at ${from}` : `from ${from} to ${to}`
}
