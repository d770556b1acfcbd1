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
 * A limiter. Its gain goes to what keeps the detected level at the threshold with the attack's time
 * constant, stays for the hold, and comes back with the release's (each: 63 % of the way). The RMS detector averages
 * powers over the attack's time constant, and its gain follows at once. One that hears `lookAhead` before what it lets
 * through (its `side` comes so much earlier) keeps what a peak asks for until that peak has passed.
 */
export function createLimiter(sampleRate: Hertz, lookAhead: Seconds = 0) {
  const ahead = Math.round(lookAhead * sampleRate)
  let gain = 1
  let asked = 1
  let stays = 0
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
      const now = level > threshold ? threshold / level : 1
      if (now <= asked || stays === 0) {
        asked = now
        stays = ahead
      }
      else stays--
      const wanted = asked
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
