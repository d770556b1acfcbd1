import type { Curve } from '../dsp'
import { refusal } from '../words'

/**
 * A curve as text holds it: frequencies in Hz ascending, level in dB, phase in degrees and coherence 0…1 where
 * there are any.
 */
export interface TextCurve {
  frequencies: Float64Array
  level: Float64Array
  phase: Float64Array | null
  coherence: Float64Array | null
  /** Upper limit of confidence over the level, in dB; only written. */
  confidence?: Float64Array | null
}

const mostPoints = 100_000
const decimal = /^[+-]?(\d+\.?\d*|\.\d+)(e[+-]?\d+)?$/i
const roles: [keyof Columns, RegExp][] = [
  ['frequency', /freq|^f$|^f_|hz/],
  ['phase', /phase|deg|°/],
  ['coherence', /coh|gamma|γ/],
  ['level', /mag|level|spl|db|gain|ampl/],
]
/** What the numbers of a column are, by its heading; null where that does not tell. */
const phaseUnit = (heading: string) => {
  if (/rad/.test(heading)) return 'radians'
  return /deg|°/.test(heading) ? 'degrees' : null
}
const isLinear = (heading: string) => /lin|ratio|abs|v\/v/.test(heading) && !/db/.test(heading)
interface Columns {
  frequency: number
  level: number
  phase: number
  coherence: number
}

/**
 * How one line is cut: by semicolons or tabs where the file has any, else by commas unless those are decimal,
 * else by blanks.
 */
