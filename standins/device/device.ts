import { createServer, type Socket } from 'node:net'
import { mkdirSync, readFileSync, renameSync, writeFileSync } from 'node:fs'
import { dirname } from 'node:path'
import * as v from 'valibot'
import { holdParameter, Settings, writeParameter, type ParameterValue } from '../../core/rig'
import type { StandinDevice } from '../ropewalk/devices'

/**
 * One line of JSON a message, both ways: the stand-in's whole protocol until the open control protocol takes
 * its place.
 */
const Request = v.variant('op', [
  v.object({ id: v.number(), op: v.literal('describe') }),
  v.object({ id: v.number(), op: v.literal('set'), path: v.string(), value: v.unknown() }),
  v.object({ id: v.number(), op: v.literal('ping') }),
])

const longestLine = 64 * 1024

/**
 * A device of the simulated rig: keeps its own settings in `stateFile` as a real one keeps them in its flash,
 * answers over TCP on
 * loopback, and tells every other client what changed. Resolves with the port it listens on.
 */
export function runDevice(
  device: StandinDevice,
  stateFile: string,
  port = 0,
): Promise<{ port: number, close: () => void }> {
  let settings = load(device, stateFile)
  const clients = new Set<Socket>()
  const send = (socket: Socket, message: object) => socket.write(`${JSON.stringify(message)}\n`)

  const answer = (socket: Socket, line: string) => {
    let id: unknown = null
    try {
      const message: unknown = JSON.parse(line)
      id = (message as { id?: unknown } | null)?.id ?? null
      const request = v.parse(Request, message)
      if (request.op === 'describe') return send(socket, { id, capability: device.capability, settings })
      if (request.op === 'ping') return send(socket, { id })
      const held = holdParameter(device.capability, request.path, request.value)
      if (!held.ok) return send(socket, { id, error: held.why })
      settings = writeParameter(settings, request.path, held.value)
      save(stateFile, settings)
      send(socket, { id, path: request.path, value: held.value })
      for (const other of clients)
        if (other !== socket)
          send(other, { event: 'changed', path: request.path, value: held.value satisfies ParameterValue })
    }
    catch (error) {
      send(socket, {
        id,
        error: error instanceof SyntaxError ? 'Not JSON.' : `Not understood: ${(error as Error).message}`,
      })
    }
  }

  const server = createServer((socket) => {
    clients.add(socket)
    let rest = ''
    socket.setEncoding('utf8')
    socket.on('data', (text: string) => {
      const lines = (rest + text).split('\n')
      rest = lines.pop()!
      if (rest.length > longestLine) socket.destroy()
      for (const line of lines) if (line.trim()) answer(socket, line)
    })
    socket.on('close', () => clients.delete(socket))
    socket.on('error', () => socket.destroy())
  })
  return new Promise((resolve, reject) => {
    server.once('error', reject)
    server.listen(port, '127.0.0.1', () =>
      resolve({
        port: (server.address() as { port: number }).port,
        close: () => {
          for (const c of clients) c.destroy()
          server.close()
        },
      }),
    )
  })
}

function load(device: StandinDevice, file: string): Settings {
  let text: string
  try {
    text = readFileSync(file, 'utf8')
  }
  catch (error) {
    if ((error as NodeJS.ErrnoException).code === 'ENOENT') return device.delivered
    throw error
  }
  const stored = v.safeParse(v.pipe(v.string(), v.parseJson(), Settings), text)
  if (stored.success && stored.output.outputs.length === device.capability.outputs.count) return stored.output
  console.error(
    `${device.name}: its stored settings are damaged; started as delivered, the damaged file is kept as `
    + `${file}.damaged`,
  )
  renameSync(file, `${file}.damaged`)
  return device.delivered
}

/** Written beside and renamed, so that a power cut leaves the old or the new settings, never half of them. */
function save(file: string, settings: Settings) {
  mkdirSync(dirname(file), { recursive: true })
  writeFileSync(`${file}.new`, JSON.stringify(settings))
  renameSync(`${file}.new`, file)
}
