import type { Hertz } from '../units'
import { seededRandom, type Filter } from '../dsp'
import { filterLevel, tangentsOf, type FitKind } from './filterShape'
import { createSolver } from './leastSquares'

/** One filter of a fit. */
export type FitFilter = Filter<FitKind>

/** What filters are to do, and within which limits. */
export interface Task {
  /** Hz, evenly spaced on a logarithmic axis. */
  frequencies: Float64Array
  sampleRate: Hertz
  /** dB over the target without any filter; at a point that must be left alone 0. */
  error: Float64Array
  /** Weight of the error at each point; where a point must be left alone, that of what the filters do there. */
  weight: Float64Array
  /** Points that filters must leave alone: they are judged by what the filters do, not by what is left of the error. */
  alone: readonly boolean[]
  /** A constant level may be added to the target. */
  level: boolean
  bands: number
  gain: readonly [low: number, high: number]
  q: readonly [low: number, high: number]
  range: readonly [low: number, high: number]
  kinds: readonly FitKind[]
  /** dB of what is set already at each point: with the filters it keeps within `gain`. */
  before: Float64Array
}

/** Filters and the level added to the target, with the weighted sum of squares that they leave. */
interface State {
  kinds: FitKind[]
  x: Float64Array
  cost: number
}

const perBand = 3
/** dB RMS under which nothing is left to be bettered. */
const perfect = 0.002
/** Gains in cost under this part of it are no gains. */
const worthwhile = 1e-4
const candidatesTried = 4
/** What filters together may not pass the limits by is looked at every so many points, and weighs so much. */
const limitEvery = 2
const limitWeight = 6
/** So many filters are few. */
const few = 5

/**
 * Places filters one by one where the error is largest, each with all that were placed before brought to their best
 * together, then takes each away and places it anew while that helps. `onProgress` is told parts from 0 to 1 and stops
 * the search by giving false.
 */
