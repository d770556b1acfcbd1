import * as v from 'valibot'
import { canonical, equal } from '../units'
import { parametersOf, type Parameter } from './parameters'
import { isOn, pathMap, type PathMap, type Rig } from './path'
import { compact, differences, interned, Settings, valueOf, type Difference } from './settings'
import { driveKey, drivesOf, Endpoint, outputsOf, sameEndpoint } from './wiring'
import { phrase } from '../words'

const hash = v.pipe(v.string(), v.regex(/^[0-9a-f]{64}$/))

/**
 * What stood between a feed and a source while something was measured: the devices with what they held, the
 * cables, the drives.
 * Stored once under the hash of its text and shared by all takes made with it; capabilities likewise, by their
 * own hash.
 */
export const Snapshot = v.strictObject({
  version: v.literal(1),
  from: Endpoint,
  cables: v.record(v.string(), Endpoint),
  drives: v.record(v.string(), Endpoint),
  devices: v.record(v.string(), v.strictObject({ capability: hash, settings: Settings })),
})
export type Snapshot = v.InferOutput<typeof Snapshot>

/** A snapshot with its capabilities in place: a rig that can be computed with. */
export interface Then {
  from: Endpoint
  rig: Rig
}

/** The part of a rig that sources' sound depends on, by itself. Settings are without what is neutral anyway. */
export function partOf(rig: Rig, from: Endpoint, ...sources: readonly string[]): Then {
  const drives = Object.fromEntries(
    sources.flatMap(source => drivesOf(rig.wiring, source)).map(d => [driveKey(d), d.output]),
  )
  const maps = sources.flatMap(source => outputsOf(rig.wiring, source)).map(to => pathMap(rig, from, to))
  const cables = Object.fromEntries(maps.flatMap(m => [...m.cables.keys()]).map(k => [k, rig.wiring.cables[k]!]))
  const devices = Object.fromEntries(
    [...new Set(maps.flatMap(m => m.devices))].map((id) => {
      const { capability, settings } = rig.devices[id]!
      return [id, { capability, settings: compact(capability, settings) }]
    }),
  )
  return { from, rig: { devices, wiring: { cables, drives } } }
}

/** A part of a rig as it is stored; `hashOf` gives the hash of a capability's text. */
export function snapshotOf({ from, rig }: Then, hashOf: (text: string) => string): Snapshot {
  const devices = Object.fromEntries(
    Object.entries(rig.devices).map(([id, { capability, settings }]) => [
      id,
      { capability: hashOf(canonical(capability)), settings },
    ]),
  )
  return { version: 1, from, ...rig.wiring, devices }
}

/** A setting on a source's path that differs from what it was. */
export interface Moved extends Difference {
  device: string
  parameter: Parameter
}

/** Why a take no longer tells what is there. */
export interface Staleness {
  settings: Moved[]
  /** Changes of cables, drives and devices, in words. */
  wiring: string[]
}
export const isStale = ({ settings, wiring }: Staleness): boolean => settings.length > 0 || wiring.length > 0

const paths = new WeakMap<Then, Map<string, PathMap[]>>()

/** The paths of a snapshot's source; of the one output `only` where a take holds that alone. */
export function pathsThen(then: Then, source: string, only: Endpoint | null): PathMap[] {
  const known = paths.get(then) ?? new Map<string, PathMap[]>()
  paths.set(then, known)
  const key = only ? `${source} ${only.device}:${only.channel}` : source
  const found
    = known.get(key)
      ?? (only ? [only] : outputsOf(then.rig.wiring, source)).map(to => pathMap(then.rig, then.from, to))
  known.set(key, found)
  return found
}

const placeOf = (e: Endpoint | undefined, names: (device: string) => string) =>
  e ? `${names(e.device)} output ${e.channel + 1}` : 'nothing'

/** What is joined otherwise than it was, in words. */
function rewired(then: Then, now: Rig, source: string, on: PathMap[], names: (device: string) => string): string[] {
  const words: string[] = []
  const seen = new Set<string>()
  const swapped = (what: string, was: Endpoint | undefined, is: Endpoint | undefined) => {
    if (was && is ? sameEndpoint(was, is) : was === is) return
    const text = `${what} is ${placeOf(is, names)}, not ${placeOf(was, names)}.`
    if (!seen.has(text)) words.push(text)
    seen.add(text)
  }
  const was = then.rig.wiring
  const bands = new Set([...drivesOf(was, source), ...drivesOf(now.wiring, source)].map(driveKey))
  for (const key of bands) {
    const band = key.split(':')[2]!
    swapped(
      phrase('rig.whatDrivesIts', { part: band === 'full' ? 'cabinets' : `${band} band` }),
      was.drives[key],
      now.wiring.drives[key],
    )
  }
  for (const input of new Set(on.flatMap(m => [...m.cables.keys()]))) {
    const [device, channel] = input.split(':') as [string, string]
    swapped(phrase('rig.whatFeedsInput', {
      device: names(device),
      channel: Number(channel) + 1,
    }), was.cables[input], now.wiring.cables[input])
  }
  for (const id of Object.keys(then.rig.devices))
    if (!now.devices[id]) words.push(phrase('rig.isNoLongerThere', { id: names(id) }))
  return words
}

