import { equal } from '../../units'
import type { BlockCapability, Capability, CapabilityOf, Strip } from '../../rig'
import { boundBlock, boundGraphic, type Bound } from './bound'
import { isBelow, isBlock, type Found } from './members'
import { mappings } from './mappings'
import type { ReadObject } from './mapping'
import { isOurs, kindOf } from './reading'
import type { SignalWay } from './tree'

/** A parameter of a device with the object that holds it. */
export interface BoundObject extends Bound { object: number }

/** All that was found in a device, before it is made into a capability. */
export interface Surveyed {
  root: Found
  all: ReadonlyMap<number, Found>
  addresses: ReadonlyMap<number, string>
  ways: readonly SignalWay[]
  /** What was read of objects that set something. */
  read: ReadonlyMap<number, ReadObject>
  /** Points of matrices: they stand in no strip. */
  points: ReadonlySet<number>
  /** Numbers of the connectors that signals come in by, in their order. */
  inputs: readonly number[]
}

/** A strip with the objects that stand in it, and what of them is not understood. */
export interface FoundStrip {
  id: string
  name: string
  blocks: BlockCapability[]
  bounds: BoundObject[]
  objects: ReadonlySet<number>
  leftAlone: NonNullable<Capability['leftAlone']>
}

/** Connectors and summing points set nothing. */
const settingNothing = ['1.1.1.18', '1.1.1.19', '1.1.1.22']
const isActuator = (found: Found) => isBelow(found, '1.1.1') && !settingNothing.some(id => isBelow(found, id))
const filterKinds = ['band', 'limiter', 'fir', 'pass']
/** A group of filters stands within a strip; what has a level, a mute or a delay is a channel of its own. */
const makesChannel = (found: Found) => {
  const kind = kindOf(found)
  return kind !== null && !filterKinds.includes(kind)
}
function hasChannel(block: Found, points: ReadonlySet<number>): boolean {
  return block.members.some(m => (isBlock(m) ? hasChannel(m, points) : makesChannel(m) && !points.has(m.number)))
}
const within = (block: Found): Found[] => block.members.flatMap(m => [m, ...within(m)])
/** Last part of an address. */
const tail = (address: string) => address.slice(address.lastIndexOf('/') + 1)

/** What a device calls a block itself; nothing where that is no more than what it is. */
function ownName(found: Found, kind: string): { name?: string } {
  const name = found.label.trim() || (isOurs(found) ? '' : found.role.trim())
  return !name || name.toLowerCase() === kind ? {} : { name: name.slice(0, 80) }
}

/** The connectors that the positions of a switch lead to; null where one of them is not told. */
function optionsOf({ ways, inputs }: Surveyed, found: Found, read: ReadObject): CapabilityOf<'select'> | null {
  const names = read.cells.PositionNames as string[] | undefined
  if (!names?.length || read.limits.Position?.min !== 0) return null
  const options = names.map((name, k) => {
    const way = ways.find(w => w.sink.owner === found.number && w.sink.index === k + 1)
    const port = way ? inputs.indexOf(way.source.owner) : -1
    return { id: name.toLowerCase().replace(/[^\w-]+/g, '-'), name, port }
  })
  return options.every(o => o.port >= 0) ? { kind: 'select', id: '', options } : null
}

/** What one object is able to do, without its place; null where it is not understood. */
function describe(surveyed: Surveyed, found: Found): Omit<BlockCapability, 'id'> | null {
  const kind = kindOf(found)
  const read = surveyed.read.get(found.number)
  if (!kind || !read) return null
  if (kind === 'select') return optionsOf(surveyed, found, read)
  const described = mappings[kind].describe(read)
  return described && { ...described, ...ownName(found, kind) }
}

/** The graphic EQ that a row of filters at fixed places is; null where it is none. */
function graphicOf(surveyed: Surveyed, filters: readonly Found[]): CapabilityOf<'graphic'> | null {
  const reads = filters.map(f => surveyed.read.get(f.number))
  const fixed = reads.map((read) => {
    const { Frequency: f, WidthParameter: q, InbandGain: gain } = read?.limits ?? {}
    const isFixed = f && q && gain && f.min === f.max && q.min === q.max && gain.max > gain.min
    return isFixed ? { frequency: f.min, q: q.min, gain, shape: read!.cells.Shape } : null
  })
  const [first] = fixed
  if (!first || !fixed.every(f => f && f.q === first.q && equal(f.gain, first.gain))) return null
  const rows = fixed as NonNullable<typeof first>[]
  const peaks = mappings.band.spread({ on: true, type: 'peaking' }, { kind: 'band', id: '' }, new Set()).Shape
  const shelved = rows.length > 2 && first.shape !== peaks && rows.at(-1)!.shape !== peaks
  const middle = shelved ? rows.slice(1, -1) : rows
  if (!middle.every(r => r.shape === peaks)) return null
  const steps = reads[0]!.facts.GetSteps?.[0] as [unknown, number][] | undefined
  return {
    kind: 'graphic', id: '', frequencies: rows.map(r => r.frequency), q: first.q,
    gain: { ...first.gain, step: steps?.[0]?.[1] ?? 0.01 }, ...(shelved && { shelves: true }),
  }
}

