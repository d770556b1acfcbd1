import {
  endpointKey,
  stripAt,
  waysInto,
  type Alteration,
  type At,
  type Endpoint,
  type Rig,
} from '../rig'
import { bandDriven, type Driven } from './follow'
import type { Documents } from './kinds'
import { allOf, nameIn } from './site'

/** An output that ends at a loudspeaker, or leads nowhere that is known. */
export interface End {
  output: Endpoint
  key: string
  name: string
  driven: Driven | undefined
}

/** Every end of a rig: outputs that drive a source's band, and those with nothing behind them that is known. */
export function endsOf(documents: Documents, rig: Rig): End[] {
  const ends = new Map<string, End>()
  for (const [key, output] of Object.entries(rig.wiring.drives)) {
    const [id] = key.split(':') as [string]
    const source = nameIn(documents, 'source', id)
    const driven = bandDriven(documents, id, output)
    const name = driven && driven.sheet.bands.length > 1
      ? `${source}, ${driven.band.name.toLowerCase()}`
      : source
    const own = `${id}:${driven?.band.id ?? ''}:${endpointKey(output)}`
    ends.set(own, { output, key: own, name, driven })
  }
  const known = new Set([...Object.values(rig.wiring.drives), ...Object.values(rig.wiring.cables)].map(endpointKey))
  for (const { id, name, capability } of allOf(documents, 'device')) {
    capability.outputs.forEach((port, channel) => {
      const output = { device: id, channel }
      const key = endpointKey(output)
      if (port.strip === undefined || known.has(key)) return
      ends.set(key, { output, key, name: `${name}, ${port.name.toLowerCase()}`, driven: undefined })
    })
  }
  return [...ends.values()]
}

/** What changes in each device, by its id. */
export type Step = ReadonlyMap<string, readonly Alteration[]>

const nowhere: Endpoint = { device: '', channel: 0 }
/** Tells of an output whether anything of a step lies before it, by whatever way: a look at each strip once. */
export function changedBefore(rig: Rig, step: Step): (end: Endpoint) => boolean {
  const strips = new Set([...step].flatMap(([device, list]) =>
    list.map(({ parameter: p }) => (p.strip === null ? `${device}${p.path}` : `${device} ${p.strip}`))))
  const known = new Map<string, boolean>()
  const has = (at: At): boolean => {
    const key = `${at.device} ${at.strip}`
    const before = known.get(key)
    if (before !== undefined) return before
    known.set(key, false)
    const is = strips.has(key) || waysInto(rig, nowhere, at).some(({ source, point }) =>
      (point !== null && strips.has(`${at.device}${point.path}`))
      || (source !== null && rig.devices[source.device] !== undefined && has(source)))
    known.set(key, is)
    return is
  }
  return (end) => {
    const at = stripAt(rig, end)
    return at !== null && has(at)
  }
}
