import type { Decibels, Hertz, Metres, MetresPerSecond, Seconds } from './types'
import { phrase } from '../words'

/** What a field made of typed text: a value in SI units, or a sentence that says what it can read. */
export type Parsed = { ok: true, value: number } | { ok: false, why: string }

export interface ParseContext {
  /** Needed for distances typed as delays. */
  speedOfSound?: MetresPerSecond
  /** Needed for delays typed in samples. */
  sampleRate?: Hertz
}

export const metresPerFoot = 0.3048

/**
 * '1.234,5' and '1,234.5' both mean 1234.5; a lone comma is a decimal comma (see `readings`); a real minus sign is a
 * minus.
 */
function plainNumber(text: string): number {
  let s = text.replace(/[\u2212\u2013]/g, '-').replace(/\s/g, '')
  const comma = s.lastIndexOf(',')
  const dot = s.lastIndexOf('.')
  if (comma >= 0 && dot >= 0) s = comma > dot ? s.replace(/\./g, '').replace(',', '.') : s.replace(/,/g, '')
  else if (comma >= 0) s = s.replace(',', '.')
  return /^[+-]?(\d+\.?\d*|\.\d+)(e[+-]?\d+)?$/i.test(s) ? Number(s) : Number.NaN
}

/** Splits '4,5 ms' into 4.5 and 'ms'; no number where a comma has two readings. */
function numberAndUnit(text: string): { value: number, unit: string } {
  if (readings(text)) return { value: Number.NaN, unit: '' }
  const match = /^\s*([+\-\u2212\u2013]?[\d.,\s]*\d[\d.,]*|[+\-\u2212\u2013]?[.,]\d+)\s*([^\d\s.,].*)?$/.exec(text)
  return match ? { value: plainNumber(match[1]!), unit: (match[2] ?? '').trim() } : { value: Number.NaN, unit: '' }
}

/** '1,200' is 1.2 in one country and 1200 in another: its readings; null where a text has but one. */
function readings(text: string): [string, string] | null {
  const [, whole, decimals] = /^\s*([+\-\u2212\u2013]?[1-9]\d{0,2}),(\d{3})(?![\d.,])/.exec(text) ?? []
  if (whole === undefined || decimals === undefined) return null
  return [`${whole}.${decimals}`.replace(/0+$/, '').replace(/\.$/, ''), `${whole}${decimals}`]
}

function fail(text: string, example: string): Parsed {
  const two = readings(text)
  if (text.trim() === '') return { ok: false, why: phrase('units.typeAValueFor', { example }) }
  if (two) return { ok: false, why: phrase('units.canBeOrType', { text: text.trim(), two: two[0], two2: two[1] }) }
  return { ok: false, why: phrase('units.isNotUnderstoodTry', { text: text.trim(), example }) }
}

const done = (value: number): Parsed => ({ ok: true, value })

/** Frequency in Hz from '80', '80 Hz', '1.25k', '1k25', '2,5 kHz'. */
export function parseFrequency(text: string): Parsed {
  const infix = /^\s*(\d+)k(\d+)\s*(hz)?\s*$/i.exec(text)
  if (infix) return parseFrequency(`${infix[1]}.${infix[2]}k`)
  const { value, unit } = numberAndUnit(text)
  const scale = ({ '': 1, 'hz': 1, 'k': 1000, 'khz': 1000 } as Record<string, number>)[unit.toLowerCase()]
  return Number.isFinite(value) && scale !== undefined
    ? done(Number((value * scale).toPrecision(12)))
    : fail(text, '80, 1.25k or 1k25')
}

/** Level in dB from '-6', '-6,5 dB', '+3'. */
export function parseLevel(text: string): Parsed {
  const { value, unit } = numberAndUnit(text)
  return Number.isFinite(value) && ['', 'db'].includes(unit.toLowerCase())
    ? done(value)
    : fail(text, '-6.5 or +3 dB')
}

/** A number in `unit`, with or without the unit typed. */
export function parseMeasure(text: string, unit: string): Parsed {
  const { value, unit: typed } = numberAndUnit(text)
  if (Number.isFinite(value) && (typed === '' || typed.toLowerCase() === unit.toLowerCase())) return done(value)
  return fail(text, `3.5${unit ? ` ${unit}` : ''}`)
}

/** Units that lengths are shown in. */
export type LengthUnit = 'm' | 'ft'

