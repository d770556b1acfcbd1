import { filterKindIds, filterKinds, filterSection, type Filter, type FilterKind } from '../dsp'
import { bandwidthOfQ, type Hertz } from '../units'
import { refusal } from '../words'

const isKind = (kind: string): kind is FilterKind => Object.hasOwn(filterKinds, kind)
const rounded = (v: number, places: number) => String(Number(v.toFixed(places)))
const heading = ['number', 'kind', 'frequency_hz', 'gain_db', 'q', 'bandwidth_oct']

/** A list of filters as text, one a line, with columns apart by tabs: it goes into a sheet as it is. */
export function writeFilters(filters: readonly Filter[], separator = '\t'): string {
  const lines = filters.map(({ kind, frequency, gain, q }, n) =>
    [n + 1, kind, rounded(frequency, 2), rounded(gain, 2), rounded(q, 4), rounded(bandwidthOfQ(q), 4)].join(separator))
  return `${[heading.join(separator), ...lines].join('\n')}\n`
}

/**
 * Reads what `writeFilters` writes, with tabs, commas or semicolons, its columns in any order; `bandwidth_oct` may
 * stand in place of `q`. Throws RangeError with the line and what is wrong with it.
 */
export function readFilters(text: string): Filter[] {
  const lines = text.split(/\r?\n/).filter(l => l.trim())
  const separator = ['\t', ';', ','].find(s => lines[0]?.includes(s))
  const names = separator === undefined ? [] : lines[0]!.split(separator).map(n => n.trim().toLowerCase())
  const column = (name: string) => names.indexOf(name)
  const width = column('q') >= 0 ? 'q' : 'bandwidth_oct'
  if (column('kind') < 0 || column('frequency_hz') < 0 || column(width) < 0)
    throw refusal('filterList.noHeading')
  return lines.slice(1).map((line, n) => {
    const cells = line.split(separator!).map(c => c.trim())
    const numberAt = (name: string, usual?: number) => {
      const cell = cells[column(name)]
      if ((cell === undefined || cell === '') && usual !== undefined) return usual
      const plain = cell?.replace('−', '-')
      const value = Number(separator === ',' ? plain : plain?.replace(',', '.'))
      if (cell === undefined || cell === '' || !Number.isFinite(value))
        throw refusal('filterList.noNumber', { line: n + 2, name, cell: cell ?? '' })
      return value
    }
    const kind = cells[column('kind')]!
    if (!isKind(kind))
      throw refusal('filterList.noKind', { line: n + 2, kind, kinds: filterKindIds.join(', ') })
    const [frequency, gain, given] = [numberAt('frequency_hz'), numberAt('gain_db', 0), numberAt(width)]
    if (!(frequency > 0 && given > 0)) throw refusal('filterList.notAboveZero', { line: n + 2, width })
    const q = width === 'q' ? given : 1 / (2 * Math.sinh((Math.LN2 / 2) * given))
    return { kind, frequency, gain, q }
  })
}

/**
 * Coefficients of filters at a sample rate, as CSV. `signs` says which sign the feedback has: `plus` for
 * y = b·x - a1·y1 - a2·y2 (as in this program and scipy), `minus` for y = b·x + a1·y1 + a2·y2.
 */
export function writeBiquads(filters: readonly Filter[], sampleRate: Hertz, signs: 'plus' | 'minus'): string {
  const sign = signs === 'plus' ? 1 : -1
  const lines = filters.map((f) => {
    const [b0, b1, b2, a1, a2] = filterSection(f, sampleRate)
    return [b0, b1, b2, sign * a1, sign * a2].join(',')
  })
  return `b0,b1,b2,a1,a2\n${lines.join('\n')}\n`
}
