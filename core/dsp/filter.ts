import {
  allPass, bandPassSection, firstAllPass, highShelf, lowShelf, notch, peaking, resonantPass, type Section,
} from './biquad'
import type { Decibels, Hertz } from '../units'
import type { Label } from '../words'

/** What an own filter of a kind is made of. */
interface FilterNumbers {
  frequency: Hertz
  /** 0 where the kind has none. */
  gain: Decibels
  q: number
}
interface KindOfFilter {
  /** Whether its gain and its Q do anything. */
  gain: boolean
  q: boolean
  section: (f: FilterNumbers, rate: Hertz) => Section
}
const withGain = { gain: true, q: true }
const withoutGain = { gain: false, q: true }

/** What a second-order filter can be, in all of Kovrin: EQ bands, sheets, fits, files. A new kind is one line here. */
export const filterKinds = {
  'peaking': { ...withGain, section: (f, rate) => peaking(f.frequency, f.gain, f.q, rate) },
  'low-shelf': { ...withGain, section: (f, rate) => lowShelf(f.frequency, f.gain, f.q, rate) },
  'high-shelf': { ...withGain, section: (f, rate) => highShelf(f.frequency, f.gain, f.q, rate) },
  'notch': { ...withoutGain, section: (f, rate) => notch(f.frequency, f.q, rate) },
  'band-pass': { ...withoutGain, section: (f, rate) => bandPassSection(f.frequency, f.q, rate) },
  'high-pass': { ...withoutGain, section: (f, rate) => resonantPass('high', f.frequency, f.q, rate) },
  'low-pass': { ...withoutGain, section: (f, rate) => resonantPass('low', f.frequency, f.q, rate) },
  'all-pass': { ...withoutGain, section: (f, rate) => allPass(f.frequency, f.q, rate) },
  'all-pass-1': { gain: false, q: false, section: (f, rate) => firstAllPass(f.frequency, rate) },
} as const satisfies Record<string, KindOfFilter>
export type FilterKind = keyof typeof filterKinds
/** What each kind is called, by its code in the catalogue. */
export const filterNames: Readonly<Record<FilterKind, Label>> = {
  'peaking': 'filter.peaking',
  'low-shelf': 'filter.lowShelf',
  'high-shelf': 'filter.highShelf',
  'notch': 'filter.notch',
  'band-pass': 'filter.bandPass',
  'high-pass': 'filter.highPass',
  'low-pass': 'filter.lowPass',
  'all-pass': 'filter.allPass',
  'all-pass-1': 'filter.allPass1',
}
export const filterKindIds = Object.keys(filterKinds) as FilterKind[]

/** One filter by its numbers: frequency in Hz, gain in dB, Q as the Audio EQ Cookbook has it. */
export interface Filter<K extends FilterKind = FilterKind> extends FilterNumbers {
  kind: K
}

/**
 * The second-order section of a filter that runs at `sampleRate`. Throws RangeError for a frequency that does not fit
 * the rate, or a Q of 0 and less.
 */
export const filterSection = ({ kind, ...numbers }: Filter, sampleRate: Hertz): Section =>
  filterKinds[kind].section(numbers, sampleRate)
