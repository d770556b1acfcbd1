import { equal } from '../../units'
import type { BlockCapability, Capability } from '../../rig'
import {
  OcaDeviceManager, OcaFilterFIR, OcaLibrary, OcaMatrix, OcaMediaClock3, OcaSignalInput, OcaSignalOutput, OcaWorker,
  RigDeviceManager,
} from '../ocp1'
import { addressesOf } from './addresses'
import { boundBlock } from './bound'
import { attempt, findObjects, findWays, isBelow, type Ask, type Found } from './members'
import { housekeepingObjects, type HousekeepingObjects } from './housekeeping'
import { mappings } from './mappings'
import { decimal } from './properties'
import { kindOf, readObject } from './reading'
import { fromOf, stripsOf, type BoundObject, type FoundStrip, type Surveyed } from './strips'
import { connectorKinds, deviceRoles, rootBlock, sensorClasses } from './tree'

/** Who a device is, as its device manager says. */
export interface Identity {
  serial: string | null
  /** What it is called by its users. */
  name: string | null
  maker: string
  model: string
  firmware: string | null
}
/** A device as its tree of objects shows it. */
export interface Walked {
  capability: Capability
  bounds: BoundObject[]
  housekeeping: HousekeepingObjects
}
/** Told what was found before it is read: whoever wants to hear of changes listens from here on. */
export type Met = (changing: readonly Found[]) => Promise<void>

const manager = 1
/** Sample rate that is computed with where a device tells none. */
const assumedRate = 48_000

/** Reads who a device is. */
export async function readIdentity(ask: Ask): Promise<Identity> {
  const { GetSerialNumber, GetDeviceName, GetModelDescription } = OcaDeviceManager.methods
  const [serial, name, model] = await Promise.all(
    [GetSerialNumber, GetDeviceName, GetModelDescription].map(m => attempt(ask(manager, m))))
  const told = model?.[0] as { manufacturer: string, name: string, version: string } | undefined
  const text = (x: unknown) => (typeof x === 'string' && x.trim() ? x.trim().slice(0, 100) : null)
  return {
    serial: text(serial?.[0]),
    name: text(name?.[0]),
    maker: text(told?.manufacturer) ?? '',
    model: text(told?.name) ?? 'Device',
    firmware: text(told?.version),
  }
}

/** Takes what passes no sound out of the objects, and gives it. */
function setApart(all: Map<number, Found>): HousekeepingObjects {
  const own = housekeepingObjects(all)
  for (const found of [own.identify, own.front]) {
    if (!found) continue
    all.delete(found.number)
    const owner = all.get(found.owner)
    if (owner) owner.members = owner.members.filter(m => m !== found)
  }
  return own
}

async function survey(ask: Ask, met: Met): Promise<Surveyed & { housekeeping: HousekeepingObjects }> {
  const { root, all } = await findObjects(ask)
  const housekeeping = setApart(all)
  const objects = [...all.values()]
  await met([
    ...objects.filter(f => kindOf(f) !== null),
    ...[housekeeping.identify, housekeeping.front, housekeeping.library].filter(f => f !== null),
    root,
  ])
  const matrices = objects.filter(f => f.oca.id === OcaMatrix.id)
  const [ways, tables] = await Promise.all([
    findWays(ask, all),
    Promise.all(matrices.map(f => attempt(ask(f.number, OcaMatrix.methods.GetMembers)))),
  ])
  const points = new Set(tables.flatMap(t => (t?.[0] as number[][] | undefined)?.flat() ?? []))
  const read = new Map<number, Surveyed['read'] extends ReadonlyMap<number, infer R> ? R : never>()
  await Promise.all(objects.map(async (found) => {
    const kind = kindOf(found)
    if (!kind) return
    read.set(found.number, await readObject(ask, found, points.has(found.number) ? 'crosspoint' : kind))
  }))
  const inputs = objects.filter(f => isBelow(f, OcaSignalInput.id)).map(f => f.number)
  return { root, all, addresses: addressesOf(root), ways, read, points, inputs, housekeeping }
}

