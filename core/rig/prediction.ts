import { addTo, applyGainAndDelay, copyOf, divide, multiply, unity, type Curve } from '../dsp'
import type { Seconds } from '../units'
import { parametersOf, type Parameter } from './parameters'
import { parametersIn, routeTo, type Rig, type RigDevice, type Step } from './path'
import { applyBlock, pathResponse } from './response'
import { valueOf, type Settings } from './settings'
import type { Moved, Then } from './snapshot'
import { outputsOf, type Endpoint } from './wiring'
import { refusal } from '../words'

const silent = (p: Parameter, value: unknown, rate: number) => p.kind.part(value, p.capability, rate).gain === 0

/** One device with whatever silences it now, and did not then, as it was then. */
function opened({ capability, settings }: RigDevice, then: Settings | undefined): RigDevice {
  const next: Record<string, unknown> = { ...settings }
  for (const [path, p] of parametersOf(capability)) {
    if (settings[path] === undefined && then?.[path] === undefined) continue
    if (!silent(p, valueOf(settings, p), capability.sampleRate)) continue
    const before = then && valueOf(then, p)
    next[path] = before !== undefined && !silent(p, before, capability.sampleRate) ? before : p.neutral
  }
  return { capability, settings: next }
}

/**
 * The rig with its mutes open and its missing crosspoints as they were in `like`: whether a source sounds at
 * the moment says
 * nothing about what its filters do.
 */
const asIfSounding = (rig: Rig, like: Rig): Rig => ({
  ...rig,
  devices: Object.fromEntries(
    Object.entries(rig.devices).map(([id, device]) => [id, opened(device, like.devices[id]?.settings)]),
  ),
})

interface Paths {
  outputs: readonly Endpoint[]
  was: Rig
  then: Curve[]
}
const known = new WeakMap<Then, Map<string, Paths>>()
/** The paths of a snapshot as a rig has them now, over what they were. */
interface Ratios {
  /** Of all outputs, where they are treated alike; null where they are not, or where there is none. */
  whole: Curve | null
  list: readonly Curve[]
  /** What the outputs have in common, found when it is first asked for. */
  common: () => ReturnType<typeof commonParts>
}
const ratios = new WeakMap<Rig, WeakMap<Paths, Ratios>>()

/** The paths to what sounded in a take, as they were: found once for all takes of a snapshot. */
function pathsOf({ then, source, only, curve: { frequencies } }: Measured): Paths {
  const key = `${source} ${only ? `${only.device}:${only.channel}` : ''} ${frequencies.length} ${frequencies[0]}`
  const kept = known.get(then) ?? new Map<string, Paths>()
  known.set(then, kept)
  const found = kept.get(key)
  if (found) return found
  const outputs = only ? [only] : outputsOf(then.rig.wiring, source)
  const was = asIfSounding(then.rig, then.rig)
  const next = { outputs, was, then: outputs.map(to => pathResponse(was, then.from, to, frequencies)) }
  kept.set(key, next)
  return next
}

/** Each path now over the same path then: the same for all takes of a snapshot. */
function ratiosOf(paths: Paths, { then, curve: { frequencies } }: Measured, now: Rig): Ratios {
  const kept = ratios.get(now) ?? new WeakMap<Paths, Ratios>()
  ratios.set(now, kept)
  const found = kept.get(paths)
  if (found) return found
  const is = asIfSounding(now, then.rig)
  const list = paths.outputs.map((to, k) => divide(pathResponse(is, then.from, to, frequencies), paths.then[k]!))
  const first = list[0]
  let common: ReturnType<typeof commonParts> | null = null
  const next: Ratios = {
    whole: first && list.every(r => alike(first, r)) ? first : null,
    list,
    common: () => common ??= commonParts(
      paths.outputs.map(to => routeTo(paths.was, then.from, to)), paths.was, is, frequencies),
  }
  kept.set(paths, next)
  return next
}

/** What a position will read after an edit, as far as a take can tell. */
export interface Prediction {
  curve: Curve
  /** Edits that it cannot foresee, because they change only some of the outputs that sounded together. */
  unforeseen: Moved[]
}

/** A kept curve with how it was made; `delay` was taken out of its phase. */
export interface Measured {
  curve: Curve
  delay: Seconds
  then: Then
  source: string
  /** The one output that sounded; null: all of the source's. */
  only: Endpoint | null
}

