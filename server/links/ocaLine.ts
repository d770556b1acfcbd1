import { connect, type Socket } from 'node:net'
import {
  MessageStream, readParameters, writeMessage, writeParameters, type Answer, type Command, type Method,
  type Notification,
} from '../../core/formats/ocp1'
import { ocaStatus, OcaRefused, type Ask } from '../../core/formats/oca'
import { Refusal, wordsOf } from '../../core/words'

const answerTime = 2000
/** How often each side is heard, in milliseconds; who is silent for three times that is lost. */
const interval = 1000
const silentIntervals = 3
/** Most commands of one message, and most answers and notifications that are taken in one go. */
const commandsAtOnce = 200
const unitsAtOnce = 400

/** Called with an answer in its place among all that the device tells: before what came behind it is looked at. */
type Took = (values: readonly unknown[]) => void
interface Waiting {
  method: Method<readonly unknown[], readonly unknown[]>
  took: Took | undefined
  resolve: (values: readonly unknown[]) => void
  reject: (error: Error) => void
}
type Unit = { answer: Answer } | { notification: Notification }

/** One line of OCP.1 to a device: commands with their answers, notifications, and the supervision of both sides. */
export class OcaLine {
  private readonly stream = new MessageStream()
  private readonly waiting = new Map<number, Waiting>()
  private next = 1
  private queue: Command[] = []
  private units: Unit[] = []
  private working = false
  private over = false
  private heard = Date.now()
  private answered = Date.now()
  private looked = Date.now()
  private readonly beat: NodeJS.Timeout

  constructor(
    private readonly socket: Socket,
    private readonly notified: (notification: Notification) => void,
    private readonly gone: (why: string) => void,
  ) {
    socket.on('data', (bytes: Buffer) => this.hear(bytes))
    this.beat = setInterval(() => this.supervise(), interval)
    this.supervise()
  }

  private supervise() {
    const now = Date.now()
    // a machine that was busy has not heard what waits to be read: the device is not to blame
    const wasBusy = now - this.looked > 2 * interval
    this.looked = now
    if (wasBusy) this.heard = this.answered = now
    if (now - this.heard > silentIntervals * interval) return this.end('The device is silent')
    if (this.waiting.size && now - this.answered > answerTime) return this.end('The device does not answer')
    this.socket.write(writeMessage({ type: 'alive', interval }))
  }

  /** Asks an object; what is asked in one turn goes out together, in its order. */
  ask = (
    object: number, method: Parameters<Ask>[1], values: readonly unknown[] = [], took?: Took,
  ) => new Promise<readonly unknown[]>((resolve, reject) => {
    if (this.over) return reject(new Error('The connection is closed'))
    const handle = this.next++
    const { level, index } = method
    if (!this.waiting.size) this.answered = Date.now()
    this.waiting.set(handle, { method, took, resolve, reject })
    if (!this.queue.length) queueMicrotask(() => this.flush())
    this.queue.push({
      handle, object, method: { level, index }, ...writeParameters(method.takes as never, values as never),
    })
  })

  /** Sends what is asked, some at a time, so that nobody waits for the rest to be put into bytes. */
  private flush() {
    if (this.over) return
    const commands = this.queue.splice(0, commandsAtOnce)
    this.socket.write(writeMessage({ type: 'commands', answered: true, commands }))
    if (this.queue.length) setImmediate(() => this.flush())
  }

  private hear(bytes: Buffer) {
    this.heard = Date.now()
    try {
      for (const message of this.stream.push(bytes)) {
        if (message.type === 'answers') this.units.push(...message.answers.map(answer => ({ answer })))
        if (message.type === 'notifications')
          this.units.push(...message.notifications.map(notification => ({ notification })))
      }
    }
    catch (error) {
      const why = error instanceof Refusal ? wordsOf(error.told) : (error as Error).message
      this.end(`What the device sends is not understood: ${why}`)
      return
    }
    if (!this.working) this.work()
  }

  /** Takes what came in order, some at a time; meanwhile a flooding device is not listened to. */
  private work() {
    for (let n = 0; n < unitsAtOnce && this.units.length && !this.over; n++) {
      const unit = this.units.shift()!
      if ('answer' in unit) this.answer(unit.answer)
      else this.notified(unit.notification)
    }
    this.working = this.units.length > 0 && !this.over
    if (!this.working) {
      this.socket.resume()
      return
    }
    this.socket.pause()
    setImmediate(() => this.work())
  }

  private answer(answer: Answer) {
    const asked = this.waiting.get(answer.handle)
    if (!asked) return
    this.waiting.delete(answer.handle)
    this.answered = Date.now()
    if (answer.status !== ocaStatus.ok) {
      asked.reject(new OcaRefused(answer.status))
      return
    }
    let values: readonly unknown[]
    try {
      values = readParameters(asked.method.gives as never, answer) as readonly unknown[]
    }
    catch { return asked.reject(new OcaRefused(ocaStatus.badFormat)) }
    asked.took?.(values)
    asked.resolve(values)
  }

  end(why: string) {
    if (this.over) return
    this.over = true
    clearInterval(this.beat)
    this.socket.destroy()
    for (const { reject } of this.waiting.values()) reject(new Error(why))
    this.waiting.clear()
    this.gone(why)
  }
}

/** Opens a line to `host:port`. Rejects with words where nobody answers there. */
export function openLine(
  address: string, notified: (notification: Notification) => void, gone: (why: string) => void,
  patience = answerTime,
): Promise<OcaLine> {
  return new Promise((resolve, reject) => {
    const colon = address.lastIndexOf(':')
    const [host, port] = [address.slice(0, colon).replace(/^\[|\]$/g, ''), Number(address.slice(colon + 1))]
    if (!host || !Number.isInteger(port)) return reject(new Error(`“${address}” is not host:port`))
    const socket = connect({ host, port, timeout: patience })
    let line: OcaLine | null = null
    const fail = (why: string) => {
      socket.destroy()
      if (line) line.end(why)
      else reject(new Error(why))
    }
    socket.setNoDelay(true)
    socket.on('timeout', () => line ?? fail('No answer at this address'))
    socket.on('error', (error: NodeJS.ErrnoException) =>
      fail(error.code === 'ECONNREFUSED' ? `No answer at ${address}` : error.message))
    socket.on('close', () => fail('The device closed the connection'))
    socket.on('connect', () => {
      socket.setTimeout(0)
      line = new OcaLine(socket, notified, gone)
      resolve(line)
    })
  })
}
