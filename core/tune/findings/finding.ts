import type { Curve } from '../../dsp'
import type { FrequencyBand, Hum, Level, RoomTold } from '../../measure'
import type { MetresPerSecond, Seconds } from '../../units'
import { message, type Message } from '../../words'

/** What shows the evidence of a finding. */
export type Evidence
  = 'levels' | 'magnitude' | 'coherence' | 'impulse' | 'envelope' | 'spectrum' | 'decay-map' | 'ribbon'

/** One plain sentence that the data supports. */
export interface Finding {
  id: string
  weight: 'wrong' | 'mind' | 'know'
  told: Message
  evidence: Evidence
  /** False when something else could be the reason: the sentence then begins with 'Likely'. */
  sure: boolean
}

/** What is known of a running measurement; what is not known is null. */
export interface Observed {
  microphone: Level
  reference: Level
  /** True while the test signal plays: silence is then a fault. */
  sounding: boolean
  curve: Curve | null
  delay: Seconds
  arrival: { time: Seconds, polarity: 1 | -1 | null, uncertainty: Seconds } | null
  /** When the sound should arrive by plan and settings; null where the plan does not say. */
  expected: Seconds | null
  /** What the response says of source and room. */
  room: RoomTold | null
  /** Microphone's level per band, now. */
  spectrum: { bands: readonly FrequencyBand[], microphone: ArrayLike<number> } | null
  /**
   * Lowest level per band of several looks while nothing of ours played: what goes on all the time. Null before
   * there was silence long enough.
   */
  silence: ArrayLike<number> | null
  /** What hums in silence, by its lines' frequencies; null where nothing does, or nothing is known yet. */
  hum: Hum | null
  /** The microphone's signal is cut off at the top before full scale; not so the reference's. */
  flattened: boolean
  /** When other sources that are fed would arrive by the plan, from the compensated delay. */
  others: readonly { name: string, time: Seconds }[]
  /** Name of the source that is to be measured, when by the settings in the devices no signal reaches it. */
  unfed: string | null
  /** Arrival's drift in parts per million, when it was followed long enough. */
  drift: number | null
  /** True when the drift is taken out of the measurement. */
  compensated: boolean
  /** Reference and microphone have clocks of their own: how far their beginnings lie apart, nobody knows. */
  clocks: boolean
  speedOfSound: MetresPerSecond
}

const finding = (weight: Finding['weight']) => (id: string, told: Message, evidence: Evidence): Finding =>
  ({ id, weight, told, evidence, sure: true })
export const wrong = finding('wrong')
export const mind = finding('mind')
export const know = finding('know')

/** The same, said as what it is: likely. */
export const likely = (f: Finding): Finding =>
  ({ ...f, sure: false, told: message('finding.likely', { what: f.told }) })

/** Mean over the points of a curve between two frequencies, both in; 0 where there is none. */
export function meanOver(curve: Curve, low: number, high: number, value: (k: number) => number): number {
  let sum = 0
  let count = 0
  curve.frequencies.forEach((f, k) => {
    if (f >= low && f <= high) {
      sum += value(k)
      count++
    }
  })
  return count ? sum / count : 0
}
