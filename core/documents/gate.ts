import * as v from 'valibot'
import {
  alterations,
  comparedAt,
  isOn,
  levelsOf,
  opened,
  is,
  openRoutes,
  parametersIn,
  parametersOf,
  pathMap,
  pathResponse,
  riseOf,
  silent,
  thresholdVolts,
  valueOf,
  voltsAtFullScale,
  type Capability,
  type Endpoint,
  type Alteration,
  type Rig,
} from '../rig'
import { decibelsOf, showFrequency, showLevel, showNumber, type Decibels, type Hertz, type Volts } from '../units'
import { changedBefore, endsOf, type End, type Step } from './ends'
import type { Driven, DesiredSetting } from './follow'
import type { Documents } from './kinds'
import { contentOf, nameIn } from './site'
import { phrase } from '../words'

/** More than this at once is asked for first, dB (common practice: twice the voltage). */
export const mostLouder: Decibels = 6
/** Rounding of devices' steps, dB: no step. */
const margin = 0.05
/** A rise below what a loudspeaker plays that counts, dB over what its whole band rises: more than a filter’s skirt. */
const mostBelow: Decibels = 1
/** So far below the loudest in its band nothing is driven any more, dB. */
const unheard = -60
/** Part by which a limit may exceed that of the sheet: steps of devices. */
const sameLimit = 1.02

/**
 * `louder`: within what it plays; `below`: under what it plays; `limit`: its protection holds less; `unknown`: by how
 * much cannot be told.
 */
const riseKinds = ['louder', 'below', 'limit', 'unknown'] as const

/** One way in which a step makes a loudspeaker louder, or protects it less. */
export const Rise = v.strictObject({
  /** The loudspeaker's band and the output that drives it: what an agreement names. */
  key: v.pipe(v.string(), v.maxLength(300)),
  kind: v.picklist(riseKinds),
  /** The loudspeaker in words: 'Main L, high band'. */
  name: v.pipe(v.string(), v.maxLength(300)),
  /** dB; null: without bound (a limiter that is off). */
  by: v.nullable(v.number()),
  /** Where most, in Hz; null for limits. */
  at: v.nullable(v.number()),
  /** Lowest frequency that it plays; where `kind` is 'below'. */
  low: v.nullable(v.number()),
  /** Volts RMS of a sine at the loudspeaker that are let through afterwards, and that its sheet allows. */
  limit: v.nullable(v.strictObject({ volts: v.nullable(v.number()), allowed: v.nullable(v.number()) })),
})
export type Rise = v.InferOutput<typeof Rise>

/** What somebody has agreed to: these rises, each up to so much. */
export const Agreed = v.pipe(v.array(Rise), v.maxLength(2000))

const stepOf = (before: Rig, after: Rig): Step =>
  new Map(Object.entries(after.devices).flatMap(([id, { settings }]) => {
    const was = before.devices[id]
    const moved = was && was.settings !== settings ? alterations(was, settings) : []
    return moved.length ? [[id, moved] as const] : []
  }))

const heardFrom = (band: Driven['band'] | undefined): Hertz => band?.low ?? 20
const heardTo = (band: Driven['band'] | undefined): Hertz => band?.high ?? 20_000

/** The rises of one loudspeaker from its levels before and after, in dB at the frequencies. */
function risesBetween(end: End, at: Float64Array, before: Float64Array, after: Float64Array): Rise[] {
  const band = end.driven?.band
  const [low, high] = [heardFrom(band), heardTo(band)]
  let most = { by: -Infinity, at: 0 }
  let least = Infinity
  let loudest = -Infinity
  at.forEach((f, k) => {
    if (f < low || f > high) return
    const by = after[k]! - before[k]!
    if (by > most.by) most = { by, at: f }
    least = Math.min(least, by)
    loudest = Math.max(loudest, after[k]!)
  })
  // what a level alone raises is raised everywhere: that is no loss of protection
  const whole = Math.max(0, least)
  let below = { by: -Infinity, at: 0 }
  if (band) {
    at.forEach((f, k) => {
      const by = after[k]! - before[k]!
      if (f < low && after[k]! > loudest + unheard && by - whole > mostBelow && by > below.by) below = { by, at: f }
    })
  }
  const base = { name: end.name, limit: null }
  return [
    ...(below.by > 0 ? [{ ...base, key: `${end.key} below`, kind: 'below' as const, low, ...below }] : []),
    ...(most.by > mostLouder + margin
      ? [{ ...base, key: `${end.key} louder`, kind: 'louder' as const, low: null, ...most }]
      : []),
  ]
}

