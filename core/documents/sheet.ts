import * as v from 'valibot'
import { atFrequency, between, Directivity } from '../acoustics'
import { families, filterKindIds } from '../dsp'
import type { Decibels, Degrees, Hertz, SoundLevel } from '../units'
import { id, name } from './parts'

const frequency = (what: string) => between(5, 48_000, what, 'Hz')

const slope = v.strictObject({
  family: v.picklist(families),
  order: v.pipe(v.number(), v.integer(), v.minValue(1), v.maxValue(8)),
  frequency: frequency('The corner'),
})
export type SheetPass = v.InferOutput<typeof slope>

/** Q as the Audio EQ Cookbook has it, whatever device will hold it. */
const filter = v.strictObject({
  type: v.picklist(filterKindIds),
  frequency: frequency('The frequency of a filter'),
  gain: between(-30, 30, 'The gain of a filter', 'dB'),
  q: between(0.05, 100, 'The Q of a filter', ''),
})
export type SheetFilter = v.InferOutput<typeof filter>

/** Threshold in volts RMS at the loudspeaker; times in seconds. */
const limiter = v.strictObject({
  detector: v.picklist(['peak', 'rms']),
  threshold: between(0.1, 500, 'The threshold', 'V'),
  attack: between(0, 1, 'The attack', 's'),
  hold: between(0, 10, 'The hold', 's'),
  release: between(0, 20, 'The release', 's'),
})
export type SheetLimiter = v.InferOutput<typeof limiter>

/** Most filters of a band. */
export const mostFilters = 10

/** What a band of a loudspeaker needs of the output that drives it, in whatever room. */
export const Needs = v.strictObject({
  gain: between(-60, 20, 'The gain', 'dB'),
  delay: between(0, 0.1, 'The delay', 's'),
  polarity: v.picklist(['normal', 'inverted']),
  highPass: v.nullable(slope),
  lowPass: v.nullable(slope),
  eq: v.pipe(v.array(filter), v.maxLength(mostFilters, `A band has ${mostFilters} filters at most`)),
  limiter: v.nullable(limiter),
})
export type Needs = v.InferOutput<typeof Needs>
export const noNeeds: Needs
  = { gain: 0, delay: 0, polarity: 'normal', highPass: null, lowPass: null, eq: [], limiter: null }

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
  /** Nominal, in ohms. */
  impedance: v.optional(between(1, 100, 'The impedance', 'Ω')),
  /** What it takes for long, in watts (RMS). */
  power: v.optional(between(1, 10_000, 'The power', 'W')),
  needs: v.optional(Needs),
})
export type SheetBand = v.InferOutput<typeof SheetBand>

const angle = (which: string) => between(5, 360, `The coverage ${which}`, '°')

/** What a kind of loudspeaker is: one or more bands, each driven by an output of its own. */
export const Sheet = v.pipe(
  v.strictObject({
    id,
    name,
    bands: v.pipe(v.array(SheetBand), v.minLength(1), v.maxLength(4)),
    /** Nominal angles of coverage across and up and down, in degrees. */
    coverage: v.optional(v.strictObject({ across: angle('across'), up: angle('up and down') })),
  }),
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

/**
 * Directivity by octaves of a loudspeaker that covers these angles at the top: Q = 180°/asin(sin(α/2)·sin(β/2)) there
 * (Molloy 1969, value from memory), falling to 1 in the lows (common practice for boxes).
 */
export function gathersFrom(across: Degrees, up: Degrees): number[] {
  const half = (a: Degrees) => Math.sin((Math.min(180, a) / 360) * Math.PI)
  const top = Math.PI / Math.asin(half(across) * half(up))
  const shares = [0, 0.02, 0.08, 0.25, 0.5, 0.75, 0.9, 1]
  return shares.map(share => Math.round(10 * (1 + (Math.max(1, top) - 1) * share)) / 10)
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

const corner = (family: SheetPass['family'], order: number, frequency: Hertz): SheetPass =>
  ({ family, order, frequency })
const subNeeds: Needs = {
  ...noNeeds,
  highPass: corner('butterworth', 4, 30),
  lowPass: corner('linkwitz-riley', 4, 120),
  limiter: { detector: 'rms', threshold: 75, attack: 0.1, hold: 0, release: 2 },
}
const subBand: SheetBand
  = { ...full(33, 260, 12, gathers.sub, 97), impedance: 8, power: 800, needs: subNeeds }
const fillBand: SheetBand = {
  ...full(105, 17_000, 2, gathers.fill, 89),
  impedance: 16,
  needs: { ...noNeeds, highPass: corner('butterworth', 3, 110) },
}

/** The kinds that Kovrin brings along: generic (common practice for boxes of these sizes), not products. */
export const sheetLibrary: readonly Sheet[] = [
  {
    id: 'top-12-active',
    name: 'Two-way top, 12 inch, two amplifier channels',
    bands: [
      {
        id: 'low', name: 'Low band', low: 55, high: 2500, level: 13, q: gathers.top, sensitivity: 97,
        impedance: 8, power: 500,
        needs: {
          ...noNeeds,
          highPass: corner('butterworth', 4, 60),
          lowPass: corner('linkwitz-riley', 4, 1400),
          limiter: { detector: 'rms', threshold: 60, attack: 0.05, hold: 0, release: 1 },
        },
      },
      {
        id: 'high', name: 'High band', low: 700, high: 19_000, level: 13, q: gathers.horn, sensitivity: 108,
        impedance: 16, power: 80,
        needs: {
          ...noNeeds,
          highPass: corner('linkwitz-riley', 4, 1400),
          limiter: { detector: 'rms', threshold: 32, attack: 0.02, hold: 0, release: 0.5 },
        },
      },
    ],
    coverage: { across: 90, up: 60 },
  },
  { id: 'top-12', name: 'Two-way top, 12 inch', bands: [full(55, 19_000, 13, gathers.top, 98)] },
  { id: 'top-8', name: 'Two-way top, 8 inch', bands: [full(78, 18_000, 9, gathers.small, 94)] },
  { id: 'sub-18', name: 'Subwoofer, 18 inch', bands: [subBand] },
  { id: 'fill-6', name: 'Small fill, 6 inch', bands: [fillBand] },
  { id: 'ceiling-6', name: 'Ceiling loudspeaker, 6 inch', bands: [full(95, 15_000, 0, gathers.ceiling, 88)] },
]
