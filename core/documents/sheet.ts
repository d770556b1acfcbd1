import * as v from 'valibot'
import { atFrequency, between, Directivity } from '../acoustics'
import type { Decibels, Hertz, SoundLevel } from '../units'
import { id, name } from './parts'

const frequency = (what: string) => between(5, 48_000, what, 'Hz')

/** One way of a loudspeaker: what it plays, how loud on axis at 1 m, and how it gathers the sound (per octave). */
export const SheetBand = v.strictObject({
  id,
  name,
  low: frequency('The lowest frequency'),
  high: frequency('The highest frequency'),
  /** dB, relative to the other kinds. */
  level: between(-60, 60, 'The level', 'dB'),
  q: Directivity,
  /** dB SPL at 1 m on axis for 2.83 V; left out where the sheet does not tell. */
  sensitivity: v.optional(between(40, 140, 'The sensitivity', 'dB')),
})
export type SheetBand = v.InferOutput<typeof SheetBand>

/** What a kind of loudspeaker is: one or more bands, each driven by an output of its own. */
export const Sheet = v.pipe(
  v.strictObject({ id, name, bands: v.pipe(v.array(SheetBand), v.minLength(1), v.maxLength(4)) }),
  v.check(s => s.bands.every(b => b.high > b.low), 'A band must end above its start'),
  v.check(s => new Set(s.bands.map(b => b.id)).size === s.bands.length, 'Two bands have the same key'),
)
export type Sheet = v.InferOutput<typeof Sheet>

/** The band of a loudspeaker that plays a frequency, or the nearest to it: its level and directivity there. */
export function sheetAt({ bands }: Sheet, f: Hertz): { level: Decibels, q: number } {
  const away = (b: SheetBand) => Math.max(0, Math.log2(b.low / f), Math.log2(f / b.high))
  const nearest = bands.reduce((a, b) => (away(b) < away(a) ? b : a))
  return { level: nearest.level, q: atFrequency(nearest.q, f) }
}

const full = (low: Hertz, high: Hertz, level: Decibels, q: number[], sensitivity: SoundLevel): SheetBand =>
  ({ id: 'full', name: 'Full range', low, high, level, q, sensitivity })

const gathers = {
  top: [1, 1.3, 2, 4, 7, 10, 12, 14],
  horn: [1, 1.3, 2, 4, 6.5, 9.5, 12, 14],
  small: [1, 1.2, 1.6, 3, 6, 9, 11, 12],
  sub: [1, 1, 1.2, 2, 3, 4, 5, 6],
  fill: [1, 1, 1.4, 2.5, 5, 8, 10, 11],
  ceiling: [1, 1, 1.2, 2, 4, 6, 8, 9],
}

/** The kinds that Kovrin brings along: generic (common practice for boxes of these sizes), not products. */
export const sheetLibrary: readonly Sheet[] = [
  {
    id: 'top-12-active',
    name: 'Two-way top, 12 inch, two amplifier channels',
    bands: [
      { id: 'low', name: 'Low band', low: 55, high: 2500, level: 13, q: gathers.top, sensitivity: 97 },
      { id: 'high', name: 'High band', low: 700, high: 19_000, level: 13, q: gathers.horn, sensitivity: 108 },
    ],
  },
  { id: 'top-12', name: 'Two-way top, 12 inch', bands: [full(55, 19_000, 13, gathers.top, 98)] },
  { id: 'top-8', name: 'Two-way top, 8 inch', bands: [full(78, 18_000, 9, gathers.small, 94)] },
  { id: 'sub-18', name: 'Subwoofer, 18 inch', bands: [full(33, 260, 12, gathers.sub, 97)] },
  { id: 'fill-6', name: 'Small fill, 6 inch', bands: [full(105, 17_000, 2, gathers.fill, 89)] },
  { id: 'ceiling-6', name: 'Ceiling loudspeaker, 6 inch', bands: [full(95, 15_000, 0, gathers.ceiling, 88)] },
]
