import { showNumber, type Decibels, type Seconds } from '../units'
import { surfaceOf, type Surface } from './alignScore'
import type { AlignTask, Complex } from './alignTask'
import { message, type Message } from '../words'

export interface AlignCandidate {
  /** Seconds added to the moved source; negative: taken from it. */
  delay: Seconds
  polarity: 1 | -1
  level: Decibels
  /** Energy of the sum against that of the sum in phase, weighted mean over the positions, in dB. */
  score: Decibels
  positions: Decibels[]
  reasons: Message[]
}

const mostCandidates = 5
/** Scores nearer than this cannot be told apart: of these, what needs least is told first. */
const alike: Decibels = 0.05
/** Metres and degrees by which places and air may be off. */
const [off, warmer] = [0.3, 2]
const soundAt20 = 343.2
/** Part by which flight times change for `warmer` at 20 °C: c goes with the square root of the absolute temperature. */
const stretch = warmer / (2 * 293.15)

/** What a filter or a crossover does to both sources, complex, at the task's frequencies. */
export interface Variant {
  reference?: Complex | undefined
  move?: Complex | undefined
}

/** Scores in dB over delays in seconds, with the polarity normal and turned. */
export interface AlignMap {
  delays: Float64Array
  kept: Float64Array
  turned: Float64Array
}
export interface VariantCandidate extends AlignCandidate {
  variant: number
  /** dB of energy in the band over what is set now, weighted mean of the positions; 0 where only delays differ. */
  gain: Decibels
}

/**
 * The best delays and polarities of one source for its sum with another over all positions: those whose sum has most
 * energy against the ideal sum in phase, |R| + |M|, best first, each at a peak of its own; of those within 0.05 dB of
 * the best, the shortest delay first. Throws RangeError with what is wrong with the task.
 */
export const alignSources = (task: AlignTask): AlignCandidate[] =>
  alignVariants(task, [{}]).candidates.map(({ variant: _, gain: __, ...candidate }) => candidate)

function mapOf({ first, step, count, energies }: Surface): AlignMap {
  const levels = (sign: 1 | -1) =>
    energies.get(sign)?.map(e => 10 * Math.log10(Math.max(1e-4, e))) ?? new Float64Array(count).fill(-40)
  const delays = Float64Array.from({ length: count }, (_, k) => first + k * step)
  return { delays, kept: levels(1), turned: levels(-1) }
}

interface Found {
  variant: number
  surface: Surface
  peak: Peak
}
const delayOf = ({ surface, peak }: Found): Seconds => surface.first + peak.k * surface.step
/** Best first; of those that are as good as the best, what needs no filter and the shortest delay. */
function inOrder<F extends Found>(list: readonly F[]): F[] {
  const ranked = list.toSorted((a, b) => b.peak.score - a.peak.score)
  const least = (ranked[0]?.peak.score ?? 0) * 10 ** (-alike / 10)
  const isBest = (f: Found) => f.peak.score >= least
  const cost = (f: Found) => Number(f.variant > 0) + Math.abs(delayOf(f))
  return [...ranked.filter(isBest).sort((a, b) => cost(a) - cost(b)), ...ranked.filter(f => !isBest(f))]
}

/** Two corners beside each other ask for about the same: only the better of them is told. */
const inPhaseWithin: Seconds = 1e-3
const isApart = (f: Found, n: number, list: readonly Found[]) => !list.slice(0, n).some((g) => {
  const both = [f, g].every(x => x.variant > 0)
  return both && g.peak.polarity === f.peak.polarity && Math.abs(delayOf(f) - delayOf(g)) < inPhaseWithin
})

/** A complex value times what a variant does to it. */
function through(value: Complex, by: Complex | undefined): Complex {
  if (!by) return value
  const re = Float64Array.from(value.re, (v, k) => v * by.re[k]! - value.im[k]! * by.im[k]!)
  const im = Float64Array.from(value.re, (v, k) => v * by.im[k]! + value.im[k]! * by.re[k]!)
  return { re, im }
}

/**
 * The same over several variants of filters too: candidates of all of them, best first, and each one's map. The first
 * variant is what is set now. `onProgress` is told parts from 0 to 1 and stops the search by giving false: what was
 * found until then is given.
 */
export function alignVariants(
  task: AlignTask,
  variants: readonly Variant[],
  onProgress: (part: number) => boolean = () => true,
): { candidates: VariantCandidate[], maps: AlignMap[] } {
  const { pairs, weights } = task
  const found: { variant: number, surface: Surface, peaks: Peak[], task: AlignTask }[] = []
  for (const [variant, v] of variants.entries()) {
    const own = pairs.map(p =>
      ({ ...p, reference: through(p.reference, v.reference), move: through(p.move, v.move) }))
    const surface = surfaceOf({ ...task, pairs: own })
    found.push({ variant, surface, peaks: peaksOf(surface.scores), task: { ...task, pairs: own } })
    if (!onProgress((variant + 1) / variants.length)) break
  }
  const [now] = found
  const today = task.level ? surfaceOf({ ...now!.task, level: undefined }) : now!.surface
  const each = found.length > 1 ? 2 : mostCandidates
  const before = pairs.map((_, n) => asLevel(today.ratioAt(n, 0, 1)))
  const candidates = inOrder(found.flatMap(f => inOrder(f.peaks.map(peak => ({ ...f, peak }))).slice(0, each)))
    .filter(isApart)
    // what needs no filter is told beside the best
    .filter((f, n, list) => n < mostCandidates || f === list.find(x => x.variant === 0))
    .map(({ variant, surface, peak, task: own }) => {
      const delay = Number((surface.first + peak.k * surface.step).toFixed(9))
      const at = { delay, polarity: peak.polarity }
      // with the same filters the parts of the sum in phase say it all
      const gain = found.length > 1 ? gainOf(surface, today, at, weights) : 0
      return { ...candidateOf(own, surface, before, at), variant, gain }
    })
  return { candidates, maps: found.map(f => mapOf(f.surface)) }
}

