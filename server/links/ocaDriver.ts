import * as v from 'valibot'
import {
  attempt, composed, housekeepingOf, OcaRefused, propertiesOf, propertyOf, readIdentity, readParameterSet, rootBlock,
  asMeant, walk, type Ask, type BoundObject, type Cells, type Found, type Met, type OcaProperty, type Volume,
  type Walked,
} from '../../core/formats/oca'
import {
  ByteReader, OcaBlock, OcaDeviceManager, OcaSubscriptionManager, PresetLibrary, propertyId, type Notification,
  type OcaClass,
} from '../../core/formats/ocp1'
import {
  Capability, holdParameter, parameterName, type DeviceAct, type Housekeeping, type ParameterPath, type Settings,
} from '../../core/rig'
import { equal } from '../../core/units'
import { message, wordsOf } from '../../core/words'
import { roundTrips } from '../watch/metrics'
import type { DeviceConnection, DeviceDriver, DeviceEvents, Told, Written } from './driver'
import { ocaAct } from './ocaActs'
import { openLine, type OcaLine } from './ocaLine'

const deviceManager = 1
const subscriptions = 4
const propertyChanged = { level: 1, index: 1 }
/** Who is told of changes: an object number and a method of our own, which a device repeats as given. */
const subscriber = { object: 1, methodId: { level: 1, index: 1 } }
const reliable = 1
const nothing = new Uint8Array()

/** What a device told of a parameter while it was being written. */
interface Hearing {
  sent: Map<number, Cells>
  told: { isOurs: boolean, value: unknown }[]
}

/** A device that is driven by AES70: its objects are read, subscribed to and set. */
class OcaConnection implements DeviceConnection {
  line!: OcaLine
  private walked: (Walked & { serial: string | null }) | null = null
  private readonly bounds = new Map<ParameterPath, BoundObject[]>()
  private readonly byObject = new Map<number, BoundObject>()
  /** Classes of the objects that tell of their changes. */
  private readonly classes = new Map<number, OcaClass>([[deviceManager, OcaDeviceManager]])
  private readonly cells = new Map<number, Record<string, unknown>>()
  private readonly values = new Map<ParameterPath, unknown>()
  private readonly writing = new Map<ParameterPath, Hearing>()
  /** While all is read: what changes meanwhile is part of what is read. */
  private reading = 0

  constructor(private readonly events: DeviceEvents) {}

  /** Asks; what is told of a property is kept in its place among all that the device tells. */
  private ask: Ask = (object, method, values) => this.line.ask(object, method, values, (told) => {
    const oca = this.classes.get(object)
    const name = oca && getterOf(oca, method)
    if (name !== undefined) this.keepCell(object, name, told[0])
  })

  /** Has objects tell of their changes. One that does not is compared now and then all the same. */
  private listen: Met = async (found) => {
    for (const { number, oca } of found) this.classes.set(number, oca)
    await Promise.all([deviceManager, ...found.map(f => f.number)].map(object => attempt(this.ask(
      subscriptions, OcaSubscriptionManager.methods.AddSubscription,
      [{ emitter: object, eventId: propertyChanged }, subscriber, nothing, reliable, nothing],
    ))))
  }

  /** Walks the device's tree: that reads all that it holds. */
  private async meet() {
    const identity = await readIdentity(this.ask)
    const walked = await walk(this.ask, identity, this.listen)
    const capability = v.parse(Capability, walked.capability)
    for (const bound of walked.bounds) {
      this.bounds.set(bound.path, [...(this.bounds.get(bound.path) ?? []), bound])
      this.byObject.set(bound.object, bound)
    }
    // a maker numbers each of its models from the beginning
    const { maker, model, serial } = identity
    this.walked = { ...walked, capability, serial: serial && `${maker} ${model} ${serial}` }
    return this.walked
  }

  read = async () => {
    this.reading++
    try {
      const cells = this.walked?.bounds.flatMap(b => b.properties.map(name => this.readCell(b, name))) ?? []
      if (!this.walked) await this.meet()
      await Promise.all([...cells, this.readHousekeeping()])
    }
    finally {
      this.reading--
    }
    const { capability, serial, bounds } = this.walked!
    for (const bound of bounds) this.compose(bound)
    const settings = Object.fromEntries(this.values) as Settings
    return { capability, settings, serial, housekeeping: this.housekeeping }
  }

