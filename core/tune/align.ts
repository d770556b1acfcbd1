import { decibelsOf, ratioOf, showNumber, type Decibels, type Seconds } from '../units'

/** What two sources read at one position, complex, at the frequencies of the task. */
export interface Pair {
  reference: { re: ArrayLike<number>, im: ArrayLike<number> }
  move: { re: ArrayLike<number>, im: ArrayLike<number> }
  /** By how much later the moved source is heard there, for what warmer air does; 0 unless it is known. */
  apart?: Seconds | undefined
}

/** One source to be brought to another, as they are heard at all positions. */
export interface AlignTask {
  frequencies: ArrayLike<number>
  /** Bandwidth that each frequency stands for, relative to the others. */
  widths: ArrayLike<number>
  pairs: readonly Pair[]
  /** Seconds that may be added to the moved source, first and last, and their step. */
  delay: readonly [Seconds, Seconds]
  step: Seconds
  /** Whether its polarity may be turned. */
  polarity: boolean
  /** dB that may be added to it; its level stays unless given. */
  level?: readonly [Decibels, Decibels] | undefined
  /** Weight of each position. */
  weights: readonly number[]
  /** No position may read less than this under the ideal sum. */
  worst?: Decibels | undefined
  names?: readonly string[] | undefined
}

export interface AlignCandidate {
  /** Seconds added to the moved source; negative: taken from it. */
  delay: Seconds
  polarity: 1 | -1
  level: Decibels
  /** Energy of the sum against that of the sum in phase, weighted mean over the positions, in dB. */
  score: Decibels
  positions: Decibels[]
  reasons: string[]
}

const mostProducts = 3e8
const mostCandidates = 5
/** Metres and degrees by which places and air may be off. */
const [off, warmer] = [0.3, 2]
const soundAt20 = 343.2
/** Part by which flight times change for `warmer` at 20 °C: c goes with the square root of the absolute temperature. */
const stretch = warmer / (2 * 293.15)

interface Position {
  /** Energy of each, Σ|R|·|M|, and R*·M with the width of its frequency, by frequency. */
  reference: number
  move: number
  product: number
  re: Float64Array
  im: Float64Array
}

function positionOf({ reference: r, move: m }: Pair, widths: ArrayLike<number>): Position {
  const re = new Float64Array(widths.length)
  const im = re.slice()
  let [reference, move, product] = [0, 0, 0]
  for (let k = 0; k < re.length; k++) {
    const [a, b, c, d, w] = [r.re[k]!, r.im[k]!, m.re[k]!, m.im[k]!, widths[k]!]
    re[k] = w * (a * c + b * d)
    im[k] = w * (a * d - b * c)
    reference += w * (a * a + b * b)
    move += w * (c * c + d * d)
    product += w * Math.sqrt((a * a + b * b) * (c * c + d * d))
  }
  return { reference, move, product, re, im }
}

/** Σ Re(X·e^(-jωτ)) over a grid of τ. */
function correlate(
  re: ArrayLike<number>,
  im: ArrayLike<number>,
  frequencies: ArrayLike<number>,
  [first, step, count]: readonly [Seconds, Seconds, number],
): Float64Array {
  const out = new Float64Array(count)
  for (let b = 0; b < frequencies.length; b++) {
    const w = -2 * Math.PI * frequencies[b]!
    const [c, s] = [Math.cos(w * step), Math.sin(w * step)]
    const [c0, s0] = [Math.cos(w * first), Math.sin(w * first)]
    let zr = re[b]! * c0 - im[b]! * s0
    let zi = re[b]! * s0 + im[b]! * c0
    for (let k = 0; k < count; k++) {
      out[k]! += zr
      const next = zr * c - zi * s
      zi = zr * s + zi * c
      zr = next
    }
  }
  return out
}

/** The level at which both are equally loud in the band, in the weighted mean of decibels, within what is allowed. */
function matchedLevel(positions: readonly Position[], weights: readonly number[], level: AlignTask['level']) {
  if (!level) return 0
  const all = weights.reduce((s, w) => s + w, 0)
  const apart = positions.reduce((s, p, n) => s + weights[n]! * 10 * Math.log10(p.reference / p.move), 0) / all
  return Math.min(level[1], Math.max(level[0], Number(apart.toFixed(2))))
}

