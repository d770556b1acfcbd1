import '#nitro-internal-pollyfills'
import { createServer, type IncomingMessage } from 'node:http'
import type { Socket } from 'node:net'
import type { Duplex } from 'node:stream'
import wsAdapter from 'crossws/adapters/node'
import { toNodeListener } from 'h3'
import { useNitroApp } from 'nitropack/runtime'
import { setupGracefulShutdown, trapUnhandledNodeErrors } from 'nitropack/runtime/internal'
import { cannotStart } from './watch/ends'
import { allowedHosts, refusedAtDoor } from './access/hosts'
import { askerHeader, sharer } from './access/shares'
import { longestMessage } from './live/pages'
import { message, wordsOf, type Message } from '../core/words'

// The way in: whoever calls by a wrong name or from a foreign page gets no further than here, on any route or upgrade.

const port = process.env.NITRO_PORT ?? process.env.PORT ?? '3000'
const allowed = listed()

function listed() {
  try {
    return allowedHosts(process.env.KOVRIN_HOSTS)
  }
  catch (error) {
    process.stderr.write(`Kovrin cannot start: ${(error as Error).message}\n`)
    return process.exit(cannotStart)
  }
}

function refusedRequest({ method = 'GET', url = '/', headers }: IncomingMessage): Message | null {
  const told = (name: string) => headers[name] as string | undefined
  const caller = { method, path: url, host: headers.host, origin: headers.origin }
  const fetching = { site: told('sec-fetch-site'), mode: told('sec-fetch-mode'), dest: told('sec-fetch-dest') }
  return refusedAtDoor({ ...caller, ...fetching }, allowed, port)
}

const app = useNitroApp()
const answer = toNodeListener(app.h3App)
/** A header comes within seconds; a large file may take its time. */
const limits = {
  headersTimeout: 10_000, requestTimeout: 600_000, keepAliveTimeout: 65_000, connectionsCheckingInterval: 5000,
}

const server = createServer(limits, (request, response) => {
  const why = refusedRequest(request)
  if (why === null) return void answer(request, response)
  response.writeHead(403, { 'content-type': 'application/json', 'connection': 'close' })
  response.end(JSON.stringify({ statusCode: 403, ...why, message: wordsOf(why) }))
})
server.maxConnections = 1000

const { handleUpgrade } = wsAdapter({
  ...app.h3App.websocket,
  serverOptions: { maxPayload: longestMessage, perMessageDeflate: false },
})
const statusWords = { 400: 'Bad Request', 403: 'Forbidden', 404: 'Not Found', 408: 'Request Timeout' }
function refuse(socket: Duplex, status: keyof typeof statusWords, told: Message) {
  const body = JSON.stringify({ statusCode: status, ...told, message: wordsOf(told) })
  socket.end(
    `HTTP/1.1 ${status} ${statusWords[status]}\r\ncontent-type: application/json\r\nconnection: close\r\n`
    + `content-length: ${Buffer.byteLength(body)}\r\n\r\n${body}`,
  )
}
server.on('clientError', (error: NodeJS.ErrnoException, socket) => {
  const isLate = error.code === 'ERR_HTTP_REQUEST_TIMEOUT'
  // browsers open connections ahead and say nothing on them: an answer there would be taken for the next request's
  const isIdle = isLate && (socket as Socket).bytesRead === 0
  if (error.code === 'ECONNRESET' || !socket.writable || isIdle) socket.destroy()
  else if (isLate) refuse(socket, 408, message('http.notWhole'))
  else refuse(socket, 400, message('http.broken'))
})
server.on('upgrade', (request, socket, head) => {
  socket.on('error', () => socket.destroy())
  const why = refusedRequest(request)
  if (why !== null) return refuse(socket, 403, why)
  if (!/^\/live(?:\?|$)/.test(request.url ?? '')) return refuse(socket, 404, message('http.onlyLive'))
  sharer(request).then((who) => {
    request.headers[askerHeader] = who
    return handleUpgrade(request, socket as never, head)
  }).catch(() => socket.destroy())
})

// the start script waits for this line: whoever else answers at the port is not us
const listening = () => process.stdout.write(`Kovrin listens on port ${port}\n`)
server.listen({ port: Number(port), host: process.env.NITRO_HOST ?? process.env.HOST ?? '127.0.0.1' }, listening)
server.on('error', (error) => {
  console.error(`Kovrin’s server cannot listen on port ${port}: ${error.message}`)
  process.exit(1)
})
trapUnhandledNodeErrors()
setupGracefulShutdown(server, app)
export default {}
