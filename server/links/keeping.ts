import { contentOf, type Documents, type Edit, type LinkState } from '../../core/documents'
import {
  compact,
  differences,
  impossible,
  misfits,
  parametersOf,
  showParameter,
  parameterName,
  type Capability,
  type Housekeeping,
  type ParameterPath,
  type Settings,
} from '../../core/rig'
import { equal } from '../../core/units'
import { actorOf, type Doing, type Prepared } from '../store/actor'
import type { Told } from './driver'

const doing = (origin: Doing['origin'], who: string): Doing => ({
  who,
  person: 'device',
  gesture: null,
  origin,
  live: false,
  undo: 'none',
})
const atTheDevice = doing('device', 'At the device')
const confirmed = doing('sent', 'The device')

/** Values that are on their way to a device, by their paths: a draft stays at them until the device confirms them. */
export type Wished = ReadonlyMap<ParameterPath, unknown>
const nothingWished: Wished = new Map()

/**
 * One value as the device holds it now; a draft that had no change of its own follows what was changed at the device,
 * but for one that waits for the device to confirm it.
 */
function heldEdits(
  now: Documents,
  device: string,
  capability: Capability,
  { path, value, by }: Told,
  wished: Wished,
): Edit[] {
  const held = contentOf(now, 'held', device) ?? {}
  const draft = contentOf(now, 'settings', device) ?? {}
  const parameter = parametersOf(capability).get(path)
  const kept = parameter && equal(value, parameter.neutral) ? undefined : value
  const old = held[path]
  if (equal(old, kept)) return []
  const edits: Edit[] = [{ document: `held/${device}`, path, old, new: kept }]
  const isWished = wished.has(path) && !equal(wished.get(path), value)
  if (by === 'device' && equal(draft[path], old) && !isWished)
    edits.push({ document: `settings/${device}`, path, old, new: kept })
  return edits
}

/**
 * Keeps what a device told, in its order; of several values of one parameter only the last is news. Gives what it
 * cannot mean, by path: that is left out.
 */
export async function keepTold(
  site: string,
  device: string,
  told: readonly Told[],
  wished = nothingWished,
): Promise<ReadonlyMap<ParameterPath, string>> {
  let odd: ReadonlyMap<ParameterPath, string> = new Map()
  const last = new Map<string, Told>()
  for (const t of told) {
    const before = last.get(t.path)
    last.delete(t.path)
    last.set(t.path, before && t.by === 'sent' && before.by === 'device' ? { ...t } : t)
  }
  await actorOf(site).do((now): Prepared => {
    const record = contentOf(now, 'device', device)
    if (!record || !contentOf(now, 'held', device)) return { ok: true, hand: 'server', parts: [] }
    const parts: { edits: Edit[], doing: Doing }[] = []
    odd = impossible(record.capability, Object.fromEntries([...last].map(([path, t]) => [path, t.value])))
    for (const t of last.values()) {
      if (odd.has(t.path)) continue
      const edits = heldEdits(now, device, record.capability, t, wished)
      const by = t.by === 'sent' ? confirmed : atTheDevice
      // a scene that the device recalls is one step, however many values it has
      if (parts.at(-1)?.doing === by) parts.at(-1)!.edits.push(...edits)
      else if (edits.length) parts.push({ edits, doing: by })
    }
    return { ok: true, hand: 'server', parts }
  })
  return odd
}

/**
 * A draft after its device was read: its own changes stay, and what waits to be confirmed; what had none follows. A
 * draft that nobody began takes all over.
 */
function draftEdits(
  now: Documents,
  device: string,
  capability: Capability,
  read: Settings,
  wished: Wished,
  isSpare: boolean,
): Edit[] {
  const held = contentOf(now, 'held', device)
  const draft = contentOf(now, 'settings', device) ?? {}
  const document = `settings/${device}`
  // what a spare came with is nothing that anybody set here
  if (isSpare) return []
  if (!held) {
    const untouched = Object.keys(draft).length === 0
    return untouched && Object.keys(read).length ? [{ document, path: '', old: draft, new: read }] : []
  }
  return differences(capability, held, read).flatMap(({ path, to }): Edit[] =>
    equal(draft[path], held[path]) && !equal(draft[path], read[path])
    && !(wished.has(path) && !equal(wished.get(path), to))
      ? [{ document, path, old: draft[path], new: read[path] }]
      : [],
  )
}

