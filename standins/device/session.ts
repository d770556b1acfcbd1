import type { Socket } from 'node:net'
import { ocaStatus, propertyOf } from '../../core/formats/oca'
import {
  ByteWriter, encode, list, MessageStream, propertyId, u32, u8, writeMessage, type Answer, type Codec,
  type Command, type Notification, type OcpMessage,
} from '../../core/formats/ocp1'
import { methodOf, no, ok, valuesOf, written, type Result } from './calls'
import type { Device } from './device'
import { managerNumbers } from './managers'

interface Subscription {
  emitter: number
  event: { level: number, index: number }
  /** The one property that is of interest; null: all. */
  property: { level: number, index: number } | null
  subscriber: number
  method: { level: number, index: number }
  context: Uint8Array
}
type Id = { level: number, index: number }
type EventRef = { emitter: number, eventId: Id }
type MethodRef = { object: number, methodId: Id }
const same = (a: Id, b: Id) => a.level === b.level && a.index === b.index
const propertyChanged = { level: 1, index: 1 }
const notificationsDisabled = { level: 3, index: 1 }
const synchronizeState = { level: 3, index: 2 }
const currentChanged = 1
const reliable = 1
/** Silent intervals after which the other side counts as gone. */
const silentIntervals = 3
/** Bytes that may wait for a controller that does not read. */
const mostWaiting = 16 * 1024 * 1024
const states = { normal: 1, disabled: 2 }
/** Bytes of answers after which another message begins: a controller need not take longer ones. */
const mostTogether = 256 * 1024
/** Answers by the messages that they go in. */
function messagesOf(answers: readonly Answer[]): Answer[][] {
  const messages: Answer[][] = []
  let bytes = Infinity
  for (const answer of answers) {
    if (bytes > mostTogether) {
      messages.push([])
      bytes = 0
    }
    messages.at(-1)!.push(answer)
    bytes += answer.parameters.length
  }
  return messages
}

/** One controller that is connected: its subscriptions, its locks, and how often it will be heard. */
export class Session {
  private readonly stream = new MessageStream()
  private subscriptions: Subscription[] = []
  private out: Uint8Array[] = []
  private interval = 0
  private heard = Date.now()
  private beat: NodeJS.Timeout | undefined
  private isDisabled = false
  private readonly missed = new Set<number>()

  constructor(private readonly socket: Socket, private readonly device: Device) {
    socket.setNoDelay(true)
    socket.on('data', (bytes: Buffer) => this.hear(bytes))
    socket.on('error', () => socket.destroy())
    socket.on('close', () => this.end())
  }

  private end() {
    clearInterval(this.beat)
    this.subscriptions = []
    this.device.unlockAll(this)
    this.device.sessions.delete(this)
  }

  close = () => this.socket.destroy()

  private hear(bytes: Buffer) {
    this.heard = Date.now()
    let messages: OcpMessage[]
    try {
      messages = this.stream.push(bytes)
    }
    catch {
      this.close()
      return
    }
    for (const message of messages) this.take(message)
    this.flush()
  }

  private take(message: OcpMessage) {
    if (message.type === 'alive') this.supervise(message.interval)
    // a device is asked; answers and notifications are not its business
    if (message.type !== 'commands') return
    const { commands, answered } = message
    let answers: Answer[] = []
    try {
      this.device.model.atOnce(() => {
        answers = commands.map(command => this.answer(command))
      })
    }
    catch {
      // the memory takes nothing: one by one each tells what is left of it
      answers = commands.map(command => this.answer(command))
    }
    // what changed has been told by now: a notification comes before the answer
    if (answered) for (const together of messagesOf(answers)) this.send({ type: 'answers', answers: together })
  }

  private send(message: OcpMessage) {
    if (this.socket.destroyed) return
    this.out.push(writeMessage(message))
  }

  /** Sends what waits; a controller that does not read is given up. */
  flush() {
    if (!this.out.length || this.socket.destroyed) return
    this.socket.write(Buffer.concat(this.out.splice(0)))
    if (this.socket.writableLength > mostWaiting) this.close()
  }

  private supervise(interval: number) {
    this.send({ type: 'alive', interval })
    if (interval === this.interval) return
    this.interval = interval
    clearInterval(this.beat)
    let looked = Date.now()
    this.beat = setInterval(() => {
      // a busy machine has not heard what waits to be read
      if (Date.now() - looked > 2 * interval) this.heard = Date.now()
      looked = Date.now()
      if (Date.now() - this.heard > silentIntervals * interval) this.close()
      this.send({ type: 'alive', interval })
      this.flush()
    }, interval)
  }