function cutter(lines: readonly string[]): (line: string) => string[] {
  const tidy = (t: string) =>
    t
      .trim()
      .replace(/^["']|["']$/g, '')
      .replace(/[\u2212\u2013]/g, '-')
  const decimalComma = (t: string) => (/^[+-]?\d*,\d+(e[+-]?\d+)?$/i.test(t) ? t.replace(',', '.') : t)
  for (const mark of [';', '\t'])
    if (lines.some(l => l.includes(mark)))
      return line =>
        line
          .split(mark)
          .map(t => decimalComma(tidy(t)))
          .filter((t, k, all) => t !== '' || k < all.length - 1)
  const isDecimalComma = lines.every((l) => {
    const parts = l.trim().split(/\s+/)
    return parts.length >= 2 && parts.every(t => /^[+-]?\d*,?\d+(e[+-]?\d+)?$/i.test(t))
  })
  if (lines.some(l => l.includes(',')) && !isDecimalComma)
    return line =>
      line
        .split(',')
        .map(tidy)
        .filter((t, k, all) => t !== '' || k < all.length - 1)
  return line =>
    line
      .trim()
      .split(/\s+/)
      .map(t => decimalComma(tidy(t)))
}

/**
 * Reads a curve from text of any origin: frequency, level in dB (linear where its heading says so), optional phase in
 * degrees (radians by its heading) and coherence in columns; tabs,
 * commas, semicolons
 * or blanks between them; decimal point or comma; comment and heading lines; Hz or kHz (by the heading); any order.
 * Throws RangeError in one sentence with the line where something cannot be read.
 */
export function readCurveText(text: string): TextCurve {
  const lines = text
    .replace(/^\uFEFF/, '')
    .split(/\r\n|\r|\n/)
    .map((line, n) => ({ line, number: n + 1 }))
    .filter(l => l.line.trim() !== '')
  const startsWithNumber = (line: string) => /^\s*["']?[+\-\u2212]?[.,]?\d/.test(line)
  const rows = lines.filter(l => startsWithNumber(l.line))
  const headings = lines.filter(l => !startsWithNumber(l.line)).map(l => l.line.toLowerCase())
  if (rows.length < 2)
    throw refusal('curve.fewLines')
  if (rows.length > mostPoints)
    throw refusal('curve.tooLong', { points: rows.length, most: mostPoints })
  const cut = cutter(rows.map(r => r.line))
  const heading = [...headings]
    .reverse()
    .map(h => cut(h.replace(/^[#*%;"/\s]+/, '')))
    .find(parts => parts.some(p => /freq|hz/.test(p)) && parts.length >= 2)
  const columns: Columns = { frequency: 0, level: 1, phase: 2, coherence: 3 }
  let units: { phase: 'radians' | 'degrees' | null, linear: boolean } = { phase: null, linear: false }
  if (heading) {
    const found = new Map<keyof Columns, number>()
    heading.forEach((word, k) => {
      const role = roles.find(([r, words]) => words.test(word) && !found.has(r))?.[0]
      if (role) found.set(role, k)
    })
    if (found.has('frequency') && found.has('level'))
      Object.assign(columns, { phase: -1, coherence: -1 }, Object.fromEntries(found))
    const headed = (column: number) => heading[column] ?? ''
    units = { phase: phaseUnit(headed(columns.phase)), linear: isLinear(headed(columns.level)) }
  }
  const inKilohertz = headings.some(h => /khz/.test(h))
  const points = rows
    .map(({ line, number }) => {
      const parts = cut(line)
      const value = (column: number, name: string, needed: boolean) => {
        const word = column < 0 ? undefined : parts[column]
        if (word === undefined || word === '') {
          if (needed) throw refusal('curve.lacks', { line: number, name })
          return null
        }
        if (!decimal.test(word) || !Number.isFinite(Number(word)))
          throw refusal('curve.noNumber', { line: number, word: word.slice(0, 30) })
        return Number(word)
      }
      const frequency = value(columns.frequency, 'frequency', true)! * (inKilohertz ? 1000 : 1)
      if (!(frequency > 0)) return null // a line for 0 Hz says nothing on a logarithmic axis
      return {
        frequency,
        level: value(columns.level, 'level', true)!,
        phase: value(columns.phase, 'phase', false),
        coherence: value(columns.coherence, 'coherence', false),
        number,
      }
    })
    .filter(p => p !== null)
    .sort((a, b) => a.frequency - b.frequency)
  const twice = points.find((p, k) => k > 0 && p.frequency === points[k - 1]!.frequency)
  if (twice) throw refusal('curve.twice', { line: twice.number, frequency: twice.frequency })
  if (points.length < 2)
    throw refusal('curve.fewFrequencies')
  const column = (name: 'phase' | 'coherence') =>
    points.every(p => p[name] !== null) ? Float64Array.from(points, p => p[name]!) : null
  const level = Float64Array.from(points, p => p.level)
  const phase = column('phase')
  let coherence = column('coherence')
  if (coherence?.some(c => c < 0 || c > 100)) coherence = null
  else if (coherence?.some(c => c > 1)) coherence = coherence.map(c => c / 100)
  return {
    frequencies: Float64Array.from(points, p => p.frequency),
    level: units.linear ? inDecibels(level, points) : level,
    phase: phase && inDegrees(phase, units.phase),
    coherence,
  }
}

/** Ratios as levels. Throws RangeError with the line of one that is none. */
function inDecibels(ratios: Float64Array, lines: readonly { number: number }[]): Float64Array {
  const none = ratios.findIndex(r => !(r > 0))
  if (none >= 0) throw refusal('curve.noMagnitude', { line: lines[none]!.number })
  return ratios.map(r => 20 * Math.log10(r))
}

/** Phases in degrees. Throws RangeError where no heading says the unit and they wrap as radians do. */
function inDegrees(phase: Float64Array, unit: 'radians' | 'degrees' | null): Float64Array {
  if (unit === 'degrees') return phase
  if (unit === 'radians') return phase.map(p => (p * 180) / Math.PI)
  const most = phase.reduce((a, p) => Math.max(a, Math.abs(p)), 0)
  if (most > 3 && most <= Math.PI + 0.01) {
    throw refusal('curve.degreesOrRadians')
  }
  return phase
}

/** Writes a curve as `readCurveText` reads it: a heading, then tab-separated (or, for CSV, comma-separated) columns. */
export function writeCurveText(
  { frequencies, level, phase, coherence, confidence }: TextCurve,
  kind: 'text' | 'csv' = 'text',
): string {
  const mark = kind === 'csv' ? ',' : '\t'
  const digits = (v: number, n: number) => `${Number(v.toPrecision(n))}`
  const head = [
    'frequency_hz',
    'magnitude_db',
    ...(phase ? ['phase_deg'] : []),
    ...(coherence ? ['coherence'] : []),
    ...(confidence ? ['confidence_db'] : []),
  ].join(mark)
  const rows = Array.from(frequencies, (f, k) =>
    [
      digits(f, 9),
      digits(level[k]!, 9),
      ...(phase ? [digits(phase[k]!, 9)] : []),
      ...(coherence ? [digits(coherence[k]!, 9)] : []),
      ...(confidence ? [Number.isFinite(confidence[k]!) ? digits(confidence[k]!, 4) : ''] : []),
    ].join(mark),
  )
  return `${head}\n${rows.join('\n')}\n`
}

/** The complex curve of a text: without phase all its values are real. */
export function curveOfText({ frequencies, level, phase, coherence }: TextCurve): Curve {
  const angle = (k: number) => ((phase?.[k] ?? 0) * Math.PI) / 180
  const ratio = level.map(v => 10 ** (v / 20))
  return {
    frequencies,
    re: ratio.map((r, k) => r * Math.cos(angle(k))),
    im: ratio.map((r, k) => r * Math.sin(angle(k))),
    coherence,
  }
}

/**
 * A curve's columns for a text; points of silence are left out. `radius`: the relative uncertainty of each value.
 */
export function textOfCurve(curve: Curve, radius: Float64Array | null = null): TextCurve {
  const sounding = Array.from(curve.frequencies, (_, k) => k).filter(k => curve.re[k] !== 0 || curve.im[k] !== 0)
  const column = (value: (k: number) => number) => Float64Array.from(sounding, value)
  return {
    frequencies: column(k => curve.frequencies[k]!),
    level: column(k => 20 * Math.log10(Math.hypot(curve.re[k]!, curve.im[k]!))),
    phase: column(k => (Math.atan2(curve.im[k]!, curve.re[k]!) * 180) / Math.PI),
    coherence: curve.coherence && column(k => curve.coherence![k]!),
    confidence: radius && column(k => 20 * Math.log10(1 + radius[k]!)),
  }
}
