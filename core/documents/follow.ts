import {
  deviceQ,
  endpointKey, endpointOf,
  holdParameter,
  is,
  parametersIn,
  routeTo,
  stripAt,
  thresholdFor,
  valueAt,
  valueOf,
  voltsAtFullScale,
  type Band,
  type BandCapability,
  type Capability,
  type Endpoint,
  type LimiterPlace,
  type Parameter,
  type ParameterOf,
  type Pass,
  type Range,
  type Rig,
  type Settings,
} from '../rig'
import { equal, type Volts } from '../units'
import type { Documents } from './kinds'
import { compose } from './group'
import { groupsOf, layersOn, sheetNeeds } from './layersOn'
import { noNeeds, type Needs, type Sheet, type SheetBand, type SheetFilter, type SheetPass } from './sheet'
import { allOf, contentOf, nameIn, rigOf } from './site'
import { Refusal, refusal, toldOf, phrase } from '../words'

/** An output of a device that keeps what a band of a loudspeaker sheet says. */
export interface Follower {
  output: Endpoint
  sheet: string
  band: string
}

/** A setting of a device as it shall be. */
export interface DesiredSetting {
  device: string
  path: string
  value: unknown
}

/** Every output that follows a sheet; those of one sheet only where it is named. */
export function followersOf(documents: Documents, sheet?: string): Follower[] {
  const follows = contentOf(documents, 'wiring')?.follows ?? {}
  return Object.entries(follows)
    .filter(([, f]) => sheet === undefined || f.sheet === sheet)
    .map(([key, f]) => ({ output: endpointOf(key), ...f }))
}

/** What an output follows; null: nothing. */
export const followed = (documents: Documents, output: Endpoint): Follower | null =>
  followersOf(documents).find(f => endpointKey(f.output) === endpointKey(output)) ?? null

/** A band of a loudspeaker. */
export interface Driven {
  sheet: Sheet
  band: SheetBand
}

/** The band of a loudspeaker that an output drives; undefined where it drives none, or cabinets that differ. */
export function bandDriven(
  documents: Documents,
  source: string,
  output: Endpoint,
): Driven | undefined {
  const drives = Object.entries(contentOf(documents, 'wiring')?.drives ?? {})
    .filter(([key, to]) => key.startsWith(`${source}:`) && equal(to, output))
    .map(([key]) => key.split(':') as [string, string, string])
  const bands = drives.map(([, element, id]) => {
    const kind = contentOf(documents, 'source', source)?.elements[Number(element)]?.sheet
    const sheet = contentOf(documents, 'sheet', kind)
    const band = sheet?.bands.find(b => b.id === id)
    return sheet && band && { sheet, band }
  })
  return bands.every(b => b?.band === bands[0]?.band) ? bands[0] : undefined
}

/** The outputs behind an output that drive loudspeakers: itself, or what its cables lead to. */
function endsBehind(rig: Rig, output: Endpoint): Endpoint[] {
  const ends = new Map(Object.values(rig.wiring.drives).map(o => [endpointKey(o), o]))
  return [...ends.values()].filter(end => equal(end, output) || routeTo(rig, output, end))
}

/** Sources that are heard by way of an output, with the band of theirs that it drives. */
export function heardThrough(documents: Documents, output: Endpoint): ({ source: string } & Driven)[] {
  const ends = endsBehind(rigOf(documents, 'draft'), output)
  return allOf(documents, 'source').flatMap(s => ends.flatMap((end) => {
    const driven = bandDriven(documents, s.id, end)
    return driven ? [{ source: s.id, ...driven }] : []
  }))
}

interface Output {
  capability: Capability
  settings: Settings
  parameters: readonly Parameter[]
  /** Volts RMS at the loudspeaker of a sine at full scale behind its limiter; null: not known. */
  volts: Volts | null
}

function outputAt(documents: Documents, output: Endpoint): Output {
  const rig = rigOf(documents, 'draft')
  const device = rig.devices[output.device]
  const at = stripAt(rig, output)
  if (!device || !at) throw refusal('follow.noOutput')
  const parameters = parametersIn(device.capability, at.strip)
  const limiter = parameters.find(p => is(p, 'limiter'))
  const volts = endsBehind(rig, output).map(l => voltsAtFullScale(rig, output, l, limiter?.path))
  const known = volts.filter(x => x !== null)
  return {
    ...device,
    parameters,
    volts: known.length === volts.length && known.length ? Math.max(...known) : null,
  }
}