/** A length in metres from '3.5 m', '12 ft', '6\''; a bare number is in `bare`. */
export function parseLength(text: string, bare: LengthUnit = 'm'): Parsed {
  const { value, unit } = numberAndUnit(text)
  if (!Number.isFinite(value)) return fail(text, '3.5 m or 12 ft')
  const typed = unit === '' ? bare : unit.toLowerCase()
  if (typed === 'm') return done(value)
  return ['ft', 'feet', '\''].includes(typed) ? done(value * metresPerFoot) : fail(text, '3.5 m or 12 ft')
}

/** '3.50 m', or '11.5 ft' where feet are wanted (one place fewer: a foot is finer than it needs). */
export const showLength = (length: Metres, unit: LengthUnit, places = 2): string =>
  unit === 'm'
    ? `${showNumber(length, places)} m`
    : `${showNumber(length / metresPerFoot, Math.max(0, places - 1))} ft`

/**
 * Time in seconds from '4.5 ms', '0.2 s', '250 us', '216 smp', '3 m', '10 ft'. A bare number is milliseconds.
 * Distances need `speedOfSound`, samples need `sampleRate`; without them they are refused.
 */
export function parseDelay(text: string, context: ParseContext = {}): Parsed {
  const example = phrase('units.msMFtOr')
  const { value, unit } = numberAndUnit(text)
  if (!Number.isFinite(value)) return fail(text, example)
  switch (unit.toLowerCase()) {
    case '':
    case 'ms':
      return done(value / 1000)
    case 's':
      return done(value)
    case 'us':
    case 'µs':
    case 'μs':
      return done(value / 1e6)
    case 'smp':
    case 'sample':
    case 'samples':
      return context.sampleRate ? done(value / context.sampleRate) : fail(text, '4.5 ms')
    case 'm':
      return context.speedOfSound ? done(value / context.speedOfSound) : fail(text, '4.5 ms')
    case 'ft':
    case '\'':
    case 'feet':
      return context.speedOfSound ? done((value * metresPerFoot) / context.speedOfSound) : fail(text, '4.5 ms')
    default:
      return fail(text, example)
  }
}

/** Q from 'Q 1.4', '1.4', or a bandwidth '0.33 oct', '1/3 oct' (analogue form 1/Q = 2 sinh(ln 2 / 2 · N)). */
export function parseQ(text: string): Parsed {
  const fraction = /^\s*(\d+)\s*\/\s*(\d+)\s*(oct.*)$/i.exec(text)
  if (fraction && Number(fraction[2]) > 0) return parseQ(`${Number(fraction[1]) / Number(fraction[2])} ${fraction[3]}`)
  const { value, unit } = numberAndUnit(text.replace(/^\s*q\s*/i, ''))
  if (!(value > 0)) return fail(text, '1.4 or 1/3 oct')
  if (unit === '') return done(value)
  return /^oct(ave)?s?$/i.test(unit) ? done(qOfBandwidth(value)) : fail(text, '1.4 or 1/3 oct')
}

/** Q of a bandwidth in octaves, analogue form. Source: Audio EQ Cookbook (W3C note): 1/Q = 2 sinh(ln 2 / 2 · BW). */
export const qOfBandwidth = (octaves: number): number => 1 / (2 * Math.sinh((Math.LN2 / 2) * octaves))

/** Bandwidth in octaves of a Q: the inverse of `qOfBandwidth`. */
export const bandwidthOfQ = (q: number): number => (2 / Math.LN2) * Math.asinh(1 / (2 * q))

/** Shortest text that reads back as the same number, at most `places` decimals, with a true minus sign. */
export const showNumber = (value: number, places: number): string =>
  (Object.is(value, -0) || Math.abs(value) < 0.5 * 10 ** -places ? 0 : value).toFixed(places).replace('-', '\u2212')

/** '80 Hz', '1.25 kHz'. */
export const showFrequency = (f: Hertz): string =>
  f < 1000 ? `${Number(f.toPrecision(4))} Hz` : `${Number((f / 1000).toPrecision(4))} kHz`

/** '+3.0 dB', '−6.5 dB'; always with its sign. */
export const showLevel = (level: Decibels, places = 1): string =>
  level === -Infinity ? '\u2212∞ dB' : `${level > 0.5 * 10 ** -places ? '+' : ''}${showNumber(level, places)} dB`

/** '4.50 ms'. */
export const showDelay = (time: Seconds, places = 2): string => `${showNumber(time * 1000, places)} ms`
