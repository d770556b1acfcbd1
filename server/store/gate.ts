import {
  contentOf,
  rigOf,
  risesOf,
  sayRise,
  unagreed,
  unknownRises,
  type Documents,
  type Edit,
  type EditRefusal,
  type Rise,
  type DesiredSetting,
} from '../../core/documents'
import { alterations, holdParameter, opened, parametersOf, riseOf, type Rig } from '../../core/rig'
import { inTurns } from '../utils/turns'
import { message } from '../../core/words'

/** Steps within so many milliseconds add up. */
const addsUp = 10_000
/** Most states that a new step is held against, besides that of now. */
const mostBegun = 4
/** One state of the rig is kept in so many milliseconds. */
const keptEvery = 250

interface Gate {
  /**
   * Rigs as they were before each step that went through lately: where those steps began comes first. Of one that
   * opened something (`begins`) as it was afterwards: there begins what sounds since.
   */
  before: { at: number, rig: Rig, begins: boolean }[]
  /** What is on its way to devices, by the passage that let it through. */
  onTheWay: Map<Passage, readonly DesiredSetting[]>
}
const gates = new Map<string, Gate>()

function gateOf(site: string): Gate {
  const gate = gates.get(site) ?? { before: [], onTheWay: new Map<Passage, readonly DesiredSetting[]>() }
  gates.set(site, gate)
  return gate
}

/** A rig with some settings as they shall be. */
function wished(rig: Rig, wishes: readonly DesiredSetting[]): Rig {
  if (!wishes.length) return rig
  const next = new Map<string, Record<string, unknown>>()
  for (const { device, path, value } of wishes) {
    const at = rig.devices[device]
    if (!at) continue
    const settings = next.get(device) ?? { ...at.settings }
    next.set(device, settings)
    if (value === undefined) Reflect.deleteProperty(settings, path)
    else settings[path] = value
  }
  const devices = [...next].map(([id, settings]) => [id, { ...rig.devices[id]!, settings }] as const)
  return { ...rig, devices: { ...rig.devices, ...Object.fromEntries(devices) } }
}

/** Settings among edits as their devices would hold them; what a device cannot hold is refused elsewhere. */
export function settingsAmong(now: Documents, edits: readonly Edit[]): DesiredSetting[] {
  return edits.flatMap(({ document, path, new: value }) => {
    if (!document.startsWith('settings/') || path === '') return []
    const device = document.slice('settings/'.length)
    const capability = contentOf(now, 'device', device)?.capability
    const parameter = capability && parametersOf(capability).get(path)
    if (!capability || !parameter) return []
    const held = holdParameter(capability, path, value === undefined ? parameter.neutral : value)
    return held.ok ? [{ device, path, value: held.value }] : []
  })
}

const isLive = (now: Documents, device: string) => contentOf(now, 'link', device)?.state === 'live'

/**
 * The one gate: whatever goes to devices, by whatever door, goes through as a passage. It is asked with the whole step
 * before anything is stored or sent; what loudspeakers get louder by more than was agreed to is refused with the list.
 * `end` when everything of it has arrived or failed.
 */
export class Passage {
  /** Devices that it may send to: those that were there when it was judged. */
  readonly devices = new Set<string>()

  constructor(readonly site: string, private readonly agreed: readonly Rise[] = []) {}

  /** Null where these wishes may go to their devices; otherwise the refusal. May be asked again for the same step. */
  async admit(now: Documents, wishes: readonly DesiredSetting[]): Promise<({ ok: false } & EditRefusal) | null> {
    const gate = gateOf(this.site)
    this.devices.clear()
    const sent = wishes.filter(w => isLive(now, w.device))
    if (!sent.length) return null
    const others = [...gate.onTheWay].flatMap(([passage, list]) => (passage === this ? [] : list))
    const rig = wished(rigOf(now, 'held'), others)
    const after = wished(rig, sent)
    const at = Date.now()
    gate.before = gate.before.filter(b => b.at > at - addsUp)
    // held against what is now, and against where the steps of the last seconds began
    const rises = [...unknownRises(now, after, sent), ...await inTurns(risesOf(now, rig, after))]
    const began = gate.before.filter((b, k) => k === 0 || b.begins).slice(0, mostBegun)
    for (const { rig: then } of began)
      if (then !== rig) rises.push(...await inTurns(risesOf(now, then, after, { soundingOnly: true })))
    const open = unagreed(rises, this.agreed)
    if (open.length) return louder(worst(open))
    if (rises.length || isQuieter(rig, after)) gate.before = [{ at, rig: after, begins: true }]
    else {
      if (at - (gate.before.at(-1)?.at ?? 0) > keptEvery) gate.before.push({ at, rig, begins: false })
      if (opens(rig, after)) gate.before.push({ at, rig: after, begins: true })
    }
    gate.onTheWay.set(this, sent)
    for (const { device } of sent) this.devices.add(device)
    return null
  }

  end() {
    gateOf(this.site).onTheWay.delete(this)
  }
}

/** The way back to what was agreed to before: what a temporary state replaced. It is held against nothing. */
export class WayBack extends Passage {
  override admit(now: Documents, wishes: readonly DesiredSetting[]) {
    for (const { device } of wishes) if (isLive(now, device)) this.devices.add(device)
    gateOf(this.site).before = []
    return Promise.resolve(null)
  }
}

/** True when a step opens or connects something. */
const opens = (before: Rig, after: Rig): boolean =>
  Object.entries(after.devices).some(([id, { settings }]) => {
    const was = before.devices[id]
    if (!was || was.settings === settings) return false
    const isOpening = (from: unknown, to: unknown) => (from === true && to === false) || (from === null && to !== null)
    return alterations(was, settings).some(a => isOpening(a.from, a.to))
  })

/** A hand that drags trembles: what falls by less, dB, is not where later steps begin to add up. */
const trembles = 1

/** True when nothing of a step makes anything louder, and something clearly quieter: later ones add up from here. */
function isQuieter(before: Rig, after: Rig): boolean {
  let most = 0
  // what is muted or disconnected is silent, not quieter
  const [then, now] = opened(before, after)
  for (const [id, { settings, capability }] of Object.entries(now.devices)) {
    const was = then.devices[id]
    if (!was || was.settings === settings) continue
    for (const { parameter, from, to } of alterations(was, settings)) {
      if (to === null) continue
      if (riseOf({ parameter, from, to }, capability.sampleRate) >= 0.01) return false
      most = Math.max(most, riseOf({ parameter, from: to, to: from }, capability.sampleRate))
    }
  }
  return most > trembles
}

/** Of several rises of one kind at one loudspeaker the largest. */
function worst(rises: readonly Rise[]): Rise[] {
  const most = new Map<string, Rise>()
  for (const rise of rises) {
    const known = most.get(rise.key)
    if (!known || (rise.by ?? Infinity) > (known.by ?? Infinity)) most.set(rise.key, rise)
  }
  return [...most.values()]
}

function louder(rises: Rise[]): { ok: false } & EditRefusal {
  const why = message('edit.louder', { rise: sayRise(rises[0]!), more: rises.length - 1 })
  return { ok: false, status: 'louder', why, rises }
}
