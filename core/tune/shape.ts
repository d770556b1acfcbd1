import {
  allPass,
  applyGainAndDelay,
  applySections,
  applyTaps,
  bandPassSection,
  classical,
  firstAllPass,
  highShelf,
  lowShelf,
  notch,
  peaking,
  qOfWidth,
  resonantPass,
  shelfQ,
  unity,
  type Curve,
  type Family,
  type Section,
  type WidthConvention,
} from '../dsp'
import { ratioOf, type Decibels, type Hertz, type Seconds } from '../units'
import { refusal, toldOf } from '../words'

// Filters by their numbers alone, of no device: what the response of a list of them is.

interface Width {
  frequency: Hertz
  /** Give this, or a width in octaves with what it means ('half-gain' unless given). */
  q?: number | undefined
  bandwidth?: number | undefined
  convention?: WidthConvention | undefined
}
interface Shelf {
  kind: 'low-shelf' | 'high-shelf'
  frequency: Hertz
  gain: Decibels
  q?: number | undefined
  /** Give this or `q`; 1 unless either is given. */
  slope?: number | undefined
}
interface Pass {
  kind: 'high-pass' | 'low-pass'
  frequency: Hertz
  family?: Family | undefined
  /** 6 dB an octave each. */
  order?: number | undefined
  /** Second order by its Q, in place of family and order. */
  q?: number | undefined
}
/** One block of a shape: levels in dB, frequencies in Hz, times in seconds, widths as Q or in octaves. */
export type ShapeBlock
  = | ({ kind: 'peaking', gain: Decibels } & Width)
    | Shelf
    | ({ kind: 'notch' | 'band-pass' | 'all-pass' } & Width)
    | { kind: 'all-pass-1', frequency: Hertz }
    | Pass
    | { kind: 'delay', seconds: Seconds }
    | { kind: 'gain', gain: Decibels }
    | { kind: 'polarity' }
    | { kind: 'fir', taps: readonly number[] }

/** Of a filter that has no gain every convention's edges are 3.01 dB from its top (of an all-pass: ±90°). */
const withoutGain = (convention: WidthConvention): WidthConvention => {
  if (convention === 'cookbook') return convention
  return convention.endsWith('analogue') ? 'half-gain-analogue' : 'half-gain'
}

function widthQ({ frequency, q, bandwidth, convention }: Width, sampleRate: Hertz, gain: number | null): number {
  if (q !== undefined && bandwidth !== undefined) throw refusal('shape.qOrBandwidth')
  if (q !== undefined && convention !== undefined) throw refusal('shape.conventionOfQ')
  if (q !== undefined) return q
  if (bandwidth === undefined) throw refusal('shape.noWidth')
  const by = convention ?? 'half-gain'
  return qOfWidth(bandwidth, gain === null ? withoutGain(by) : by, frequency, gain ?? 0, sampleRate)
}

function passSections({ kind, frequency, family, order, q }: Pass, sampleRate: Hertz): Section[] {
  const side = kind === 'high-pass' ? 'high' : 'low'
  if (q === undefined) return classical(family ?? 'butterworth', side, order ?? 2, frequency, sampleRate)
  if (family !== undefined || (order ?? 2) !== 2)
    throw refusal('shape.qOrOrder')
  return [resonantPass(side, frequency, q, sampleRate)]
}

function shelfSection({ kind, frequency, gain, q, slope }: Shelf, sampleRate: Hertz): Section {
  if (q !== undefined && slope !== undefined) throw refusal('shape.qOrSlope')
  const make = kind === 'low-shelf' ? lowShelf : highShelf
  return make(frequency, gain, q ?? shelfQ(slope ?? 1, gain), sampleRate)
}

/** The second-order sections of a block; none of one that is no filter. Throws RangeError with what is wrong. */
export function shapeSections(block: ShapeBlock, sampleRate: Hertz): Section[] {
  switch (block.kind) {
    case 'peaking':
      return [peaking(block.frequency, block.gain, widthQ(block, sampleRate, block.gain), sampleRate)]
    case 'low-shelf':
    case 'high-shelf':
      return [shelfSection(block, sampleRate)]
    case 'notch':
      return [notch(block.frequency, widthQ(block, sampleRate, null), sampleRate)]
    case 'band-pass':
      return [bandPassSection(block.frequency, widthQ(block, sampleRate, null), sampleRate)]
    case 'all-pass':
      return [allPass(block.frequency, widthQ(block, sampleRate, null), sampleRate)]
    case 'all-pass-1':
      return [firstAllPass(block.frequency, sampleRate)]
    case 'high-pass':
    case 'low-pass':
      return passSections(block, sampleRate)
    default:
      return []
  }
}

/**
 * Response of blocks one after the other, of filters that run at `sampleRate`. Throws RangeError naming the block (from
 * 1) that cannot be, or where a frequency is above half the sample rate.
 */
export function shapeResponse(blocks: readonly ShapeBlock[], sampleRate: Hertz, frequencies: Float64Array): Curve {
  const beyond = frequencies.find(f => f > sampleRate / 2)
  if (beyond !== undefined)
    throw refusal('shape.beyondRate', { frequency: beyond })
  const curve = unity(frequencies)
  blocks.forEach((block, n) => {
    try {
      if (block.kind === 'gain') applyGainAndDelay(curve, ratioOf(block.gain), 0)
      else if (block.kind === 'polarity') applyGainAndDelay(curve, -1, 0)
      else if (block.kind === 'delay') applyGainAndDelay(curve, 1, block.seconds)
      else if (block.kind === 'fir') applyTaps(curve, block.taps, sampleRate)
      else applySections(curve, shapeSections(block, sampleRate), sampleRate)
    }
    catch (error) {
      if (!(error instanceof RangeError)) throw error
      throw refusal('shape.block', { block: n + 1, kind: block.kind, why: toldOf(error) })
    }
  })
  return curve
}
