import { tapsDelay } from '../dsp'
import type { Seconds } from '../units'
import type { Part } from './blocks'
import type { Capability, Strip } from './capability'
import { is, parametersOf, type Parameter, type ParameterPath } from './parameters'
import { valueOf, type Settings } from './settings'
import { endpointKey, sameEndpoint, type Endpoint, type Wiring } from './wiring'

export interface RigDevice {
  capability: Capability
  settings: Settings
}
/** Devices with their settings, and what joins them: all that turns a feed into what a loudspeaker gets. */
export interface Rig {
  devices: Record<string, RigDevice>
  wiring: Pick<Wiring, 'cables' | 'drives'>
}

/** A strip of a device of the rig. */
interface At {
  device: string
  strip: string
}
/** One way into a strip: from the feed itself (`source` null) or from another strip. */
interface Way {
  source: At | null
  /** The crosspoint that it passes. */
  point: Parameter | null
  /** The cable that it comes by, as `endpointKey` of the input; null inside a device. */
  cable: string | null
}

interface Shape {
  strips: ReadonlyMap<string, Strip>
  parameters: ReadonlyMap<string, Parameter[]>
}
const shapes = new WeakMap<Capability, Shape>()

/** The strips of a device, and each one's parameters in signal order. */
function shapeOf(capability: Capability): Shape {
  const known = shapes.get(capability)
  if (known) return known
  const parameters = new Map<string, Parameter[]>(capability.strips.map(s => [s.id, []]))
  for (const p of parametersOf(capability).values()) if (p.strip !== null) parameters.get(p.strip)!.push(p)
  const shape = { strips: new Map(capability.strips.map(s => [s.id, s])), parameters }
  shapes.set(capability, shape)
  return shape
}

/** A strip's parameters in the order in which the signal passes them. */
export const parametersIn = (capability: Capability, strip: string): readonly Parameter[] =>
  shapeOf(capability).parameters.get(strip) ?? []

/** The connector that a strip listens to; a source selection in it comes before what is fixed. */
function portOf({ settings, capability }: RigDevice, strip: Strip, fixed: number): number {
  const select = parametersIn(capability, strip.id).find(p => is(p, 'select'))
  if (!select) return fixed
  const chosen = valueOf(settings, select)
  return select.capability.options.find(o => o.id === chosen)?.port ?? fixed
}

/** The strip whose signal leaves by an output; null for a connector that there is not. */
function stripAt(rig: Rig, { device, channel }: Endpoint): At | null {
  const strip = rig.devices[device]?.capability.outputs[channel]?.strip
  return strip === undefined ? null : { device, strip }
}

/** Every way into a strip, whether it carries sound or not. */
function waysInto(rig: Rig, from: Endpoint, at: At): Way[] {
  const device = rig.devices[at.device]!
  const strip = shapeOf(device.capability).strips.get(at.strip)
  if (!strip) return []
  if ('port' in strip.from) {
    const input = endpointKey({ device: at.device, channel: portOf(device, strip, strip.from.port) })
    const output = rig.wiring.cables[input]
    if (!output) return []
    if (sameEndpoint(output, from)) return [{ source: null, point: null, cable: input }]
    const source = stripAt(rig, output)
    return source ? [{ source, point: null, cable: input }] : []
  }
  if ('strip' in strip.from)
    return [{ source: { device: at.device, strip: strip.from.strip }, point: null, cable: null }]
  const { from: mixed } = strip
  const mixer = 'mixer' in mixed ? device.capability.mixers.find(m => m.id === mixed.mixer) : undefined
  if (!mixer) return []
  const output = mixer.to.indexOf(strip.id)
  const table = parametersOf(device.capability)
  return mixer.from.map((source, input) => ({
    source: { device: at.device, strip: source },
    point: table.get(`/${mixer.id}/${input}/${output}`) ?? null,
    cable: null,
  }))
}

const keyOf = ({ device, strip }: At) => `${device} ${strip}`

/** What lies between a feed and an output, whatever is muted or unrouted. */
export interface PathMap {
  strips: ReadonlySet<string>
  points: ReadonlySet<string>
  /** Cables on it: input → output, both as `endpointKey`. */
  cables: ReadonlyMap<string, string>
  devices: readonly string[]
}

/** Everything between a feed and an output, found by what reaches what: never by listing all ways. */
export function pathMap(rig: Rig, from: Endpoint, to: Endpoint): PathMap {
  const strips = new Set<string>()
  const points = new Set<string>()
  const cables = new Map<string, string>()
  const devices = new Set<string>()
  const known = new Map<string, boolean>()
  const reaches = (at: At): boolean => {
    const key = keyOf(at)
    const before = known.get(key)
    if (before !== undefined) return before
    known.set(key, false) // a circle reaches nothing by itself
    let any = false
    for (const way of waysInto(rig, from, at)) {
      if (way.source && !(rig.devices[way.source.device] && reaches(way.source))) continue
      any = true
      if (way.point) points.add(`${at.device}${way.point.path}`)
      if (way.cable) cables.set(way.cable, endpointKey(rig.wiring.cables[way.cable]!))
    }
    known.set(key, any)
    if (any) {
      strips.add(key)
      devices.add(at.device)
    }
    return any
  }
  const end = stripAt(rig, to)
  if (end) reaches(end)
  return { strips, points, cables, devices: [...devices] }
}