  private answer({ handle, object, method, count, parameters }: Command): Answer {
    const refuse = (status: number): Answer => ({ handle, status, count: 0, parameters: new Uint8Array() })
    const oca = this.device.classOf(object)
    if (!oca) return refuse(ocaStatus.badObject)
    const found = methodOf(oca, method)
    if (!found) return refuse(ocaStatus.badMethod)
    const values = valuesOf(found.method, { handle, object, method, count, parameters })
    if (!values) return refuse(ocaStatus.badFormat)
    const result = object === managerNumbers.subscription
      ? this.subscribe(found.name, values) ?? this.device.call(this, object, found.name, values)
      : this.device.call(this, object, found.name, values)
    if (result.status !== ocaStatus.ok) return refuse(result.status)
    return { handle, status: result.status, ...written(found.method, result.values ?? []) }
  }

  private subscribe(name: string, values: readonly unknown[]): Result | null {
    switch (name) {
      case 'AddSubscription': {
        const [event, method, context, mode] = values as [EventRef, MethodRef, Uint8Array, number]
        return this.add({ emitter: event.emitter, event: event.eventId, property: null }, method, context, mode)
      }
      case 'AddPropertyChangeSubscription': {
        const [emitter, property, method, context, mode] = values as [number, Id, MethodRef, Uint8Array, number]
        return this.add({ emitter, event: propertyChanged, property }, method, context, mode)
      }
      case 'RemoveSubscription': {
        const [event, method] = values as [EventRef, MethodRef]
        return this.remove(s => s.emitter === event.emitter && same(s.event, event.eventId) && !s.property, method)
      }
      case 'RemovePropertyChangeSubscription': {
        const [emitter, property, method] = values as [number, Id, MethodRef]
        return this.remove(s => s.emitter === emitter && s.property !== null && same(s.property, property), method)
      }
      case 'DisableNotifications':
        this.isDisabled = true
        this.tell(managerNumbers.subscription, notificationsDisabled, null, new Uint8Array())
        return ok()
      case 'ReEnableNotifications':
        this.isDisabled = false
        this.tell(managerNumbers.subscription, synchronizeState, null, encode([list(u32)], [[...this.missed]]))
        this.missed.clear()
        return ok()
      case 'GetState': return ok(this.isDisabled ? states.disabled : states.normal)
      default: return null
    }
  }

  private add(
    what: Pick<Subscription, 'emitter' | 'event' | 'property'>, { object, methodId }: MethodRef, context: Uint8Array,
    mode: number,
  ): Result {
    if (!this.device.classOf(what.emitter)) return no(ocaStatus.badObject)
    // the fast kind goes by another way than this connection: it is not offered
    if (mode !== reliable) return no(ocaStatus.notImplemented)
    const known = this.subscriptions.some(s => s.emitter === what.emitter && same(s.event, what.event)
      && s.subscriber === object && same(s.method, methodId)
      && (s.property && what.property ? same(s.property, what.property) : s.property === what.property))
    if (!known) this.subscriptions.push({ ...what, subscriber: object, method: methodId, context })
    return ok()
  }

  private remove(is: (s: Subscription) => boolean, { object, methodId }: MethodRef): Result {
    this.subscriptions = this.subscriptions.filter(
      s => !(is(s) && s.subscriber === object && same(s.method, methodId)))
    return ok()
  }

  private tell(emitter: number, event: Id, property: Id | null, data: Uint8Array) {
    const notifications = this.subscriptions
      .filter(s => s.emitter === emitter && same(s.event, event))
      .filter(s => !s.property || (property !== null && same(s.property, property)))
      .map(({ subscriber, method, context }): Notification => ({ subscriber, method, context, emitter, event, data }))
    if (!notifications.length) return
    this.send({ type: 'notifications', notifications })
  }

  /** Tells of a property that changed, to who subscribed to it. */
  changed(object: number, name: string, value: unknown) {
    if (this.isDisabled) {
      this.missed.add(object)
      return
    }
    const { id, codec } = propertyOf(this.device.classOf(object)!, name)
    const to = new ByteWriter()
    propertyId.write(to, id)
    ;(codec as Codec<unknown>).write(to, value)
    u8.write(to, currentChanged)
    this.tell(object, propertyChanged, id, to.done())
  }
}