export interface At {
  delay: Seconds
  polarity: 1 | -1
}
const asLevel = (ratio: number): Decibels => 10 * Math.log10(Math.max(1e-30, ratio))

function gainOf(surface: Surface, today: Surface, { delay, polarity }: At, weights: readonly number[]): Decibels {
  const all = weights.reduce((s, w) => s + w, 0)
  return weights.reduce((s, w, n) => w === 0
    ? s
    : s + (w / all) * (asLevel(surface.energyAt(n, delay, polarity)) - asLevel(today.energyAt(n, 0, 1))), 0)
}

function candidateOf(
  task: AlignTask,
  surface: Surface,
  before: readonly Decibels[],
  { delay, polarity }: At,
): AlignCandidate {
  const { level, none, ratioAt } = surface
  const positions = task.pairs.map((_, n) => Math.min(0, asLevel(ratioAt(n, delay, polarity))))
  const all = task.weights.reduce((s, w) => s + w, 0)
  const score = task.weights.reduce((s, w, n) => s + (w / all) * (w ? ratioAt(n, delay, polarity) : 0), 0)
  const least = none && task.worst !== undefined
    ? [message('tuning.noDelayKeepsEvery', { worst: showNumber(task.worst, 1) })]
    : []
  const reasons = [...least, ...reasonsOf(task, { delay, polarity, read: positions, before, ratioAt })]
  return { delay, polarity, level, score: Math.min(0, asLevel(score)), positions, reasons }
}

interface Peak {
  k: number
  polarity: 1 | -1
  score: number
}
/** Local maxima of all polarities. */
function peaksOf(scores: Surface['scores']): Peak[] {
  const peaks: Peak[] = []
  for (const [polarity, list] of scores) {
    list.forEach((score, k) => {
      const higher = (other: number | undefined) => other === undefined || score > other
      if (score > -Infinity && higher(list[k - 1]) && (higher(list[k + 1]) || score === list[k + 1]))
        peaks.push({ k, polarity, score })
    })
  }
  return peaks
}

interface Judged {
  delay: Seconds
  polarity: 1 | -1
  read: readonly Decibels[]
  before: readonly Decibels[]
  ratioAt: Surface['ratioAt']
}
/** Why a candidate is good, and how sure: against what is set now, and with places and air a little off. */
function reasonsOf(
  { pairs, names, weights }: AlignTask,
  { delay, polarity, read, before, ratioAt }: Judged,
): Message[] {
  const nameOf = (n: number) => names?.[n] ?? message('tuning.positionNumber', { number: n + 1 })
  const counted = [...pairs.keys()].filter(n => weights[n]! > 0)
  const signed = (v: number) => `${v > 0 ? '+' : ''}${showNumber(v, 1)} dB`
  const gains = counted
    .map(n => ({ n, gain: read[n]! - before[n]! }))
    .sort((a, b) => b.gain - a.gain)
  const [most, least] = [gains[0]!, gains.at(-1)!]
  const gained = { most: signed(most.gain), at: nameOf(most.n) }
  const mean = (shift: (n: number) => Seconds) => {
    const all = counted.reduce((s, n) => s + weights[n]!, 0)
    return asLevel(counted.reduce((s, n) => s + weights[n]! * ratioAt(n, delay + shift(n), polarity), 0) / all)
  }
  const now = mean(() => 0)
  const costs = (by: (n: number, sign: number) => Seconds) =>
    Math.min(0, ...[1, -1].map(sign => mean(n => by(n, sign)) - now))
  const known = pairs.every(p => p.apart !== undefined)
  return [
    most === least
      ? message('tuning.comparedAtOne', gained)
      : message('tuning.comparedAtTwo', { ...gained, least: signed(least.gain), other: nameOf(least.n) }),
    message('tuning.distanceCosts', { metres: off, cost: signed(costs((_, sign) => (sign * off) / soundAt20)) }),
    ...(known
      ? [message('tuning.airCosts', {
          degrees: warmer,
          cost: signed(costs((n, sign) => -sign * stretch * pairs[n]!.apart!)),
        })]
      : []),
  ]
}

/** What a sum reads against the sum in phase at any delay and polarity, for a task whose grid plays no part. */
export function sumReader(task: Omit<AlignTask, 'delay' | 'step' | 'polarity'>) {
  const surface = surfaceOf({ ...task, delay: [0, 1e-6], step: 1e-5, polarity: false })
  const all = task.weights.reduce((s, w) => s + w, 0)
  return ({ delay, polarity }: At): { score: Decibels, positions: Decibels[] } => {
    const ratios = task.pairs.map((_, n) => surface.ratioAt(n, delay, polarity))
    const score = asLevel(task.weights.reduce((s, w, n) => s + (w / all) * ratios[n]!, 0))
    return { score, positions: ratios.map(asLevel) }
  }
}
