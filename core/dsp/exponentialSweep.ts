import { ratioOf, type Decibels, type Hertz, type Seconds } from '../units'
import { refusal } from '../words'

/** An exponential sweep: from `low` to `high` within `seconds`, at a level in dBFS RMS, faded in and out. */
export interface SweepPlan {
  low: Hertz
  high: Hertz
  seconds: Seconds
  level: Decibels
}

/**
 * The sweep as samples. Source: Farina 2000, AES 108th convention, preprint 5093. Throws RangeError for a range
 * or length that cannot be.
 */
export function exponentialSweep({ low, high, seconds, level }: SweepPlan, sampleRate: Hertz): Float32Array {
  if (!(low > 0 && high > 2 * low && high <= sampleRate / 2))
    throw refusal('generator.noSweep', { low, high, sampleRate })
  if (!(seconds >= 0.1 && seconds <= 60)) throw refusal('generator.sweepTime')
  const frames = Math.round(seconds * sampleRate)
  const rate = Math.log(high / low) / seconds
  const amplitude = ratioOf(level) * Math.SQRT2
  const fadeIn = Math.min(frames / 4, Math.max(0.01 * frames, sampleRate / low))
  const fadeOut = Math.min(frames / 8, 0.01 * frames)
  const fade = (n: number) => Math.min(1, n / fadeIn, (frames - 1 - n) / fadeOut)
  return Float32Array.from(
    { length: frames },
    (_, n) =>
      amplitude
      * (0.5 - 0.5 * Math.cos(Math.PI * Math.max(0, fade(n))))
      * Math.sin(((2 * Math.PI * low) / rate) * (Math.exp((rate * n) / sampleRate) - 1)),
  )
}