/** A rig whose connectors all have a full scale, so that limits can at least be compared; 1 V where it is unknown. */
const assumed = new WeakMap<Capability, Capability>()
function scaled(rig: Rig): Rig {
  const scaledOf = (c: Capability) => {
    const known = assumed.get(c)
      ?? { ...c, ...{ inputs: c.inputs.map(p => ({ ...p, fullScale: p.fullScale ?? 1 })) },
        outputs: c.outputs.map(p => ({ ...p, fullScale: p.fullScale ?? 1 })) }
    assumed.set(c, known)
    return known
  }
  const devices = Object.entries(rig.devices).map(([id, d]) => [id, { ...d, capability: scaledOf(d.capability) }])
  return { ...rig, devices: Object.fromEntries(devices) as Rig['devices'] }
}

/** Volts RMS of a sine that limiters on the way to a loudspeaker let through; Infinity where none is on. */
function limitOf(rig: Rig, feeds: readonly Endpoint[], end: Endpoint): Volts {
  let least = Infinity
  const seen = new Set<string>()
  for (const step of feeds.flatMap(from => openRoutes(rig, from, end)).flat()) {
    const key = `${step.device} ${step.strip}`
    if (seen.has(key)) continue
    seen.add(key)
    const { capability, settings } = rig.devices[step.device]!
    const channel = capability.outputs.findIndex(o => o.strip === step.strip)
    if (channel < 0) continue
    for (const p of parametersIn(capability, step.strip)) {
      const limiter = is(p, 'limiter') ? valueOf(settings, p) : null
      if (!limiter?.on) continue
      const volts = voltsAtFullScale(rig, { device: step.device, channel }, end, p.path)
      if (volts !== null) least = Math.min(least, thresholdVolts(volts, limiter))
    }
  }
  return least
}

/** Volts RMS at a loudspeaker that its sheet allows for long; null where it does not tell. */
function allowedVolts(driven: Driven | undefined): Volts | null {
  if (!driven) return null
  const { needs, power, impedance } = driven.band
  return needs?.limiter?.threshold ?? (power && impedance ? Math.sqrt(power * impedance) : null)
}

const allScaled = (rig: Rig) =>
  Object.values(rig.devices).every(({ capability: c }) => c.outputs.every(o => o.fullScale !== undefined))

function limitRise(end: End, before: Rig, after: Rig, feeds: readonly Endpoint[]): Rise[] {
  const [was, is] = [before, after].map(rig => limitOf(scaled(rig), feeds, end.output)) as [Volts, Volts]
  if (!(is > was * 1.001)) return []
  const allowed = allScaled(after) ? allowedVolts(end.driven) : null
  const isBeyond = allowed !== null && is > allowed * sameLimit
  const by = decibelsOf(is / was)
  if (Number.isFinite(by) && !isBeyond && by <= mostLouder + margin) return []
  const known = Number.isFinite(is) && allScaled(after)
  return [{
    key: `${end.key} limit`, kind: 'limit', name: end.name, at: null, low: null,
    by: Number.isFinite(by) ? by : null,
    limit: { volts: known ? is : null, allowed },
  }]
}

const touches = (step: Step, test: (device: string, m: Alteration) => boolean) =>
  [...step].flatMap(([device, list]) => list.filter(m => test(device, m)))

const isSilent = (levels: Float64Array) => levels.every(level => level <= silent)
const isLimiting = ({ parameter: { kind } }: Alteration) => kind.role === 'dynamics' || kind.isLevel === true
const switches = ({ parameter }: Alteration) => parameter.kind.role === 'source-select'

/**
 * Everything in which a step from one state of the rig to another makes a loudspeaker louder by more than goes without
 * a question, drives it below what it plays, or protects it less: the whole step summed at every loudspeaker that it
 * reaches, along every feed. What opens or connects is no step by itself (see `opened`). `soundingOnly`: only what
 * really came through before counts, nothing that was muted or led nowhere. Yields between its parts.
 */
