import type { Level } from '../../measure'
import type { Decibels, Seconds } from '../../units'
import { message, type Message } from '../../words'

// Before a sweep a short noise at its level tells whether the microphone will hear it, and not clip.

/** Level in dBFS under which a microphone hears nothing that a sweep could be told from. */
const quietest: Decibels = -68
/** Peak in dBFS from which a sweep would clip, and how far under full scale it should stay (common practice). */
const [loudest, headroom]: [Decibels, Decibels] = [-3, 9]
/** What a sweep loses at most on its way to the reference, dB: on a cable, and through the air to a microphone. */
const lost = { cable: 4, air: 40 }
/** dB by which what a microphone hears rises when the noise has come. */
const risesBy: Decibels = 3
/** Level in dBFS under which no reference is heard. */
const deaf: Decibels = -70

/** Whether the noise has come to the reference: a cable, or a microphone that hears it through the air. */
export const referenceHears = (reference: Level, level: Decibels, by: 'cable' | 'air'): boolean =>
  reference.rms > Math.max(deaf, level - lost[by])

/** Whether a microphone hears more than before the noise came: what is on its way may be waited for. */
export const hasRisen = (microphone: Level, before: Decibels): boolean =>
  microphone.rms > Math.max(quietest, before + risesBy)

/** Why a sweep at the level of the noise that plays would be of no use; null when it will do. */
export function levelFault({ peak, rms }: Level): Message | null {
  if (peak > loudest)
    return message('sweep.wouldClip', { peak: peak.toFixed(0), by: Math.ceil(peak + headroom) })
  return rms < quietest ? message('sweep.hearsLittle', { level: rms.toFixed(0) }) : null
}

/** Whether what was refused is too loud a sweep, which a softer one may mend. */
export const isTooLoud = ({ code }: Message): boolean =>
  ['sweep.wouldClip', 'sweep.clips', 'sweep.flattened'].includes(code)

/**
 * Seconds that are recorded after a sweep: in which this room falls by 50 dB, by its decay times (60 dB) in octaves.
 */
export const sweepTail = (decay: readonly Seconds[]): Seconds =>
  Math.max(0.75, Math.min(6, (50 / 60) * Math.max(...decay)))
