import { ratioOf, type Decibels, type Seconds } from '../units'
import type { AlignTask, Pair } from './alignTask'
import { refusal } from '../words'

const mostProducts = 3e8

/** Whether each position must be looked at by itself. */
const limited = ({ worst, even = 0 }: AlignTask) => worst !== undefined || even > 0

/** What a position's sum is made of. */
export interface Position {
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
export function correlate(
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

/** Σ Re(X·e^(-jωτ)) at one τ. */
function correlateAt({ re, im }: Position, frequencies: ArrayLike<number>, delay: Seconds): number {
  let sum = 0
  for (let b = 0; b < frequencies.length; b++) {
    const w = 2 * Math.PI * frequencies[b]! * delay
    sum += re[b]! * Math.cos(w) + im[b]! * Math.sin(w)
  }
  return sum
}

/** The level at which both are equally loud in the band, in the weighted mean of decibels, within what is allowed. */
function matchedLevel(positions: readonly Position[], weights: readonly number[], level: AlignTask['level']) {
  if (!level) return 0
  const all = weights.reduce((s, w) => s + w, 0)
  const apart = positions.reduce((s, p, n) => s + weights[n]! * 10 * Math.log10(p.reference / p.move), 0) / all
  return Math.min(level[1], Math.max(level[0], Number(apart.toFixed(2))))
}

/** How many delays a task asks for. Throws RangeError with what is wrong with it. */
function check(task: AlignTask) {
  const { delay: [from, to], step, pairs, weights, frequencies } = task
  if (!pairs.length) throw refusal('align.noPosition')
  if (!(to > from)) throw refusal('align.delays')
  if (!(step > 0)) throw refusal('align.step')
  if (!frequencies.length) throw refusal('align.noFrequency')
  if (weights.length !== pairs.length)
    throw refusal('align.weights', { positions: pairs.length, weights: weights.length })
  if (!weights.some(w => w > 0)) throw refusal('align.noWeight')
  const count = Math.floor((to - from) / step + 1e-6) + 1
  const each = limited(task) ? pairs.length : 1
  if (count * frequencies.length * each > mostProducts)
    throw refusal('align.tooMuch')
  return count
}

/** Scores of every delay and polarity of a task, and what a position reads at any of them. */
export interface Surface {
  first: Seconds
  step: Seconds
  count: number
  level: Decibels
  /** Ranked by; linear, -Infinity where a position reads less than it may. */
  scores: ReadonlyMap<1 | -1, Float64Array>
  /** Energy of the sum against that in phase, weighted mean, linear; whatever is allowed. */
  energies: ReadonlyMap<1 | -1, Float64Array>
  /** No delay keeps what was asked for: `scores` are those without it. */
  none: boolean
  /** Ratio of a position's sum to that in phase at a delay that need not lie on the grid. */
  ratioAt: (n: number, delay: Seconds, polarity: number) => number
  /** Energy of a position's sum. */
  energyAt: (n: number, delay: Seconds, polarity: number) => number
}

const floor = 1e-30
const asLevel = (ratio: number): Decibels => 10 * Math.log10(Math.max(floor, ratio))

/** The scores of a task (see `alignSources`). Throws RangeError with what is wrong with it. */
export function surfaceOf(task: AlignTask): Surface {
  const count = check(task)
  const { frequencies, widths, pairs, delay: [first], step, weights } = task
  const positions = pairs.map(p => positionOf(p, widths))
  if (positions.some((p, n) => weights[n]! > 0 && !(p.reference > 0 && p.move > 0)))
    throw refusal('align.silent')
  const level = matchedLevel(positions, weights, task.level)
  const g = ratioOf(level)
  const apart = positions.map(p => p.reference + g * g * p.move)
  const ideal = positions.map((p, n) => Math.max(1e-300, apart[n]! + 2 * g * p.product))
  const all = weights.reduce((s, w) => s + w, 0)
  const shares = weights.map((w, n) => w / all / ideal[n]!)
  const base = shares.reduce((s, share, n) => s + share * apart[n]!, 0)
  const mean = (part: 're' | 'im') =>
    Float64Array.from(frequencies, (_, b) => positions.reduce((s, p, n) => s + shares[n]! * p[part][b]!, 0))
  const grid = [first, step, count] as const
  const together = correlate(mean('re'), mean('im'), frequencies, grid)
  const each = limited(task) ? positions.map(p => correlate(p.re, p.im, frequencies, grid)) : null
  const signs: (1 | -1)[] = task.polarity ? [1, -1] : [1]
  const energies = new Map(signs.map(s => [s, together.map(c => base + 2 * g * s * c)] as const))
  const readAt = (n: number, k: number, s: number) => asLevel((apart[n]! + 2 * g * s * each![n]![k]!) / ideal[n]!)
  const ranked = each ? rankedBy(task, energies, readAt) : energies
  const none = [...ranked.values()].every(list => list.every(v => v === -Infinity))
  const energyAt = (n: number, delay: Seconds, polarity: number) => {
    const c = correlateAt(positions[n]!, frequencies, delay)
    return Math.max(0, apart[n]! + 2 * g * polarity * c)
  }
  return {
    first, step, count, level, energies, none, energyAt,
    scores: none ? energies : ranked,
    ratioAt: (n, delay, polarity) => Math.max(floor, energyAt(n, delay, polarity) / ideal[n]!),
  }
}

/** Scores with the limit for the worst position, and with what evenness between them is worth. */
function rankedBy(
  { weights, worst, even = 0 }: AlignTask,
  energies: ReadonlyMap<1 | -1, Float64Array>,
  readAt: (n: number, k: number, sign: number) => Decibels,
) {
  const counted = [...weights.keys()].filter(n => weights[n]! > 0)
  const all = counted.reduce((s, n) => s + weights[n]!, 0)
  const rank = (energy: number, k: number, sign: number) => {
    let [least, sum, squares] = [Infinity, 0, 0]
    for (const n of counted) {
      const v = readAt(n, k, sign)
      least = Math.min(least, v)
      sum += (weights[n]! / all) * v
      squares += (weights[n]! / all) * v * v
    }
    if (worst !== undefined && least < worst) return -Infinity
    return even ? energy * 10 ** (-(even * Math.sqrt(Math.max(0, squares - sum * sum))) / 10) : energy
  }
  return new Map([...energies].map(([sign, list]) => [sign, list.map((e, k) => rank(e, k, sign))] as const))
}
