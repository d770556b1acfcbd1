import type { Pass, PassCapability } from './blocks'
import type { Parameter, ParameterPath } from './parameters'
import { parametersIn, routeTo, stripAt, type Rig } from './path'
import { valueOf } from './settings'
import type { Endpoint } from './wiring'

/** A pass of another strip, with the value that it has now. */
export interface LinkedPass {
  device: string
  path: ParameterPath
  value: Pass
}

const sideOf = (capability: object) => (capability as PassCapability).side

/**
 * The pass that makes a crossover with one of a strip: of the other side, on, at the same frequency, in a strip on the
 * way to another output of the same loudspeaker.
 * @param from where the signal enters the rig
 * @param outputs the outputs that drive the loudspeaker's bands
 * @param at the strip that `own` belongs to
 * @param own the pass in hand and its value
 * @returns null where there is none, or `own` is no pass or off
 */
export function linkedPass(
  rig: Rig,
  from: Endpoint,
  outputs: readonly Endpoint[],
  at: { device: string, strip: string },
  own: { parameter: Parameter, value: unknown },
): LinkedPass | null {
  if (own.parameter.kind.kind !== 'pass') return null
  const { frequency, on } = own.value as Pass
  if (!on) return null
  const side = sideOf(own.parameter.capability)
  for (const output of outputs) {
    const route = routeTo(rig, from, output) ?? []
    if (route.some(s => s.device === at.device && s.strip === at.strip) || !stripAt(rig, output)) continue
    for (const { device, strip } of route) {
      const { capability, settings } = rig.devices[device]!
      for (const p of parametersIn(capability, strip)) {
        if (p.kind.kind !== 'pass' || sideOf(p.capability) === side) continue
        const value = valueOf(settings, p) as Pass
        if (value.on && value.frequency === frequency) return { device, path: p.path, value }
      }
    }
  }
  return null
}