/** A connector with what a class of our own tells of it. */
async function connector(ask: Ask, found: Found): Promise<Capability['inputs'][number]> {
  const method = found.oca.methods.GetConnector
  const told = method && await attempt(ask(found.number, method)) as [number, number] | null
  const name = (found.label.trim() || found.role.trim()).slice(0, 80)
  return {
    name, kind: connectorKinds[told?.[0] ?? 0] ?? 'line', ...(told?.[1] && { fullScale: decimal(told[1]) }),
  }
}

interface FoundMixer { mixer: Capability['mixers'][number], bounds: BoundObject[], objects: Set<number> }
/** A matrix whose rows and columns lead to strips and whose points are levels that are alike; else null. */
function mixerOf(surveyed: Surveyed, found: Found, table: readonly number[][], strips: readonly FoundStrip[]) {
  const { ways, read, all, addresses } = surveyed
  const end = (is: (w: Surveyed['ways'][number]) => number | null) => {
    const object = ways.map(is).find(x => x !== null)
    return strips.find(s => object != null && s.objects.has(object))?.id
  }
  const from = table.map((_, y) =>
    end(w => (w.sink.owner === found.number && w.sink.index === y + 1 ? w.source.owner : null)))
  const to = (table[0] ?? []).map((_, x) =>
    end(w => (w.source.owner === found.number && w.source.index === x + 1 ? w.sink.owner : null)))
  const reads = table.flat().map(n => read.get(n))
  const described = reads.map(r => r && mappings.crosspoint.describe(r))
  const [first] = described
  if (!first || ![...from, ...to].every(Boolean) || !described.every(d => equal(d, first))) return null
  const crosspoint = { ...first, id: 'point' } as BlockCapability
  const address = addresses.get(found.owner) || addresses.get(found.number)!
  const owner = all.get(found.owner)
  const name = (owner?.label || found.label || owner?.role || found.role).slice(0, 80)
  const bounds = table.flatMap((row, y) => row.map((number, x): BoundObject => {
    const { oca } = all.get(number)!
    const has = new Set(Object.keys(read.get(number)!.cells))
    return { ...boundBlock(`/${address}/${y}/${x}`, oca, mappings.crosspoint, crosspoint, has), object: number }
  }))
  const made: FoundMixer = {
    mixer: { id: address, name, from: from as string[], to: to as string[], crosspoint },
    bounds, objects: new Set([found.number, ...table.flat()]),
  }
  return made
}

async function mixersOf(ask: Ask, surveyed: Surveyed, strips: readonly FoundStrip[]) {
  const matrices = [...surveyed.all.values()].filter(f => f.oca.id === OcaMatrix.id)
  const made = await Promise.all(matrices.map(async (found) => {
    const told = await attempt(ask(found.number, OcaMatrix.methods.GetMembers)) as [number[][]] | null
    return told && mixerOf(surveyed, found, told[0], strips)
  }))
  const leftAlone = matrices.filter((_, k) => !made[k])
    .map(f => ({ at: surveyed.addresses.get(f.number)!, class: f.oca.name }))
  return { mixers: made.filter(m => m !== null), leftAlone }
}

function sensorsOf({ all, addresses }: Surveyed, strips: readonly FoundStrip[]): Capability['sensors'] {
  return [...all.values()].flatMap((found): Capability['sensors'] => {
    const kind = (Object.entries(sensorClasses) as [Capability['sensors'][number]['kind'], { id: string }][])
      .find(([, { id }]) => isBelow(found, id))?.[0]
    if (!kind) return []
    const strip = strips.find(s => s.objects.has(found.owner))
    return [{
      id: addresses.get(found.number)!, name: (found.label || found.role).slice(0, 80), kind,
      ...(strip && { strip: strip.id }),
    }]
  })
}

