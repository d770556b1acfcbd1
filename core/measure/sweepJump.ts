import { classical, complexFft, filterThrough, type SweepPlan } from '../dsp'
import type { Hertz, Seconds } from '../units'
import type { HeardSweep } from './sweepHeard'

// Samples that a machine left out of the microphone alone, or recorded twice, while the reference is whole.

/**
 * A jump is a click: it is heard in bands that nothing else fills. While a low tone plays that is above its harmonics,
 * while a high one plays well below it, where only what went before dies away.
 */
interface Look {
  /** Tones that play meanwhile. */
  tones: readonly [low: Hertz, high: Hertz]
  band: readonly [low: Hertz, high: Hertz]
  /** How far it must stand over the RMS of what lies around it, how far that reaches, and what the click takes. */
  over: number
  around: Seconds
  itself: Seconds
}
/** Harmonics that count, and where the band above them begins as a part of the rate. */
const harmonics = 6
const above = 0.3
const looksFor = (sampleRate: Hertz): Look[] => [
  {
    tones: [0, (above * sampleRate) / harmonics],
    band: [above * sampleRate, Infinity],
    over: 20, around: 0.02, itself: 0.0006,
  },
  // the lower band is emptier of what dies away, the higher one of the hall's own noise
  ...[2200, 4000, 7500, 14_000].flatMap(f => [[f / 7, f / 3], [f / 13, f / 5]].map(([low, high]): Look => ({
    tones: [f, 2 * f],
    band: [low!, high!],
    over: 6.5, around: 0.03, itself: 0.0004 + 3 / f,
  }))),
]
/** Over a part of the sweep itself. */
const overSweep = 3e-4

/** Mean square over a stretch, from running sums. */
const meanOf = (sums: Float64Array, from: number, to: number) => {
  const [a, b] = [Math.max(0, from), Math.min(sums.length - 1, to)]
  return b > a ? (sums[b]! - sums[a]!) / (b - a) : 0
}
function sumsOf(x: ArrayLike<number>): Float64Array {
  const sums = new Float64Array(x.length + 1)
  for (let n = 0; n < x.length; n++) sums[n + 1] = sums[n]! + x[n]! * x[n]!
  return sums
}

/** One band of a recording: a steep high-pass, and a low-pass where the band ends. */
function bandOf(heard: Float32Array, [low, high]: Look['band'], sampleRate: Hertz): ArrayLike<number> {
  const above = filterThrough(classical('butterworth', 'high', 8, low, sampleRate), heard)
  return Number.isFinite(high) ? filterThrough(classical('butterworth', 'low', 8, high, sampleRate), above) : above
}

/**
 * Where a recorded sweep jumps, in samples; null where it does not, or where that drowns in what the room and the
 * loudspeaker add. A noise of the hall rings on around its peak, a jump does not.
 */
export function jumpIn(
  microphone: Float32Array,
  { start, length }: HeardSweep,
  plan: SweepPlan,
  sampleRate: Hertz,
): number | null {
  const placeOf = (f: Hertz) =>
    start + Math.round((Math.log(Math.max(plan.low, f) / plan.low) / Math.log(plan.high / plan.low)) * length)
  for (const look of looksFor(sampleRate)) {
    const from = Math.max(0, placeOf(look.tones[0]))
    const to = Math.min(microphone.length, placeOf(Math.min(plan.high, look.tones[1])))
    if (to - from < look.around * sampleRate) continue
    const found = clickIn(microphone.subarray(from, to), look, sampleRate)
    if (found !== null) return from + found
  }
  return null
}

function clickIn(heard: Float32Array, look: Look, sampleRate: Hertz): number | null {
  const band = bandOf(heard, look.band, sampleRate)
  const [bands, all] = [sumsOf(band), sumsOf(heard)]
  const wide = Math.round(look.around * sampleRate)
  const near = Math.round(look.itself * sampleRate)
  // the filter's own beginning is none
  for (let n = wide; n < band.length; n++) {
    const size = Math.abs(band[n]!)
    if (size * size < (overSweep * overSweep) * meanOf(all, n - wide, n + wide)) continue
    const before = meanOf(bands, n - wide, n - near)
    const behind = meanOf(bands, n + near, n + wide)
    if (size > look.over * Math.sqrt(Math.max(before, behind))) return n
  }
  return null
}