function check(task: AlignTask) {
  const { delay: [from, to], step, pairs, weights, frequencies } = task
  if (!pairs.length) throw new RangeError('There is no position')
  if (!(to > from)) throw new RangeError('The longest delay must be above the shortest')
  if (!(step > 0)) throw new RangeError('The step of the delay must be above 0')
  if (!frequencies.length) throw new RangeError('There is no frequency in the band')
  if (weights.length !== pairs.length)
    throw new RangeError(`There are ${pairs.length} positions, but ${weights.length} weights`)
  if (!weights.some(w => w > 0)) throw new RangeError('Every position has the weight 0')
  const count = Math.floor((to - from) / step + 1e-6) + 1
  const each = task.worst === undefined ? 1 : pairs.length
  if (count * frequencies.length * each > mostProducts)
    throw new RangeError('So many delays and frequencies are too much at once: take a coarser step or a narrower band')
  return count
}

/**
 * The best delays and polarities of one source for its sum with another over all positions: those whose sum has most
 * energy against the ideal sum in phase, |R| + |M|, best first, each at a peak of its own. Throws RangeError with what
 * is wrong with the task. `onProgress` is told parts from 0 to 1 and stops the search by giving false.
 */
export function alignSources(task: AlignTask, onProgress: (part: number) => boolean = () => true): AlignCandidate[] {
  const count = check(task)
  const { frequencies, widths, pairs, delay: [first], step, weights } = task
  const positions = pairs.map(p => positionOf(p, widths))
  if (positions.some((p, n) => weights[n]! > 0 && !(p.reference > 0 && p.move > 0)))
    throw new RangeError('One of the sources is silent at a position in this band')
  const level = matchedLevel(positions, weights, task.level)
  const g = ratioOf(level)
  const ideal = positions.map(p => Math.max(1e-300, p.reference + g * g * p.move + 2 * g * p.product))
  const all = weights.reduce((s, w) => s + w, 0)
  const shares = weights.map((w, n) => w / all / ideal[n]!)
  const base = positions.reduce((s, p, n) => s + shares[n]! * (p.reference + g * g * p.move), 0)
  const re = Float64Array.from(frequencies, (_, b) => positions.reduce((s, p, n) => s + shares[n]! * p.re[b]!, 0))
  const im = Float64Array.from(frequencies, (_, b) => positions.reduce((s, p, n) => s + shares[n]! * p.im[b]!, 0))
  const grid = [first, step, count] as const
  const together = correlate(re, im, frequencies, grid)
  const each = task.worst === undefined ? null : positions.map(p => correlate(p.re, p.im, frequencies, grid))
  onProgress(0.8)

  /** Ratio of a position's sum to its ideal at a delay that need not lie on the grid. */
  const ratioAt = (n: number, delay: Seconds, polarity: number, gain = g) => {
    const p = positions[n]!
    const c = correlate(p.re, p.im, frequencies, [delay, 0, 1])[0]!
    const whole = gain === g ? ideal[n]! : p.reference + gain * gain * p.move + 2 * gain * p.product
    return Math.max(1e-30, (p.reference + gain * gain * p.move + 2 * gain * polarity * c) / whole)
  }
  const allowed = (k: number, polarity: number) => !each || each.every((c, n) => {
    const p = positions[n]!
    const sum = p.reference + g * g * p.move + 2 * g * polarity * c[k]!
    return weights[n] === 0 || 10 * Math.log10(Math.max(1e-30, sum / ideal[n]!)) >= task.worst!
  })
  const signs: (1 | -1)[] = task.polarity ? [1, -1] : [1]
  const scores = new Map(signs.map((s) => {
    const list = together.map((c, k) => (allowed(k, s) ? base + 2 * g * s * c : -Infinity))
    return [s, list] as const
  }))
  const none = [...scores.values()].every(list => list.every(v => v === -Infinity))
  if (none) for (const s of signs) scores.set(s, together.map(c => base + 2 * g * s * c))
  return peaksOf(scores)
    .slice(0, mostCandidates)
    .map(({ k, polarity, score }) => {
      const delay = Number((first + k * step).toFixed(9))
      const read = positions.map((_, n) => decibelsOf(Math.sqrt(ratioAt(n, delay, polarity))))
      return {
        delay,
        polarity,
        level,
        score: Math.min(0, 10 * Math.log10(Math.max(1e-30, score))),
        positions: read.map(v => Math.min(0, v)),
        reasons: [
          ...(none ? [`no delay keeps every position above ${showNumber(task.worst!, 1)} dB: these come nearest`] : []),
          ...reasonsOf(task, { delay, polarity, read, ratioAt }),
        ],
      }
    })
}

