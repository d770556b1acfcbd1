import type { Decibels, SoundLevel, Volts } from '../units'
import { decibelsOf, ratioOf } from '../units'
import type { Port } from './capability'

/** RMS voltage of 0 dBu: 1 mW into 600 Ω. */
export const zeroDbu: Volts = Math.sqrt(0.6)
/** RMS voltage for which a loudspeaker's sensitivity is stated: 1 W into 8 Ω (IEC 60268-5). */
const sensitivityVolts: Volts = Math.sqrt(8)

/** A level on its way through the rig. */
export interface SignalPoint {
  /** dB from the full scale of where it is; null where nothing comes through. */
  level: Decibels | null
  /** RMS voltage of a sine at full scale as it leaves or came in; null where it is not known. */
  fullScale: Volts | null
}

/** A level in the unit of its place: dB alone is counted from the feed, where no full scale is known. */
export interface PointLevel {
  value: number
  unit: 'dB' | 'dBFS' | 'dBu' | 'V' | 'dB SPL'
}

/** The signal as it comes in by a connector: what was so many volts there is so far below full scale here. */
export function entering({ level, fullScale }: SignalPoint, port: Port | undefined): SignalPoint {
  const here = port?.fullScale ?? null
  if (level === null || fullScale === null || here === null) return { level, fullScale: null }
  return { level: level + decibelsOf(fullScale / here), fullScale: here }
}

export const louder = ({ level, ...rest }: SignalPoint, gain: Decibels | null): SignalPoint =>
  ({ ...rest, level: level === null || gain === null ? null : level + gain })

/** The signal as it leaves by a connector. */
export const leaving = ({ level, fullScale }: SignalPoint, port: Port): SignalPoint =>
  ({ level, fullScale: fullScale === null ? null : (port.fullScale ?? null) })

/** RMS voltage of a signal at a connector; null where it is silent or cannot be told. */
export const voltsOf = ({ level, fullScale }: SignalPoint): Volts | null =>
  level === null || fullScale === null ? null : fullScale * ratioOf(level)

/** A level inside a device, or behind the connector by which it leaves; null when silent. */
export function levelAt(point: SignalPoint, port?: Port): PointLevel | null {
  if (point.level === null) return null
  const out = port && leaving(point, port)
  const volts = out && voltsOf(out)
  if (point.fullScale === null || (port && (volts ?? null) === null)) return { value: point.level, unit: 'dB' }
  if (!port || port.kind === 'network') return { value: point.level, unit: 'dBFS' }
  if (port.kind === 'loudspeaker') return { value: volts!, unit: 'V' }
  return { value: decibelsOf(volts! / zeroDbu), unit: 'dBu' }
}

/**
 * Sound pressure level in dB at 1 m on axis in the open of a loudspeaker of this sensitivity (dB at 1 m for 2.83 V),
 * compression left aside.
 */
export const soundLevel = (volts: Volts, sensitivity: SoundLevel): SoundLevel =>
  sensitivity + decibelsOf(volts / sensitivityVolts)