/**
 * What a take will read with the settings of `now`: the take times (path now / path then). Where several
 * outputs sounded together
 * and are no longer treated alike, the take's own part in each is not known: then only what is common to them
 * is predicted, and
 * `moved` (from `staleness`) tells which edits are left out.
 */
export function predict(take: Measured, now: Rig, moved: readonly Moved[]): Prediction {
  const { curve } = take
  const { whole, list, common } = ratiosOf(pathsOf(take), take, now)
  if (!list.length) return { curve, unforeseen: [...moved] }
  if (whole) return { curve: multiply(curve, whole), unforeseen: [] }
  const { has, ratio } = common()
  return { curve: multiply(curve, ratio), unforeseen: moved.filter(m => !has(m.device, m.path)) }
}

/** Largest difference of two outputs' responses, relative, under which they count as treated alike. */
const mostApart = 1e-4

function alike(a: Curve, b: Curve): boolean {
  for (let k = 0; k < a.re.length; k++) {
    const apart = Math.hypot(a.re[k]! - b.re[k]!, a.im[k]! - b.im[k]!)
    if (apart > mostApart * Math.max(1e-9, Math.hypot(a.re[k]!, a.im[k]!))) return false
  }
  return true
}

interface Place {
  device: string
  parameter: Parameter
}
/**
 * Every parameter on a route by the role that it plays there: the same block of parallel channels has the same
 * role.
 */
function rolesOf(route: readonly Step[], rig: Rig): Map<string, Place> {
  const roles = new Map<string, Place>()
  route.forEach(({ device, strip, point }, n) => {
    if (point) roles.set(`${n} point`, { device, parameter: point })
    for (const parameter of parametersIn(rig.devices[device]!.capability, strip)) {
      roles.set(`${n} ${parameter.block}`, { device, parameter })
    }
  })
  return roles
}

/** What the edits of parallel routes have in common, as a ratio; and which parameters belong to it. */
function commonParts(routes: readonly (Step[] | null)[], was: Rig, is: Rig, frequencies: Float64Array) {
  const roles = routes.map(r => (r ? rolesOf(r, was) : new Map<string, Place>()))
  const valueIn = (rig: Rig, { device, parameter }: Place) => {
    const { settings } = rig.devices[device] ?? { settings: {} }
    return JSON.stringify(valueOf(settings, parameter))
  }
  const rateOf = (place: Place) => was.devices[place.device]!.capability.sampleRate
  const shared = [...roles[0]!].filter(([role, place]) =>
    roles.every((other) => {
      const twin = other.get(role)
      return (
        twin !== undefined
        && rateOf(twin) === rateOf(place)
        && valueIn(was, twin) === valueIn(was, place)
        && valueIn(is, twin) === valueIn(is, place)
      )
    }),
  )
  const names = new Set(
    roles.flatMap(r => shared.map(([role]) => r.get(role)!)).map(p => `${p.device}${p.parameter.path}`),
  )
  const product = (rig: Rig) => {
    const curve = unity(frequencies)
    for (const [, { device, parameter }] of shared) {
      const { settings } = rig.devices[device] ?? { settings: {} }
      applyBlock(curve, parameter, valueOf(settings, parameter), was.devices[device]!.capability.sampleRate)
    }
    return curve
  }
  return {
    has: (device: string, path: string) => names.has(`${device}${path}`),
    ratio: divide(product(is), product(was)),
  }
}

/**
 * What a source as a whole will read, from takes of each of its outputs alone at the same place: their complex
 * sum, each with its
 * own path's edit and its own time. `delay` is taken out of the phase of the sum. All curves must share a grid
 * and a clock.
 * Throws RangeError when there is nothing to sum.
 */
export function predictSum(parts: readonly Measured[], now: Rig, delay: Seconds): Curve {
  let sum: Curve | null = null
  for (const part of parts) {
    const curve = copyOf(predict(part, now, []).curve)
    applyGainAndDelay(curve, 1, part.delay - delay)
    if (sum) addTo(sum, curve)
    else sum = { ...curve, coherence: null }
  }
  if (!sum) throw refusal('sum.noTake')
  return sum
}