  private async readHousekeeping() {
    const { identify, front, library } = this.walked!.housekeeping
    const read = (found: Found | null, method: string) =>
      found?.oca.methods[method] && attempt(this.ask(found.number, found.oca.methods[method]))
    await Promise.all([
      read(identify, 'GetActive'),
      read(front, 'GetPosition'),
      read(library, 'GetVolumes'),
      library && attempt(this.ask(rootBlock, OcaBlock.methods.GetMostRecentParamSetIdentifier)),
      attempt(this.ask(deviceManager, OcaDeviceManager.methods.GetDeviceName)),
    ])
  }

  private get housekeeping(): Housekeeping {
    const cellsOf = (object: number) => this.cells.get(object) ?? {}
    const name = cellsOf(deviceManager).DeviceName
    const { housekeeping, serial } = this.walked!
    return { serial, ...housekeepingOf(housekeeping, cellsOf, typeof name === 'string' ? name : null) }
  }

  act = async (act: DeviceAct): Promise<string | null> => {
    try {
      await ocaAct(this.ask, this.walked!.housekeeping, slot => this.volumeAt(slot), act)
      // one that tells of no changes is asked
      await this.readHousekeeping()
      this.events.housekeeping(this.housekeeping)
      return null
    }
    catch (error) {
      if (error instanceof OcaRefused) return wordsOf(error.told)
      throw error
    }
  }

  private volumeAt(slot: number): Volume | null {
    const { library } = this.walked!.housekeeping
    const volumes = library && this.cells.get(library.number)?.Volumes as [number, Volume][] | undefined
    return volumes?.find(([id]) => id === slot)?.[1] ?? null
  }

  presetAt = async (slot: number): Promise<Settings | null> => {
    const { capability, bounds, housekeeping: { library } } = this.walked!
    // what another maker's data mean is not known
    if (library?.oca.id !== PresetLibrary.id) return null
    const volume = this.volumeAt(slot)
    return volume && readParameterSet(capability, bounds, volume.data)
  }

  private async readCell(bound: BoundObject, name: string) {
    await attempt(this.ask(bound.object, propertyOf(bound.oca, name).get))
  }

  private keepCell(object: number, name: string, value: unknown) {
    const cells = this.cells.get(object) ?? {}
    cells[name] = asMeant(value)
    this.cells.set(object, cells)
  }

  private compose(bound: BoundObject): unknown {
    const { path } = bound
    const kept = composed(this.walked!.capability, bound, this.cells.get(bound.object) ?? {}, this.values.get(path))
    this.values.set(path, kept)
    return kept
  }

  /** A property changed at the device, by whomever. */
  notified({ emitter, event, data }: Notification) {
    const oca = this.classes.get(emitter)
    if (!oca || event.level !== propertyChanged.level || event.index !== propertyChanged.index) return
    const told = changeOf(oca, data)
    if (!told) return
    this.keepCell(emitter, told.name, told.value)
    if (!this.walked || this.reading) return
    const bound = this.byObject.get(emitter)
    if (emitter === rootBlock && /^(Members|SignalPaths)$/.test(told.name)) return this.line.end('Its parts changed')
    if (!bound) return this.events.housekeeping(this.housekeeping)
    if (!bound.properties.includes(told.name)) return
    const before = this.values.get(bound.path)
    const value = this.compose(bound)
    const hearing = this.writing.get(bound.path)
    if (hearing) {
      const sent = hearing.sent.get(emitter)
      hearing.told.push({ isOurs: !!sent && equal(rounded(sent[told.name]), rounded(told.value)), value })
    }
    else if (!equal(before, value)) this.events.held([{ path: bound.path, value, by: 'device' }])
  }

  write = async (values: readonly (readonly [ParameterPath, unknown])[]): Promise<Written[]> => {
    const done = roundTrips.startTimer()
    const outcomes = await Promise.all(values.map(([path, wish]) => this.writeOne(path, wish)))
    const told = outcomes.flatMap(o => o.told)
    if (told.length) this.events.held(told)
    done()
    return outcomes.map(o => o.written)
  }

