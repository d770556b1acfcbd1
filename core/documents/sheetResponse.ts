import {
  addTo, applyGainAndDelay, applySections, classical, filterSection, magnitude,
  silence, unity, type Curve,
} from '../dsp'
import { ratioOf, showFrequency, showNumber, type Hertz } from '../units'
import { noNeeds, type Needs, type Sheet, type SheetBand } from './sheet'
import { phrase } from '../words'

/** What the settings of a sheet's band do to a signal, at the frequencies; limiters aside. */
export function needsResponse(needs: Needs, frequencies: Float64Array, sampleRate: Hertz): Curve {
  const curve = unity(frequencies)
  const { gain, delay, polarity, highPass, lowPass, eq } = needs
  for (const [side, p] of [['high', highPass], ['low', lowPass]] as const) {
    if (p) applySections(curve, classical(p.family, side, p.order, p.frequency, sampleRate), sampleRate)
  }
  for (const f of eq) applySections(curve, [filterSection({ ...f, kind: f.type }, sampleRate)], sampleRate)
  applyGainAndDelay(curve, ratioOf(gain) * (polarity === 'inverted' ? -1 : 1), delay)
  return curve
}

/** Every band of a sheet, and their complex sum: what the settings alone do, whatever the drivers add. */
export function sheetResponse(sheet: Sheet, frequencies: Float64Array, sampleRate: Hertz) {
  const bands = sheet.bands.map(b => needsResponse(b.needs ?? noNeeds, frequencies, sampleRate))
  const sum = silence(frequencies)
  for (const curve of bands) addTo(sum, curve)
  return { bands, sum }
}

/** From here up a band is played by a horn or a dome, which low tones tear (common practice). */
const highBand: Hertz = 400
/** Octaves by which two neighbours may leave a gap or overlap at their corners. */
const gap = 1 / 3
const overlap = 1.5

function neighbours(a: SheetBand, b: SheetBand): string[] {
  const octaves = (from: Hertz, to: Hertz) => Math.log2(to / from)
  if (b.low > a.high) {
    return [phrase('documents.startsAtAboveWhere', {
      b: b.name,
      low: showFrequency(b.low),
      a: a.name,
      high: showFrequency(a.high),
    })]
  }
  const [low, high] = [a.needs?.lowPass?.frequency, b.needs?.highPass?.frequency]
  if (low === undefined || high === undefined) return []
  const words = phrase('documents.isPassedToFrom', {
    a: a.name,
    low: showFrequency(low),
    b: b.name,
    high: showFrequency(high),
  })
  if (octaves(low, high) > gap) return [phrase('documents.aGapOfOctaves', {
    words,
    octaves: showNumber(octaves(low, high), 1),
  })]
  if (octaves(high, low) > overlap) return [phrase('documents.theyOverlapByOctaves', {
    words,
    octaves: showNumber(octaves(high, low), 1),
  })]
  return []
}

function ofBand(band: SheetBand, several: boolean): string[] {
  const { name, low, high, impedance, power, needs = noNeeds } = band
  const words: string[] = []
  const { highPass, lowPass, limiter } = needs
  if (several && low >= highBand && !highPass) words.push(phrase('documents.hasNoHighPass', { name }))
  if (highPass && highPass.frequency < low / 1.5)
    words.push(phrase('documents.isPassedFromIt', {
      name,
      frequency: showFrequency(highPass.frequency),
      low: showFrequency(low),
    }))
  if (lowPass && lowPass.frequency > high * 1.5)
    words.push(phrase('documents.isPassedToIt', {
      name,
      frequency: showFrequency(lowPass.frequency),
      high: showFrequency(high),
    }))
  if (highPass && lowPass && highPass.frequency >= lowPass.frequency)
    words.push(phrase('documents.theHighPassLies', { name }))
  if (limiter && impedance && power) {
    // a peak detector lets peaks through, twice the power of a sine of its volts; they may be 6 dB above what the
    // driver stands for long (IEC 60268-5: noise with a crest factor of 2)
    const isPeak = limiter.detector === 'peak'
    const watts = (isPeak ? 2 : 1) * limiter.threshold ** 2 / impedance
    const most = isPeak ? 4 * power : power
    if (watts > most * 1.05) {
      words.push(phrase('documents.theLimiterLetsW', {
        name,
        watts: Math.round(watts),
        part: isPeak ? 'of peaks ' : '',
        most: Math.round(most),
      }))
    }
  }
  if (power && !limiter) words.push(phrase('documents.hasNoLimiter', { name }))
  return words
}

const checkRate: Hertz = 96_000

/**
 * Where the filters of neighbours alone cancel each other: a wrong polarity, most often. Delays are left out: they
 * make up for how deep the drivers sit, which no sheet tells.
 */
function cancellations(sheet: Sheet): string[] {
  return sheet.bands.slice(1).flatMap((b, n) => {
    const a = sheet.bands[n]!
    const from = b.needs?.highPass?.frequency
    const to = a.needs?.lowPass?.frequency
    if (!from || !to) return []
    const at = Float64Array.of(Math.sqrt(from * to))
    const pair = { ...sheet, bands: [a, b].map(x => ({ ...x, needs: { ...x.needs!, delay: 0 } })) }
    const { bands, sum } = sheetResponse(pair, at, checkRate)
    const each = Math.max(...bands.map(c => magnitude(c)[0]!))
    const together = magnitude(sum)[0]!
    if (together > each - 3) return []
    return [phrase('documents.betweenAndTheFilters', {
      a: a.name,
      b: b.name,
      at: showFrequency(at[0]!),
      each: showNumber(each - together, 0),
    })]
  })
}

/** What in a sheet is likely a slip, in words; empty where nothing is. */
export function sheetChecks(sheet: Sheet): string[] {
  const several = sheet.bands.length > 1
  return [
    ...sheet.bands.filter(b => b.high <= b.low).map(b => phrase('documents.endsBelowItsStart', { b: b.name })),
    ...sheet.bands.slice(1).flatMap((b, n) => neighbours(sheet.bands[n]!, b)),
    ...sheet.bands.flatMap(b => ofBand(b, several)),
    ...cancellations(sheet),
  ]
}
