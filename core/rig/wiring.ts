import * as v from 'valibot'

/** One connector of one device; `channel` counts from 0. */
export const Endpoint = v.strictObject({
  device: v.pipe(v.string(), v.minLength(1), v.maxLength(80)),
  channel: v.pipe(v.number(), v.integer(), v.minValue(0), v.maxValue(511)),
})
export type Endpoint = v.InferOutput<typeof Endpoint>

/** 'amp-a:0': a connector as the key of a record. */
export const endpointKey = ({ device, channel }: Endpoint): string => `${device}:${channel}`
/** The connector that a key of `endpointKey` names. */
export function endpointOf(key: string): Endpoint {
  const at = key.lastIndexOf(':')
  return { device: key.slice(0, at), channel: Number(key.slice(at + 1)) }
}
export const sameEndpoint = (a: Endpoint, b: Endpoint): boolean => a.device === b.device && a.channel === b.channel

/** A signal that enters the rig from outside: Kovrin's own, or the console's left. */
const Feed = v.strictObject({
  name: v.pipe(v.string(), v.minLength(1), v.maxLength(80)),
  from: Endpoint,
  /** RMS voltage of a sine at its full scale; left out where it is not known. */
  fullScale: v.optional(v.pipe(v.number(), v.minValue(0.001), v.maxValue(1000))),
})
export type Feed = v.InferOutput<typeof Feed>

const key = v.pipe(v.string(), v.maxLength(200))

/**
 * What is joined to what: the feeds by their keys; for each input (`endpointKey`) the output whose cable ends
 * there; for each
 * band of each cabinet (`driveKey`) the output that drives it.
 */
export const Wiring = v.strictObject({
  version: v.literal(1),
  feeds: v.record(key, Feed),
  cables: v.record(key, Endpoint),
  drives: v.record(key, Endpoint),
  /** For each output (`endpointKey`) that keeps what a loudspeaker sheet says: the sheet and which band of it. */
  follows: v.optional(v.record(key, v.strictObject({ sheet: key, band: key }))),
})
export type Wiring = v.InferOutput<typeof Wiring>

/** The feed that carries Kovrin's own test signal. */
export const testFeed = 'test'

/** What stands for a feed where nobody knows what a reference hears. */
export const unknownFeed = 'unknown'

/** The output that drives one band of one cabinet of a source. */
export interface Drive {
  source: string
  element: number
  band: string
  output: Endpoint
}
export const driveKey = ({ source, element, band }: Omit<Drive, 'output'>): string => `${source}:${element}:${band}`

const drivesKept = new WeakMap<Wiring['drives'], Map<string, Drive[]>>()

/** Every band of a source's cabinets with the output that drives it. */
export function drivesOf({ drives }: Pick<Wiring, 'drives'>, source: string): Drive[] {
  let sorted = drivesKept.get(drives)
  if (!sorted) {
    sorted = new Map()
    for (const [key, output] of Object.entries(drives)) {
      const [of, element, band] = key.split(':') as [string, string, string]
      sorted.set(of, [...(sorted.get(of) ?? []), { source: of, element: Number(element), band, output }])
    }
    drivesKept.set(drives, sorted)
  }
  return sorted.get(source) ?? []
}

/** Outputs that drive a source, each once, in the order of its cabinets. */
export function outputsOf(wiring: Pick<Wiring, 'drives'>, source: string): Endpoint[] {
  const drives = [...drivesOf(wiring, source)].sort((a, b) => a.element - b.element)
  return drives.map(d => d.output).filter((o, k, all) => all.findIndex(p => sameEndpoint(p, o)) === k)
}