/** Rate and latency; what the device does not tell is assumed, and said to be. */
async function timing(ask: Ask, { all }: Surveyed) {
  const objects = [...all.values()]
  const clock = objects.find(f => isBelow(f, OcaMediaClock3.id))
  const fir = objects.find(f => isBelow(f, OcaFilterFIR.id))
  const [told, taps, latency] = await Promise.all([
    clock && attempt(ask(clock.number, OcaMediaClock3.methods.GetCurrentRate)),
    fir && attempt(ask(fir.number, OcaFilterFIR.methods.GetSampleRate)),
    attempt(ask(rootBlock, OcaWorker.methods.GetLatency)),
  ])
  const rate = (told?.[0] as { nominalRate: number } | undefined)?.nominalRate ?? taps?.[0] as number | undefined
  const hasRate = rate !== undefined && rate >= 8000 && rate <= 768_000
  const late = latency?.[0] as number | undefined
  const assumed = [...(hasRate ? [] : ['sampleRate' as const]), ...(late === undefined ? ['latency' as const] : [])]
  return {
    sampleRate: hasRate ? decimal(rate) : assumedRate,
    latency: decimal(late ?? 0),
    ...(assumed.length && { assumed }),
  }
}

async function slotsOf(ask: Ask, { library }: HousekeepingObjects): Promise<number> {
  const told = library && await attempt(ask(library.number, OcaLibrary.methods.GetVolumeCount))
  return Math.min(1000, (told?.[0] as number | undefined) ?? 0)
}

async function roleOf(ask: Ask, outputs: Capability['outputs']): Promise<Capability['kind']> {
  const told = await attempt(ask(manager, RigDeviceManager.methods.GetKind))
  return deviceRoles[told?.[0] as number] ?? (outputs.some(o => o.kind === 'loudspeaker') ? 'amplifier' : 'processor')
}

/**
 * What a device is able to do, read off its objects: classes, roles, ports, limits and the ways of signals. Nothing is
 * known of it before.
 * @param ask asks an object of the device
 * @param identity who it is
 * @param met told of the objects whose properties may change, before those are read
 * @returns its capability, and which object holds which parameter; what is not understood is listed and left alone
 * @throws RangeError for more objects than can be kept in step; what `ask` rejects with when the connection is lost
 */
export async function walk(
  ask: Ask, { model, firmware }: Identity, met: Met = () => Promise.resolve(),
): Promise<Walked> {
  const { housekeeping, ...surveyed } = await survey(ask, met)
  const found = stripsOf(surveyed)
  const { mixers, leftAlone } = await mixersOf(ask, surveyed, found)
  const mixing = new Map(mixers.flatMap(m => [...m.objects].map(n => [n, m.mixer.id] as const)))
  const objects = [...surveyed.all.values()]
  const outs = objects.filter(f => isBelow(f, OcaSignalOutput.id))
  const [inputs, connectors, time, slots] = await Promise.all([
    Promise.all(surveyed.inputs.map(n => connector(ask, surveyed.all.get(n)!))),
    Promise.all(outs.map(f => connector(ask, f))),
    timing(ask, surveyed),
    slotsOf(ask, housekeeping),
  ])
  const outputs = connectors.map((port, n): Capability['outputs'][number] => {
    const way = surveyed.ways.find(w => w.sink.owner === outs[n]!.number)
    const strip = way && found.find(s => s.objects.has(way.source.owner))
    return { ...port, ...(strip && { strip: strip.id }) }
  })
  const untaken = [...found.flatMap(s => s.leftAlone), ...leftAlone]
  return {
    capability: {
      version: 2,
      model,
      kind: await roleOf(ask, outputs),
      ...(firmware !== null && { firmware }),
      ...time,
      inputs,
      outputs,
      strips: found.map(s =>
        ({ id: s.id, name: s.name, from: fromOf(surveyed, s, found, mixing), blocks: s.blocks })),
      mixers: mixers.map(m => m.mixer),
      sensors: sensorsOf(surveyed, found),
      slots,
      ...(untaken.length && { leftAlone: untaken }),
    },
    bounds: [...found.flatMap(s => s.bounds), ...mixers.flatMap(m => m.bounds)],
    housekeeping,
  }
}