const passOf = (draft: Pass, wish: SheetPass | null): Pass => (wish ? { on: true, ...wish } : { ...draft, on: false })
const filterOf = (f: SheetFilter, capability: BandCapability | undefined): Band =>
  ({ on: true, ...f, q: f.type === 'peaking' && capability ? deviceQ(f.q, f.gain, capability) : f.q })

/** Filters of a strip: those laid over it first (sheet, groups), then the output's own, `kept` first among them. */
function bandWishes({ settings, parameters }: Output, was: Needs, now: Needs, kept: SheetFilter[]) {
  const bands = parameters.filter(p => is(p, 'band'))
  const draftOf = (p: ParameterOf<'band'>) => valueOf(settings, p)
  const limits = bands[0]?.capability
  if (now.eq.length <= was.eq.length && !kept.length) {
    return bands.slice(0, was.eq.length).map((p, n) => {
      const f = now.eq[n]
      return { p, value: f ? filterOf(f, limits) : { ...draftOf(p), on: false } }
    })
  }
  const own = [...kept.map(f => filterOf(f, limits)), ...bands.slice(was.eq.length).map(draftOf).filter(b => b.on)]
  if (now.eq.length + own.length > bands.length) {
    throw refusal('follow.filtersDiffer', { has: bands.length, needed: now.eq.length, own: own.length })
  }
  const wanted = [...now.eq.map(f => filterOf(f, limits)), ...own]
  return bands.map((p, n) => ({ p, value: wanted[n] ?? { ...draftOf(p), on: false } }))
}

/** What the blocks of an output shall be, by their kinds, when its sheet goes from `was` to `now`. */
function wishesOf(at: Output, was: Needs, now: Needs, kept: SheetFilter[] = []): { p: Parameter, value: unknown }[] {
  const draftOf = <P extends Parameter>(p: P) => valueOf(at.settings, p)
  const bands = bandWishes(at, was, now, kept)
  const turned = was.polarity !== now.polarity
  const other = { normal: 'inverted', inverted: 'normal' } as const
  return at.parameters.flatMap((p): { p: Parameter, value: unknown }[] => {
    if (is(p, 'gain')) return [{ p, value: draftOf(p) + now.gain - was.gain }]
    if (is(p, 'delay')) return [{ p, value: draftOf(p) + now.delay - was.delay }]
    if (is(p, 'polarity')) return turned ? [{ p, value: other[draftOf(p)] }] : []
    if (is(p, 'limiter')) return limiterWish(at, p, was, now)
    if (!is(p, 'pass')) return []
    const side = p.capability.side === 'high' ? 'highPass' : 'lowPass'
    return equal(was[side], now[side]) && !now[side] ? [] : [{ p, value: passOf(draftOf(p), now[side]) }]
  }).concat(bands)
}

function limiterWish(at: Output, p: ParameterOf<'limiter'>, was: Needs, now: Needs) {
  const draft = valueOf(at.settings, p)
  if (!now.limiter) return was.limiter ? [{ p, value: { ...draft, on: false } }] : []
  if (at.volts === null) return []
  const { threshold: range, attack, hold, release } = p.capability
  const inside = (value: number, limits: Range) => Math.min(limits.max, Math.max(limits.min, value))
  const { threshold, ...times } = now.limiter
  // never higher than the sheet says: down to the next step of the device
  const level = Math.floor(thresholdFor(threshold, at.volts, times.detector) / range.step + 1e-9) * range.step
  const value = {
    ...draft, on: true, ...times, threshold: Math.min(range.max, level),
    attack: inside(times.attack, attack), hold: inside(times.hold, hold), release: inside(times.release, release),
  }
  return [{ p, value }]
}

/**
 * The settings of an output when what is laid over it goes from `was` to `now` (nothing: `noNeeds`). Gain, delay and
 * polarity are added to the output's own; passes and limiter are the sheet's; the filters come before the output's.
 * `kept`: filters that become the output's own.
 * Throws RangeError with what the device cannot do: then nothing of it is set.
 */