  private async writeOne(path: ParameterPath, wish: unknown): Promise<{ written: Written, told: Told[] }> {
    const { capability } = this.walked!
    const held = holdParameter(capability, path, wish)
    const bounds = this.bounds.get(path)
    if (!held.ok || !bounds) {
      const why = held.ok ? message('edit.noParameter', { device: capability.model, path }) : held.why
      return { written: { path, refused: wordsOf(why) }, told: [] }
    }
    const sent = new Map(bounds.map(bound => [bound.object, bound.spread(held.value)]))
    const hearing: Hearing = { sent, told: [] }
    this.writing.set(path, hearing)
    const asked = bounds.flatMap(bound => this.setCells(bound, sent.get(bound.object)!))
    // read back behind it: what it made of it, rounded or left as it was
    const read = bounds.flatMap(bound => bound.properties.map(name => this.readCell(bound, name)))
    const [refusals] = await Promise.all([Promise.all(asked), Promise.all(read)])
    this.writing.delete(path)
    for (const bound of bounds) this.compose(bound)
    const value = this.values.get(path)
    const refused = refusals.find(r => r !== null)
    const told = inOrder(hearing, value).map((t): Told => ({ path, ...t }))
    return refused
      ? { written: { path, refused: `${parameterName(capability, path)}: ${wordsOf(refused.told)}` }, told }
      : { written: { path, value }, told }
  }

  /** Sets those properties of an object that are not so already; each settles with the refusal, or null. */
  private setCells(bound: BoundObject, wanted: Cells): Promise<OcaRefused | null>[] {
    const now = this.cells.get(bound.object) ?? {}
    const names = bound.properties.filter(name => name in wanted && !equal(rounded(now[name]), rounded(wanted[name])))
    const first = names.filter(name => isQuieter(name, now[name], wanted[name]))
    return [...first, ...names.filter(name => !first.includes(name))].map(async (name) => {
      const { set } = propertyOf(bound.oca, name)
      try {
        if (set) await this.ask(bound.object, set, [wanted[name]])
        return null
      }
      catch (error) {
        if (error instanceof OcaRefused) return error
        throw error
      }
    })
  }

  ping = async () => {
    await attempt(this.ask(deviceManager, OcaDeviceManager.methods.GetState))
  }

  close = () => this.line.end('Closed')
}

/**
 * Whether a property makes its object quieter: such ones are set before all others and what makes it louder after
 * them, so that nothing on the way is louder than both ends.
 */
const isQuieter = (name: string, from: unknown, to: unknown) =>
  to === false || (/Gain$/.test(name) && typeof from === 'number' && typeof to === 'number' && to < from)

/** Numbers as they are in single precision: what a device holds is compared so. */
function rounded(value: unknown): unknown {
  if (typeof value === 'number') return Math.fround(value)
  if (value === null || typeof value !== 'object') return value
  if (Array.isArray(value)) return value.map(rounded)
  return Object.fromEntries(Object.entries(value).map(([key, x]) => [key, rounded(x)]))
}

const getters = new WeakMap<OcaClass, ReadonlyMap<string, string>>()
/** The property that a method of a class reads, by its name. */
function getterOf(oca: OcaClass, { level, index }: Parameters<Ask>[1]): string | undefined {
  let table = getters.get(oca)
  if (!table) {
    table = new Map([...propertiesOf(oca).values()].map(({ get, name }) => [`${get.level}.${get.index}`, name]))
    getters.set(oca, table)
  }
  return table.get(`${level}.${index}`)
}

/** The property and the new value that a notification tells; null where it is none that the class has. */
function changeOf(oca: OcaClass, data: Uint8Array): { name: string, value: unknown } | null {
  try {
    const from = new ByteReader(data)
    const id = propertyId.read(from)
    const is = ({ id: own }: OcaProperty) => own.level === id.level && own.index === id.index
    const property = [...propertiesOf(oca).values()].find(is)
    return property ? { name: property.name, value: property.codec.read(from) } : null
  }
  catch { return null }
}

/**
 * What was told of a parameter while it was written, in the device's order: what somebody else did, and, once, what
 * the device made of the wish. `value` is what it holds in the end.
 */
function inOrder({ told }: Hearing, value: unknown): Omit<Told, 'path'>[] {
  const last = told.findLastIndex(t => t.isOurs)
  const others = told.flatMap((t, n): Omit<Told, 'path'>[] => {
    if (t.isOurs) return n === last ? [{ value: t.value, by: 'sent' }] : []
    return last < 0 && equal(t.value, value) ? [] : [{ value: t.value, by: 'device' }]
  })
  if (last < 0) return [...others, { value, by: 'sent' }]
  return equal(others.at(-1)!.value, value) ? others : [...others, { value, by: 'device' }]
}

/** Speaks AES70 by OCP.1 over TCP to `host:port`. */
export const ocaDriver: DeviceDriver = async (address, events) => {
  const connection = new OcaConnection(events)
  connection.line = await openLine(address, n => connection.notified(n), events.lost)
  return connection
}
