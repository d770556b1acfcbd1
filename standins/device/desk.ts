import { createServer, type IncomingMessage } from 'node:http'
import * as v from 'valibot'
import type { RunningDevice } from './device'

// The practice desk: where hands are laid on a simulated device. A controller has no part in it; it speaks OCP.1.

const Rack = v.pipe(v.string(), v.regex(/^[\w-]{1,80}$/))
const Turn = v.object({ path: v.string(), value: v.unknown() })
const Turns = v.pipe(v.array(Turn), v.maxLength(5000))
const mostBytes = 4 * 1024 * 1024

async function bodyOf(request: IncomingMessage): Promise<unknown> {
  let text = ''
  for await (const piece of request) {
    text += piece
    if (text.length > mostBytes) throw new RangeError('too long')
  }
  return JSON.parse(text)
}

async function answer(device: RunningDevice, request: IncomingMessage): Promise<object | null> {
  // a page of the web has nothing to do here
  if (request.headers.origin) return null
  const [, racks, name, act] = (request.url ?? '').split('/')
  const rack = v.safeParse(Rack, name)
  if (racks !== 'racks' || !rack.success) return null
  if (request.method === 'GET' && !act) {
    const { output: at } = rack
    const [port, settings] = [await device.rack(at), await device.settings(at)]
    return { port, settings, identifying: await device.identifying(at) }
  }
  if (request.method !== 'POST' || act !== 'turn') return null
  const held: unknown[] = []
  for (const { path, value } of v.parse(Turns, await bodyOf(request)))
    held.push(await device.turn(rack.output, path, value))
  return { held }
}

/**
 * Opens the desk of a device on loopback: `GET /racks/<rack>` tells where its copy in a rack listens and what it
 * holds, `POST /racks/<rack>/turn` turns things at its front (`[{ path, value }]`). Resolves with its port.
 */
export function openDesk(device: RunningDevice, port: number): Promise<{ port: number, close: () => void }> {
  const server = createServer((request, response) => {
    const say = (status: number, body: object) => {
      response.writeHead(status, { 'content-type': 'application/json' }).end(JSON.stringify(body))
    }
    answer(device, request).then(
      told => (told ? say(200, told) : say(404, { message: 'There is no such thing on this desk.' })),
      (error: Error) => say(error instanceof RangeError ? 422 : 400, { message: error.message }),
    )
  })
  return new Promise((resolve, reject) => {
    server.once('error', reject)
    server.listen(port, '127.0.0.1', () => {
      resolve({ port: (server.address() as { port: number }).port, close: () => server.close() })
    })
  })
}