export function placeFilters(task: Task, onProgress: (part: number) => boolean = () => true): {
  filters: FitFilter[]
  level: number
} {
  const { frequencies, sampleRate, error, weight, alone } = task
  const m = frequencies.length
  const all = m + Math.ceil(m / limitEvery)
  const tangents = tangentsOf(frequencies, sampleRate)
  const level = new Float64Array(m)
  const slopes = [new Float64Array(m), new Float64Array(m), new Float64Array(m)] as const
  const bounds = [
    [Math.log(task.range[0]), Math.log(task.range[1])],
    task.gain,
    [Math.log(task.q[0]), Math.log(task.q[1])],
  ] as const
  const clamped = (value: number, k: 0 | 1 | 2) => Math.min(bounds[k][1], Math.max(bounds[k][0], value))
  const bandsOf = (x: Float64Array) => Math.floor(x.length / perBand)
  const levelOf = (x: Float64Array) => (task.level ? x[x.length - 1]! : 0)

  /** What filters start from: the error, of points left alone nothing. */
  const bare = error.map((v, k) => (alone[k] ? 0 : v))
  /** The same with the filters that stand while one more is sought. */
  const standing = bare.slice()
  let from = bare
  /** Weighted residuals: what filters start from and what they do, less the level where it counts. */
  function evaluate(kinds: readonly FitKind[], x: Float64Array, r: Float64Array, rows: readonly Float64Array[] | null) {
    const offset = levelOf(x)
    for (let k = 0; k < m; k++) r[k] = alone[k] ? from[k]! : from[k]! - offset
    kinds.forEach((kind, b) => {
      const at = perBand * b
      filterLevel(kind, x[at]!, x[at + 1]!, x[at + 2]!, tangents, sampleRate, level, rows && slopes)
      for (let k = 0; k < m; k++) r[k]! += level[k]!
      if (!rows) return
      for (let p = 0; p < perBand; p++) {
        const row = rows[at + p]!
        const slope = slopes[p]!
        for (let k = 0; k < m; k++) row[k] = weight[k]! * slope[k]!
      }
    })
    if (rows && task.level) {
      const row = rows[rows.length - 1]!
      for (let k = 0; k < m; k++) row[k] = alone[k] ? 0 : -weight[k]!
      row.fill(0, m)
    }
    for (let k = 0, n = m; k < m; k += limitEvery, n++) {
      const sum = task.before[k]! + r[k]! - bare[k]! + (alone[k] ? 0 : offset)
      const over = Math.max(0, sum - task.gain[1]) + Math.min(0, sum - task.gain[0])
      r[n] = limitWeight * over
      if (!rows) continue
      const counts = over ? limitWeight / (weight[k]! || 1) : 0
      for (let b = 0; b < perBand * kinds.length; b++) rows[b]![n] = counts * rows[b]![k]!
    }
    for (let k = 0; k < m; k++) r[k]! *= weight[k]!
  }

  const solvers = new Map<string, (x: Float64Array, rounds: number, least: number) => number>()
  /** Brings all numbers of a state to their best together. */
  function polish({ kinds, x }: Omit<State, 'cost'>, rounds: number, least = 1e-6): State {
    const key = kinds.join()
    let solver = solvers.get(key)
    if (!solver) {
      const wide = task.level ? 1 : 0
      const side = (s: 0 | 1) => Float64Array.from([
        ...kinds.flatMap(() => bounds.map(b => b[s])),
        ...(wide ? [s ? 200 : -200] : []),
      ])
      const unknowns = perBand * kinds.length + wide
      solver = createSolver({
        unknowns,
        residuals: all,
        low: side(0),
        high: side(1),
        evaluate: (at, r, rows) => evaluate(kinds, at, r, rows),
      })
      solvers.set(key, solver)
    }
    const moved = x.slice()
    return { kinds, x: moved, cost: solver(moved, rounds, least) }
  }

  const left = new Float64Array(all)
  /** Where one more filter would find most: runs of one sign, the largest first. */
  function candidates({ kinds, x }: State): { at: number, gain: number, octaves: number }[] {
    evaluate(kinds, x, left, null)
    const found: { at: number, gain: number, octaves: number, size: number }[] = []
    const perOctave = (m - 1) / Math.log2(frequencies[m - 1]! / frequencies[0]!)
    for (let first = 0; first < m;) {
      const sign = Math.sign(left[first]!)
      let to = first
      let size = 0
      let top = first
      for (; to < m && Math.sign(left[to]!) === sign; to++) {
        size += left[to]! ** 2
        if (Math.abs(left[to]!) > Math.abs(left[top]!)) top = to
      }
      const gain = -left[top]! / (weight[top]! || 1)
      if (sign !== 0 && clamped(gain, 1) * gain > 0)
        found.push({ at: top, gain, octaves: Math.max(1, halfWidth(first, to, top)) / perOctave, size })
      first = Math.max(to, first + 1)
    }
    return found.sort((a, b) => b.size - a.size).slice(0, candidatesTried)
  }
  /** Points of a run over half of its top. */
  function halfWidth(first: number, to: number, top: number): number {
    let [a, b] = [top, top]
    const half = Math.abs(left[top]!) / 2
    while (a > first && Math.abs(left[a - 1]!) > half) a--
    while (b < to - 1 && Math.abs(left[b + 1]!) > half) b++
    return b - a + 1
  }

  /** One filter and the level, from a first guess. */
  const alike = (state: State, kind: FitKind, numbers: readonly number[]): Omit<State, 'cost'> => ({
    kinds: [kind],
    x: Float64Array.from([
      ...numbers.map((v, k) => clamped(v, k as 0 | 1 | 2)),
      ...(task.level ? [levelOf(state.x)] : []),
    ]),
  })
  /**
   * One more filter, brought to its best alone from several first guesses, then with all others; null where there is
   * nothing for it to do.
   */
  function add(state: State, rounds: number): State | null {
    const guesses = candidates(state).flatMap(({ at, gain, octaves }) => {
      const f = Math.log(frequencies[at]!)
      const q = Math.log(1 / (2 * Math.sinh((Math.LN2 / 2) * Math.min(6, octaves))))
      return task.kinds.map(kind => alike(state, kind, [f, gain, kind === 'peaking' ? q : Math.log(0.7)]))
    })
    const bands = state.x.subarray(0, perBand * state.kinds.length)
    for (let k = 0; k < m; k++) standing[k] = left[k]! / (weight[k]! || 1) + (alone[k] ? 0 : levelOf(state.x))
    from = standing
    const tried = guesses.map(guess => polish(guess, 12, 1e-3)).sort((a, b) => a.cost - b.cost)
    from = bare
    // beside few others the best alone need not be the best together
    return tried.slice(0, bands.length < perBand * few ? candidatesTried : 1)
      .map(one => polish({ kinds: [...state.kinds, ...one.kinds], x: joined(bands, one.x) }, rounds, 1e-4))
      .reduce<State | null>((best, next) => (best && best.cost <= next.cost ? best : next), null)
  }
  const without = (state: State, band: number): State => {
    const keep = (_: unknown, k: number) => k < perBand * band || k >= perBand * (band + 1)
    return polish({ kinds: state.kinds.filter((_, b) => b !== band), x: state.x.filter(keep) }, 4, 1e-3)
  }

  /** Filters all at once at places by chance, with the gains that the error there asks for. */
  function scattered(random: () => number): State {
    const spots = Array.from({ length: task.bands }, () => Math.floor(random() * m)).sort((a, b) => a - b)
    const numbers = spots.flatMap(k => [
      Math.log(frequencies[k]!),
      clamped(mean(error, alone) - error[k]!, 1),
      (bounds[2][0] + bounds[2][1]) / 2,
    ])
    const x = Float64Array.from([...numbers, ...(task.level ? [mean(error, alone)] : [])])
    return polish({ kinds: spots.map(() => task.kinds[Math.floor(random() * task.kinds.length)]!), x }, 40, 1e-5)
  }
  const start = Float64Array.from(task.level ? [mean(error, alone)] : [])
  let state = polish({ kinds: [], x: start }, 2)
  const done = m * perfect * perfect
  let goesOn = true
  while (goesOn && state.cost > done && state.kinds.length < task.bands) {
    const more = add(state, 12)
    if (!more || !(more.cost < state.cost * (1 - worthwhile))) break
    state = polish(more, 12, 1e-5)
    goesOn = onProgress((0.4 * state.kinds.length) / task.bands)
  }
  // each filter in its turn taken away and placed anew, while that helps
  const passes = Math.min(60, 6 * task.bands)
  for (let pass = 0, idle = 0; goesOn && state.cost > done && pass < passes && idle < bandsOf(state.x); pass++) {
    const moved = add(without(state, pass % bandsOf(state.x)), 10)
    const better = moved && polish(moved, 25, 1e-5)
    if (better && better.cost < state.cost * (1 - 5e-4)) {
      state = better
      idle = 0
    }
    else idle++
    goesOn = onProgress(0.4 + (0.55 * pass) / passes)
  }
  // few filters are soon placed, and sooner wrongly: other beginnings cost little then
  const random = seededRandom(1)
  for (let n = 0; goesOn && state.cost > done && n < 40 / task.bands; n++) {
    const other = scattered(random)
    if (other.cost < state.cost) state = other
  }
  state = polish(state, 200, 1e-9)
  onProgress(1)
  const filters = state.kinds.map((kind, b) => ({
    kind,
    frequency: Math.exp(state.x[perBand * b]!),
    gain: state.x[perBand * b + 1]!,
    q: Math.exp(state.x[perBand * b + 2]!),
  }))
  return { level: levelOf(state.x), filters: withinLimits(filters, task) }
}

