import { createServer } from 'node:http'
import { connect, type AddressInfo } from 'node:net'
import { createApp, eventHandler, readRawBody, toNodeListener, type H3Event } from 'h3'
import { afterEach, expect, it, vi } from 'vitest'
import { readBytes } from './request'
import { readStreamed } from './streamed'

vi.mock('../access/shares', async original => ({ ...await original<object>(), sharer: () => Promise.resolve('ann') }))

const ends: (() => void)[] = []
afterEach(() => {
  for (const end of ends.splice(0)) end()
})

/** A server that reads every body like this; gives its port. */
async function reading(read: (event: H3Event) => Promise<unknown>): Promise<number> {
  const app = createApp().use(eventHandler(async event => (await read(event)) ?? {}))
  const server = createServer(toNodeListener(app))
  await new Promise<void>(done => server.listen(0, '127.0.0.1', done))
  ends.push(() => {
    server.closeAllConnections()
    server.close()
  })
  return (server.address() as AddressInfo).port
}

/** Sends a body whole before it looks at what is answered; gives all that came until the answer or the end. */
function answerTo(port: number, body: Buffer, length = body.length): Promise<string> {
  const socket = connect(port, '127.0.0.1')
  ends.push(() => socket.destroy())
  let heard = ''
  return new Promise((resolve) => {
    const ended = () => resolve(heard)
    socket.on('error', ended).on('close', ended)
    socket.write(`POST / HTTP/1.1\r\nhost: x\r\ncontent-type: application/json\r\ncontent-length: ${length}\r\n\r\n`)
    socket.write(body, () => socket.on('data', (text) => {
      heard += text.toString()
      if (heard.includes('}')) ended()
    }))
  })
}

it.each([
  ['that goes down for ever', readStreamed, 16 * 2 ** 20, /^HTTP\/1.1 400 /],
  ['that is announced as too large', (event: H3Event) => readBytes(event, 1000), 8 * 2 ** 20, /^HTTP\/1.1 413 /],
] as const)('whoever sends a body %s hears why, however much of it is on its way', async (_, read, size, why) => {
  const port = await reading(event => read(event, 2 ** 30))
  for (let n = 0; n < 30; n++) expect(await answerTo(port, Buffer.alloc(size, '['))).toMatch(why)
})

it('whoever goes on sending what is refused is cut off', async () => {
  const port = await reading(event => readBytes(event, 1000))
  const socket = connect(port, '127.0.0.1')
  ends.push(() => socket.destroy())
  const closed = new Promise(done => socket.on('error', () => {}).on('close', done))
  socket.write('POST / HTTP/1.1\r\nhost: x\r\ncontent-length: 100000000\r\n\r\n')
  const more = setInterval(() => socket.write('['), 20)
  ends.push(() => clearInterval(more))
  await closed
})

it('a connection whose body was refused takes the next request', async () => {
  const port = await reading(async event => (event.path === '/all' ? readRawBody(event) : readBytes(event, 10)))
  const socket = connect(port, '127.0.0.1')
  ends.push(() => socket.destroy())
  let heard = ''
  socket.on('data', (text) => {
    heard += text.toString()
  })
  socket.write(`POST / HTTP/1.1\r\nhost: x\r\ncontent-length: 100000\r\n\r\n${'['.repeat(100_000)}`)
  socket.write('POST /all HTTP/1.1\r\nhost: x\r\ncontent-length: 5\r\n\r\nagain')
  await vi.waitFor(() => expect(heard).toMatch(/413.*200.*again/s))
})