/** Puts the blocks of a strip together, one after the other. */
class StripBuilder {
  readonly blocks: BlockCapability[] = []
  readonly bounds: BoundObject[] = []
  readonly leftAlone: NonNullable<Capability['leftAlone']> = []
  constructor(private readonly surveyed: Surveyed, private readonly id: string) {}

  private leave(found: Found) {
    const at = this.surveyed.addresses.get(found.number)!
    this.leftAlone.push({ at, class: found.oca.name.startsWith('Oca') ? found.oca.name : found.classId })
  }

  private put(capability: BlockCapability, objects: readonly Found[]) {
    const path = `/${this.id}/${capability.id}`
    this.blocks.push(capability)
    objects.forEach((found, n) => {
      const made = mappings[capability.kind as keyof typeof mappings]
      const has = new Set(Object.keys(this.surveyed.read.get(found.number)!.cells))
      const bound = capability.kind === 'graphic'
        ? boundGraphic(path, found.oca, capability as CapabilityOf<'graphic'>, n)
        : boundBlock(capability.count ? `${path}/${n}` : path, found.oca, made, capability, has)
      this.bounds.push({ ...bound, object: found.number })
    })
  }

  /** A row of filters that are alike stands as one block of several; others each for itself. */
  private row(filters: readonly Found[], id: string, isGroup: boolean) {
    const graphic = isGroup ? graphicOf(this.surveyed, filters) : null
    if (graphic) return this.put({ ...graphic, id }, filters)
    const described = filters.map(f => describe(this.surveyed, f))
    const [first] = described
    const plain = (d: object | null) => ({ ...d, name: undefined })
    if (first && (isGroup || filters.length > 1) && described.every(d => equal(plain(d), plain(first)))) {
      const { name: _, ...rest } = first
      return this.put({ ...rest, id, count: filters.length } as BlockCapability, filters)
    }
    for (const f of filters) this.one(f, isGroup ? `${id}-` : '')
  }

  private one(found: Found, prefix: string) {
    const described = describe(this.surveyed, found)
    if (!described) return this.leave(found)
    this.put({ ...described, id: `${prefix}${tail(this.surveyed.addresses.get(found.number)!)}` }, [found])
  }

  /** Takes members in their order; filters that follow one another stand in a row. */
  take(members: readonly Found[], prefix = '') {
    for (let n = 0; n < members.length; n++) {
      const found = members[n]!
      if (isBlock(found)) {
        const filters = found.members
        const id = `${prefix}${tail(this.surveyed.addresses.get(found.number)!)}`
        if (filters.length && filters.every(f => kindOf(f) === 'band')) this.row(filters, id, true)
        else this.take(filters, `${id}-`)
        continue
      }
      if (kindOf(found) === 'band') {
        let end = n + 1
        while (end < members.length && kindOf(members[end]!) === 'band') end++
        const row = members.slice(n, end)
        const id = `${prefix}${tail(this.surveyed.addresses.get(found.number)!)}`
        this.row(row, row.length > 1 ? id.replace(/-?\d+$/, '') || 'eq' : id, false)
        n = end - 1
        continue
      }
      if (isActuator(found)) this.one(found, prefix)
    }
  }
}

function stripOf(surveyed: Surveyed, block: Found, members: readonly Found[]): FoundStrip[] {
  const id = surveyed.addresses.get(block.number) || 'main'
  const builder = new StripBuilder(surveyed, id)
  builder.take(members)
  const { blocks, bounds, leftAlone } = builder
  if (!blocks.length && !leftAlone.length) return []
  const name = (block.label.trim() || block.role.trim() || 'Device').slice(0, 80)
  const objects = new Set([block.number, ...members.flatMap(m => [m, ...within(m)]).map(m => m.number)])
  return [{ id, name, blocks, bounds, objects, leftAlone }]
}

/**
 * The channels of a device. A block with levels, mutes or delays is one; what of the same block stands beside blocks
 * that are channels themselves is one of its own.
 */
export function stripsOf(surveyed: Surveyed, block: Found = surveyed.root): FoundStrip[] {
  const { points } = surveyed
  const isOther = (m: Found) => isBlock(m) && hasChannel(m, points)
  // the points of a matrix belong to no strip, nor does what shows connectors or keeps presets
  const own = block.members.filter(m => !isOther(m) && !points.has(m.number)
    && (isBlock(m) ? within(m).some(x => isActuator(x) && !points.has(x.number)) : isActuator(m)))
  const isContainer = block.members.some(isOther) || block.number === surveyed.root.number
  // a block that only groups filters is taken whole by the one above it, unless that one only holds blocks
  const mine = own.length ? stripOf(surveyed, block, own) : []
  return [...mine, ...(isContainer ? block.members.filter(isOther).flatMap(m => stripsOf(surveyed, m)) : [])]
}

/** Where the signal of a strip comes from, as the ways tell it. */
export function fromOf(
  { ways, inputs }: Surveyed, strip: FoundStrip, strips: readonly FoundStrip[], mixers: ReadonlyMap<number, string>,
): Strip['from'] {
  for (const { source, sink } of ways) {
    if (!strip.objects.has(sink.owner) || strip.objects.has(source.owner)) continue
    const port = inputs.indexOf(source.owner)
    if (port >= 0) return { port }
    const mixer = mixers.get(source.owner)
    if (mixer !== undefined) return { mixer }
    const from = strips.find(s => s.objects.has(source.owner))
    if (from) return { strip: from.id }
  }
  return { untold: true }
}
