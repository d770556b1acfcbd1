import type { Seconds } from '../units'
import { holdParameter, type ParameterPath, type Parameter } from './parameters'
import { isOn, parametersIn, pathMap, routeTo, type Rig } from './path'
import { valueOf } from './settings'
import type { Endpoint } from './wiring'

/** A delay of a device by which outputs are moved in time. */
export interface OwnDelay {
  device: string
  parameter: Parameter
}

/**
 * The delays by which these outputs of a feed are moved in time together and no `others` are: for each output the first
 * on its route that no other output's signal could pass. Null when an output has none.
 */
export function ownDelays(
  rig: Rig,
  from: Endpoint,
  outputs: readonly Endpoint[],
  others: readonly Endpoint[],
): OwnDelay[] | null {
  const shared = others.map(to => pathMap(rig, from, to))
  const found = new Map<string, OwnDelay>()
  for (const to of outputs) {
    const own = (routeTo(rig, from, to) ?? []).flatMap(({ device, strip }) =>
      parametersIn(rig.devices[device]!.capability, strip)
        .filter(p => p.kind.kind === 'delay' && !shared.some(path => isOn(path, device, p)))
        .map(parameter => ({ device, parameter })))[0]
    if (!own) return null
    found.set(`${own.device}${own.parameter.path}`, own)
  }
  return [...found.values()]
}

/**
 * What to set so that these delays are longer by `by` seconds (shorter where it is negative), in each device's own
 * steps. Throws RangeError with the reason when one of them cannot be: then none should be set.
 */
export function moveInTime(
  rig: Rig,
  delays: readonly OwnDelay[],
  by: Seconds,
): { device: string, path: ParameterPath, value: Seconds }[] {
  return delays.map(({ device, parameter }) => {
    const { capability, settings } = rig.devices[device]!
    const held = holdParameter(capability, parameter.path, (valueOf(settings, parameter) as Seconds) + by)
    if (!held.ok) throw new RangeError(held.why)
    return { device, path: parameter.path, value: held.value as Seconds }
  })
}
