import type { Decibels, Hertz, Seconds } from '../units'
import { filterLevel, tangentsOf, type FitKind } from './filterShape'
import { holesOf, remains, type Evidence, type Hole } from './holes'
import { placeFilters, type FitFilter } from './placing'
import { refusal } from '../words'
import type { Message } from '../words'

/** A level over frequency: Hz ascending, dB. */
export interface LevelCurve {
  frequencies: ArrayLike<number>
  levels: ArrayLike<number>
}
/** A curve that a fit looks at. */
export interface FitCurve extends LevelCurve {
  /** γ², 0…1; weighs the curve where there is one. */
  coherence?: ArrayLike<number> | undefined
  /** Weight of its position; 1 unless given. */
  weight?: number | undefined
}
export interface FitTask {
  sampleRate: Hertz
  curves: readonly FitCurve[]
  /** 'flat': the level is fitted. */
  target: LevelCurve | 'flat'
  range: readonly [low: Hertz, high: Hertz]
  /** Most filters. */
  bands: number
  gain: readonly [low: Decibels, high: Decibels]
  q: readonly [low: number, high: number]
  kinds: readonly FitKind[]
  /** Fills dips up to the gain's limit, whatever made them. */
  fill: boolean
  /** Modes of the room that ring: each is cut first, as narrow as it is itself, where it stands over the target. */
  modes?: readonly RingingMode[] | undefined
}
/** A resonance that falls by 60 dB in `decay`. */
export interface RingingMode {
  frequency: Hertz
  decay: Seconds
}
export interface FitResult {
  filters: FitFilter[]
  /** dB added to the target. */
  level: Decibels
  /** RMS over log frequency of the weighted mean's error inside the range, in dB, without and with the filters. */
  before: Decibels
  after: Decibels
  left: { frequency: Hertz, reason: Message }[]
}

const leastPoints = 160
const usualPerOctave = 48
/** What filters do where they should do nothing, against an error of the same size elsewhere. */
const aloneWeight = 0.5

/** Even grid on the logarithmic axis over a range, both ends on it. */
function gridOf([low, high]: readonly [number, number]): Float64Array {
  const octaves = Math.log2(high / low)
  const steps = Math.max(leastPoints, Math.ceil(octaves * usualPerOctave))
  return Float64Array.from({ length: steps + 1 }, (_, k) => low * 2 ** ((octaves * k) / steps))
}

/** Values read at a grid, straight between points on a logarithmic axis; the end values beyond the ends. */
function readAt(frequencies: ArrayLike<number>, values: ArrayLike<number>, grid: Float64Array): Float64Array {
  let n = 0
  const last = frequencies.length - 1
  return grid.map((f) => {
    while (n < last - 1 && frequencies[n + 1]! < f) n++
    if (last === 0 || f <= frequencies[0]!) return values[0]!
    if (f >= frequencies[last]!) return values[last]!
    const t = Math.log(f / frequencies[n]!) / Math.log(frequencies[n + 1]! / frequencies[n]!)
    return values[n]! + t * (values[n + 1]! - values[n]!)
  })
}

/** The weighted mean level of curves on a grid, and what speaks for and against it. */
function meanOf(curves: readonly FitCurve[], grid: Float64Array): { mean: Float64Array, evidence: Evidence } {
  const levels = curves.map(c => readAt(c.frequencies, c.levels, grid))
  const trust = curves.map(c => (c.coherence ? readAt(c.frequencies, c.coherence, grid) : null))
  const weights = curves.map(c => c.weight ?? 1)
  const own = levels.map(l => l.reduce((s, v) => s + v, 0) / l.length)
  const mean = new Float64Array(grid.length)
  const [low, high] = [mean.slice(), mean.slice()]
  const coherence = trust.some(Boolean) ? mean.slice() : null
  grid.forEach((_, k) => {
    const parts = weights.map((w, n) => w * Math.max(1e-3, trust[n]?.[k] ?? 1))
    const sum = parts.reduce((s, p) => s + p, 0)
    mean[k] = levels.reduce((s, l, n) => s + (parts[n]! / sum) * l[k]!, 0)
    const shifted = levels.flatMap((l, n) => (weights[n]! > 0 ? [l[k]! - own[n]!] : []))
    low[k] = Math.min(...shifted)
    high[k] = Math.max(...shifted)
    if (!coherence) return
    const heard = trust.flatMap((t, n) => (t ? [[t[k]!, weights[n]!] as const] : []))
    const all = heard.reduce((s, [, w]) => s + w, 0)
    coherence[k] = all ? heard.reduce((s, [t, w]) => s + t * w, 0) / all : 1
  })
  return { mean, evidence: { low, high, coherence } }
}

const rms = (values: Float64Array) => Math.sqrt(values.reduce((s, v) => s + v * v, 0) / values.length)
/** Middle value: what a curve's level is, whatever its peaks and holes do. */
const median = (values: Float64Array) => values.slice().sort()[values.length >> 1]!

function check({ curves, range, sampleRate, gain, q, kinds, bands }: FitTask) {
  if (!curves.length) throw refusal('fit.noCurve')
  if (!curves.some(c => (c.weight ?? 1) > 0)) throw refusal('fit.noWeight')
  if (!(range[1] > range[0] && range[0] > 0)) throw refusal('fit.range')
  if (!(range[1] < sampleRate / 2))
    throw refusal('fit.beyondRate', { half: sampleRate / 2 })
  if (!(gain[1] > gain[0])) throw refusal('fit.gains')
  if (!(q[1] > q[0] && q[0] > 0)) throw refusal('fit.widths')
  if (!kinds.length) throw refusal('fit.noKind')
  if (!(Number.isInteger(bands) && bands >= 1)) throw refusal('fit.noFilter')
  for (const c of curves) {
    if (c.frequencies.length < 2 || c.frequencies[0]! > range[1] || c.frequencies[c.frequencies.length - 1]! < range[0])
      throw refusal('fit.nothingInside')
  }
}

