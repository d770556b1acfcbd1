import { connect, type Socket } from 'node:net'
import {
  knownClassOf, MessageStream, readParameters, writeMessage, writeParameters, type Method, type Notification,
  type OcpMessage,
} from '../../core/formats/ocp1'

/** What came from a device, in its order. */
export type Came = { answer: number, status: number, values: readonly unknown[] } | { notification: Notification }
type Loose = Method<readonly unknown[], readonly unknown[]>

/** A controller that knows the standard only, for tests: asks one thing at a time, and keeps all that came. */
export class TestController {
  readonly came: Came[] = []
  readonly alive: number[] = []
  isClosed = false
  private readonly stream = new MessageStream()
  private readonly methods = new Map<number, { method: Loose, done: (c: Extract<Came, { answer: number }>) => void }>()
  private handle = 1
  private constructor(readonly socket: Socket) {
    socket.on('data', (bytes: Buffer) => this.stream.push(bytes).forEach(message => this.take(message)))
    socket.on('close', () => (this.isClosed = true)).on('error', () => {})
  }

  static open = (port: number) => new Promise<TestController>((resolve) => {
    const socket = connect(port, '127.0.0.1', () => resolve(new TestController(socket)))
  })

  private take(message: OcpMessage) {
    if (message.type === 'alive') this.alive.push(message.interval)
    if (message.type === 'notifications')
      this.came.push(...message.notifications.map(notification => ({ notification })))
    if (message.type !== 'answers') return
    for (const answer of message.answers) {
      const asked = this.methods.get(answer.handle)!
      const values = answer.status === 0 ? readParameters(asked.method.gives as never, answer) : []
      const came = { answer: answer.handle, status: answer.status, values: values as readonly unknown[] }
      this.came.push(came)
      asked.done(came)
    }
  }

  ask(object: number, method: Loose, values: readonly unknown[] = []) {
    return new Promise<Extract<Came, { answer: number }>>((done) => {
      const handle = this.handle++
      this.methods.set(handle, { method, done })
      const { level, index } = method
      const command = {
        handle, object, method: { level, index }, ...writeParameters(method.takes as never, values as never),
      }
      this.socket.write(writeMessage({ type: 'commands', answered: true, commands: [command] }))
    })
  }

  say = (message: OcpMessage) => this.socket.write(writeMessage(message))
  close = () => this.socket.destroy()
}

/** The class of the standard that an object of any class is driven as: its own part of the id is left out. */
export const standardOf = (classId: readonly number[]) => {
  const own = classId.indexOf(0xFFFF)
  return knownClassOf(own < 0 ? classId : classId.slice(0, own))!
}
