import { randomBytes } from 'node:crypto'
import { appendFileSync, rmSync } from 'node:fs'
import { join } from 'node:path'
import { encodeTake } from '../core/formats/take'
import type { Fault } from './fault'
import { sitePath, type World } from './faultWorld'
import { framed, greedy, raw, rawTo, upgrade } from './greedyKinds'

const pause = (ms: number) => new Promise(next => setTimeout(next, ms))
const serverOf = ({ pidsOf }: World) => pidsOf('output/server/index.mjs')

const frequencies = Float64Array.from({ length: 2000 }, (_, n) => 20 + n)
const flat = { frequencies, re: frequencies, im: frequencies, coherence: null }
const bytes = Buffer.from(encodeTake({ curve: flat, impulse: null, harmonics: [], signalToNoise: [] }))
function takeBody(number: number): Buffer {
  const info = { method: 'live', input: 'test', sampleRate: 48_000, length: 1024, blocks: 4, arrival: null,
    microphoneLevel: null, referenceLevel: null, sweep: null }
  const timing = { reference: 'loop', sameClock: true, drift: null, delay: 0 }
  const head = Buffer.from(JSON.stringify({ source: 'foyer', position: 'rear', only: null, info, timing, number }))
  const size = Buffer.alloc(4)
  size.writeUInt32LE(head.length)
  return Buffer.concat([size, head, bytes])
}
/** Writes into a file until there is no room for one piece more. */
function fill(file: string, piece: Buffer) {
  try {
    for (;;) appendFileSync(file, piece)
  }
  catch (error) {
    if ((error as NodeJS.ErrnoException).code !== 'ENOSPC') throw error
  }
}
/** What keeps so many takes at once; what fails meanwhile fails. */
async function keeperOfTakes({ url, ask }: World) {
  const number = (await ask('GET', sitePath)).body.number as number
  const headers = { 'content-type': 'application/octet-stream' }
  const body = new Uint8Array(takeBody(number))
  const keep = () => fetch(`${url}${sitePath}/takes`, { method: 'POST', headers, body }).catch(() => null)
  return (count: number) => Promise.all(Array.from({ length: count }, keep))
}
/** Everything that is done to it, by its name. */
export const faults: Record<string, Fault> = {
  ...greedy,
  'the server is killed': { async run({ world }) { for (const pid of serverOf(world)) world.hit(pid) } },
  'the server is killed while takes are kept': {
    async run({ world, chance }) {
      const keep = await keeperOfTakes(world)
      const keeping = keep(4)
      await pause(chance(60))
      for (const pid of serverOf(world)) world.hit(pid)
      await keeping
    },
  },
  'the server hangs for a while': {
    async run({ world }) {
      const pids = serverOf(world)
      for (const pid of pids) world.hit(pid, 'SIGSTOP')
      await pause(1500)
      for (const pid of pids) world.hit(pid, 'SIGCONT')
    },
  },
  'the database hangs for a while': {
    async run({ world, chance }) {
      const { postmaster } = world.database()
      const pids = [postmaster, ...world.childrenOf(postmaster)]
      for (const pid of pids) world.hit(pid, 'SIGSTOP')
      await pause(500 + chance(3000))
      for (const pid of pids.reverse()) world.hit(pid, 'SIGCONT')
    },
  },
  'the database is killed': { async run({ world }) { world.hit(world.database().postmaster) } },
  'the database is stopped at once': { async run({ world }) { world.hit(world.database().postmaster, 'SIGQUIT') } },
  'every connection to the database is cut': {
    async run({ world }) {
      await world.query('select pg_terminate_backend(pid) from pg_stat_activity '
        + 'where pid <> pg_backend_pid() and backend_type = \'client backend\'')
    },
  },
  'a device loses its power': {
    async run({ world, chance }) {
      const pids = world.pidsOf('standins/device.mjs')
      world.hit(pids[chance(pids.length)]!)
    },
  },
  'all devices lose their power': {
    async run({ world }) { for (const pid of world.pidsOf('device.mjs')) world.hit(pid) },
  },
  'server and database are killed together': {
    async run({ world }) {
      world.hit(world.database().postmaster)
      for (const pid of serverOf(world)) world.hit(pid)
    },
  },
  'a flood of requests': {
    async run({ world }) {
      const paths = [sitePath, '/api/sites', `${sitePath}/ledger`, `${sitePath}/file`, '/api/health', '/nowhere']
      await Promise.all(Array.from({ length: 150 }, (_, n) =>
        fetch(world.url + paths[n % paths.length]).then(a => a.arrayBuffer(), () => null)))
    },
  },
  'a flood of sockets, some of which talk nonsense': {
    async run({ world }) {
      const sockets = await Promise.all(Array.from({ length: 60 }, () => raw(world)))
      for (const [n, socket] of sockets.entries()) {
        socket.write(n % 3 ? upgrade : randomBytes(2000))
        if (n % 3 === 1) socket.write(randomBytes(5000))
      }
      await pause(200)
      for (const socket of sockets) socket.destroy()
    },
  },
  'a page that reads nothing': {
    async run({ world, people, chance }) {
      const socket = await raw(world)
      socket.pause()
      socket.write(upgrade)
      socket.write(framed({ type: 'follow', number: 0 }))
      const before = await world.inDraft()
      await world.set(0, before[0]!, -1 - chance(20), people[0]!)
      socket.destroy()
    },
  },
  'garbage to a device': {
    async run({ world, chance }) {
      const addresses = Object.values(world.standins())
      const answer = await fetch(`http://${addresses[chance(addresses.length)]}/racks/default`)
      const { port } = await answer.json() as { port: number }
      const socket = await rawTo(port)
      // a message that begins well and goes on with anything
      if (chance(2)) socket.write(Buffer.from('3b0001000000ff010001', 'hex'))
      socket.write(randomBytes(3000))
      await pause(50)
      socket.destroy()
    },
  },
  'a body that ends too early': {
    async run({ world }) {
      const socket = await raw(world)
      const whole = takeBody(2 ** 30)
      socket.write(`POST ${sitePath}/takes HTTP/1.1\r\nhost: 127.0.0.1\r\ncontent-length: ${whole.length}\r\n\r\n`)
      socket.write(whole.subarray(0, whole.length / 2))
      await pause(50)
      socket.destroy()
    },
  },
  'two turn the same knob at once': {
    async run({ world, people, chance }) {
      const n = chance(2)
      const old = (await world.inDraft())[n]!
      const both = await Promise.all(people.map((p, k) => world.set(n, old, old === -30 ? -20 - k : -30 + k / 2, p)))
      const statuses = both.map(a => a.status).sort()
      if (String(statuses) !== '200,409') throw new Error(`Of two, one wins: ${statuses}.`)
    },
  },
  'the disk is full': {
    can: world => world.small,
    async run({ world, people }) {
      const keep = await keeperOfTakes(world)
      const file = join(world.folder, 'filler')
      for (const size of [2 ** 25, 2 ** 20, 2 ** 15]) fill(file, Buffer.alloc(size))
      await keep(2)
      const before = await world.inDraft()
      await world.set(1, before[1]!, before[1]! === -5 ? -6 : -5, people[0]!).catch(() => null)
      rmSync(file)
    },
  },
  'a backup is broken off': {
    async run({ world }) {
      const left = new AbortController()
      const answer = await fetch(`${world.url}/api/backup`, { signal: left.signal })
      await answer.body!.getReader().read()
      left.abort()
    },
  },
  'a backup that is none is put back': {
    async run({ world }) {
      const answer = await fetch(`${world.url}/api/restore?replace=true`, { method: 'POST', body: randomBytes(4000) })
      if (answer.status !== 422) throw new Error(`Garbage was answered ${answer.status}.`)
    },
  },
  'server and devices die while a draft is sent': {
    async run({ world, people }) {
      const before = await world.inDraft()
      const sent = Promise.all([0, 1].map(n =>
        world.set(n, before[n]!, before[n] === -12 ? -13 : -12, people[n]!).catch(() => null)))
      await pause(5)
      for (const pid of [...world.pidsOf('device.mjs'), ...serverOf(world)]) world.hit(pid)
      await sent
    },
  },
}
