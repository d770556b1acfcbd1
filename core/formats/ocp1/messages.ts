import { ByteReader, ByteWriter } from './bytes'
import { decode, encode } from './codecs'
import { eventId, methodId, type EventId, type MethodId } from './structures'
import { refusal } from '../../words'

/** What a command asks of an object; its parameters are bytes, for only the object's class knows their types. */
export interface Command {
  handle: number
  object: number
  method: MethodId
  count: number
  parameters: Uint8Array
}
/** Answer to the command of the same handle; of a refused one without parameters. */
export interface Answer {
  handle: number
  status: number
  count: number
  parameters: Uint8Array
}
/** What happened at an object, to a subscriber that is named as it named itself (event model 1). */
export interface Notification {
  subscriber: number
  method: MethodId
  context: Uint8Array
  emitter: number
  event: EventId
  data: Uint8Array
}
export type OcpMessage
  = | { type: 'commands', answered: boolean, commands: Command[] }
    | { type: 'answers', answers: Answer[] }
    | { type: 'notifications', notifications: Notification[] }
  /** How often the sender will be heard, in milliseconds. */
    | { type: 'alive', interval: number }

const syncByte = 0x3B
const protocolVersion = 1
/** Bytes of a message before its parts: sync, version, size, type, number of parts. */
export const headerBytes = 10
/**
 * Most bytes of a message that are taken: a FIR filter of 65,535 coefficients has 262,160, a library of 60 presets up
 * to four millions.
 */
export const mostBytes = 1 << 22
const types = { command: 0, commandAnswered: 1, notification: 2, answer: 3, alive: 4 } as const
const mostParts = 0xFFFF
/** Bytes of a part before its parameters. */
const commandBytes = 17
const answerBytes = 10
const notificationBytes = 23

/** What stands before every message. Throws a refusal for what is no message or is longer than `most`. */
export function readHeader(bytes: Uint8Array, most = mostBytes): { total: number, type: number, parts: number } {
  const from = new ByteReader(bytes)
  const sync = from.u8()
  if (sync !== syncByte) throw refusal('ocp1.noSync', { found: sync })
  const version = from.u16()
  if (version !== protocolVersion) throw refusal('ocp1.version', { version })
  const size = from.u32()
  const [type, parts] = [from.u8(), from.u16()]
  // the size counts all but the sync byte
  if (size < headerBytes - 1) throw refusal('ocp1.size', { size })
  if (size + 1 > most) throw refusal('ocp1.tooLarge', { size: size + 1, most })
  if (type > types.alive) throw refusal('ocp1.type', { type })
  return { total: size + 1, type, parts }
}

function readCommand(from: ByteReader): Command {
  const size = from.u32()
  if (size < commandBytes) throw refusal('ocp1.size', { size })
  const [handle, object] = [from.u32(), from.u32()]
  const method = methodId.read(from)
  return { handle, object, method, count: from.u8(), parameters: from.take(size - commandBytes) }
}
function readAnswer(from: ByteReader): Answer {
  const size = from.u32()
  if (size < answerBytes) throw refusal('ocp1.size', { size })
  return { handle: from.u32(), status: from.u8(), count: from.u8(), parameters: from.take(size - answerBytes) }
}
function readNotification(from: ByteReader): Notification {
  const size = from.u32()
  const subscriber = from.u32()
  const method = methodId.read(from)
  from.u8() // number of parameters: context and event, always two
  const context = from.take(from.u16())
  const left = size - notificationBytes - context.length
  if (left < 0) throw refusal('ocp1.size', { size })
  const emitter = from.u32()
  return { subscriber, method, context, emitter, event: eventId.read(from), data: from.take(left) }
}
function readAlive(from: ByteReader, parts: number): OcpMessage {
  if (parts !== 1 || (from.left !== 2 && from.left !== 4)) throw refusal('ocp1.alive')
  const interval = from.left === 2 ? 1000 * from.u16() : from.u32()
  if (interval === 0) throw refusal('ocp1.alive')
  return { type: 'alive', interval }
}

