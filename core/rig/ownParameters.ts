import type { Seconds } from '../units'
import { holdParameter, is, type Parameter, type ParameterOf, type ParameterPath } from './parameters'
import { isOn, parametersIn, pathMap, routeTo, type Rig } from './path'
import { valueOf } from './settings'
import type { Endpoint } from './wiring'
import { Refusal } from '../words'

/** A parameter of a device by which some outputs are changed and no others. */
export interface OwnParameter<P extends Parameter = Parameter> {
  device: string
  parameter: P
}

/**
 * For each of these outputs of a feed the first parameter of a kind on its route that no `others`' signal could pass,
 * each named once. Null when an output has none.
 */
export function ownParameters<P extends Parameter = Parameter>(
  rig: Rig,
  from: Endpoint,
  outputs: readonly Endpoint[],
  others: readonly Endpoint[],
  wanted: (parameter: Parameter) => parameter is P,
): OwnParameter<P>[] | null {
  const shared = others.map(to => pathMap(rig, from, to))
  const found = new Map<string, OwnParameter<P>>()
  for (const to of outputs) {
    const own = (routeTo(rig, from, to) ?? []).flatMap(({ device, strip }) =>
      parametersIn(rig.devices[device]!.capability, strip)
        .filter(wanted)
        .filter(p => !shared.some(path => isOn(path, device, p)))
        .map(parameter => ({ device, parameter })))[0]
    if (!own) return null
    found.set(`${own.device}${own.parameter.path}`, own)
  }
  return [...found.values()]
}

/** The delays by which these outputs are moved in time together and no `others` are. Null when an output has none. */
export const ownDelays = (
  rig: Rig,
  from: Endpoint,
  outputs: readonly Endpoint[],
  others: readonly Endpoint[],
): OwnParameter<ParameterOf<'delay'>>[] | null => ownParameters(rig, from, outputs, others, p => is(p, 'delay'))

/**
 * What to set so that these delays are longer by `by` seconds (shorter where it is negative), in each device's own
 * steps. Throws RangeError with the reason when one of them cannot be: then none should be set.
 */
export function shiftDelays(
  rig: Rig,
  delays: readonly OwnParameter<ParameterOf<'delay'>>[],
  by: Seconds,
): { device: string, path: ParameterPath, value: Seconds }[] {
  return delays.map(({ device, parameter }) => {
    const { capability, settings } = rig.devices[device]!
    const held = holdParameter(capability, parameter.path, valueOf(settings, parameter) + by)
    if (!held.ok) throw new Refusal(held.why)
    return { device, path: parameter.path, value: held.value as Seconds }
  })
}