export function* risesOf(
  documents: Documents,
  before: Rig,
  after: Rig,
  { soundingOnly = false } = {},
): Generator<void, Rise[]> {
  const [was, is] = opened(before, after)
  const step = stepOf(was, is)
  if (!step.size) return []
  const feeds = Object.values(contentOf(documents, 'wiring')?.feeds ?? {}).map(f => f.from)
  const judged = new Set<Alteration>()
  const found = new Map<string, Rise>()
  const keep = (rise: Rise) => {
    const known = found.get(rise.key)
    if (!known || (rise.by ?? Infinity) > (known.by ?? Infinity)) found.set(rise.key, rise)
  }
  const isSwitched = touches(step, (_, m) => switches(m)).length > 0
  const rigs = isSwitched ? [was, is] : [is]
  const isAffected = rigs.map(rig => changedBefore(rig, step))
  yield
  for (const end of endsOf(documents, is)) {
    if (!isAffected.some(test => test(end.output))) continue
    const reached = new Set<Alteration>()
    for (const from of feeds) {
      const maps = rigs.map(rig => pathMap(rig, from, end.output))
      const moved = touches(step, (device, m) => maps.some(map => isOn(map, device, m.parameter)))
      yield
      if (!moved.length) continue
      const at = comparedAt(moved)
      const [then, now] = [was, is].map(rig => levelsOf(pathResponse(rig, from, end.output, at))) as
        [Float64Array, Float64Array]
      yield
      // what nothing came through before, or comes through after, is judged by itself
      if (isSilent(then) || isSilent(now)) continue
      const some = at.filter((_, k) => k % 16 === 0)
      if (soundingOnly && isSilent(levelsOf(pathResponse(before, from, end.output, some)))) continue
      for (const m of moved) reached.add(m)
      risesBetween(end, at, then, now).forEach(keep)
    }
    for (const m of reached) judged.add(m)
    if ([...reached].some(isLimiting)) limitRise(end, was, is, feeds).forEach(keep)
    yield
  }
  if (soundingOnly) return sorted(found)
  // what reaches no loudspeaker by any feed now is judged by itself: it may be connected later
  for (const [device, list] of step) {
    const { sampleRate } = is.devices[device]!.capability
    for (const m of list) {
      if (judged.has(m) || switches(m)) continue
      const by = riseOf(m, sampleRate)
      if (by <= mostLouder + margin) continue
      const name = `${nameIn(documents, 'device', device)}, ${m.parameter.name.toLowerCase()}`
      const kind = m.parameter.kind.role === 'dynamics' ? 'limit' : 'louder'
      keep({
        key: `${device}${m.parameter.path} ${kind}`, kind, name, at: null, low: null,
        by: Number.isFinite(by) ? by : null,
        limit: kind === 'limit' ? { volts: null, allowed: null } : null,
      })
    }
  }
  return sorted(found)
}

/** Losses of protection first, then what is louder; the largest of each first. */
function sorted(found: ReadonlyMap<string, Rise>): Rise[] {
  const order = (r: Rise) => (r.kind === 'louder' ? 1 : 0)
  return [...found.values()].sort((a, b) => order(a) - order(b) || (b.by ?? Infinity) - (a.by ?? Infinity))
}

/**
 * Rises of unknown size: from writing parameters of which their device tells what cannot be, at every loudspeaker
 * behind them, or at the device itself where there is none. What is written may be louder than what is there.
 */
export function unknownRises(documents: Documents, after: Rig, wishes: readonly DesiredSetting[]): Rise[] {
  const base = { kind: 'unknown' as const, by: null, at: null, low: null, limit: null }
  return wishes.flatMap(({ device, path, value: to }) => {
    const capability = after.devices[device]?.capability
    const parameter = capability && parametersOf(capability).get(path)
    const isUnknown = contentOf(documents, 'link', device)?.unknown?.includes(path)
    if (!parameter || !isUnknown || to === null || !parameter.kind.mayRaise) return []
    const isBehind = changedBefore(after, new Map([[device, [{ parameter, from: parameter.neutral, to }]]]))
    const behind = endsOf(documents, after).filter(end => isBehind(end.output))
    const here = `${nameIn(documents, 'device', device)}, ${parameter.name.toLowerCase()}`
    if (!behind.length) return [{ ...base, key: `${device}${path} unknown`, name: here }]
    return behind.map(end => ({ ...base, key: `${end.key} unknown`, name: `${end.name} (${here})` }))
  })
}

/** `risesOf` at one go. */
export function risesNow(documents: Documents, before: Rig, after: Rig): Rise[] {
  const work = risesOf(documents, before, after)
  for (;;) {
    const { done, value } = work.next()
    if (done) return value
  }
}

/** Those of some rises that nobody has agreed to: not named, or by more than was named. */
export const unagreed = (rises: readonly Rise[], agreed: readonly Rise[]): Rise[] =>
  rises.filter(r => !agreed.some(a =>
    a.key === r.key && (a.by === null || (r.by !== null && r.by <= a.by + 2 * margin))))

/** A rise in one sentence. */
export function sayRise({ kind, name, by, at, low, limit }: Rise): string {
  if (kind === 'unknown')
    return phrase('documents.perhapsLouderItsDevice', { name })
  const much = by === null ? '' : ` by ${showLevel(by)}`
  if (kind === 'below')
    return phrase('documents.atBelowTheThat', {
      name,
      by: showLevel(by!),
      at: showFrequency(at!),
      low: showFrequency(low!),
    })
  if (kind === 'louder') return `${name}: louder${much}${at === null ? '' : ` at ${showFrequency(at)}`}.`
  const allowed = limit?.allowed ? phrase('documents.itsSheetAllowsV', { allowed: showNumber(limit.allowed, 1) }) : ''
  if (by === null) return phrase('documents.itsLimiterIsOff', { name, allowed })
  const volts = limit?.volts ? `, to ${showNumber(limit.volts, 1)} V` : ''
  return phrase('documents.itsLimitRises', { name, much, volts, allowed })
}