/** Level in dB of filters together at each frequency. */
export function filtersLevel(filters: readonly FitFilter[], frequencies: Float64Array, sampleRate: Hertz) {
  const tangents = tangentsOf(frequencies, sampleRate)
  const sum = new Float64Array(frequencies.length)
  const one = sum.slice()
  for (const { kind, frequency, gain, q } of filters) {
    filterLevel(kind, Math.log(frequency), gain, Math.log(q), tangents, sampleRate, one, null)
    for (let k = 0; k < sum.length; k++) sum[k]! += one[k]!
  }
  return sum
}

/** dB that a mode must stand over the target to be cut for itself. */
const leastOver = 1.5
/** Most modes that are cut so. */
const mostModes = 3

/**
 * The cut that takes a mode's ringing away: its zeros on the mode's poles. Those have the Q f·T60·π/ln 1000 (T60 =
 * ln 1000/(π·bandwidth), Kuttruff, Room Acoustics, ch. 3); of the Cookbook's peaking filter the zeros' Q is q/A,
 * A = 10^(gain/40).
 */
export function modeCut({ frequency, decay }: RingingMode, gain: Decibels): FitFilter {
  const q = (frequency * decay * Math.PI) / Math.log(1000)
  return { kind: 'peaking', frequency, gain, q: q * 10 ** (gain / 40) }
}

function cutsOf({ modes = [], range, gain, q, kinds, bands }: FitTask, grid: Float64Array, over: Float64Array) {
  if (!kinds.includes('peaking')) return []
  const most = Math.min(mostModes, bands - 1)
  return modes
    .filter(m => m.frequency > range[0] && m.frequency < range[1])
    .map((m) => {
      const excess = Math.max(...over.filter((_, k) => Math.abs(Math.log2(grid[k]! / m.frequency)) < 1 / 24))
      return { excess, cut: modeCut(m, Math.max(gain[0], -excess)) }
    })
    .filter(({ excess, cut }) => excess > leastOver && cut.gain < 0 && cut.q >= q[0] && cut.q <= q[1])
    .sort((a, b) => b.excess - a.excess)
    .slice(0, Math.max(0, most))
    .map(({ cut }) => cut)
}

/** What each filter of a fit buys: dB RMS by which the error would be larger without it. */
export function worthOf(wish: FitTask, { filters, level, after }: Pick<FitResult, 'filters' | 'level' | 'after'>) {
  const grid = gridOf(wish.range)
  const { error } = errorOf(wish, grid)
  return filters.map((one) => {
    const others = filtersLevel(filters.filter(f => f !== one), grid, wish.sampleRate)
    return rms(error.map((v, k) => v - level + others[k]!)) - after
  })
}

function errorOf({ curves, target }: FitTask, grid: Float64Array) {
  const { mean, evidence } = meanOf(curves, grid)
  const wanted = target === 'flat' ? grid.map(() => 0) : readAt(target.frequencies, target.levels, grid)
  return { error: mean.map((v, k) => v - wanted[k]!), evidence }
}

/**
 * Filters that bring the weighted mean of curves nearest to a target, in the least squares of decibels over log
 * frequency. Unless `fill` is set, holes that reflections make and dips that differ between positions are left alone
 * and listed. Throws RangeError with what is wrong with the wish.
 */
export function fitFilters(wish: FitTask, onProgress?: (part: number) => boolean): FitResult {
  check(wish)
  const grid = gridOf(wish.range)
  const { target } = wish
  const { error, evidence } = errorOf(wish, grid)
  const usual = target === 'flat' ? median(error) : 0
  const holes: Hole[] = wish.fill ? [] : holesOf(grid, error.map(v => v - usual), evidence)
  const alone = Array.from(error, (_, k) => holes.some(h => k >= h.from && k < h.to))
  const cuts = cutsOf(wish, grid, error.map(v => v - usual))
  const cut = filtersLevel(cuts, grid, wish.sampleRate)
  const { filters, level } = placeFilters({
    ...wish,
    bands: wish.bands - cuts.length,
    frequencies: grid,
    error: error.map((v, k) => v + cut[k]!),
    alone,
    weight: error.map((_, k) => (alone[k] ? aloneWeight : 1)),
    level: target === 'flat',
    before: cut,
  }, onProgress)
  const kept = [...cuts, ...filters].filter(f => Math.abs(f.gain) > 1e-3).sort((a, b) => a.frequency - b.frequency)
  const done = filtersLevel(kept, grid, wish.sampleRate)
  const before = error.map(v => v - level)
  const after = before.map((v, k) => v + done[k]!)
  return {
    filters: kept,
    level,
    before: rms(before),
    after: rms(after),
    left: [
      ...holes.map(({ frequency, reason }) => ({ frequency, reason })),
      ...remains(grid, after, wish.gain, holes),
    ].sort((a, b) => a.frequency - b.frequency),
  }
}

/** The same with the fewest filters whose error is at most `most` dB RMS; with all that are allowed where none is. */
export function fitFewest(wish: FitTask, most: Decibels, onProgress?: (part: number) => boolean): FitResult {
  for (let bands = 1; ; bands++) {
    const result = fitFilters({ ...wish, bands }, part => onProgress?.((bands - 1 + part) / wish.bands) ?? true)
    if (result.after <= most || bands >= wish.bands) return result
  }
}
