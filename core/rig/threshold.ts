import { parseLevel, parseMeasure, type Parsed, type Volts } from '../units'
import type { Limiter } from './blocks'
import { thresholdFor } from './gainStructure'
import { zeroDbu } from './signalPoint'
import { phrase } from '../words'

/** Where a limiter stands: volts RMS of a sine at its full scale; null where that is not known. */
export interface LimiterPlace {
  /** At the connector by which its strip leaves. */
  connector: Volts | null
  /** At the loudspeaker. */
  loudspeaker: Volts | null
  /** Nominal impedance of the loudspeaker. */
  ohms: number | null
}

/**
 * A threshold in dBFS from '-6', '-6 dBFS', '12 dBu' (at the connector), '62 V' or '300 W' (at the loudspeaker; watts
 * into its impedance); volts and watts are those of a sine that the detector just lets through. Refused in words where
 * what it is counted from is not known.
 */
export function parseThreshold(
  text: string,
  { connector, loudspeaker, ohms }: LimiterPlace,
  detector: Limiter['detector'],
): Parsed {
  const [, number, unit] = /^\s*(.*?)\s*(dBu|dBFS|V|W)?\s*$/i.exec(text) ?? []
  const plain = number ?? ''
  const from = (volts: number, scale: Volts | null, what: string): Parsed =>
    scale === null
      ? { ok: false, why: phrase('rig.isNotKnownHere', { what }) }
      : { ok: true, value: thresholdFor(volts, scale, detector) }
  const read = ['v', 'w'].includes(unit?.toLowerCase() ?? '') ? parseMeasure(plain, '') : parseLevel(plain)
  if (!read.ok) return { ok: false, why: phrase('rig.isNotUnderstoodTry', { text: text.trim() }) }
  switch (unit?.toLowerCase()) {
    case 'dbu': return from(zeroDbu * 10 ** (read.value / 20), connector, phrase('rig.howManyVoltsFull'))
    case 'v':
    case 'w': {
      if (!(read.value > 0)) return { ok: false, why: phrase('rig.voltsAndWattsMust') }
      if (unit!.toLowerCase() === 'v') return from(read.value, loudspeaker, phrase('rig.whatTheLoudspeakerGets'))
      if (ohms === null) return { ok: false, why: phrase('rig.theLoudspeakersImpedanceIs') }
      return from(Math.sqrt(read.value * ohms), loudspeaker, phrase('rig.whatTheLoudspeakerGets'))
    }
    default: return read
  }
}