/** A whole message out of its bytes. Throws a refusal with what is wrong. */
export function readMessage(bytes: Uint8Array, most = mostBytes): OcpMessage {
  const { total, type, parts } = readHeader(bytes, most)
  if (total !== bytes.length) throw refusal('ocp1.short', { wanted: total, left: bytes.length })
  const from = new ByteReader(bytes.subarray(headerBytes))
  const several = <T>(read: (from: ByteReader) => T): T[] => {
    const found: T[] = []
    for (let n = 0; n < parts; n++) found.push(read(from))
    if (from.left) throw refusal('ocp1.long', { left: from.left })
    return found
  }
  switch (type) {
    case types.answer: return { type: 'answers', answers: several(readAnswer) }
    case types.notification: return { type: 'notifications', notifications: several(readNotification) }
    case types.alive: return readAlive(from, parts)
    default: return { type: 'commands', answered: type === types.commandAnswered, commands: several(readCommand) }
  }
}

function writeCommand(to: ByteWriter, { handle, object, method, count, parameters }: Command) {
  to.u32(commandBytes + parameters.length)
  to.u32(handle)
  to.u32(object)
  methodId.write(to, method)
  to.u8(count)
  to.put(parameters)
}
function writeAnswer(to: ByteWriter, { handle, status, count, parameters }: Answer) {
  to.u32(answerBytes + parameters.length)
  to.u32(handle)
  to.u8(status)
  to.u8(count)
  to.put(parameters)
}
function writeNotification(to: ByteWriter, { subscriber, method, context, emitter, event, data }: Notification) {
  to.u32(notificationBytes + context.length + data.length)
  to.u32(subscriber)
  methodId.write(to, method)
  to.u8(2)
  to.count(context.length)
  to.put(context)
  to.u32(emitter)
  eventId.write(to, event)
  to.put(data)
}
/** Whole seconds as two bytes, anything else in milliseconds as four. */
function writeAlive(to: ByteWriter, interval: number) {
  const seconds = interval / 1000
  if (Number.isInteger(seconds) && seconds <= 0xFFFF) to.u16(seconds)
  else to.u32(interval)
}

/** The bytes of a message. */
export function writeMessage(message: OcpMessage): Uint8Array {
  const parts = new ByteWriter()
  const several = <T>(list: readonly T[], write: (to: ByteWriter, part: T) => void) => {
    if (list.length > mostParts) throw refusal('ocp1.many', { count: list.length })
    for (const part of list) write(parts, part)
    return list.length
  }
  const write = (): [type: number, count: number] => {
    switch (message.type) {
      case 'commands':
        return [message.answered ? types.commandAnswered : types.command, several(message.commands, writeCommand)]
      case 'answers': return [types.answer, several(message.answers, writeAnswer)]
      case 'notifications': return [types.notification, several(message.notifications, writeNotification)]
      case 'alive':
        writeAlive(parts, message.interval)
        return [types.alive, 1]
    }
  }
  const [type, count] = write()
  const body = parts.done()
  const to = new ByteWriter()
  to.u8(syncByte)
  to.u16(protocolVersion)
  to.u32(headerBytes - 1 + body.length)
  to.u8(type)
  to.u16(count)
  to.put(body)
  return to.done()
}

/** Parameters of a command or an answer by their types. */
export const writeParameters = <C extends readonly unknown[]>(...given: Parameters<typeof encode<C>>) => ({
  count: given[0].length,
  parameters: encode<C>(...given),
})
/** Values of a command or an answer by their types; refused where their number is another. */
export function readParameters<C extends readonly unknown[]>(types: C, part: Pick<Answer, 'count' | 'parameters'>) {
  if (part.count !== types.length) throw refusal('ocp1.parameters', { wanted: types.length, given: part.count })
  return decode(types, part.parameters)
}
