import { contentOf, draftOf, heldOf, type Documents, type Edit, type Rise } from '../../core/documents'
import {
  cannotAct, differences, noHousekeeping, type Capability, type DeviceAct, type Settings,
} from '../../core/rig'
import { message, type Message } from '../../core/words'
import { actorOf, type Outcome } from '../store/actor'
import { makeEdits, type Asker } from '../store/edits'
import { Passage } from '../store/gate'
import { writeLog } from '../store/log'
import { driveAct, drivePreset } from './driving'
import { deliver } from './sending'

/** What a device of a site shall do. */
interface Asked {
  site: string
  device: string
  act: DeviceAct
  /** A preset is recalled although nobody can tell what is in it. */
  blind: boolean
  agreed: readonly Rise[]
}
type Refusal = Extract<Outcome, { ok: false }>
const refusal = (why: Message, status: 'refused' | 'missing' = 'refused'): Refusal => ({ ok: false, status, why })

/** Has a device do something and logs it; gives the refusal where it does not, or cannot. */
export async function actOn(asked: Asked, asker: Asker): Promise<Refusal | null> {
  const { site, device, act } = asked
  const now = (await actorOf(site).read())?.documents ?? {}
  const record = contentOf(now, 'device', device)
  if (!record) return refusal(message('edit.noDevice'), 'missing')
  const { name } = record
  const state = contentOf(now, 'housekeeping', device) ?? noHousekeeping
  if (contentOf(now, 'link', device)?.state !== 'live') return refusal(message('act.away', { device: name }))
  const slot = 'slot' in act ? act.slot : 0
  const cannot = cannotAct(state, act)
  if (cannot) return refusal(message(cannot, { device: name, slot }))
  const preset = state.presets.find(p => p.slot === slot)?.name || String(slot)
  if (act.act === 'recall') {
    const refused = await makeAsPreset(asked, { ...act, name: preset }, record, asker)
    if (refused) return refused
  }
  const why = await driveAct(site, device, act)
  if (why !== null) return refusal(message('act.refused', { device: name, why }))
  const told = logOf(act, name, preset)
  if (told) await writeLog(site, asker.who, told)
  return null
}

const frontTold = {
  open: 'log.device.front.open', levels: 'log.device.front.levels', locked: 'log.device.front.locked',
} as const
function logOf(act: DeviceAct, device: string, preset: string): Message | null {
  switch (act.act) {
    case 'identify': return null
    case 'name': return message('log.device.named', { device, name: act.name })
    case 'front': return message(frontTold[act.front], { device })
    case 'store': return message('log.device.stored', { device, preset: act.name })
    case 'recall': return message('log.device.recalled', { device, preset })
    case 'rename': return message('log.device.renamed', { device, from: preset, to: act.name })
    case 'clear': return message('log.device.cleared', { device, preset })
  }
}

/** Changes of a draft that make it as a preset is, and every path in which the device differs from it. */
function towards(now: Documents, device: string, capability: Capability, preset: Settings) {
  const edits = differences(capability, draftOf(now, device), preset).map(({ path, from, to }): Edit =>
    ({ document: `settings/${device}`, path, old: from, new: to }))
  return { edits, paths: differences(capability, heldOf(now, device), preset).map(d => d.path) }
}

/**
 * Makes a device as a preset is, before it is recalled: value by value through the gate, what gets quieter first and
 * levels on their ramps, so that the recall itself changes nothing that is heard; and it can be taken back.
 */
async function makeAsPreset(
  { site, device, blind, agreed }: Asked, { slot, name: preset }: { slot: number, name: string },
  { name, capability }: { name: string, capability: Capability }, asker: Asker,
): Promise<Refusal | null> {
  const settings = await drivePreset(site, device, slot)
  if (!settings) return blind ? null : refusal(message('act.unknown', { device: name, preset }))
  const now = (await actorOf(site).read())?.documents ?? {}
  const { edits, paths } = towards(now, device, capability, settings)
  const passage = new Passage(site, agreed)
  try {
    const wishes = paths.map(path => ({ device, path, value: settings[path] }))
    const refused = await passage.admit(now, wishes)
    if (refused) return refused
    if (edits.length) {
      const outcome = await makeEdits(site, { edits, gesture: crypto.randomUUID(), live: true }, asker, passage)
      if (!outcome.ok) return outcome
    }
    const number = actorOf(site).number
    const [report] = paths.length ? await deliver(passage, [{ device, paths }], { readBack: true, number }) : []
    const [left] = report?.left ?? []
    return left ? refusal(message('act.stopped', { preset, why: left.why })) : null
  }
  finally {
    passage.end()
  }
}
