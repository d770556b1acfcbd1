import { decibelsOf, ratioOf, type Decibels, type Hertz, type Seconds } from '../units'

/** Threshold in dBFS: of the peak, or of the RMS level. */
export interface LimiterNumbers {
  detector: 'peak' | 'rms'
  threshold: Decibels
  attack: Seconds
  hold: Seconds
  release: Seconds
}

/**
 * A limiter without look-ahead. Its gain goes to what keeps the detected level at the threshold with the attack's time
 * constant, stays for the hold, and comes back with the release's (each: 63 % of the way). The RMS detector averages
 * powers over the attack's time constant, and its gain follows at once.
 */
export function createLimiter(sampleRate: Hertz) {
  let gain = 1
  let held = 0
  let square = 0
  const part = (time: Seconds) => (time > 0 ? 1 - Math.exp(-1 / (time * sampleRate)) : 1)

  /**
   * Limits `signal` in place by the level of `side` (equally long; the signal itself where it is what is detected);
   * gives the most that it took away, in dB.
   */
  return (signal: Float32Array, side: Float32Array, n: LimiterNumbers): Decibels => {
    const threshold = ratioOf(n.threshold)
    const attack = part(n.attack)
    const release = part(n.release)
    const hold = Math.round(n.hold * sampleRate)
    const down = n.detector === 'rms' ? 1 : attack
    let least = 1
    for (let k = 0; k < signal.length; k++) {
      const s = side[k]!
      square += (s * s - square) * attack
      const level = n.detector === 'rms' ? Math.sqrt(square) : Math.abs(s)
      const wanted = level > threshold ? threshold / level : 1
      if (wanted < gain) {
        gain += (wanted - gain) * down
        held = hold
      }
      else if (held > 0) held--
      else gain += (wanted - gain) * release
      signal[k]! *= gain
      if (gain < least) least = gain
    }
    return Math.max(0, -decibelsOf(least))
  }
}