/** Thirds of an octave from 2 to 16 kHz, by Gaussian filters: narrower ones would not tell a millisecond. */
const middles = Array.from({ length: 10 }, (_, k) => 2000 * 2 ** (k / 3))
const width = 0.12
const searched: Seconds = 0.06
/** Less apart may be a crossover; and so loud is its other side in the third beside it, and in the next, in a ratio. */
const leastApart: Seconds = 0.0012
const besides = [10 ** (-16 / 20), 10 ** (-28 / 20)]
const alike = 0.25
/** Machines lose whole blocks: multiples of these (common practice: powers of two, and hundredths of a second). */
const blocks = [32, 441, 480]
const isBlocks = (samples: number) =>
  blocks.some(b => Math.abs(samples - b * Math.max(1, Math.round(samples / b))) <= 2)

interface BandPeak {
  time: number
  level: number
  envelope: Float64Array
}

/** Envelope of one band of a response around sample `at`, and its peak. */
function bandPeak(re: Float64Array, im: Float64Array, middle: Hertz, sampleRate: Hertz): BandPeak {
  const size = re.length
  const [ar, ai] = [new Float64Array(size), new Float64Array(size)]
  for (let k = 1; k < size / 2; k++) {
    const w = 2 * Math.exp(-0.5 * (((k * sampleRate) / size - middle) / (width * middle)) ** 2)
    ar[k] = re[k]! * w
    ai[k] = im[k]! * w
  }
  complexFft(size).inverse(ar, ai)
  const envelope = ar.map((v, n) => Math.hypot(v, ai[n]!))
  let time = 0
  for (let n = 1; n < size; n++) if (envelope[n]! > envelope[time]!) time = n
  return { time, level: envelope[time]!, envelope }
}

const median = (list: number[]) => list.toSorted((a, b) => a - b)[Math.floor(list.length / 2)]!

/**
 * Where a sweep's response falls into two that arrive apart, below and above a frequency and with nothing of the one
 * in the other: no crossover does that, a sweep out of which samples are missing does. Null where it does not.
 */
export function splitOf(
  response: Float32Array,
  at: number,
  sampleRate: Hertz,
): { frequency: Hertz, later: Seconds } | null {
  const size = 2 ** Math.ceil(Math.log2(2 * searched * sampleRate))
  const re = new Float64Array(size)
  const im = new Float64Array(size)
  for (let n = 0; n < size; n++) re[n] = response[at - size / 2 + n] ?? 0
  complexFft(size).forward(re, im)
  const peaks = middles.filter(f => f < 0.4 * sampleRate).map(f => bandPeak(re, im, f, sampleRate))
  const slack = alike * leastApart * sampleRate
  for (let k = 2; k <= peaks.length - 2; k++)
    // the third in which it happens belongs to neither side
    for (const between of [0, 1]) {
      const [low, high] = [peaks.slice(0, k), peaks.slice(k + between)]
      const apart = high.length < 2 ? 0 : apartOf(low, high, slack, besides[between]!)
      if (Math.abs(apart) >= leastApart * sampleRate && isBlocks(Math.abs(apart)))
        return { frequency: middles[k]! * 2 ** ((between - 1) / 6), later: apart / sampleRate }
    }
  return null
}

/** Samples by which all of the high bands come later than all of the low ones; 0 where they do not fall apart. */
function apartOf(low: BandPeak[], high: BandPeak[], slack: number, quiet: number): number {
  const [a, b] = [median(low.map(p => p.time)), median(high.map(p => p.time))]
  const isOne = (side: BandPeak[], time: number) => side.every(p => Math.abs(p.time - time) < slack)
  if (!isOne(low, a) || !isOne(high, b)) return 0
  // on the later side nothing may come early: what reverberates comes after
  const [late, early] = b > a ? [high[0]!, a] : [low[low.length - 1]!, b]
  let before = 0
  for (let n = Math.max(0, Math.floor(early - slack)); n <= early + slack; n++)
    before = Math.max(before, late.envelope[n]!)
  return before < quiet * late.level ? b - a : 0
}
