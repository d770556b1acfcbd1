import { complexFft, type SweepPlan } from '../dsp'
import type { Hertz } from '../units'

/** Bands by whose arrivals a skew is told: thirds of an octave, from where a room leaves their times sharp. */
const middles = Array.from({ length: 13 }, (_, k) => 1000 * 2 ** (k / 3))
/** Width of a band's Gaussian filter as a part of its middle: over two periods, and under a skew that counts. */
const width = 0.15
/** Least differences that are told: what loudspeakers do by themselves within these octaves is less, in seconds. */
const leastApart = 0.0008
/** Part of the arrivals' spread that a straight line over the sweep's time must explain: a crossover makes a step. */
const straight = 0.93
/** How far from the whole sweep's arrival a band is looked for, in parts of a second. */
const searched = 0.04
/** A band this far under the strongest is not heard. */
const quiet = 10 ** (-30 / 20)

/** Where a band of a response is strongest, in samples from its middle, and how strong. */
function peakOf(re: Float64Array, im: Float64Array, middle: Hertz, sampleRate: Hertz): { at: number, level: number } {
  const size = re.length
  const [ar, ai] = [new Float64Array(size), new Float64Array(size)]
  for (let k = 1; k < size / 2; k++) {
    const w = Math.exp(-0.5 * (((k * sampleRate) / size - middle) / (width * middle)) ** 2)
    ar[k] = re[k]! * w
    ai[k] = im[k]! * w
  }
  complexFft(size).inverse(ar, ai)
  let best = 0
  for (let n = 1; n < size; n++) if (ar[n]! ** 2 + ai[n]! ** 2 > ar[best]! ** 2 + ai[best]! ** 2) best = n
  return { at: best - size / 2, level: Math.hypot(ar[best]!, ai[best]!) }
}

/**
 * By how much slower the microphone's clock ran than the reference's while a sweep was recorded, as a part (0.002: its
 * tones arrive later by 0.2 % of the time since the sweep began); null where nothing tells it. An exponential sweep
 * plays a tone at a time that goes by its logarithm: clocks that differ make arrivals that go by it too. `response` is
 * the deconvolution, circular, with its peak at sample `peak`.
 */
export function skewOf(response: ArrayLike<number>, peak: number, plan: SweepPlan, sampleRate: Hertz): number | null {
  const size = 2 ** Math.ceil(Math.log2(2 * searched * sampleRate))
  const all = response.length
  const re = Float64Array.from({ length: size }, (_, n) => response[(((peak - size / 2 + n) % all) + all) % all]!)
  const im = new Float64Array(size)
  complexFft(size).forward(re, im)
  const inside = middles.filter(f => f > 1.2 * plan.low && f < Math.min(plan.high / 1.2, 0.4 * sampleRate))
  const bands = inside.map(f => ({
    time: (plan.seconds * Math.log(f / plan.low)) / Math.log(plan.high / plan.low),
    ...peakOf(re, im, f, sampleRate),
  }))
  const loudest = Math.max(...bands.map(b => b.level))
  const heard = bands.filter(b => b.level > quiet * loudest)
  if (heard.length < middles.length / 2) return null
  const mean = (of: (b: (typeof heard)[number]) => number) => heard.reduce((s, b) => s + of(b), 0) / heard.length
  const [mx, my] = [mean(b => b.time), mean(b => b.at)]
  const [sxx, sxy, syy] = [
    mean(b => (b.time - mx) ** 2), mean(b => (b.time - mx) * (b.at - my)), mean(b => (b.at - my) ** 2),
  ]
  const slope = sxy / sxx / sampleRate
  const apart = Math.abs(slope) * (heard[heard.length - 1]!.time - heard[0]!.time)
  return apart > leastApart && sxy ** 2 > straight * sxx * syy ? slope : null
}
