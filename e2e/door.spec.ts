import { request as plain, type IncomingHttpHeaders } from 'node:http'
import { connect } from 'node:net'
import { createHash, randomUUID } from 'node:crypto'
import { expect, test } from './pages'

// Who may come in, and how much may come in with them.

interface Answer { status: number, headers: IncomingHttpHeaders, text: string }
function ask(path: string, headers: Record<string, string> = {}, method = 'GET', body?: string): Promise<Answer> {
  const { hostname, port } = new URL(process.env.KOVRIN_URL!)
  return new Promise((resolve, reject) => {
    const asked = plain({ hostname, port, path, method, headers, agent: false }, (answer) => {
      let text = ''
      answer.setEncoding('utf8').on('data', t => (text += t))
        .on('end', () => resolve({ status: answer.statusCode!, headers: answer.headers, text }))
    })
    asked.on('error', reject)
    asked.end(body)
  })
}

/** A socket that asks to be followed; gives its first line, and what becomes of it. */
async function line(path: string, headers: Record<string, string> = {}) {
  const { hostname, port } = new URL(process.env.KOVRIN_URL!)
  const socket = connect(Number(port), hostname)
  const key = randomUUID()
  const all = { 'host': hostname, 'connection': 'Upgrade', 'upgrade': 'websocket', 'sec-websocket-version': '13',
    'sec-websocket-key': createHash('md5').update(key).digest('base64'), ...headers }
  const lines = Object.entries(all).map(([k, x]) => `${k}: ${x}`)
  socket.write(`GET ${path} HTTP/1.1\r\n${lines.join('\r\n')}\r\n\r\n`)
  const closed = new Promise<void>(done => socket.once('close', () => done()))
  const first = await new Promise<string>((resolve, reject) => {
    socket.once('data', d => resolve(d.toString('utf8').split('\r\n')[0]!)).once('error', reject)
  })
  /** One text frame, masked as RFC 6455 (5.3) asks. */
  const say = (text: string) => {
    const bytes = Buffer.from(text)
    const length = Buffer.alloc(8)
    length.writeBigUInt64BE(BigInt(bytes.length))
    socket.write(Buffer.concat([Buffer.from([0x81, 0xFF]), length, Buffer.alloc(4), bytes]))
  }
  return { first, say, closed, socket }
}

test('a connection on which nothing was asked is closed without a word; half a request is late', async () => {
  test.setTimeout(90_000)
  const { hostname, port } = new URL(process.env.KOVRIN_URL!)
  /** What comes on a connection until the server closes it. */
  const told = (said: string) => new Promise<string>((resolve) => {
    const socket = connect(Number(port), hostname)
    let text = ''
    socket.on('data', d => (text += d.toString('utf8'))).on('error', () => {}).on('close', () => resolve(text))
    if (said) socket.write(said)
  })
  const [idle, half, nonsense] = await Promise.all([
    told(''), told('GET /api/sites HTTP/1.1\r\nhost: localhost\r\n'), told('what?\r\n\r\n'),
  ])
  expect(idle).toBe('')
  expect(half).toContain('408 Request Timeout')
  expect(nonsense).toContain('400 Bad Request')
})

test('a foreign name or page is refused on every route and upgrade', async ({ site }) => {
  for (const path of ['/', '/api/sites', '/metrics', '/nowhere', `/sites/${site.id}`]) {
    for (const headers of [{ host: 'evil.example' }, { origin: 'null' }, { origin: 'http://localhost:9' }]) {
      const { status, headers: told, text } = await ask(path, headers)
      expect([path, status]).toEqual([path, 403])
      expect(JSON.parse(text).message).toMatch(/Kovrin/)
      expect(told['access-control-allow-origin']).toBeUndefined()
    }
  }
  const wish = { 'origin': 'http://evil.example', 'access-control-request-method': 'POST' }
  const preflight = await ask('/api/sites', wish, 'OPTIONS')
  expect(preflight.status).toBe(403)
  expect((await ask('/api/sites', { 'sec-fetch-site': 'cross-site', 'sec-fetch-mode': 'no-cors' })).status).toBe(403)
  const link = { 'sec-fetch-site': 'cross-site', 'sec-fetch-mode': 'navigate', 'sec-fetch-dest': 'document' }
  const page = await ask('/', link)
  expect(page.status).toBe(200)
  expect(page.headers['strict-transport-security']).toBeUndefined()
  for (const headers of [{ host: 'evil.example' }, { origin: 'null' }, { origin: 'http://evil.example' }])
    expect((await line('/live?site=x', headers)).first).toContain('403')
  expect((await line('/elsewhere')).first).toContain('404')
  expect((await line('/live?site=x')).first).toContain('101')
})

