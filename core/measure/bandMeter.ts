import { createOversampler, kaiserLowPass, type Section } from '../dsp'
import type { Decibels, Hertz, Seconds } from '../units'
import type { FrequencyBand } from './bands'
import { bandFilter } from './level'

/** Time weightings of a band's level in seconds (IEC 61672-1). */
export const timeConstants = { fast: 0.125, slow: 1 } as const

/** The filter before every halving of the rate: flat to a fifth of the new rate, 90 dB down from four fifths. */
const halvingTaps = 27
const halvingBeta = 9
/** A band is filtered at the lowest rate of which its upper edge is at most this part. */
const highest = 0.2
const longestBlock = 4096

/** One band at the rate of its stage. */
interface Channel {
  sections: Section[]
  state: Float64Array
  sum: number
  mean: number
  largest: number
}
/** What runs at one rate, and the rate's half below it. */
interface Stage {
  rate: Hertz
  channels: Channel[]
  follows: number
  samples: Float64Array
  /** The newest samples for the filter before the next halving. */
  line: Float64Array
  at: number
  odd: boolean
}

/** Every second sample of what a stage holds, low-passed, into `next`; the number of them. */
function halve(stage: Stage, count: number, next: Float64Array, taps: Float64Array): number {
  let made = 0
  const { line, samples } = stage
  for (let n = 0; n < count; n++) {
    stage.at = stage.at === 0 ? halvingTaps - 1 : stage.at - 1
    line[stage.at] = line[stage.at + halvingTaps] = samples[n]!
    stage.odd = !stage.odd
    if (stage.odd) continue
    let sum = 0
    for (let k = 0; k < halvingTaps; k++) sum += taps[k]! * line[stage.at + k]!
    next[made++] = sum
  }
  return made
}

function run({ sections, state }: Channel, x: number): number {
  let v = x
  for (let k = 0; k < sections.length; k++) {
    const s = sections[k]!
    const y = s[0] * v + state[2 * k]!
    state[2 * k] = s[1] * v - s[3] * y + state[2 * k + 1]!
    state[2 * k + 1] = s[2] * v - s[4] * y
    v = y
  }
  return v
}

/**
 * Levels of fractional-octave bands by filters, class 1 of IEC 61260-1 from 20 Hz to 20 kHz: the equivalent level
 * of all that was pushed, and Fast or Slow of every band. Bands run at rates that fit them (the highest at twice the
 * signal's). `push` takes blocks of any length and allocates nothing. dB re full scale; silence is -200 dB.
 */
export function createBandMeter(
  sampleRate: Hertz,
  bands: readonly FrequencyBand[],
  time: Seconds = timeConstants.fast,
) {
  const taps = kaiserLowPass(halvingTaps, 0.25, halvingBeta)
  const between = createOversampler(2)
  const stages: Stage[] = []
  const channels = bands.map((): Channel | null => null)
  const lowest = Math.min(...bands.map(b => b.high))
  for (let rate = 2 * sampleRate, last = false; !last; rate /= 2) {
    last = lowest > highest * (rate / 2)
    const own = bands.flatMap((band, k) => {
      if (channels[k] || (band.high <= highest * (rate / 2) && !last)) return []
      const sections = bandFilter(band, rate)
      return [(channels[k] = { sections, state: new Float64Array(2 * sections.length), sum: 0, mean: 0, largest: 0 })]
    })
    stages.push({
      rate,
      channels: own,
      follows: 1 - Math.exp(-1 / (time * rate)),
      samples: new Float64Array(2 * longestBlock),
      line: new Float64Array(2 * halvingTaps),
      at: 0,
      odd: true,
    })
  }
  let frames = 0

  function through(count: number) {
    let have = count
    for (let s = 0; s < stages.length; s++) {
      const stage = stages[s]!
      for (const channel of stage.channels)
        for (let n = 0; n < have; n++) {
          const v = run(channel, stage.samples[n]!)
          const square = v * v
          channel.sum += square
          channel.mean += stage.follows * (square - channel.mean)
          if (channel.mean > channel.largest) channel.largest = channel.mean
        }
      if (s + 1 < stages.length) have = halve(stage, have, stages[s + 1]!.samples, taps)
    }
  }
  function feed(block: ArrayLike<number> | null, count: number) {
    for (let from = 0; from < count; from += longestBlock) {
      const length = Math.min(longestBlock, count - from)
      const { samples } = stages[0]!
      for (let n = 0; n < length; n++) {
        const pair = between.push(block ? block[from + n]! : 0)
        samples[2 * n] = pair[0]!
        samples[2 * n + 1] = pair[1]!
      }
      through(2 * length)
    }
  }
  const db = (x: number) => 10 * Math.log10(Math.max(1e-20, x))
  const each = (value: (channel: Channel, rate: Hertz) => number) => {
    const rates = new Map(stages.flatMap(s => s.channels.map(c => [c, s.rate] as const)))
    return channels.map(c => db(value(c!, rates.get(c!)!)))
  }
  return {
    push(block: ArrayLike<number>) {
      feed(block, block.length)
      frames += block.length
    },
    /** Lets the filters ring out, so that what came last counts in full; its time does not. */
    finish() {
      const narrowest = Math.min(...bands.map(b => b.high - b.low))
      feed(null, Math.ceil((3 / narrowest) * sampleRate))
    },
    /** Equivalent level of each band over what was pushed. */
    equivalent: (): Decibels[] =>
      each((c, rate) => c.sum / rate / Math.max(1 / sampleRate, frames / sampleRate)),
    /** By the time weighting: now, and the largest so far. */
    now: (): Decibels[] => each(c => c.mean),
    largest: (): Decibels[] => each(c => c.largest),
    restart() {
      frames = 0
      for (const { channels } of stages) for (const c of channels) c.sum = c.largest = 0
    },
  }
}

/** Equivalent level of each band of a whole recording, of any length. */
export function bandLevelsOf(signal: ArrayLike<number>, sampleRate: Hertz, bands: readonly FrequencyBand[]) {
  const meter = createBandMeter(sampleRate, bands)
  meter.push(signal)
  meter.finish()
  return meter.equivalent()
}
