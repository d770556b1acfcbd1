import { addTo, applyGainAndDelay, applySections, applyTaps, copyOf, silence, unity, type Curve } from '../dsp'
import type { Capability } from './capability'
import type { Parameter } from './parameters'
import { parametersIn, stripAt, waysInto, type At, type Rig } from './path'
import { valueOf, type Settings } from './settings'
import type { Endpoint } from './wiring'
import { refusal } from '../words'

/** Multiplies a curve in place by one block; false when the block lets nothing through. */
export function applyBlock(curve: Curve, parameter: Parameter, value: unknown, sampleRate: number): boolean {
  const { sections, gain = 1, delay = 0, taps } = parameter.kind.part(value, parameter.capability, sampleRate)
  if (gain === 0) return false
  if (sections) applySections(curve, sections, sampleRate)
  if (taps) applyTaps(curve, taps, sampleRate)
  applyGainAndDelay(curve, gain, delay)
  return true
}

/** Multiplies a curve in place by everything in a strip; false when it is silent. */
function applyStrip(curve: Curve, capability: Capability, settings: Settings, strip: string): boolean {
  for (const p of parametersIn(capability, strip)) {
    if (!applyBlock(curve, p, valueOf(settings, p), capability.sampleRate)) return false
  }
  return true
}

/** Response of one strip alone: gain, polarity, delay, filters; silent when muted. */
export function stripResponse(
  capability: Capability,
  settings: Settings,
  strip: string,
  frequencies: Float64Array,
): Curve {
  const curve = unity(frequencies)
  return applyStrip(curve, capability, settings, strip) ? curve : silence(frequencies)
}

/**
 * Complex response from the feed `from` to the output `to` that drives a loudspeaker: the product of every
 * block on the way,
 * summed where several ways meet, each strip computed once. The only place that turns settings into a response.
 * Silent (all zero) where nothing leads. Throws RangeError for cables that run in a circle.
 */
export function pathResponse(rig: Rig, from: Endpoint, to: Endpoint, frequencies: Float64Array): Curve {
  const known = new Map<string, Curve | null | 'open'>()
  const behind = (at: At): Curve | null => {
    const key = `${at.device} ${at.strip}`
    const before = known.get(key)
    if (before === 'open') throw refusal('rig.circle', { device: at.device })
    if (before !== undefined) return before
    known.set(key, 'open')
    const curve = into(at)
    const { capability, settings } = rig.devices[at.device]!
    const sounds = curve !== null && applyStrip(curve, capability, settings, at.strip)
    known.set(key, sounds ? curve : null)
    return sounds ? curve : null
  }
  const into = (at: At): Curve | null => {
    let sum: Curve | null = null
    const { capability, settings } = rig.devices[at.device]!
    for (const { source, point, cable } of waysInto(rig, from, at)) {
      if (point && valueOf(settings, point) === null) continue
      if (source && !rig.devices[source.device]) continue
      const fed = source ? behind(source) : unity(frequencies)
      if (!fed) continue
      const curve = source ? copyOf(fed) : fed
      if (point && !applyBlock(curve, point, valueOf(settings, point), capability.sampleRate)) continue
      if (cable) applyGainAndDelay(curve, 1, capability.latency)
      if (sum) addTo(sum, curve)
      else sum = curve
    }
    return sum
  }
  const end = stripAt(rig, to)
  return (end && behind(end)) ?? silence(frequencies)
}
