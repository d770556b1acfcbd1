import { expect, test } from '@playwright/test'
import { spawn, spawnSync, type ChildProcess } from 'node:child_process'
import { chmodSync, mkdirSync, mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { isDeepStrictEqual } from 'node:util'
import { contentOf, type Documents } from '../core/documents'
import { startPostgres } from '../scripts/postgres.mjs'
import { startStandins } from '../scripts/standins.mjs'

// Two servers on one database, killed without a word, and a database that loses a process: each test with all of its
// own.

interface Server {
  url: string
  kill: () => Promise<void>
}
const ends: (() => unknown)[] = []
test.afterEach(async () => {
  for (const end of ends.splice(0).reverse()) await end()
})

async function world() {
  const folder = mkdtempSync(join(tmpdir(), 'kovrin-servers-'))
  chmodSync(folder, 0o755)
  const logs = join(folder, 'logs')
  mkdirSync(logs)
  ends.push(() => rmSync(folder, { recursive: true, force: true }))
  const postgres = await startPostgres(folder, logs)
  ends.push(postgres.stop)
  const standins = await startStandins(folder, logs)
  ends.push(standins.stop)
  let port = 4360 + 10 * test.info().parallelIndex
  const serve = async (): Promise<Server> => {
    const at = String(port++)
    const child: ChildProcess = spawn(process.execPath, ['.output/server/index.mjs'], {
      stdio: ['ignore', 'ignore', 'inherit'],
      env: {
        ...process.env,
        DATABASE_URL: postgres.url,
        KOVRIN_STANDINS: JSON.stringify(standins.addresses),
        HOST: '127.0.0.1',
        PORT: at,
        NODE_ENV: 'production',
      },
    })
    const gone = new Promise<void>(done => child.once('exit', () => done()))
    const kill = async () => {
      child.kill('SIGKILL')
      await gone
    }
    ends.push(kill)
    const url = `http://127.0.0.1:${at}`
    await expect.poll(() => fetch(`${url}/api/health`).then(a => a.ok, () => false), { timeout: 30_000 }).toBe(true)
    return { url, kill }
  }
  return { serve, folder }
}

const path = '/api/sites/ropewalk-hall'
const documentsAt = async ({ url }: Server) =>
  ((await (await fetch(url + path)).json()) as { documents: Documents }).documents
const post = async ({ url }: Server, rest: string, body: object) => {
  const headers = { 'content-type': 'application/json' }
  const ask = async (more: object) => {
    const all = JSON.stringify({ ...body, ...more })
    const answer = await fetch(url + path + rest, { method: 'POST', headers, body: all })
    return { status: answer.status, body: await answer.json() }
  }
  const first = await ask({})
  // what gets louder is agreed to
  const agreed = first.status === 409 ? first.body.data?.louder : undefined
  return agreed ? ask({ agreed }) : first
}
const gain = (output: number, old: number, value: number) =>
  ({ document: 'settings/processor', path: `/outputs/${output}/gain`, old, new: value })
const set = (server: Server, output: number, old: number, value: number) =>
  post(server, '/changes', { edits: [gain(output, old, value)], live: true })
const allLive = async (server: Server) => {
  const documents = await documentsAt(server)
  return ['processor', 'amp-a', 'amp-b', 'amp-c'].every(d => contentOf(documents, 'link', d)?.state === 'live')
}
const held = async (server: Server, output: number) =>
  contentOf(await documentsAt(server), 'held', 'processor')?.[`/outputs/${output}/gain`]

test('two servers on one database say the same, and a device is driven by either; when one dies, the other owns its '
  + 'devices', async () => {
  const { serve } = await world()
  const a = await serve()
  await expect.poll(() => allLive(a)).toBe(true)
  const b = await serve()
  expect(await set(b, 2, 0, -4)).toMatchObject({ status: 200, body: { why: null } }) // through the owner
  expect(await held(a, 2)).toBe(-4)
  const makes = Array.from({ length: 40 }, (_, n) => set(n % 2 ? a : b, 3 + (n % 3), 0, -1 - n))
  const answers = await Promise.all(makes)
  expect(answers.filter(x => x.status === 200)).toHaveLength(3) // of each parameter one wins, whichever server it met
  await expect.poll(async () => isDeepStrictEqual(await documentsAt(a), await documentsAt(b))).toBe(true)
  await a.kill()
  await expect.poll(async () => {
    const now = contentOf(await documentsAt(b), 'settings', 'processor')!['/outputs/2/gain'] as number
    return (await set(b, 2, now, now - 0.5)).body.why
  }, { timeout: 30_000, intervals: [100] }).toBeNull()
  expect(await held(b, 2)).toBe(contentOf(await documentsAt(b), 'settings', 'processor')!['/outputs/2/gain'])
})

test('what was acknowledged stays: through the death of a database process and of the server right after', async () => {
  const { serve, folder } = await world()
  const a = await serve()
  await expect.poll(() => allLive(a)).toBe(true)
  for (let n = 1; n <= 3; n++) {
    expect(await set(a, 2, n === 1 ? 0 : 1 - n, -n)).toMatchObject({ status: 200, body: { why: null } })
    const [postmaster] = readFileSync(join(folder, 'postgres/cluster/postmaster.pid'), 'utf8').split('\n')
    spawnSync('pkill', ['-KILL', '-o', '-P', postmaster!, '-f', 'postgres: kovrin'])
    await expect.poll(async () => {
      try {
        return [contentOf(await documentsAt(a), 'settings', 'processor')!['/outputs/2/gain'], await held(a, 2)]
      }
      catch {
        return 'not back yet'
      }
    }, { timeout: 20_000 }).toEqual([-n, -n])
    const history = () => fetch(`${a.url}${path}/history?limit=1`).then(r => r.status, () => 0)
    await expect.poll(history, { timeout: 20_000 }).toBe(200) // the database is back
  }
  expect(await set(a, 2, -3, -7)).toMatchObject({ status: 200 })
  await a.kill()
  const b = await serve()
  expect(contentOf(await documentsAt(b), 'settings', 'processor')!['/outputs/2/gain']).toBe(-7)
  await expect.poll(() => held(b, 2)).toBe(-7)
})

test('a temporary state is put back when its page and its server are gone', async () => {
  const { serve } = await world()
  const a = await serve()
  await expect.poll(() => allLive(a)).toBe(true)
  const { body: { id } } = await post(a, '/leases', { what: 'Sweep all' })
  const mute = { document: 'settings/processor', path: '/outputs/0/mute', old: false, new: true }
  expect(await post(a, '/changes', { edits: [mute], live: true, lease: id })).toMatchObject({ status: 200 })
  await a.kill()
  const b = await serve()
  const muted = async (server: Server) => {
    const documents = await documentsAt(server)
    return ['settings', 'held'].map(k => contentOf(documents, k as 'held', 'processor')!['/outputs/0/mute'] ?? false)
  }
  expect(await muted(b)).toEqual([true, true])
  await expect.poll(() => muted(b), { timeout: 25_000 }).toEqual([false, false])
})