/** What is left of a limit that is passed, in dB: the rest of the way is taken exactly. */
const passed = 0.01
/** The same filters, those that add up beyond the limits lowered until they do not. */
function withinLimits(filters: FitFilter[], { frequencies, sampleRate, before, gain }: Task): FitFilter[] {
  const tangents = tangentsOf(frequencies, sampleRate)
  let kept = filters
  for (let round = 0; round < 50; round++) {
    const each = kept.map(({ kind, frequency, gain: by, q }) => {
      const level = new Float64Array(frequencies.length)
      filterLevel(kind, Math.log(frequency), by, Math.log(q), tangents, sampleRate, level, null)
      return level
    })
    const sum = before.map((v, k) => each.reduce((s, level) => s + level[k]!, v))
    const over = sum.map(v => Math.max(0, v - gain[1]) + Math.min(0, v - gain[0]))
    const worst = over.reduce((best, v, k) => (Math.abs(v) > Math.abs(over[best]!) ? k : best), 0)
    if (Math.abs(over[worst]!) < passed) return kept
    const sign = Math.sign(over[worst]!)
    const pushing = each.reduce((s, level) => s + Math.max(0, sign * level[worst]!), 0)
    if (pushing <= 0) return kept
    const part = Math.max(0, 1 - (Math.abs(over[worst]!) + passed / 2) / pushing)
    kept = kept.map((f, n) => (sign * each[n]![worst]! > 0 ? { ...f, gain: f.gain * part } : f))
  }
  return kept
}

const joined = (a: Float64Array, b: Float64Array) => Float64Array.from([...a, ...b])

function mean(values: Float64Array, without: readonly boolean[]): number {
  let sum = 0
  let count = 0
  for (let k = 0; k < values.length; k++) {
    if (without[k]) continue
    sum += values[k]!
    count++
  }
  return count ? sum / count : 0
}
