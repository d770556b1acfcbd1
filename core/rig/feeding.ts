import { parametersOf, type ParameterPath } from './parameters'
import { pointsOn, routeTo, type Rig } from './path'
import { valueOf } from './settings'
import { endpointKey, sameEndpoint, type Endpoint } from './wiring'

/** A crosspoint that is to be set. */
export interface Crossing {
  device: string
  path: ParameterPath
  value: number | null
}

/** Crosspoints to set so that a feed reaches these outputs besides what it reaches already, at the level they had. */
export function feedToo(rig: Rig, from: Endpoint, outputs: readonly Endpoint[]): Crossing[] {
  return feedOnly(rig, from, outputs).filter(c => c.value !== null)
}

/**
 * Crosspoints to set so that a feed reaches these outputs and no others: first what falls silent, then what
 * begins to sound, at the
 * level that it had or 0 dB. Only where the feed's own cable comes in; what other inputs feed is left alone.
 */
export function feedOnly(rig: Rig, from: Endpoint, outputs: readonly Endpoint[]): Crossing[] {
  const wanted = new Set(
    outputs.flatMap(to => pointsOn(routeTo(rig, from, to) ?? [])).map(p => `${p.device}${p.path}`),
  )
  const crossings: (Crossing & { now: number | null })[] = []
  for (const [device, { capability, settings }] of Object.entries(rig.devices)) {
    for (const p of parametersOf(capability).values()) {
      if (!p.point) continue
      const mixer = capability.mixers.find(m => m.id === p.point!.mixer)
      const strip = capability.strips.find(s => s.id === mixer?.from[p.point!.input])
      if (!strip || !('port' in strip.from)) continue
      const cable = rig.wiring.cables[endpointKey({ device, channel: strip.from.port })]
      if (!cable || !sameEndpoint(cable, from)) continue
      const now = valueOf(settings, p) as number | null
      const value = wanted.has(`${device}${p.path}`) ? (now ?? 0) : null
      if (now !== value) crossings.push({ device, path: p.path, value, now })
    }
  }
  return crossings
    .sort((a, b) => Number(a.value !== null) - Number(b.value !== null))
    .map(({ device, path, value }) => ({ device, path, value }))
}
