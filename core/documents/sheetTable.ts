import * as v from 'valibot'
import { classical, filterKinds, qOfWidth, type Family, type FilterKind, type WidthConvention } from '../dsp'
import { parseDelay, parseFrequency, parseLevel, parseMeasure, showNumber, type Hertz, type Parsed } from '../units'
import {
  gathersFrom, mostFilters, noNeeds, Sheet, SheetBand, type Needs, type SheetFilter, type SheetLimiter, type SheetPass,
} from './sheet'
import { refusal, toldOf } from '../words'

/** What a filter's width is typed in: Q, or octaves by one of the conventions. */
export type WidthUnit = 'q' | WidthConvention

/** One line of a loudspeaker's sheet: one cell for each band, as text that reads back as itself. */
export interface SheetRow {
  id: string
  label: string
  /** What is typed, for instance. */
  example: string
  show: (band: SheetBand) => string
  /** The band with what was typed. Throws RangeError with what is understood. */
  read: (band: SheetBand, text: string, width: WidthUnit) => SheetBand
}

const plain = (value: number, places = 4) => showNumber(Number(value.toFixed(places)), places)
  .replace(/(\.\d*?)0+$/, '$1').replace(/\.$/, '')
const taken = (read: Parsed): number => {
  if (!read.ok) throw new RangeError(read.why)
  return read.value
}
const blank = (text: string) => ['', '-', '−', 'none', 'off'].includes(text.trim().toLowerCase())
const needsOf = (band: SheetBand): Needs => band.needs ?? noNeeds
const withNeeds = (band: SheetBand, change: Partial<Needs>): SheetBand =>
  ({ ...band, needs: { ...needsOf(band), ...change } })
/** Words of a cell, of which there must be so many. */
function words(text: string, least: number, most: number, example: string): string[] {
  const list = text.trim().split(/\s+/)
  if (list.length < least || list.length > most) throw refusal('sheet.notUnderstood', { text, example })
  return list
}

const families: Record<Family, string> = { 'butterworth': 'BW', 'linkwitz-riley': 'LR', 'bessel': 'BE' }
const familyOf = (letters: string): Family => {
  if (/^l/i.test(letters)) return 'linkwitz-riley'
  return /^be/i.test(letters) ? 'bessel' : 'butterworth'
}
const passExample = 'LR24 1400, BW18 80 or BE12 60; nothing for none'
const showPass = (p: SheetPass | null) => (p ? `${families[p.family]}${6 * p.order} ${plain(p.frequency, 1)}` : '')

function readPass(text: string): SheetPass | null {
  if (blank(text)) return null
  const [kind, ...rest] = words(text, 2, 3, passExample) as [string, ...string[]]
  const [, letters, digits = ''] = /^(bw?|lr?|be|bessel|butterworth)(\d+)$/i.exec(kind) ?? []
  if (!letters) throw refusal('sheet.noPass', { kind, example: passExample })
  const family = familyOf(letters)
  const order = Number(digits) / 6
  if (!Number.isInteger(order) || order < 1 || order > 8)
    throw refusal('sheet.noSlope', { digits })
  if (family === 'linkwitz-riley' && order % 2)
    throw refusal('sheet.noLinkwitzRiley', { digits })
  return { family, order, frequency: taken(parseFrequency(rest.join(' '))) }
}

/** Short names of filters, for typing. */
const kinds: Record<string, FilterKind> = {
  pk: 'peaking', ls: 'low-shelf', hs: 'high-shelf', no: 'notch', bp: 'band-pass', hp: 'high-pass', lp: 'low-pass',
  ap: 'all-pass', ap1: 'all-pass-1',
}
const shortOf = (type: FilterKind) => Object.entries(kinds).find(([, id]) => id === type)![0]
const filterExample = '160 -3 1.4 (Hz, dB, width); ls 80 4 0.7 a low shelf, hs, no, bp, ap likewise'