/** What stands otherwise in the devices on a take's path than it did, mutes and routing apart. */
function movedSettings(then: Then, now: Rig, on: readonly PathMap[]): Moved[] {
  return Object.entries(then.rig.devices).flatMap(([device, was]): Moved[] => {
    const is = now.devices[device]
    if (!is) return []
    const table = parametersOf(was.capability)
    return differences(was.capability, interned(was.settings), interned(is.settings)).flatMap((d) => {
      const parameter = table.get(d.path)!
      if (!on.some(path => isOn(path, device, parameter))) return []
      if (!parameter.kind.stales(d.from, d.to)) return []
      return [{ ...d, device, parameter }]
    })
  })
}

/** What a device is called. */
export type Names = (device: string) => string

/**
 * Why a take made with `then` no longer tells what is there: settings on its path (mutes and routing apart),
 * cables, drives.
 * What a device no longer has does not throw: it counts as moved to nothing.
 */
export function staleness(
  then: Then,
  now: Rig,
  source: string,
  only: Endpoint | null = null,
  names: Names = id => id,
): Staleness {
  const on = pathsThen(then, source, only)
  return { settings: movedSettings(then, now, on), wiring: rewired(then, now, source, on, names) }
}

const deltas = new WeakMap<Settings, { to: Settings, paths: readonly string[] }>()

/** Paths whose values differ between two settings; found once for all takes that ask. */
function changedPaths(from: Settings, to: Settings): readonly string[] {
  const known = deltas.get(from)
  if (known?.to === to) return known.paths
  const all = new Set([...Object.keys(from), ...Object.keys(to)])
  const paths = [...all].filter(path => from[path] !== to[path] && !equal(from[path], to[path]))
  deltas.set(from, { to, paths })
  return paths
}

/** What has moved, from what had before a step: only what the step touched is looked at again. */
function movedBy(before: Remembered, then: Then, now: Rig, on: readonly PathMap[]): Moved[] {
  let moved = before.moved
  Object.entries(then.rig.devices).forEach(([device, was], k) => {
    const [from, to] = [before.settings[k], now.devices[device]?.settings]
    if (!from || !to || from === to) return
    const paths = changedPaths(from, to)
    const table = parametersOf(was.capability)
    const others = moved.filter(m => m.device !== device || !paths.includes(m.path))
    const fresh = paths.flatMap((path): Moved[] => {
      const parameter = table.get(path)
      if (!parameter || !on.some(p => isOn(p, device, parameter))) return []
      const difference = { path, from: valueOf(was.settings, parameter), to: valueOf(to, parameter) }
      if (equal(difference.from, difference.to) || !parameter.kind.stales(difference.from, difference.to)) return []
      return [{ ...difference, device, parameter }]
    })
    if (others.length !== moved.length || fresh.length) moved = [...others, ...fresh]
  })
  return moved
}

interface Remembered {
  wiring: Rig['wiring']
  words: string[]
  settings: (Settings | undefined)[]
  moved: Moved[]
}

/**
 * Staleness of many takes, asked again after every change: each take's is found anew only when something on its
 * own path is another.
 * Takes that share a snapshot, source and output share the answer.
 */
export function createStalenessTable() {
  const known = new WeakMap<Then, Map<string, Remembered>>()
  return (then: Then, now: Rig, source: string, only: Endpoint | null, names: Names): Staleness => {
    const mine = known.get(then) ?? new Map<string, Remembered>()
    known.set(then, mine)
    const key = only ? `${source} ${only.device}:${only.channel}` : source
    const before = mine.get(key)
    const settings = Object.keys(then.rig.devices).map(id => now.devices[id]?.settings)
    const sameDevices = before !== undefined
      && settings.every((s, k) => (s === undefined) === (before.settings[k] === undefined))
    const sameWiring = sameDevices && before.wiring === now.wiring
    const sameSettings = before !== undefined && settings.every((s, k) => s === before.settings[k])
    if (before && sameWiring && sameSettings) return { settings: before.moved, wiring: before.words }
    const on = pathsThen(then, source, only)
    const next = {
      wiring: now.wiring,
      words: before && sameWiring ? before.words : rewired(then, now, source, on, names),
      settings,
      moved: before && sameDevices ? movedBy(before, then, now, on) : movedSettings(then, now, on),
    }
    mine.set(key, next)
    return { settings: next.moved, wiring: next.words }
  }
}