export function followEdits(
  documents: Documents,
  output: Endpoint,
  was: Needs,
  now: Needs,
  kept: SheetFilter[] = [],
): DesiredSetting[] {
  const at = outputAt(documents, output)
  const missing = lacking(at, now)
  if (missing.length) throw refusal('follow.lacks', { missing: missing.join(phrase('documents.andNo')) })
  return wishesOf(at, was, now, kept).flatMap(({ p, value }) => {
    const held = holdParameter(at.capability, p.path, value)
    if (!held.ok) throw new Refusal(held.why)
    if (equal(held.value, valueAt(at.capability, at.settings, p.path))) return []
    return [{ device: output.device, path: p.path, value: held.value }]
  })
}

function lacking({ parameters }: Output, { highPass, lowPass, eq }: Needs): string[] {
  const hasPass = (side: 'high' | 'low') => parameters.some(p => is(p, 'pass') && p.capability.side === side)
  return [
    ...(highPass && !hasPass('high') ? ['high-pass'] : []),
    ...(lowPass && !hasPass('low') ? ['low-pass'] : []),
    ...(eq.length && !parameters.some(p => is(p, 'band')) ? ['filters'] : []),
  ]
}

/** What of an output is not as its sheet and its groups say: names of blocks. Its own gain and delay may differ. */
export function departures(documents: Documents, output: Endpoint): string[] {
  const needs = layersOn(documents, output)
  const at = outputAt(documents, output)
  const followsSheet = sheetNeeds(documents, output) !== undefined
  const filters = at.parameters.filter(p => is(p, 'band'))
  return wishesOf(at, needs, needs).flatMap(({ p, value }) => {
    if (is(p, 'band') && filters.indexOf(p) >= needs.eq.length) return []
    if ((is(p, 'pass') || is(p, 'limiter')) && !followsSheet) return []
    const held = holdParameter(at.capability, p.path, value)
    const now = valueAt(at.capability, at.settings, p.path)
    return !held.ok || equal(held.value, now) || is(p, 'gain') || is(p, 'delay') ? [] : [p.short]
  })
}

/** What a limiter of an output is counted from. */
export function limiterPlace(documents: Documents, output: Endpoint): LimiterPlace {
  const rig = rigOf(documents, 'draft')
  const loads = heardThrough(documents, output).map(h => h.band.impedance ?? null)
  return {
    connector: rig.devices[output.device]?.capability.outputs[output.channel]?.fullScale ?? null,
    loudspeaker: outputAt(documents, output).volts,
    ohms: loads.length && loads.every(ohms => ohms === loads[0]) ? loads[0]! : null,
  }
}

/** What of a sheet an output cannot take over, in words: it is left as it is there. */
export function leftAside(documents: Documents, output: Endpoint, needs: Needs): string[] {
  const at = outputAt(documents, output)
  if (!needs.limiter || !at.parameters.some(p => is(p, 'limiter'))) return []
  return at.volts === null
    ? [phrase('documents.itsLimiterIsLeft')]
    : []
}

/** Everything from which something is laid over outputs. */
const layered = (documents: Documents): Map<string, Endpoint> =>
  new Map([
    ...followersOf(documents).map(f => f.output),
    ...allOf(documents, 'group').flatMap(g => g.members),
  ].map(o => [endpointKey(o), o]))

/**
 * What outputs shall be set to when the documents of sheets, groups and who follows them become those of `next`: of
 * every output over which something else is laid then. Throws RangeError that names the output.
 */
export function layerEdits(documents: Documents, next: Documents): DesiredSetting[] {
  const outputs = new Map([...layered(documents), ...layered(next)])
  return [...outputs.values()].flatMap((output) => {
    const [was, now] = [layersOn(documents, output), layersOn(next, output)]
    if (equal(was, now)) return []
    try {
      return followEdits(documents, output, was, now)
    }
    catch (error) {
      if (!(error instanceof RangeError)) throw error
      const name = nameIn(documents, 'device', output.device)
      throw refusal('follow.output', { name, output: output.channel + 1, why: toldOf(error) })
    }
  })
}

/** What an output that lets its sheet go must be set to so that nothing changes but whose settings they are. */
export function detachEdits(documents: Documents, output: Endpoint): DesiredSetting[] {
  const sheet = sheetNeeds(documents, output) ?? noNeeds
  const groups = groupsOf(documents, output).map(g => g.layer)
  if (!sheet.eq.length || !groups.some(g => g.eq.length)) return []
  const all = compose(sheet, groups)
  return followEdits(documents, output, all, { ...all, eq: groups.flatMap(g => g.eq) }, sheet.eq)
}
