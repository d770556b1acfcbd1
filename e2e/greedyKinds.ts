import { randomBytes } from 'node:crypto'
import { connect, type Socket } from 'node:net'
import type { Fault } from './fault'
import { sitePath, type World } from './faultWorld'

// What one asker may ask that is far too much, or the same thing by another name. While it lasts, everybody else is
// answered.

const pause = (ms: number) => new Promise(next => setTimeout(next, ms))

/** A socket to a port of this machine that says what it likes. */
export const rawTo = (port: number) => new Promise<Socket>((resolve) => {
  const socket = connect(port, '127.0.0.1', () => resolve(socket))
  socket.on('error', () => resolve(socket))
})
/** The same to the server. */
export const raw = ({ url }: World) => rawTo(Number(new URL(url).port))
export const upgrade = 'GET /live?site=ropewalk-hall HTTP/1.1\r\nhost: 127.0.0.1\r\nconnection: upgrade\r\n'
  + 'upgrade: websocket\r\nsec-websocket-version: 13\r\nsec-websocket-key: dGhlIHNhbXBsZSBub25jZQ==\r\n\r\n'

/** One frame of text as a page sends it. */
export function framed(message: object): Buffer {
  const text = Buffer.from(JSON.stringify(message))
  const mask = Buffer.from([1, 2, 3, 4])
  const masked = Buffer.from(text.map((b, k) => b ^ mask[k % 4]!))
  return Buffer.concat([Buffer.from([0x81, 0x80 | text.length]), mask, masked])
}

/** While something greedy goes on, a person who only looks is answered. */
async function othersAreAnswered(world: World) {
  const { status } = await world.ask('GET', sitePath)
  if (status !== 200) throw new Error(`Somebody else was answered with ${status}.`)
}

/** A refusal that names a reason; anything else is a find. */
async function refused(world: World, path: string, body: BodyInit) {
  const headers = { 'content-type': 'application/json' }
  const answer = await fetch(world.url + path, { method: 'POST', headers, body })
  if (answer.status < 400 || answer.status >= 500) throw new Error(`${path} was answered with ${answer.status}.`)
  await answer.arrayBuffer()
}

/** Sockets that say this and then nothing; gone when `meanwhile` is through. */
async function sockets(world: World, many: number, words: (socket: Socket) => void, meanwhile: () => Promise<void>) {
  const all = await Promise.all(Array.from({ length: many }, () => raw(world)))
  try {
    all.forEach(words)
    await meanwhile()
  }
  finally {
    for (const socket of all) socket.destroy()
  }
}

/** A site whose processor is at this address; gives its path. */
async function siteAt(world: World, address: string): Promise<string> {
  const copy = { from: 'site', site: 'ropewalk-hall', name: `Copy at ${address}` }
  const { status, body } = await world.ask('POST', '/api/sites', copy)
  if (status !== 201) throw new Error(`A copy was answered with ${status}: ${body.message}`)
  const path = `/api/sites/${body.id as string}`
  const made = (await world.ask('GET', path)).body.documents as Record<string, { address: string }>
  const { address: old } = made['device/processor']!
  const edits = [{ document: 'device/processor', path: '/address', old, new: address }]
  const moved = await world.ask('POST', `${path}/changes`, { edits })
  if (moved.status !== 200) throw new Error(`${address} was refused with ${moved.status}: ${moved.body.message}`)
  await world.ask('POST', `${path}/devices/processor/confirm`, { address })
  return path
}

/** Asks until one of these sites drives its processor and the others say that it is driven elsewhere. */
async function oneDrives(world: World, paths: readonly string[]) {
  let states: unknown[] = []
  for (const began = Date.now(); Date.now() - began < 30_000; await pause(100)) {
    const sites = await Promise.all(paths.map(path => world.ask('GET', path)))
    states = sites.map(s => (s.body.documents as Record<string, { state?: string }>)['link/processor']?.state)
    const [first, ...others] = states.sort().reverse()
    if (first === 'live' && others.every(s => s === 'elsewhere')) return
  }
  throw new Error(`One device by several names, and its sites say ${states.join(', ')}.`)
}

async function putAway(world: World, path: string) {
  const edits = [{ document: 'site', path: '/deleted', old: false, new: true }]
  await world.ask('POST', `${path}/changes`, { edits })
  await world.ask('DELETE', path)
}

