import { spawn, spawnSync, type ChildProcess } from 'node:child_process'
import { chmodSync, cpSync, mkdirSync, mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import pg from 'pg'
import { contentOf, type Documents } from '../core/documents'
import { decodeTake } from '../core/formats/take'

// A Kovrin of the campaign's own, on a small disk where this machine lets one be made, and everything that must be true
// of it whatever was done to it.

export const sitePath = '/api/sites/ropewalk-hall'
const devices = ['processor', 'amp-a', 'amp-b', 'amp-c']
/** Outputs of the processor whose gains the users turn. */
export const registers = [6, 7, 8, 9, 10, 11]
const pathOf = (n: number) => `/outputs/${n}/gain`
const patience = 60_000

export interface Person {
  name: string
  cookie: string
}
interface Answer {
  status: number
  body: { [key: string]: unknown, message?: string }
}
export type World = Awaited<ReturnType<typeof openWorld>>

/** A folder on a disk of its own, so that it can be filled; an ordinary one where that is not allowed. */
function smallDisk(megabytes: number): { folder: string, small: boolean, end: () => void } {
  const folder = mkdtempSync(join(tmpdir(), 'kovrin-faults-'))
  chmodSync(folder, 0o755)
  const small = spawnSync('mount', ['-t', 'tmpfs', '-o', `size=${megabytes}m,mode=755`, 'none', folder]).status === 0
  const end = () => {
    if (small) spawnSync('umount', ['-l', folder])
    rmSync(folder, { recursive: true, force: true })
  }
  return { folder, small, end }
}

/** Processes that a process has begun itself; `which`: words of pgrep that choose among them. */
const childrenOf = (pid: number, ...which: string[]) =>
  spawnSync('pgrep', ['-P', String(pid), ...which], { encoding: 'utf8' })
    .stdout.trim().split('\n').filter(Boolean).map(Number)

function launch(data: string): Promise<{ child: ChildProcess, url: string }> {
  const own = { DATABASE_URL: '', KOVRIN_DATA: data, KOVRIN_PORT: '4330' }
  const env = { ...process.env, ...own, KOVRIN_STANDIN_PAUSE: '500', KOVRIN_MOST_DEATHS: '1000' }
  const child = spawn(process.execPath, ['scripts/start.mjs'], { env })
  let words = ''
  return new Promise((resolve, reject) => {
    const hear = (text: Buffer) => {
      words += text
      const url = /Kovrin is ready at (\S+)/.exec(words)?.[1]
      if (url) resolve({ child, url })
    }
    child.stdout!.on('data', hear)
    child.stderr!.on('data', hear)
    child.once('exit', code => reject(new Error(`Kovrin ended with ${code}: ${words.slice(-2000)}`)))
  })
}

const until = async (what: string, is: () => Promise<boolean>) => {
  for (const began = Date.now(); Date.now() - began < patience; await new Promise(next => setTimeout(next, 50)))
    if (await is().catch(() => false)) return
  throw new Error(`It did not come to this: ${what}`)
}

/** `faults` are to come: what they leave behind, in takes and in the database's log, must have room. */
export async function openWorld(faults: number) {
  const { folder, small, end } = smallDisk(320 + Math.ceil(1.5 * faults))
  const data = join(folder, 'data')
  mkdirSync(data)
  const { child, url } = await launch(data)
  const ended = new Promise<number | null>(done => child.once('exit', done))
  const read = (file: string) => readFileSync(join(data, file), 'utf8')

  async function ask(method: string, path: string, body?: unknown, by?: Person): Promise<Answer> {
    const headers = { 'content-type': 'application/json', ...(by ? { cookie: by.cookie } : {}) }
    const init = { method, headers, ...(body === undefined ? {} : { body: JSON.stringify(body) }) }
    const once = () => fetch(url + path, { ...init, signal: AbortSignal.timeout(20_000) })
    // a connection that was kept from before the server died says so at its next use: only a question is asked again
    const answer = await (method === 'GET' ? once().catch(once) : once())
    return { status: answer.status, body: await answer.json() as Answer['body'] }
  }
  /** Asks once more, agreeing to what came back as getting louder. */
  async function agreeing(path: string, body: object, by?: Person): Promise<Answer> {
    const first = await ask('POST', path, body, by)
    const louder = first.status === 409 ? (first.body.data as { louder?: unknown } | undefined)?.louder : undefined
    return louder ? ask('POST', path, { ...body, agreed: louder }, by) : first
  }
  async function person(name: string): Promise<Person> {
    const headers = { 'content-type': 'application/json' }
    const answer = await fetch(`${url}/api/session`, { method: 'PUT', headers, body: JSON.stringify({ who: name }) })
    return { name, cookie: answer.headers.get('set-cookie')!.split(';')[0]! }
  }
  async function documents(): Promise<Documents> {
    const answer = await ask('GET', sitePath)
    if (answer.status !== 200) throw new Error(`The site is answered with ${answer.status}: ${answer.body.message}`)
    return answer.body.documents as Documents
  }
  const database = () => {
    const [postmaster, , , port] = read('postgres/cluster/postmaster.pid').split('\n')
    const address = `postgresql://kovrin:${read('postgres/password')}@127.0.0.1:${port}/postgres`
    return { postmaster: Number(postmaster), address }
  }
  async function query<T extends pg.QueryResultRow>(text: string): Promise<T[]> {
    const client = new pg.Client({ connectionString: database().address, connectionTimeoutMillis: 5000 })
    client.on('error', () => {})
    await client.connect()
    try {
      return (await client.query<T>(text)).rows
    }
    finally {
      await client.end().catch(() => {})
    }
  }
  /** Processes under the start script, by a part of their command. */
  const pidsOf = (part: string) => childrenOf(child.pid!, '-f', part)

  const killed = new Set<number>()
  function hit(pid: number, signal: NodeJS.Signals = 'SIGKILL') {
    if (signal === 'SIGKILL' || signal === 'SIGQUIT') killed.add(pid)
    try {
      process.kill(pid, signal)
    }
    catch (error) {
      // it was gone already: whatever was there last died of the fault before
      if ((error as NodeJS.ErrnoException).code !== 'ESRCH') throw error
    }
  }

  /** Values of the registers as the device itself keeps them in its memory. */
  const inDevice = (now: Documents) => {
    const memory = contentOf(now, 'device', 'processor')!.address.replace('standin:', 'standins/')
    const { settings } = JSON.parse(read(`${memory}.json`)) as { settings: Record<string, number> }
    return registers.map(n => settings[pathOf(n)] ?? 0)
  }
  const inDraft = async () => {
    const settings = contentOf(await documents(), 'settings', 'processor')!
    return registers.map(n => (settings[pathOf(n)] as number | undefined) ?? 0)
  }
  const set = (n: number, old: number, value: number, by: Person) => {
    const edits = [{ document: 'settings/processor', path: pathOf(registers[n]!), old, new: value }]
    return agreeing(`${sitePath}/changes`, { edits, live: true, gesture: crypto.randomUUID() }, by)
  }
  /** Addresses of the simulated devices, as the server was told. */
  const standins = () => {
    const [pid] = pidsOf('output/server/index.mjs')
    const told = readFileSync(`/proc/${pid}/environ`, 'utf8').split('\0').find(e => e.startsWith('KOVRIN_STANDINS='))!
    return JSON.parse(told.slice('KOVRIN_STANDINS='.length)) as Record<string, string>
  }

  /** The newest changes of a register, as they were stored: what to look at when it holds what it should not. */
  const historyOf = async (n: number) => JSON.stringify(await query(`
    select number, document, value, origin, who, at from changes
    where site_id = 'ropewalk-hall' and path = '${pathOf(registers[n]!)}' order by number desc limit 12`))

  /** Waits until every part is up again and every device in step. */
  async function whole() {
    await until('what was killed has been started again', async () => {
      const running = [...pidsOf('output/server/index.mjs'), ...pidsOf('standins/device.mjs'), database().postmaster]
      return running.length === 2 + devices.length && running.every(pid => !killed.has(pid))
    })
    await until('every part is up again', async () => {
      const { status, body } = await ask('GET', '/api/health')
      return status === 200 && Object.values(body.standins as object).every(s => s === 'answers')
    })
    await until('every device is in step', async () => {
      const now = await documents()
      return devices.every(d => contentOf(now, 'link', d)?.state === 'live')
    })
  }
  /** What a fault may not leave behind: half of something, a number twice or never, a screen that is not the device. */
  async function check() {
    // a device whose end nobody had noticed yet says so here: what waits stays in the draft until it is back
    for (const id of devices) {
      await until(`${id} takes what waits for it`, async () => {
        const { status, body } = await agreeing(`${sitePath}/devices/${id}/send`, {})
        return status === 200 && (body.left as unknown[]).length === 0
      })
    }
    const draft = await inDraft()
    const now = await documents()
    const held = contentOf(now, 'held', 'processor')!
    const device = inDevice(now)
    const screen = registers.map(n => held[pathOf(n)] ?? 0)
    if (String(screen) !== String(draft) || String(device) !== String(draft)) {
      const n = draft.findIndex((value, k) => value !== screen[k] || value !== device[k])
      throw new Error(`Draft ${draft}, screen ${screen} and device ${device} differ: ${await historyOf(n)}`)
    }
    const [count] = await query<{ n: string, most: number, number: number }>(`
      select count(*) as n, max(c.number) as most, s.number from changes c join sites s on s.id = c.site_id
      where s.id = 'ropewalk-hall' group by s.number`)
    if (Number(count!.n) !== count!.number || count!.most !== count!.number)
      throw new Error(`Changes are missing or too many: ${JSON.stringify(count)}.`)
    await checkTakes()
  }
  async function checkTakes() {
    const now = await documents()
    const named = Object.keys(now).filter(k => k.startsWith('take/')).map(k => k.slice(5)).sort()
    const rows = await query<{ id: string, data: Buffer }>(
      'select id, data from take_data where site_id = \'ropewalk-hall\' order by id')
    if (String(rows.map(r => r.id).sort()) !== String(named)) throw new Error('A take is there by half.')
    for (const { data } of rows) decodeTake(data)
  }
  return {
    url,
    folder,
    small,
    ask,
    agreeing,
    person,
    database,
    query,
    pidsOf,
    childrenOf,
    hit,
    inDraft,
    set,
    standins,
    historyOf,
    whole,
    check,
    /** What was logged, for whoever looks for the reason. */
    keepLogs(to: string) {
      for (const part of ['logs', 'server-log']) cpSync(join(data, part), join(to, part), { recursive: true })
    },
    async close() {
      child.kill('SIGTERM')
      const code = await ended
      end()
      return code
    },
  }
}
