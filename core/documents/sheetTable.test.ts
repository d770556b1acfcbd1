import { describe, expect, it } from 'vitest'
import { logGrid, magnitude } from '../dsp'
import {
  emptySheet, noNeeds, readSheetJson, readSheetTable, sheetChecks, sheetLibrary, sheetResponse, sheetRows, withCell,
  writeSheetTable, type Sheet, type SheetBand,
} from '.'

const row = (id: string) => sheetRows.find(r => r.id === id)!
const typed = (sheet: Sheet, cells: [string, number, string][]) =>
  cells.reduce((s, [id, band, text]) => withCell(s, row(id), band, text), sheet)
const needs = (sheet: Sheet, band: number) => sheet.bands[band]!.needs!
const two = () => typed(emptySheet('own-1', 'Paper', 2), [
  ['low', 0, '55'], ['high', 0, '2.5k'], ['low', 1, '700'], ['high', 1, '19k'],
  ['low-pass', 0, 'LR24 1400'], ['high-pass', 1, 'LR24 1400'],
])

describe('a sheet typed from paper', () => {
  it('reads what data sheets say, in their own units', () => {
    const sheet = typed(two(), [
      ['impedance', 0, '8'], ['gain', 1, '-6,5'], ['delay', 0, '0.35'], ['polarity', 1, '-'],
      ['high-pass', 0, 'bw18 60'], ['eq-1', 0, '160 -3 1.4'], ['eq-2', 0, 'ls 80 4 0.7'], ['eq-3', 0, 'ap1 300'],
      ['limiter', 0, 'r 450W 50 500'],
    ])
    expect(needs(sheet, 0)).toEqual({
      ...noNeeds,
      delay: 0.35e-3,
      highPass: { family: 'butterworth', order: 3, frequency: 60 },
      lowPass: { family: 'linkwitz-riley', order: 4, frequency: 1400 },
      eq: [
        { type: 'peaking', frequency: 160, gain: -3, q: 1.4 },
        { type: 'low-shelf', frequency: 80, gain: 4, q: 0.7 },
        { type: 'all-pass-1', frequency: 300, gain: 0, q: 1 },
      ],
      limiter: { detector: 'rms', threshold: 60, attack: 0.05, hold: 0, release: 0.5 }, // 450 W into 8 Ω are 60 V
    })
    expect(needs(sheet, 1)).toMatchObject({ gain: -6.5, polarity: 'inverted' })
  })
  it('takes widths in octaves by the convention that is named', () => {
    // handbook value: one octave between half-gain points is a Q of 1.414
    const f = withCell(two(), row('eq-1'), 0, '1000 -6 1', 'half-gain-analogue')
    expect(needs(f, 0).eq[0]!.q).toBeCloseTo(Math.SQRT2, 3)
  })
  it.each([
    ['high-pass', 'XX24 80', /family and slope/],
    ['high-pass', 'LR18 80', /Linkwitz–Riley/],
    ['high-pass', 'BW20 80', /no slope/],
    ['eq-1', '160 -3', /not understood/],
    ['eq-1', '160 -99 1', /−?-?30 to 30 dB/],
    ['limiter', 'rms 300W 5 5', /impedance/],
    ['limiter', 'often 3 5 5', /neither peak nor rms/],
    ['polarity', 'left', /\+ or −/],
    ['low', 'deep', /not understood/],
  ])('%s “%s” is refused in words', (id, text, words) => {
    expect(() => withCell(emptySheet('own-1', 'Paper', 1), row(id), 0, text)).toThrow(words)
  })
  it('writes a text table that reads back as itself, and takes its own JSON', () => {
    for (const sheet of sheetLibrary) {
      const back = readSheetTable(writeSheetTable(sheet), sheet.id)
      const same = ({ id: _, level: __, q: ___, needs: n = noNeeds, ...rest }: SheetBand) => ({ ...rest, needs: n })
      expect(back.bands.map(same)).toEqual(sheet.bands.map(same))
      expect(readSheetJson(JSON.stringify({ ...sheet, id: undefined }), sheet.id)).toEqual(sheet)
    }
  })
  it.each([
    ['', /first line/],
    ['kovrin loudspeaker sheet\t1\nname\tLow\nlow\tabc', /Line 3/],
    ['kovrin loudspeaker sheet\t1\nname\tLow\nheight\t5', /no “height”/],
    ['kovrin loudspeaker sheet\t1\nlow\t5', /1 to 4 bands/],
    ['kovrin loudspeaker sheet\t1\nname\tLow\nlow\t5000\nhigh\t50', /end above its start/],
  ])('a broken table says where', (text, words) => {
    expect(() => readSheetTable(text, 'own-1')).toThrow(words)
  })
})

describe('what a sheet’s settings do', () => {
  it('a name that a spreadsheet would take for a formula is written as text, and reads back as itself', () => {
    for (const name of ['=HYPERLINK("x")', '+1+2', '-1-cmd', '@SUM(A1)']) {
      const text = writeSheetTable({ ...emptySheet('a', 'A', 1), name })
      expect(text.split(/[\t\n]/).filter(cell => /^[=+@]|^-(?!\d+(\.\d+)?$)/.test(cell))).toEqual([])
      expect(readSheetTable(text, 'a').name).toBe(name)
    }
  })
  it('Linkwitz–Riley bands sum flat (Linkwitz 1976)', () => {
    const { sum } = sheetResponse(two(), logGrid(24, 20, 20_000), 96_000)
    for (const level of magnitude(sum)) expect(level).toBeCloseTo(0, 6)
  })
  it.each<[string, [string, number, string][], RegExp]>([
    ['a gap between bands', [['low', 1, '3000']], /starts at 3 kHz, above where Low band ends/],
    ['a gap between corners', [['high-pass', 1, 'LR24 2500']], /a gap of 0.8 octaves/],
    ['corners that overlap', [['high-pass', 1, 'LR24 450']], /overlap by 1.6 octaves/],
    ['no high-pass under a horn', [['high-pass', 1, '']], /has no high-pass/],
    ['a limiter above what the driver takes',
      [['impedance', 0, '8'], ['power', 0, '200'], ['limiter', 0, 'rms 60 5 50']],
      /lets 450 W through; the driver stands 200 W/],
    ['polarity that cancels', [['polarity', 1, '-']], /filters alone cancel at 1.4 kHz/],
  ])('%s is told', (_, cells, words) => {
    expect(sheetChecks(two())).toEqual([])
    expect(sheetChecks(typed(two(), cells)).join(' ')).toMatch(words)
  })
  it('peaks may be four times what is taken for long', () => {
    const cells: [string, number, string][] = [['impedance', 0, '8'], ['power', 0, '200']]
    const peak = (volts: number) => sheetChecks(typed(two(), [...cells, ['limiter', 0, `peak ${volts} 1 50`]]))
    expect(peak(56)).toEqual([]) // √(2 · 200 W · 8 Ω) = 56.6 V of a sine: 800 W of peaks, 6 dB above 200 W
    expect(peak(64).join()).toMatch(/1024 W of peaks through; the driver stands 800 W/)
  })
})
