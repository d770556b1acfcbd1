import * as v from 'valibot'
import {
  asMeant, attempt, OcaRefused, propertyOf, readIdentity, walk, type Ask, type BoundObject, type Cells,
  type OcaProperty, type Walked,
} from '../../core/formats/oca'
import {
  ByteReader, propertyId, OcaSubscriptionManager, OcaDeviceManager, type Notification,
} from '../../core/formats/ocp1'
import { Capability, holdParameter, parameterName, type ParameterPath, type Settings } from '../../core/rig'
import { equal } from '../../core/units'
import { message, wordsOf } from '../../core/words'
import { roundTrips } from '../watch/metrics'
import type { DeviceConnection, DeviceDriver, DeviceEvents, Told, Written } from './driver'
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
  private readonly cells = new Map<number, Record<string, unknown>>()
  private readonly values = new Map<ParameterPath, unknown>()
  private readonly writing = new Map<ParameterPath, Hearing>()
  /** While all is read: what changes meanwhile is part of what is read. */
  private reading = 0

  constructor(private readonly events: DeviceEvents) {}

  private ask: Ask = (...asked) => this.line.ask(...asked)

  /** Walks the device's tree and has it tell of every change of what it holds. */
  private async meet() {
    const identity = await readIdentity(this.ask)
    const walked = await walk(this.ask, identity)
    const capability = v.parse(Capability, walked.capability)
    for (const bound of walked.bounds) {
      this.bounds.set(bound.path, [...(this.bounds.get(bound.path) ?? []), bound])
      this.byObject.set(bound.object, bound)
    }
    // one that does not tell of changes is compared now and then all the same
    await Promise.all(walked.bounds.map(({ object }) => attempt(this.ask(
      subscriptions, OcaSubscriptionManager.methods.AddSubscription,
      [{ emitter: object, eventId: propertyChanged }, subscriber, nothing, reliable, nothing],
    ))))
    // a maker numbers each of its models from the beginning
    const { maker, model, serial } = identity
    return { ...walked, capability, serial: serial && `${maker} ${model} ${serial}` }
  }

  read = async () => {
    this.walked ??= await this.meet()
    const { capability, serial, bounds } = this.walked
    this.reading++
    try {
      const readings = bounds.flatMap(bound => bound.properties.map(name => this.readCell(bound, name)))
      await Promise.all(readings)
    }
    finally {
      this.reading--
    }
    for (const bound of bounds) this.compose(bound)
    return { capability, settings: Object.fromEntries(this.values) as Settings, serial }
  }

  private async readCell(bound: BoundObject, name: string) {
    const told = await attempt(this.ask(bound.object, propertyOf(bound.oca, name).get))
    if (told) this.keepCell(bound.object, name, told[0])
  }

  private keepCell(object: number, name: string, value: unknown) {
    const cells = this.cells.get(object) ?? {}
    cells[name] = asMeant(value)
    this.cells.set(object, cells)
  }

  /** The parameter's value by what its objects hold, on the steps of the device where it tells them. */
  private compose(bound: BoundObject): unknown {
    const { path } = bound
    const value = bound.join(this.cells.get(bound.object) ?? {}, this.values.get(path))
    const { capability } = this.walked!
    const held = bound.oca.methods.GetSteps ? holdParameter(capability, path, value) : null
    const kept = held?.ok ? held.value : value
    this.values.set(path, kept)
    return kept
  }

  /** A property changed at the device, by whomever. */
  notified({ emitter, event, data }: Notification) {
    const bound = this.byObject.get(emitter)
    if (!bound || event.level !== propertyChanged.level || event.index !== propertyChanged.index) return
    const told = changeOf(bound, data)
    if (!told) return
    this.keepCell(emitter, told.name, told.value)
    if (!this.walked || this.reading) return
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

/** The property and the new value that a notification tells; null where it is none that holds a parameter. */
function changeOf(bound: BoundObject, data: Uint8Array): { name: string, value: unknown } | null {
  try {
    const from = new ByteReader(data)
    const id = propertyId.read(from)
    const is = ({ id: own }: OcaProperty) => own.level === id.level && own.index === id.index
    const name = bound.properties.find(n => is(propertyOf(bound.oca, n)))
    return name === undefined ? null : { name, value: propertyOf(bound.oca, name).codec.read(from) }
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
