import { logGrid, unity, type Curve } from '../dsp'
import type { Decibels, Hertz } from '../units'
import type { Limiter } from './blocks'
import { differences, valueOf, type Settings } from './settings'
import { thresholdVolts } from './gainStructure'
import { is, parametersOf, type Parameter } from './parameters'
import type { Rig, RigDevice } from './path'
import { applyBlock } from './response'

/** Where steps are compared, besides the middles of what changes. */
const grid = logGrid(12, 10, 22_000)
/** The same for coefficients, whose peaks may be narrow and stand anywhere. */
const fineGrid = logGrid(48, 10, 22_000)
/** At that nothing is left of a sound, dB. */
export const silent = -150

const frequencyIn = (value: unknown): Hertz[] =>
  typeof value === 'object' && value !== null && 'frequency' in value && typeof value.frequency === 'number'
    ? [value.frequency]
    : []

/** A parameter of a device with its values before and after a step. */
export interface Alteration {
  parameter: Parameter
  from: unknown
  to: unknown
}

/**
 * Frequencies in Hz, ascending, at which a step is compared: a grid of 1/12 octave, and where its filters stand. Not to
 * be written to: without filters it is the grid itself.
 */
export function comparedAt(moved: readonly Alteration[]): Float64Array {
  const own = moved.flatMap(({ from, to }) => [...frequencyIn(from), ...frequencyIn(to)])
  const base = moved.some(m => is(m.parameter, 'fir')) ? fineGrid : grid
  const added = own.filter((f, k) => !base.includes(f) && own.indexOf(f) === k)
  if (!added.length) return base
  const all = new Float64Array(base.length + added.length)
  all.set(base)
  all.set(added, base.length)
  return all.sort()
}

/** dB of a curve at each point, `silent` at least. */
export const levelsOf = ({ re, im }: Curve): Float64Array =>
  re.map((r, k) => Math.max(silent, 10 * Math.log10(r * r + im[k]! ** 2)))

/**
 * Most dB by which a change of one parameter alone makes what passes it louder, at any frequency; Infinity from
 * silence, or where a limiter holds less. Below 0: quieter everywhere.
 */
export function riseOf({ parameter, from, to }: Alteration, sampleRate: Hertz): Decibels {
  if (is(parameter, 'limiter')) {
    const held = (value: Limiter) => (value.on ? thresholdVolts(1, value) : Infinity)
    const [was, is] = [held(from as Limiter), held(to as Limiter)]
    return was === is ? 0 : 20 * Math.log10(is / was)
  }
  const at = comparedAt([{ parameter, from, to }])
  const [before, after] = [from, to].map((value) => {
    const curve = unity(at)
    return applyBlock(curve, parameter, value, sampleRate) ? levelsOf(curve) : null
  }) as [Float64Array | null, Float64Array | null]
  if (!after) return -Infinity
  if (!before) return Infinity
  return after.reduce((most, level, k) => Math.max(most, level - before[k]!), -Infinity)
}

/** What differs between two settings of a device. */
export function alterations({ capability, settings }: RigDevice, after: Settings): Alteration[] {
  const table = parametersOf(capability)
  return differences(capability, settings, after)
    .map(({ path, from, to }) => ({ parameter: table.get(path)!, from, to }))
}

/**
 * Two states of a rig as if nothing were muted, to be compared: mutes open in both; a crosspoint that becomes connected
 * stood at 0 dB before, or at its own level where that is less: what is opened or connected is meant to sound, and only
 * what would have grown louder meanwhile is a step.
 */
export function opened(before: Rig, after: Rig): [Rig, Rig] {
  const pairs = Object.entries(after.devices).map(([id, now]): [string, RigDevice, RigDevice] => {
    const was = before.devices[id] ?? now
    if (was.settings === now.settings && was.capability === now.capability) {
      const open = { capability: now.capability, settings: unmuted(now) }
      return [id, open, open]
    }
    const settings = unmuted(was)
    for (const p of parametersOf(now.capability).values()) {
      if (!p.point || valueOf(was.settings, p) !== null) continue
      const level = valueOf(now.settings, p)
      if (level !== null) settings[p.path] = Math.min(0, level as Decibels)
    }
    return [id, { capability: now.capability, settings }, { capability: now.capability, settings: unmuted(now) }]
  })
  const rigWith = (which: 1 | 2): Rig =>
    ({ wiring: after.wiring, devices: Object.fromEntries(pairs.map(p => [p[0], p[which]])) })
  return [rigWith(1), rigWith(2)]
}

const muteKinds = new WeakMap<object, readonly string[]>()
function unmuted({ capability, settings }: RigDevice): Record<string, unknown> {
  const table = parametersOf(capability)
  const mutes = muteKinds.get(table) ?? [...table.values()].filter(p => is(p, 'mute')).map(p => p.path)
  muteKinds.set(table, mutes)
  const open: Record<string, unknown> = { ...settings }
  for (const path of mutes) if (open[path]) open[path] = false
  return open
}

/** A level that rises by more than this is raised in steps of about as much, dB. */
const rampStep: Decibels = 3
/** Most steps of a ramp. */
const mostSteps = 12

/** Values that a level passes on its way up from `from` to `to`, both left out; empty where it goes at once. */
export function rampOf({ kind, capability }: Parameter, from: unknown, to: unknown): number[] {
  if (!kind.isLevel || typeof from !== 'number' || typeof to !== 'number') return []
  const count = Math.min(mostSteps, Math.ceil((to - from) / rampStep) - 1)
  if (!(count > 0)) return []
  const values = Array.from({ length: count }, (_, n) => from + ((to - from) * (n + 1)) / (count + 1))
  return values.map(value => kind.hold(capability, value, '') as number)
}