function showFilter(f: SheetFilter | undefined): string {
  if (!f) return ''
  const { gain, q } = filterKinds[f.type]
  const kind = f.type === 'peaking' ? '' : `${shortOf(f.type)} `
  return `${kind}${plain(f.frequency, 1)}${gain ? ` ${plain(f.gain, 2)}` : ''}${q ? ` ${plain(f.q, 3)}` : ''}`
}

/** A rate that is high enough for a width not to be squeezed: a data sheet speaks of no device. */
const sheetRate: Hertz = 192_000

function readFilter(text: string, width: WidthUnit): SheetFilter | null {
  if (blank(text)) return null
  const list = words(text, 1, 4, filterExample)
  const type = kinds[list[0]!.toLowerCase()] ?? 'peaking'
  const numbers = kinds[list[0]!.toLowerCase()] ? list.slice(1) : list
  const has = filterKinds[type]
  const wanted = 1 + Number(has.gain) + Number(has.q)
  if (numbers.length !== wanted) throw refusal('sheet.notUnderstood', { text, example: filterExample })
  const frequency = taken(parseFrequency(numbers[0]!))
  const gain = has.gain ? taken(parseLevel(numbers[1]!)) : 0
  const given = has.q ? taken(parseMeasure(numbers.at(-1)!, '')) : 1
  const shelf = type === 'low-shelf' || type === 'high-shelf'
  const q = width === 'q' || !has.q || shelf ? given : qOfWidth(given, width, frequency, gain, sheetRate)
  return { type, frequency, gain, q }
}

const limiterExample
  = 'rms 62 50 500 (volts or watts as 300W, attack ms, release ms, hold ms where there is one) or peak …'
const detectorOf = (word: string) => ['peak', 'rms'].find(d => [d, d[0]].includes(word.toLowerCase()))
const showLimiter = (l: SheetLimiter | null) =>
  l
    ? `${l.detector} ${plain(l.threshold, 1)} ${plain(l.attack * 1000, 2)} ${plain(l.release * 1000, 1)}`
    + (l.hold ? ` ${plain(l.hold * 1000, 1)}` : '')
    : ''

function readLimiter(text: string, { impedance }: SheetBand): SheetLimiter | null {
  if (blank(text)) return null
  const [kind, level, ...times] = words(text, 4, 5, limiterExample) as [string, string, ...string[]]
  const detector = detectorOf(kind) as SheetLimiter['detector'] | undefined
  if (!detector) throw refusal('sheet.noDetector', { kind, example: limiterExample })
  const watts = /w$/i.test(level)
  if (watts && !impedance) throw refusal('sheet.noImpedance')
  const number = taken(parseMeasure(level.replace(/[vw]$/i, ''), ''))
  const threshold = watts ? Math.sqrt(Math.max(0, number) * impedance!) : number
  const [attack = 0, release = 0, hold = 0] = times.map(t => taken(parseDelay(t)))
  return { detector, threshold: Number(threshold.toFixed(2)), attack, hold, release }
}

const number = (
  id: 'low' | 'high' | 'impedance' | 'power',
  label: string,
  example: string,
  parse: (text: string) => Parsed,
): SheetRow => ({
  id,
  label,
  example,
  show: band => (band[id] === undefined ? '' : plain(band[id], 1)),
  read: (band, text) => {
    const optional = id === 'impedance' || id === 'power'
    const { [id]: _, ...rest } = band
    return (optional && blank(text) ? rest : { ...band, [id]: taken(parse(text)) }) as SheetBand
  },
})

/** How loud a kind is beside the others follows its sensitivity, where it is told. */
function readSensitivity(band: SheetBand, text: string): SheetBand {
  const { sensitivity: was, ...rest } = band
  if (blank(text)) return rest
  const sensitivity = taken(parseMeasure(text, 'dB'))
  const level = Math.min(60, Math.max(-60, band.level + sensitivity - (was ?? band.level + 86)))
  return { ...band, sensitivity, level: Number(level.toFixed(2)) }
}

