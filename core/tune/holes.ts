import { trustThreshold } from '../measure'
import { showDelay, showFrequency, showLevel, showNumber, type Decibels, type Hertz } from '../units'
import { combInLevel, type LevelComb } from './combDips'
import { message, type Message } from '../words'

/** What is known of the curve at a point of the grid besides its level. */
export interface Evidence {
  /** Lowest and highest level in dB of the curves there, each less its own mean level; equal for one curve. */
  low: Float64Array
  high: Float64Array
  /** Mean coherence; null where no curve has any. */
  coherence: Float64Array | null
}

/** A dip that is not filled, and why. */
export interface Hole {
  frequency: Hertz
  reason: Message
  /** Points of the grid that it takes. */
  from: number
  to: number
}

/** dB under the target from which a dip is looked at. */
const shallow = 2
/** dB between positions from which a dip is theirs and not the loudspeaker's. */
const apart = 6
/** A dip this deep and narrow is a cancellation: no minimum-phase loudspeaker makes one (common practice). */
const deep = 4
const narrow = 1 / 3
/** Octaves within which a dip is the comb's. */
const combNear = 1 / 6

/**
 * Dips of an error (dB over the target, on an even logarithmic grid) that EQ should leave alone: what reflections
 * cancel, and what differs between positions. A boost there drives both sounds harder, and another place pays for it
 * (common practice).
 */
export function holesOf(frequencies: Float64Array, error: Float64Array, evidence: Evidence): Hole[] {
  const m = error.length
  const octaves = Math.log2(frequencies[m - 1]! / frequencies[0]!) / (m - 1)
  const holes: Hole[] = []
  const comb = combInLevel(frequencies, error)
  for (let from = 0; from < m;) {
    if (!(error[from]! < -shallow)) {
      from++
      continue
    }
    let to = from
    let bottom = from
    for (; to < m && error[to]! < -shallow; to++) if (error[to]! < error[bottom]!) bottom = to
    const dip = { depth: -error[bottom]!, octaves: (to - from) * octaves, at: bottom, frequency: frequencies[bottom]! }
    const reason = whyLeft(dip, evidence, comb)
    if (reason) holes.push({ frequency: frequencies[bottom]!, reason, from, to })
    from = to
  }
  return holes
}

interface Dip {
  depth: Decibels
  octaves: number
  at: number
  frequency: Hertz
}

function whyLeft(
  { depth, octaves, at, frequency }: Dip,
  { low, high, coherence }: Evidence,
  comb: LevelComb | null,
): Message | null {
  const between = high[at]! - low[at]!
  if (between > apart) {
    return message('tuning.thePositionsDifferBy', { between: showNumber(between, 1) })
  }
  if (coherence && coherence[at]! < trustThreshold) {
    return message('tuning.dbUnderTheTarget', {
      depth: showNumber(depth, 1),
      coherence: showNumber(coherence[at]!, 2),
    })
  }
  if (comb?.dips.some(f => Math.abs(Math.log2(f / frequency)) < combNear)) {
    const [first, ...more] = comb.dips.slice(0, 3).map(f => showFrequency(Math.round(f)))
    return message('tuning.dbDeepOneOf', {
      depth: showNumber(depth, 1),
      dips: [first, ...more].join(', '),
      delay: showDelay(comb.delay),
    })
  }
  if (depth > deep && octaves < narrow) {
    return message('tuning.dbDeepAndOnly', { depth: showNumber(depth, 1), octaves: showNumber(octaves, 2) })
  }
  return null
}

/** What the limits leave over of the error: places where more than `most` dB remain, and why. */
export function remains(
  frequencies: Float64Array,
  error: Float64Array,
  gain: readonly [number, number],
  holes: readonly Hole[],
  most = 3,
): { frequency: Hertz, reason: Message }[] {
  const found: { frequency: Hertz, reason: Message }[] = []
  const inHole = (k: number) => holes.some(h => k >= h.from && k < h.to)
  for (let k = 0; k < error.length;) {
    if (Math.abs(error[k]!) <= most || inHole(k)) {
      k++
      continue
    }
    let top = k
    const sign = Math.sign(error[k]!)
    for (; k < error.length && error[k]! * sign > most && !inHole(k); k++)
      if (Math.abs(error[k]!) > Math.abs(error[top]!)) top = k
    const limit = sign < 0 ? gain[1] : gain[0]
    const why = limit * -sign <= 0
      ? message(sign < 0 ? 'tuning.onlyCuts' : 'tuning.onlyBoosts')
      : message('tuning.theFiltersAndLimits')
    const reason = message('tuning.areLeft', { error: showLevel(error[top]!), why })
    found.push({ frequency: frequencies[top]!, reason })
  }
  return found
}