/** Whether a parameter of a device lies on a path. */
export function isOn(path: PathMap, device: string, parameter: Parameter): boolean {
  if (parameter.strip !== null) return path.strips.has(keyOf({ device, strip: parameter.strip }))
  return path.points.has(`${device}${parameter.path}`)
}

/** One strip on a route, and how the signal came into it. */
export interface Step extends At {
  /** The crosspoint before it. */
  point: Parameter | null
  /** True where the signal enters a device by a cable: its latency is counted here. */
  enters: boolean
}

const isSilent = (rig: Rig, device: string, parameter: Parameter): boolean => {
  const { settings, capability } = rig.devices[device]!
  return parameter.kind.part(valueOf(settings, parameter), parameter.capability, capability.sampleRate).gain === 0
}

/** Why a strip or the crosspoint before it lets nothing through: the parameters that silence it. */
export const silencedBy = (rig: Rig, { device, strip, point }: Step): Parameter[] => [
  ...(point && isSilent(rig, device, point) ? [point] : []),
  ...parametersIn(rig.devices[device]!.capability, strip).filter(p => isSilent(rig, device, p)),
]

/** The route from a feed to an output on which least is in the way; null when nothing joins them. */
export function routeTo(rig: Rig, from: Endpoint, to: Endpoint): Step[] | null {
  interface Route {
    broken: number
    steps: Step[]
  }
  const known = new Map<string, Route | null>()
  const best = (at: At): Route | null => {
    const key = keyOf(at)
    const before = known.get(key)
    if (before !== undefined) return before
    known.set(key, null)
    let found: Route | null = null
    for (const { source, point, cable } of waysInto(rig, from, at)) {
      if (source && !rig.devices[source.device]) continue
      const behind = source ? best(source) : { broken: 0, steps: [] }
      if (!behind) continue
      const step: Step = { ...at, point, enters: cable !== null }
      const broken = behind.broken + (point && isSilent(rig, at.device, point) ? 1 : 0)
      if (!found || broken < found.broken) found = { broken, steps: [...behind.steps, step] }
    }
    if (found) {
      const mutes = parametersIn(rig.devices[at.device]!.capability, at.strip).filter(p =>
        isSilent(rig, at.device, p),
      )
      found = { ...found, broken: found.broken + mutes.length }
    }
    known.set(key, found)
    return found
  }
  const end = stripAt(rig, to)
  return (end && best(end)?.steps) ?? null
}

/** Most ways side by side that are told apart. */
const mostRoutes = 64

/** Every route from a feed to an output on which all crosspoints are connected, mutes aside; `mostRoutes` at most. */
export function openRoutes(rig: Rig, from: Endpoint, to: Endpoint): Step[][] {
  const open = new Set<string>()
  const into = (at: At): Step[][] => {
    const key = keyOf(at)
    if (open.has(key)) return [] // a circle brings nothing in
    open.add(key)
    const found: Step[][] = []
    for (const { source, point, cable } of waysInto(rig, from, at)) {
      if (source && !rig.devices[source.device]) continue
      if (point && isSilent(rig, at.device, point)) continue
      const step: Step = { ...at, point, enters: cable !== null }
      for (const steps of source ? into(source) : [[]]) {
        if (found.length < mostRoutes) found.push([...steps, step])
      }
    }
    open.delete(key)
    return found
  }
  const end = stripAt(rig, to)
  return end ? into(end) : []
}

/** What a block delays: by what is set, and by the main coefficient of a filter of coefficients. */
const delayOf = ({ delay = 0, taps }: Part, { sampleRate }: Capability): Seconds =>
  delay + (taps ? tapsDelay(taps) / sampleRate : 0)

/** Every delay set on a route, coefficients' included, the devices' own latency apart. */
export const setDelay = (rig: Rig, route: readonly Step[]): Seconds =>
  route.reduce((sum, { device, strip }) => {
    const { settings, capability } = rig.devices[device]!
    return parametersIn(capability, strip).reduce(
      (s, p) => s + delayOf(p.kind.part(valueOf(settings, p), p.capability, capability.sampleRate), capability),
      sum,
    )
  }, 0)

/** Delay in the electronics of a route: every delay set and every device's own latency. */
export const routeDelay = (rig: Rig, route: readonly Step[]): Seconds =>
  route.reduce((sum, s) => sum + (s.enters ? rig.devices[s.device]!.capability.latency : 0), setDelay(rig, route))

/** True when the route lets sound through: nothing muted, every crosspoint connected. */
export const routeSounds = (rig: Rig, route: readonly Step[]): boolean =>
  route.every(step => silencedBy(rig, step).length === 0)

/** Crosspoints of the rig that would feed an output from a feed by one route: device and path. */
export const pointsOn = (route: readonly Step[]): { device: string, path: ParameterPath }[] =>
  route.flatMap(({ device, point }) => (point ? [{ device, path: point.path }] : []))

export { stripAt, waysInto, type At, type Way }