/** Every line of a sheet in the order in which data sheets have them: what the form and the text table read. */
export const sheetRows: readonly SheetRow[] = [
  {
    id: 'name', label: 'Band', example: 'High band', show: b => b.name,
    read: (band, text) => ({ ...band, name: text.trim() }),
  },
  number('low', 'Plays from, Hz', '55', parseFrequency),
  number('high', 'Plays to, Hz', '2.5k', parseFrequency),
  {
    id: 'sensitivity', label: 'Sensitivity, dB at 1 m, 2.83 V', example: '97',
    show: b => (b.sensitivity === undefined ? '' : plain(b.sensitivity, 1)),
    read: readSensitivity,
  },
  number('impedance', 'Impedance, Ω', '8', text => parseMeasure(text, 'Ω')),
  number('power', 'Takes, W (RMS)', '500', text => parseMeasure(text, 'W')),
  {
    id: 'gain', label: 'Gain, dB', example: '-3', show: b => plain(needsOf(b).gain, 2),
    read: (band, text) => withNeeds(band, { gain: blank(text) ? 0 : taken(parseLevel(text)) }),
  },
  {
    id: 'delay', label: 'Delay, ms', example: '0.35', show: b => plain(needsOf(b).delay * 1000, 4),
    read: (band, text) => withNeeds(band, { delay: blank(text) ? 0 : taken(parseDelay(text)) }),
  },
  {
    id: 'polarity', label: 'Polarity', example: '+ or −', show: b => (needsOf(b).polarity === 'normal' ? '+' : '−'),
    read: (band, text) => {
      const inverted = /^(-|−|i|inv|inverted)$/i.test(text.trim())
      if (!inverted && !/^(\+|n|normal|)$/i.test(text.trim())) throw refusal('sheet.polarity')
      return withNeeds(band, { polarity: inverted ? 'inverted' : 'normal' })
    },
  },
  {
    id: 'high-pass', label: 'High-pass', example: passExample, show: b => showPass(needsOf(b).highPass),
    read: (band, text) => withNeeds(band, { highPass: readPass(text) }),
  },
  {
    id: 'low-pass', label: 'Low-pass', example: passExample, show: b => showPass(needsOf(b).lowPass),
    read: (band, text) => withNeeds(band, { lowPass: readPass(text) }),
  },
  ...Array.from({ length: mostFilters }, (_, n): SheetRow => ({
    id: `eq-${n + 1}`, label: `Filter ${n + 1}`, example: filterExample, show: b => showFilter(needsOf(b).eq[n]),
    read: (band, text, width) => {
      const read = readFilter(text, width)
      const eq = [...needsOf(band).eq]
      if (read) eq[Math.min(n, eq.length)] = read
      else eq.splice(n, 1)
      return withNeeds(band, { eq })
    },
  })),
  {
    id: 'limiter', label: 'Limiter', example: limiterExample, show: b => showLimiter(needsOf(b).limiter),
    read: (band, text) => withNeeds(band, { limiter: readLimiter(text, band) }),
  },
]

/** A new sheet of so many bands, with nothing set. */
export function emptySheet(id: string, name: string, count: number): Sheet {
  const names = [['Full range'], ['Low band', 'High band'], ['Low band', 'Mid band', 'High band']][count - 1]
  return {
    id,
    name,
    bands: Array.from({ length: count }, (_, n): SheetBand => ({
      id: `band-${n + 1}`,
      name: names?.[n] ?? `Band ${n + 1}`,
      low: n ? 500 * 2 ** n : 60,
      high: n === count - 1 ? 18_000 : 500 * 2 ** (n + 1),
      level: 10,
      q: gathersFrom(90, 60),
      needs: noNeeds,
    })),
  }
}

const checked = (sheet: Sheet): Sheet => {
  const read = v.safeParse(Sheet, sheet)
  if (!read.success) throw new RangeError(read.issues[0].message)
  return read.output
}