test('answers are not kept by browsers, what describes them runs nothing, and text is not taken for JSON', async () => {
  for (const path of ['/api/sites', '/api/docs', '/api/nowhere']) {
    const { headers } = await ask(path)
    expect([path, headers['cache-control']]).toEqual([path, 'no-store'])
    expect(headers['content-security-policy']).toContain('default-src \'none\'')
  }
  const page = await ask('/')
  expect(page.headers['content-security-policy']).not.toContain('ws:')
  const body = JSON.stringify({ who: 'Mallory' })
  for (const type of ['text/plain', 'application/x-www-form-urlencoded', 'text/plain; a=application/json'])
    expect((await ask('/api/session', { 'content-type': type }, 'PUT', body)).status).toBe(415)
  const json = { 'content-type': 'application/json; charset=utf-8' }
  expect((await ask('/api/session', json, 'PUT', body)).status).toBe(200)
})

test('what is not there leaves nothing behind, and unfinished bodies have their share', async () => {
  test.setTimeout(120_000)
  const held = async () => Number(/^kovrin_sites_held (\d+)/m.exec((await ask('/metrics')).text)![1])
  const before = await held()
  for (let n = 0; n < 300; n++) expect((await ask(`/api/sites/nowhere-${n}`)).status).toBe(404)
  expect(await held()).toBeLessThan(before + 50)
  // more bytes than one asker may have under way, in bodies that never end
  const { hostname, port } = new URL(process.env.KOVRIN_URL!)
  const piece = Buffer.alloc(2 ** 20)
  const refused = await Promise.all(Array.from({ length: 4 }, () => new Promise<string>((resolve) => {
    const options = { hostname, port, path: '/api/analysis/level', method: 'POST', agent: false }
    const asked = plain({ ...options, headers: { 'content-type': 'audio/wav' } }, (answer) => {
      answer.resume().on('end', () => resolve(`${answer.statusCode}`))
    })
    let sent = 0
    const more = () => {
      while (sent < 200) {
        sent++
        if (!asked.write(piece)) return void asked.once('drain', more)
      }
    }
    asked.on('error', () => resolve('closed'))
    more()
    setTimeout(() => {
      asked.destroy()
      resolve('waits')
    }, 25_000)
  })))
  expect(refused.some(r => r === '429' || r === 'closed')).toBe(true)
  expect((await ask('/api/health')).status).toBe(200)
})

test('bodies are counted as they come, and sockets are bounded', async ({ site }) => {
  const big = JSON.stringify({ who: 'x'.repeat(2 * 2 ** 20) })
  const chunked = await ask('/api/session', { 'transfer-encoding': 'chunked' }, 'PUT', big)
  expect([chunked.status, JSON.parse(chunked.text).message]).toEqual([413, expect.stringContaining('At most')])
  const long = await line(`/live?site=${site.id}`)
  long.say('x'.repeat(100_000))
  await long.closed
  const page = randomUUID()
  const lines = []
  for (let n = 0; n < 6; n++) lines.push(await line(`/live?site=${site.id}&page=${page}`))
  await Promise.all([lines[0]!.closed, lines[1]!.closed])
  expect(lines.slice(2).every(l => !l.socket.destroyed)).toBe(true)
  for (const l of lines) l.socket.destroy()
  expect((await ask('/api/health')).status).toBe(200)
})
