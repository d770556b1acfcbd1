import { connect, type Socket } from 'node:net'
import * as v from 'valibot'
import { Capability, Settings } from '../../core/rig'
import { roundTrips } from '../watch/metrics'
import type { DeviceConnection, DeviceDriver, DeviceEvents, Told, Written } from './driver'

const Description = v.object({
  capability: Capability,
  settings: Settings,
  serial: v.optional(v.nullable(v.pipe(v.string(), v.minLength(1), v.maxLength(100))), null),
})
const Value = v.union([v.tuple([v.string(), v.unknown()]), v.object({ path: v.string(), error: v.string() })])
const Answer = v.object({ values: v.array(Value) })
const Changed = v.object({ event: v.literal('changed'), values: v.array(v.tuple([v.string(), v.unknown()])) })
const answerTime = 2000
const longestLine = 4 * 1024 * 1024
/** Lines taken in one go: a device that floods must not keep everybody else waiting. */
const linesAtOnce = 200

interface Waiting {
  resolve: (answer: unknown) => void
  reject: (error: Error) => void
  timer: NodeJS.Timeout
  what: string
}

/** `host:port`, and `#rack` where one of several copies of a simulated device is meant. */
function placeOf(address: string) {
  const [at, rack] = address.split('#') as [string, string | undefined]
  const colon = at.lastIndexOf(':')
  return { host: at.slice(0, colon).replace(/^\[|\]$/g, ''), port: Number(at.slice(colon + 1)), rack }
}

/** One line of JSON a message, as the stand-ins speak it. */
class LineConnection implements DeviceConnection {
  private readonly waiting = new Map<number, Waiting>()
  private next = 1
  private rest = ''
  private lines: string[] = []
  private reading = false
  private over = false

  constructor(
    private readonly socket: Socket,
    private readonly events: DeviceEvents,
    private readonly gone: (why: string) => void,
  ) {
    socket.on('data', (text: string) => this.hear(text))
  }

  ask(message: { op: string, [more: string]: unknown }): Promise<unknown> {
    return new Promise((resolve, reject) => {
      if (this.over) return reject(new Error('The connection is closed'))
      const id = this.next++
      const timer = setTimeout(() => this.end('The device does not answer'), answerTime)
      const done = roundTrips.startTimer()
      const answered = (answer: unknown) => {
        done()
        resolve(answer)
      }
      this.waiting.set(id, { resolve: answered, reject, timer, what: message.op })
      this.socket.write(`${JSON.stringify({ id, ...message })}\n`)
    })
  }

  read = async () => v.parse(Description, await this.ask({ op: 'describe' }))
  write = async (values: readonly (readonly [string, unknown])[]): Promise<Written[]> => {
    const { values: answers } = v.parse(Answer, await this.ask({ op: 'set', values }))
    return answers.map(a => (Array.isArray(a) ? { path: a[0], value: a[1] } : { path: a.path, refused: a.error }))
  }

  ping = async () => {
    await this.ask({ op: 'ping' })
  }

  close = () => this.end('Closed')

  end(why: string) {
    if (this.over) return
    this.over = true
    this.socket.destroy()
    for (const w of this.waiting.values()) {
      clearTimeout(w.timer)
      w.reject(new Error(why))
    }
    this.waiting.clear()
    this.gone(why)
  }

  private hear(text: string) {
    const lines = (this.rest + text).split('\n')
    this.rest = lines.pop()!
    if (this.rest.length > longestLine) return this.end('The device sent a line without end')
    this.lines.push(...lines.filter(Boolean))
    if (!this.reading) this.work()
  }

  /** Takes lines in order, some at a time; meanwhile a flooding device is not listened to. */
  private work() {
    const told: Told[] = []
    const batch = this.lines.splice(0, linesAtOnce)
    let described = false
    for (const [k, line] of batch.entries()) {
      if (this.over) break
      if (!this.take(line, told)) continue
      // what comes after a description is newer than it, in this piece or in the next, which may come at once:
      // heard when whoever asked has had it
      this.lines.unshift(...batch.slice(k + 1))
      described = true
      break
    }
    if (told.length) this.events.held(told)
    this.reading = described || this.lines.length > 0
    if (!this.reading) {
      this.socket.resume()
      return
    }
    this.socket.pause()
    setImmediate(() => this.work())
  }

  /** Takes one line in; true when it was the device’s description of itself. */
  private take(line: string, told: Told[]): boolean {
    let message: { id?: unknown, error?: unknown }
    try {
      message = JSON.parse(line) as typeof message
    }
    catch {
      this.end('The device sent something that is not JSON')
      return false
    }
    const change = v.safeParse(Changed, message)
    if (change.success) {
      told.push(...change.output.values.map(([path, value]): Told => ({ path, value, by: 'device' })))
      return false
    }
    const asked = this.waiting.get(Number(message.id))
    if (!asked) return false
    this.waiting.delete(Number(message.id))
    clearTimeout(asked.timer)
    if (message.error !== undefined) {
      asked.reject(new Error(String(message.error)))
      return false
    }
    const written = asked.what === 'set' ? v.safeParse(Answer, message) : null
    if (written?.success) {
      told.push(
        ...written.output.values.flatMap((a): Told[] =>
          Array.isArray(a) ? [{ path: a[0], value: a[1], by: 'sent' }] : [],
        ),
      )
    }
    asked.resolve(message)
    return asked.what === 'describe'
  }
}

/** Speaks the stand-ins' protocol over TCP. */
export const lineDriver: DeviceDriver = (address, events) =>
  new Promise<DeviceConnection>((resolve, reject) => {
    const { host, port, rack } = placeOf(address)
    if (!host || !Number.isInteger(port)) return reject(new Error(`“${address}” is not host:port`))
    const socket = connect({ host, port, timeout: answerTime })
    let open = false
    const connection = new LineConnection(socket, events, why => (open ? events.lost(why) : reject(new Error(why))))
    socket.setEncoding('utf8')
    socket.setNoDelay(true)
    socket.on('timeout', () => {
      if (!open) connection.end('No answer at this address')
    })
    socket.on('error', (error: NodeJS.ErrnoException) =>
      connection.end(error.code === 'ECONNREFUSED' ? `No answer at ${address}` : error.message),
    )
    socket.on('close', () => connection.end('The device closed the connection'))
    socket.on('connect', () => {
      socket.setTimeout(0)
      const ready = rack ? connection.ask({ op: 'rack', rack }) : Promise.resolve()
      ready.then(() => {
        open = true
        resolve(connection)
      }, reject)
    })
  })
