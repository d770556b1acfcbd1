import {
  parametersIn,
  routeTo,
  stripAt,
  testFeed,
  valueOf,
  type Endpoint,
  type Pass,
  type PassCapability,
  type Rig,
} from '~~/core/rig'
import type { PickedStrip } from '~/frame/view'
import type { Setting } from './useStrip'

export interface Twin {
  device: string
  path: string
  value: Pass
}

const sideOf = (capability: object) => (capability as PassCapability).side

/**
 * The pass of a neighbouring band that makes a crossover with this one: of the other side, in, at the same frequency,
 * in a strip that leads to another output of the same loudspeaker. Null where there is none.
 */
export function cornerTwin(rig: Rig, outputs: readonly Endpoint[], at: PickedStrip | null, own: Setting): Twin | null {
  if (own.parameter.kind.kind !== 'pass' || !at) return null
  const { frequency, on } = own.draft as Pass
  const from = (rig.wiring as { feeds?: Record<string, { from: Endpoint }> }).feeds?.[testFeed]?.from
  if (!on || !from) return null
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