export const greedy: Record<string, Fault> = {
  'JSON that goes down for ever': {
    async run({ world }) {
      await Promise.all([
        refused(world, '/api/sites', '['.repeat(16 * 2 ** 20)),
        refused(world, `${sitePath}/changes`, `{"edits":${'[{"a":'.repeat(3000)}`),
        refused(world, '/api/analysis/fit', '['.repeat(2 ** 20)),
        othersAreAnswered(world),
      ])
    },
  },
  'a value that is 3,000 deep': {
    async run({ world }) {
      const value = `${'['.repeat(3000)}${']'.repeat(3000)}`
      const edit = `{"document":"settings/processor","path":"/outputs/12/gain","old":0,"new":${value}}`
      await refused(world, `${sitePath}/changes`, `{"edits":[${edit}]}`)
    },
  },
  'bodies that do not go on': {
    async run({ world, chance }) {
      const length = 200 * 2 ** 20
      const piece = randomBytes(2 ** 20)
      const head = `POST /api/sites HTTP/1.1\r\nhost: 127.0.0.1\r\ncontent-type: application/json\r\n`
        + `content-length: ${length}\r\n\r\n`
      await sockets(world, 12, (socket) => {
        socket.write(head)
        for (let n = 0; n < 4 + chance(40); n++) socket.write(piece)
      }, async () => {
        await pause(300)
        await othersAreAnswered(world)
      })
    },
  },
  'readers of a backup who do not read': {
    async run({ world, people }) {
      await sockets(world, 12, (socket) => {
        socket.pause()
        socket.write('GET /api/backup HTTP/1.1\r\nhost: 127.0.0.1\r\n\r\n')
      }, async () => {
        await othersAreAnswered(world)
        const [, before] = await world.inDraft()
        const { status } = await world.set(1, before!, before === -20 ? -21 : -20, people[1]!)
        if (status !== 200) throw new Error(`An edit beside slow readers was answered with ${status}.`)
      })
    },
  },
  'a burst of follows': {
    async run({ world, chance }) {
      await sockets(world, 1, (socket) => {
        socket.write(upgrade)
        for (let n = 0; n < 3000; n++) socket.write(framed({ type: 'follow', number: chance(50) }))
      }, () => othersAreAnswered(world))
    },
  },
  'more lines than one may have': {
    async run({ world }) {
      await sockets(world, 505, socket => socket.write(upgrade), async () => {
        await othersAreAnswered(world)
        await pause(200)
      })
    },
  },
  'questions for what is not there': {
    async run({ world, chance }) {
      const begin = chance(2 ** 30)
      for (let n = 0; n < 20; n++) {
        await Promise.all(Array.from({ length: 50 }, async (_, k) => {
          const answer = await fetch(`${world.url}/api/sites/none-${begin + 50 * n + k}`)
          await answer.arrayBuffer()
          if (answer.status !== 404) throw new Error(`What is not there was answered with ${answer.status}.`)
        }))
      }
    },
  },
  'one request of 5,000 edits': {
    async run({ world, people }) {
      const edits = Array.from({ length: 5000 }, (_, n) =>
        ({ document: 'settings/processor', path: '/outputs/15/gain', old: -(n % 2), new: -((n + 1) % 2) }))
      const asked = world.agreeing(`${sitePath}/changes`, { edits, live: false }, people[1])
      await othersAreAnswered(world)
      const { status, body } = await asked
      if (status !== 200) throw new Error(`5,000 edits were answered with ${status}: ${body.message}`)
    },
  },
  'a device recalls a scene': {
    async run({ world }) {
      const turns = Array.from({ length: 1024 }, (_, n) => ({
        path: `/outputs/${8 + n % 8}/eq/${(n >> 3) % 8}`,
        value: { on: true, type: 'peaking', frequency: 100 + n, gain: -3, q: 2 },
      }))
      const asked = fetch(`http://${world.standins().processor}/racks/ropewalk-hall/turn`, {
        method: 'POST', body: JSON.stringify(turns),
      })
      await othersAreAnswered(world)
      const { status } = await asked
      if (status !== 200) throw new Error(`1,024 turns at the device were answered with ${status}.`)
    },
  },
  'a device by its other names': {
    async run({ world }) {
      const told = await fetch(`http://${world.standins().processor}/racks/default`)
      const { port } = await told.json() as { port: number }
      const names = [`127.0.0.1:${port}`, `localhost:${port}`, `[::ffff:127.0.0.1]:${port}`]
      const paths: string[] = []
      try {
        for (const name of names) paths.push(await siteAt(world, name))
        await oneDrives(world, paths)
      }
      finally {
        for (const path of paths) await putAway(world, path)
      }
    },
  },
}