/**
 * Keeps a whole reading of a device: differences from what it held go into the history one by one. What it cannot mean
 * stays as it was, and so does what is only `passing`: a level on its way up. A device that comes back with other
 * channels, bands or firmware is taken as it is. Where another box answers than before (`serial`), the draft stays
 * whole: it is what a spare shall become. Gives what of the draft no longer fits it, in words, what it cannot mean, by
 * path, and whether it is such a spare.
 */
export async function keepRead(
  site: string,
  device: string,
  capability: Capability,
  settings: Settings,
  wished = nothingWished,
  passing: ReadonlySet<ParameterPath> = new Set(),
  serial: string | null = null,
): Promise<{ left: string[], odd: ReadonlyMap<ParameterPath, string>, isSpare: boolean }> {
  const odd = impossible(capability, settings)
  let left: string[] = []
  let isSpare = false
  const outcome = await actorOf(site).do((now): Prepared => {
    const record = contentOf(now, 'device', device)
    if (!record) return { ok: true, hand: 'server', parts: [] }
    const held = contentOf(now, 'held', device)
    const asKnown = [...odd.keys(), ...(held ? passing : [])].map(path => [path, held?.[path]] as const)
    const read = compact(capability, { ...settings, ...Object.fromEntries(asKnown) })
    const edits: Edit[] = []
    const known = contentOf(now, 'housekeeping', device)?.serial ?? null
    isSpare = known !== null && serial !== null && known !== serial
    const isOther = !equal(record.capability, capability)
    if (isOther)
      edits.push({ document: `device/${device}`, path: '/capability', old: record.capability, new: capability })
    edits.push(...draftEdits(now, device, capability, read, wished, isSpare))
    if (!held || isOther || isSpare) {
      if (!equal(held, read)) edits.push({ document: `held/${device}`, path: '', old: held, new: read })
    }
    else {
      edits.push(
        ...differences(capability, held, read).map(({ path }) => ({
          document: `held/${device}`,
          path,
          old: held[path],
          new: read[path],
        })),
      )
    }
    const draft = contentOf(now, 'settings', device) ?? {}
    left = misfits(capability, draft).map(m =>
      `${parameterName(record.capability, m.path)} ${showParameter(record.capability, m.path, m.value)}: ${m.why}`)
    // the capability first: what follows is read by it
    return { ok: true, hand: 'server', parts: edits.length ? [{ edits, doing: atTheDevice }] : [] }
  })
  if (!outcome.ok) throw new Error(`What it holds could not be kept: ${outcome.why}`)
  return { left, odd, isSpare }
}

/** Keeps and tells the state of a link. */
export async function keepLink(
  site: string,
  device: string,
  state: LinkState['state'],
  why: string | null,
  { misfits, unknown }: Pick<LinkState, 'misfits' | 'unknown'> = { misfits: [], unknown: [] },
) {
  await actorOf(site).do((now): Prepared => {
    const old = contentOf(now, 'link', device)
    if (!contentOf(now, 'device', device)) return { ok: true, hand: 'server', parts: [] }
    if (old && old.state === state && old.why === why
      && equal([old.misfits, old.unknown], [misfits, unknown]))
      return { ok: true, hand: 'server', parts: [] }
    const since = old?.state === state ? old.since : new Date().toISOString()
    const next: LinkState = { state, why, since, misfits, unknown }
    const edit = { document: `link/${device}`, path: '', old, new: next }
    return { ok: true, hand: 'server', parts: [{ edits: [edit], doing: doing('link', 'Kovrin') }] }
  })
}

/** Keeps what a device tells of itself besides settings. */
export async function keepHousekeeping(site: string, device: string, state: Housekeeping) {
  await actorOf(site).do((now): Prepared => {
    const old = contentOf(now, 'housekeeping', device)
    if (!contentOf(now, 'device', device) || equal(old, state)) return { ok: true, hand: 'server', parts: [] }
    const edit = { document: `housekeeping/${device}`, path: '', old, new: state }
    return { ok: true, hand: 'server', parts: [{ edits: [edit], doing: doing('link', 'Kovrin') }] }
  })
}

/** Lets go of what a device told that is no longer in the rack. */
export async function forgetTold(site: string, device: string) {
  await actorOf(site).do((now): Prepared => {
    const told = contentOf(now, 'device', device)
      ? []
      : (['held', 'link', 'housekeeping'] as const).map(kind => `${kind}/${device}`).filter(key => key in now)
    const edits = told.map((document): Edit => ({ document, path: '', old: now[document], new: undefined }))
    return { ok: true, hand: 'server', parts: edits.length ? [{ edits, doing: doing('link', 'Kovrin') }] : [] }
  })
}
