import { randomUUID } from 'node:crypto'
import { createServer, type Socket } from 'node:net'
import { existsSync, mkdirSync, readFileSync, renameSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import * as v from 'valibot'
import { currentVersion, upgradeMemory } from '../../core/documents'
import { compact, holdParameter, withValue, type Settings } from '../../core/rig'
import { firstDelivered, tunedSettings, type StandinDevice } from '../ropewalk/devices'
import { ropewalk, ropewalkTuned } from '../ropewalk/site'
import { wordsOf } from '../../core/words'

/**
 * One line of JSON a message, both ways: the stand-in's whole protocol until the open control protocol takes
 * its place.
 */
const Request = v.variant('op', [
  /** Which of the device's copies is meant: each rack has one of its own. First on a connection. */
  v.object({ id: v.number(), op: v.literal('rack'), rack: v.pipe(v.string(), v.regex(/^[\w-]{1,80}$/)) }),
  v.object({ id: v.number(), op: v.literal('describe') }),
  v.object({ id: v.number(), op: v.literal('set'), values: v.array(v.tuple([v.string(), v.unknown()])) }),
  v.object({ id: v.number(), op: v.literal('ping') }),
])

const longestLine = 1024 * 1024

/** One copy of a device: what it holds, and who is connected to it. */
interface Copy {
  settings: Settings
  clients: Set<Socket>
  file: string
  serial: string
}

/**
 * A device of the simulated rig: keeps its settings in `folder` as a real one keeps them in its flash, answers
 * over TCP on loopback,
 * and tells every other client what changed. Each rack has a copy of its own. Resolves with the port it listens on.
 */
export function runDevice(
  device: StandinDevice,
  folder: string,
  port = 0,
): Promise<{ port: number, close: () => void }> {
  const copies = new Map<string, Copy>()
  const sockets = new Set<Socket>()
  const serial = serialIn(folder, device.id)
  const send = (socket: Socket, message: object) => socket.write(`${JSON.stringify(message)}\n`)

  const copyOf = (rack: string): Copy => {
    const file = join(folder, rack === 'default' ? `${device.id}.json` : `${device.id}@${rack}.json`)
    const copy = copies.get(rack) ?? {
      settings: load(device, rack === firstRack ? firstMemory(file) : file, rack),
      clients: new Set<Socket>(),
      file,
      serial: `${serial} ${rack}`,
    }
    copies.set(rack, copy)
    return copy
  }

  /** Sets what it can, keeps all of it or nothing, and only then holds it. */
  const set = (copy: Copy, socket: Socket, values: [string, unknown][]) => {
    let next = copy.settings
    const answers = values.map(([path, wish]): [string, unknown] | { path: string, error: string } => {
      const held = holdParameter(device.capability, path, wish)
      if (!held.ok) return { path, error: wordsOf(held.why) }
      next = withValue(next, path, held.value)
      return [path, held.value]
    })
    next = compact(device.capability, next)
    save(copy.file, next)
    copy.settings = next
    const changed = answers.filter(a => Array.isArray(a))
    if (changed.length) {
      for (const other of copy.clients) if (other !== socket) send(other, { event: 'changed', values: changed })
    }
    return answers
  }

  const answer = (socket: Socket, at: { copy: Copy }, line: string) => {
    let id: unknown = null
    try {
      const message: unknown = JSON.parse(line)
      id = (message as { id?: unknown } | null)?.id ?? null
      const request = v.parse(Request, message)
      switch (request.op) {
        case 'rack':
          at.copy.clients.delete(socket)
          at.copy = copyOf(request.rack)
          at.copy.clients.add(socket)
          send(socket, { id })
          break
        case 'describe':
          send(socket, { id, capability: device.capability, settings: at.copy.settings, serial: at.copy.serial })
          break
        case 'ping':
          send(socket, { id })
          break
        case 'set':
          send(socket, { id, values: set(at.copy, socket, request.values) })
      }
    }
    catch (error) {
      const why = error instanceof SyntaxError ? 'Not JSON.' : `Not understood: ${(error as Error).message}`
      send(socket, { id, error: why })
    }
  }

  const server = createServer((socket) => {
    sockets.add(socket)
    const at = { copy: copyOf('default') }
    at.copy.clients.add(socket)
    let rest = ''
    socket.setEncoding('utf8')
    socket.setNoDelay(true)
    socket.on('data', (text: string) => {
      const lines = (rest + text).split('\n')
      rest = lines.pop()!
      if (rest.length > longestLine) socket.destroy()
      for (const line of lines) if (line.trim()) answer(socket, at, line)
    })
    socket.on('close', () => {
      sockets.delete(socket)
      at.copy.clients.delete(socket)
    })
    socket.on('error', () => socket.destroy())
  })
  return new Promise((resolve, reject) => {
    server.once('error', reject)
    server.listen(port, '127.0.0.1', () =>
      resolve({
        port: (server.address() as { port: number }).port,
        close: () => {
          for (const socket of sockets) socket.destroy()
          server.close()
        },
      }),
    )
  })
}

/** The number that it was made with: drawn at its first start, and kept. */
function serialIn(folder: string, id: string): string {
  const file = join(folder, `${id}.serial`)
  if (existsSync(file)) return readFileSync(file, 'utf8')
  mkdirSync(folder, { recursive: true })
  writeFileSync(`${file}.new`, randomUUID())
  renameSync(`${file}.new`, file)
  return readFileSync(file, 'utf8')
}

/** Where the devices of sites that came from the first version stand. */
const firstRack = 'first'

/** The demo's racks come as their crews left them, any other as from the factory: neutral, nothing connected. */
function deliveredTo(device: StandinDevice, rack: string): Settings {
  if (rack === ropewalkTuned.id) return tunedSettings[device.id] ?? {}
  if (rack === firstRack) return firstDelivered[device.id] ?? {}
  return rack === 'default' || rack === ropewalk.id ? device.delivered : {}
}

/** Where the memory of the first rack is: under its own name, else where the first version kept it. */
const firstMemory = (file: string) =>
  (existsSync(file) ? file : file.replace(`@${firstRack}.json`, '.json'))

/**
 * What the device kept through the last power cut. Damaged or newer memory is put aside, and it starts as
 * delivered.
 */
function load(device: StandinDevice, file: string, rack: string): Settings {
  let text: string
  try {
    text = readFileSync(file, 'utf8')
  }
  catch (error) {
    if ((error as NodeJS.ErrnoException).code === 'ENOENT') return deliveredTo(device, rack)
    throw error
  }
  try {
    return upgradeMemory(device.capability, JSON.parse(text))
  }
  catch (error) {
    console.error(
      `${device.name}: its memory cannot be used (${(error as Error).message}). It started as delivered; `
      + `the memory is kept as ${file}.damaged`,
    )
    renameSync(file, `${file}.damaged`)
    return deliveredTo(device, rack)
  }
}

/** Written beside and renamed, so that a power cut leaves the old or the new settings, never half of them. */
function save(file: string, settings: Settings) {
  mkdirSync(join(file, '..'), { recursive: true })
  writeFileSync(`${file}.new`, JSON.stringify({ version: currentVersion, settings }))
  renameSync(`${file}.new`, file)
}
