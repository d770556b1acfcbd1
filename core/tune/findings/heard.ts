import type { Curve } from '../../dsp'
import { trustedPart, type Level } from '../../measure'
import { showLevel } from '../../units'
import type { Hertz, Seconds } from '../../units'
import { message, type Message } from '../../words'
import { wrong, type Finding, type Observed } from './finding'

/** Peak in dBFS from which a signal is cut off. */
const fullScale = -0.1
/** Where a microphone's peaks should lie, dBFS (common practice). */
const wanted = -30

/**
 * Levels (common practice: a microphone peak near -30 dBFS is usable, near -50 is not; noise at about -12 dBFS
 * RMS leaves headroom).
 */
export function levelFindings({ microphone, reference, sounding, flattened }: Observed): Finding[] {
  const found: Finding[] = []
  if (microphone.peak >= fullScale) found.push(wrong('mic-clips', message('finding.mic-clips'), 'levels'))
  else if (flattened) found.push(wrong('mic-flat', message('finding.mic-flat'), 'levels'))
  if (reference.peak >= fullScale) found.push(wrong('ref-clips', message('finding.ref-clips'), 'levels'))
  if (sounding && reference.rms < leastHeard.reference)
    found.push(wrong('ref-silent', message('finding.ref-silent'), 'levels'))
  if (sounding && reference.rms >= leastHeard.reference && microphone.peak < -50) {
    const isSilent = !Number.isFinite(microphone.peak)
    const level = isSilent ? message('finding.silentLevel') : showLevel(microphone.peak, 0).replace('dB', 'dBFS')
    const gain = isSilent ? -wanted : Math.round(wanted - microphone.peak)
    found.push(wrong('mic-quiet', message('finding.mic-quiet', { level, gain }), 'levels'))
  }
  return found
}

/**
 * What to do about a microphone's level while the test signal sounds; null when it is well. Common practice: peaks
 * from -40 to -6 dBFS.
 */
export function levelAdvice({ peak }: Level): Message | null {
  if (peak >= fullScale) return message('advice.clips')
  if (peak > -6) return message('advice.nearClipping', { by: Math.ceil(peak + 12) })
  if (!Number.isFinite(peak)) return message('advice.silent')
  return peak < -40 ? message('advice.quiet', { by: Math.round(wanted - peak) }) : null
}

/** Peak of a microphone and RMS of a reference under which nothing is measured, dBFS (common practice). */
const leastHeard = { microphone: -60, reference: -75 }
/** Whether there is a signal to measure with at both sides. */
export const isHeard = ({ microphone, reference }: { microphone: Level, reference: Level }): boolean =>
  microphone.peak > leastHeard.microphone && reference.rms > leastHeard.reference

/** Part of a curve in the source's band that must be known for it to be worth keeping. */
const leastKnown = 0.05
/** Whether a curve is known anywhere where its source plays: by its coherence, where it has one. */
export const isKnown = (curve: Curve, band: readonly [low: Hertz, high: Hertz] | null = null): boolean =>
  trustedPart(curve, band).part > leastKnown

/**
 * Whether a sound arrives at another time than the one that is taken out of the curve: by more than both may be off,
 * for what is taken out was an arrival once, told no better than this one.
 */
export const hasMoved = ({ time, uncertainty }: { time: Seconds, uncertainty: Seconds }, takenOut: Seconds): boolean =>
  Math.abs(time - takenOut) > Math.max(0.0005, 5 * uncertainty)
