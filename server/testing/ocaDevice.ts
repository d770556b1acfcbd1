import { createServer, type Socket } from 'node:net'
import {
  ByteWriter, encode, f32, knownClassOf, MessageStream, propertyId, readParameters, u8, writeMessage, writeParameters,
  type Command,
} from '../../core/formats/ocp1'

/** The objects of a device that nobody has seen before: a level and a mute below the root block. */
const objects: Record<number, { classId: number[], role: string }> = {
  1: { classId: [1, 3, 1], role: 'Device' },
  4: { classId: [1, 3, 4], role: 'Subscription' },
  100: { classId: [1, 1, 3], role: 'Root' },
  5001: { classId: [1, 1, 1, 5], role: 'Gain' },
  5002: { classId: [1, 1, 1, 2], role: 'Mute' },
}
const identified = (object: number) =>
  ({ object, classIdentification: { classId: objects[object]!.classId, classVersion: 2 } })
/** Where its level stands in Kovrin. */
export const levelPath = '/main/Gain'

export interface Call { object: number, name: string, values: readonly unknown[] }

/** A device of somebody else's making, whose manners a test decides. */
export interface ForeignDevice {
  address: string
  gain: number
  muted: boolean
  /** Everything that it was asked, by name. */
  calls: Call[]
  /** Says that its level changed, and to what; nobody turned anything. */
  tell(gain: number): void
  close(): void
}

/** What a test may do with a call: hold its answer back until it is released, refuse it, or leave it. */
export interface Manners {
  /** A promise holds back this answer and what comes after it; a number refuses with that status. */
  before?: (call: Call, device: ForeignDevice) => Promise<unknown> | number | undefined
  after?: (call: Call, device: ForeignDevice) => void
  /** It never tells of its own changes. */
  isMute?: boolean
}

function nameOf({ object, method }: Command): { name: string, oca: ReturnType<typeof knownClassOf> } | null {
  const oca = objects[object] ? knownClassOf(objects[object].classId) : null
  const found = Object.entries(oca?.methods ?? {})
    .find(([, m]) => m.level === method.level && m.index === method.index)
  return found ? { name: found[0], oca } : null
}

function answer(device: ForeignDevice, { object, name, values }: Call): readonly unknown[] | number {
  switch (name) {
    case 'GetMembers': return object === 100 ? [[identified(5001), identified(5002)]] : 8
    case 'GetRole': return [objects[object]!.role]
    case 'GetSerialNumber': return [device.address]
    case 'GetModelDescription': return [{ manufacturer: 'Tallow Quay', name: 'Level box', version: '7' }]
    case 'AddSubscription': return []
    case 'GetGain': return [device.gain, -80, 12]
    case 'SetGain':
      if (!((values[0] as number) <= 12)) return 7
      device.gain = values[0] as number
      return []
    case 'GetState': return object === 5002 ? [device.muted ? 1 : 2] : 8
    case 'SetState':
      device.muted = values[0] === 1
      return []
    default: return 8
  }
}

/** Starts one at a free port of loopback. */
export async function foreignDevice({ before, after, isMute }: Manners = {}): Promise<ForeignDevice> {
  const sockets = new Set<Socket>()
  const tell = (gain: number) => {
    const data = new ByteWriter()
    propertyId.write(data, { level: 4, index: 1 })
    f32.write(data, gain)
    u8.write(data, 1)
    const notification = {
      subscriber: 1, method: { level: 1, index: 1 }, context: new Uint8Array(), emitter: 5001,
      event: { level: 1, index: 1 }, data: data.done(),
    }
    for (const socket of sockets) socket.write(writeMessage({ type: 'notifications', notifications: [notification] }))
  }
  const take = async (device: ForeignDevice, socket: Socket, command: Command) => {
    const { handle } = command
    const refuse = (status: number) => void socket.write(writeMessage({
      type: 'answers', answers: [{ handle, status, count: 0, parameters: encode([], []) }],
    }))
    const named = nameOf(command)
    if (!named) return refuse(11)
    const method = named.oca!.methods[named.name]!
    const values = readParameters(method.takes as never, command) as readonly unknown[]
    const call: Call = { object: command.object, name: named.name, values }
    device.calls.push(call)
    const asked = before?.(call, device)
    if (typeof asked === 'number') return refuse(asked)
    if (asked) await asked
    const told = answer(device, call)
    if (typeof told === 'number') return refuse(told)
    if (call.name === 'SetGain' && !isMute) tell(device.gain)
    const parameters = writeParameters(method.gives as never, told as never)
    socket.write(writeMessage({ type: 'answers', answers: [{ handle, status: 0, ...parameters }] }))
    return after?.(call, device)
  }
  const server = createServer((socket) => {
    sockets.add(socket)
    const stream = new MessageStream()
    let chain = Promise.resolve()
    socket.on('error', () => {}).on('close', () => sockets.delete(socket))
    socket.on('data', (bytes: Buffer) => {
      for (const message of stream.push(bytes)) {
        if (message.type === 'alive') socket.write(writeMessage(message))
        if (message.type !== 'commands') continue
        for (const command of message.commands)
          chain = chain.then(async () => void await take(device, socket, command))
      }
    })
  })
  await new Promise<void>(done => server.listen(0, '127.0.0.1', done))
  const device: ForeignDevice = {
    address: `127.0.0.1:${(server.address() as { port: number }).port}`,
    gain: 0,
    muted: false,
    calls: [],
    tell,
    close: () => {
      for (const socket of sockets) socket.destroy()
      server.close()
    },
  }
  return device
}