/** A cell of a sheet set to what was typed. Throws RangeError with what is understood, or what cannot be. */
export function withCell(sheet: Sheet, row: SheetRow, band: number, text: string, width: WidthUnit = 'q'): Sheet {
  const next = row.read(sheet.bands[band]!, text, width)
  const read = v.safeParse(SheetBand, next)
  if (!read.success) throw new RangeError(read.issues[0].message)
  for (const p of [next.needs?.highPass, next.needs?.lowPass]) {
    if (p) classical(p.family, 'high', p.order, p.frequency, sheetRate) // throws for what there is no filter of
  }
  return { ...sheet, bands: sheet.bands.map((b, n) => (n === band ? next : b)) }
}

const title = 'kovrin loudspeaker sheet'

/** A cell that a spreadsheet would take for a formula is marked as text, as spreadsheets themselves do it. */
const plainCell = (text: string) => (/^[=+\-@]/.test(text) && !/^[+-]?\d+(?:[.,]\d+)?$/.test(text) ? `'${text}` : text)
const cellOf = (text: string) => text.trim().replace(/^'(?=[=+\-@])/, '')

/** A sheet as a text table: a line a value, a column a band, apart by tabs. */
export function writeSheetTable(sheet: Sheet): string {
  const { coverage, bands, name } = sheet
  const lines = sheetRows
    .map(row => [row.id, ...bands.map(row.show)])
    .filter(([, ...cells]) => cells.some(c => c !== ''))
  const covers = coverage ? [['coverage', String(coverage.across), String(coverage.up)]] : []
  const table = [[title, '1'], ['sheet', name], ...covers, ...lines]
  return `${table.map(line => line.map(plainCell).join('\t')).join('\n')}\n`
}

/**
 * Reads what `writeSheetTable` writes; apart by tabs or semicolons, lines in any order. `id` becomes its key. Throws
 * RangeError with the line and what is wrong with it.
 */
export function readSheetTable(text: string, id: string): Sheet {
  const lines = text.split(/\r?\n/).filter(l => l.trim())
  const cellsOf = (line: string) => line.split(line.includes('\t') ? '\t' : ';').map(cellOf)
  if (cellsOf(lines[0] ?? '')[0]?.toLowerCase() !== title)
    throw refusal('sheet.noTable', { title })
  const told = new Map(lines.slice(1).map((line, n) => {
    const [key, ...cells] = cellsOf(line) as [string, ...string[]]
    return [key, { cells, n: n + 2 }]
  }))
  const count = told.get('name')?.cells.length ?? 0
  if (count < 1 || count > 4) throw refusal('sheet.noBands')
  let sheet = emptySheet(id, told.get('sheet')?.cells[0] || 'Loudspeaker', count)
  const covers = told.get('coverage')?.cells.map(Number)
  if (covers) sheet = withCoverage(sheet, covers[0] ?? Number.NaN, covers[1] ?? Number.NaN)
  for (const [key, { cells, n }] of told) {
    if (key === 'sheet' || key === 'coverage') continue
    const row = sheetRows.find(r => r.id === key)
    if (!row) throw refusal('sheet.noSuchRow', { line: n, key, rows: sheetRows.map(r => r.id).join(', ') })
    cells.slice(0, count).forEach((cell, band) => {
      try {
        sheet = withCell(sheet, row, band, cell)
      }
      catch (error) {
        if (error instanceof RangeError) throw refusal('sheet.line', { line: n, why: toldOf(error) })
        throw error
      }
    })
  }
  return checked(sheet)
}

/** A sheet with its angles of coverage and the directivity that goes with them. */
export const withCoverage = (sheet: Sheet, across: number, up: number): Sheet => checked({
  ...sheet,
  coverage: { across, up },
  bands: sheet.bands.map(b => ({ ...b, q: gathersFrom(across, up) })),
})

/** A sheet from JSON, as it is exported. Throws RangeError with what is wrong with it. */
export function readSheetJson(text: string, id: string): Sheet {
  let content: unknown
  try {
    content = JSON.parse(text)
  }
  catch { throw refusal('sheet.noJson') }
  if (typeof content !== 'object' || content === null || Array.isArray(content))
    throw refusal('sheet.noSheet')
  return checked({ ...content, id } as Sheet)
}
