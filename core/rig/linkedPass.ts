import type { Pass } from './blocks'
import { is, type ParameterOf, type ParameterPath } from './parameters'
import { parametersIn, routeTo, stripAt, type Rig } from './path'
import { valueOf } from './settings'
import type { Endpoint } from './wiring'

/** A pass of another strip, with the value that it has now. */
export interface LinkedPass {
  device: string
  path: ParameterPath
  value: Pass
}

/**
 * The pass that makes a crossover with one of a strip: of the other side, on, at the same frequency, in a strip on the
 * way to another output of the same loudspeaker.
 * @param from where the signal enters the rig
 * @param outputs the outputs that drive the loudspeaker's bands
 * @param at the strip that `own` belongs to
 * @param own the pass in hand and its value
 * @returns null where there is none, or `own` is off
 */
export function linkedPass(
  rig: Rig,
  from: Endpoint,
  outputs: readonly Endpoint[],
  at: { device: string, strip: string },
  own: { parameter: ParameterOf<'pass'>, value: Pass },
): LinkedPass | null {
  const { frequency, on } = own.value
  if (!on) return null
  const { side } = own.parameter.capability
  for (const output of outputs) {
    const route = routeTo(rig, from, output) ?? []
    if (route.some(s => s.device === at.device && s.strip === at.strip) || !stripAt(rig, output)) continue
    for (const { device, strip } of route) {
      const { capability, settings } = rig.devices[device]!
      for (const p of parametersIn(capability, strip)) {
        if (!is(p, 'pass') || p.capability.side === side) continue
        const value = valueOf(settings, p)
        if (value.on && value.frequency === frequency) return { device, path: p.path, value }
      }
    }
  }
  return null
}