/** Scores in dB over delays in seconds, with the polarity as it is and turned. */
export interface AlignMap {
  delays: Float64Array
  kept: Float64Array
  turned: Float64Array
}
/** Scores of every delay of a task's grid, at the levels as they are. Throws as `alignSources` does. */
export function alignMap(task: Omit<AlignTask, 'worst' | 'level'>): AlignMap {
  const count = check({ ...task, worst: undefined })
  const { frequencies, widths, pairs, delay: [first], step, weights } = task
  const positions = pairs.map(p => positionOf(p, widths))
  const all = weights.reduce((s, w) => s + w, 0)
  const shares = positions.map((p, n) => weights[n]! / all / Math.max(1e-300, p.reference + p.move + 2 * p.product))
  const base = positions.reduce((s, p, n) => s + shares[n]! * (p.reference + p.move), 0)
  const mean = (part: 're' | 'im') =>
    Float64Array.from(frequencies, (_, b) => positions.reduce((s, p, n) => s + shares[n]! * p[part][b]!, 0))
  const together = correlate(mean('re'), mean('im'), frequencies, [first, step, count])
  const levels = (sign: number) => together.map(c => 10 * Math.log10(Math.max(1e-4, base + 2 * sign * c)))
  return { delays: together.map((_, k) => first + k * step), kept: levels(1), turned: levels(-1) }
}

interface Peak {
  k: number
  polarity: 1 | -1
  score: number
}
/** Local maxima of all polarities, best first. */
function peaksOf(scores: ReadonlyMap<1 | -1, Float64Array>): Peak[] {
  const peaks: Peak[] = []
  for (const [polarity, list] of scores) {
    list.forEach((score, k) => {
      const higher = (other: number | undefined) => other === undefined || score > other
      if (score > -Infinity && higher(list[k - 1]) && (higher(list[k + 1]) || score === list[k + 1]))
        peaks.push({ k, polarity, score })
    })
  }
  return peaks.sort((a, b) => b.score - a.score)
}

interface Judged {
  delay: Seconds
  polarity: 1 | -1
  read: readonly Decibels[]
  ratioAt: (n: number, delay: Seconds, polarity: number, gain?: number) => number
}
/** Why a candidate is good, and how sure: against what is set now, and with places and air a little off. */
function reasonsOf({ pairs, names, weights }: AlignTask, { delay, polarity, read, ratioAt }: Judged): string[] {
  const nameOf = (n: number) => names?.[n] ?? `position ${n + 1}`
  const counted = [...pairs.keys()].filter(n => weights[n]! > 0)
  const level = (ratio: number) => 10 * Math.log10(ratio)
  const signed = (v: number) => `${v > 0 ? '+' : ''}${showNumber(v, 1)} dB`
  const gains = counted
    .map(n => ({ n, gain: read[n]! - level(ratioAt(n, 0, 1, 1)) }))
    .sort((a, b) => b.gain - a.gain)
  const [most, least] = [gains[0]!, gains.at(-1)!]
  const change = most === least
    ? `${signed(most.gain)} at ${nameOf(most.n)}`
    : `${signed(most.gain)} at ${nameOf(most.n)}, ${signed(least.gain)} at ${nameOf(least.n)}`
  const mean = (shift: (n: number) => Seconds) => {
    const all = counted.reduce((s, n) => s + weights[n]!, 0)
    return level(counted.reduce((s, n) => s + weights[n]! * ratioAt(n, delay + shift(n), polarity), 0) / all)
  }
  const now = mean(() => 0)
  const costs = (by: (n: number, sign: number) => Seconds) =>
    Math.min(0, ...[1, -1].map(sign => mean(n => by(n, sign)) - now))
  const known = pairs.every(p => p.apart !== undefined)
  return [
    `${change} against what is set now, as part of the sum in phase`,
    `±${off} m cost ${signed(costs((_, sign) => (sign * off) / soundAt20))}`,
    ...(known
      ? [`±${warmer} °C cost ${signed(costs((n, sign) => -sign * stretch * pairs[n]!.apart!))}`]
      : []),
  ]
}
