// npm start: from a bare checkout to a running Kovrin that stays up, and back to nothing on Ctrl-C.
import { spawn } from 'node:child_process'
import { mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { createServer } from 'node:net'
import { join, resolve } from 'node:path'
import { folderFor, lock, openData, programFor, servant } from './home.mjs'
import { keepRunning } from './keep.mjs'
import { build, installPackages } from './prepare.mjs'
import { startPostgres } from './postgres.mjs'
import { startStandins } from './standins.mjs'
import { endRunning, failWith, root, say, Stop } from './say.mjs'

const data = resolve(process.env.KOVRIN_DATA ?? join(root, '.kovrin'))
const logs = join(data, 'logs')
const wish = Number(process.env.KOVRIN_PORT ?? 4310)
/** With which the server says that it would end the same way again. */
const cannotStart = 78
const ends = []
let ending = null
let settled = Promise.resolve()

const isFree = port =>
  new Promise((yes) => {
    const probe = createServer().once('error', () => yes(false))
    probe.listen(port, '127.0.0.1', () => probe.close(() => yes(true)))
  })
async function freePort() {
  if (!Number.isInteger(wish) || wish < 1 || wish > 65535)
    throw new Stop(`KOVRIN_PORT must be a number from 1 to 65535, not “${process.env.KOVRIN_PORT}”.`)
  for (let port = wish; port < Math.min(wish + 50, 65536); port++) {
    if (!(await isFree(port))) continue
    if (port !== wish) say(`Port ${wish} is taken by another program: Kovrin takes ${port}.`)
    return port
  }
  throw new Stop(`No free port from ${wish} to ${wish + 49}. Set KOVRIN_PORT.`)
}

function end(code) {
  ending ??= (async () => {
    say('Ending …')
    endRunning()
    // what is just being started is among the ends once it has started
    await settled
    for (const stop of ends.reverse())
      await Promise.resolve()
        .then(stop)
        .catch(error => console.error(error.message))
    say('Everything has ended.')
    process.exit(code)
  })()
  return ending
}
function gaveUp(why) {
  if (!ending) console.error(`\n${why}\nWhat it said is in ${logs}.`)
  void end(1)
}

/** Starts the server process; resolves once it answers. */
async function beginServer(program, who, env, url) {
  const child = spawn(process.execPath, [join(program, '.output/server/index.mjs')], {
    ...who,
    cwd: program,
    // through our own hands: when nobody reads us any more, the server must not die of it
    stdio: ['pipe', 'pipe', 'pipe'],
    env: { ...process.env, ...env, KOVRIN_TIED: '1', NITRO_SHUTDOWN_TIMEOUT: '1500', NODE_ENV: 'production' },
    detached: true,
  })
  let listens = false
  // what it upgrades may be large: it says so with every site
  let begun = Date.now()
  child.stdout.on('data', (words) => {
    if (String(words).includes('Kovrin upgrades')) begun = Date.now()
    else if (String(words).includes('Kovrin listens')) listens = true
    else process.stdout.write(words)
  })
  child.stderr.on('data', words => process.stderr.write(words))
  while (Date.now() - begun < 30_000) {
    if (child.exitCode !== null || child.signalCode !== null) {
      const failed = new Stop(`The server ended by itself (code ${child.exitCode ?? child.signalCode}).`)
      throw Object.assign(failed, { code: child.exitCode })
    }
    if (listens && (await answers(url, 1000))) return child
    await new Promise(next => setTimeout(next, 50))
  }
  child.kill('SIGKILL')
  throw new Stop(`The server did not become ready within 30 s; see ${logs}.`)
}
const answers = (url, patience) =>
  fetch(`${url}/api/session`, { signal: AbortSignal.timeout(patience) }).then(a => a.ok, () => false)

/** A server that hangs is worse than one that died: three silences in a row, and it is started anew. */
function watch(keeper, url) {
  let silent = 0
  const timer = setInterval(async () => {
    const child = keeper.child()
    if (!child || (await answers(url, 4000))) silent = 0
    else if (++silent === 3 && child === keeper.child()) {
      say('The server does not answer any more.')
      child.kill('SIGKILL')
      silent = 0
    }
  }, 5000)
  ends.push(() => clearInterval(timer))
}

/** When npm is killed without a word, what it started ends as well. */
function tieToNpm() {
  if (!process.env.npm_lifecycle_event) return
  // between npm and us there may be a shell
  const above = () => `${process.ppid} ${parentOf(process.ppid)}`
  const first = above()
  setInterval(() => {
    if (above() !== first) void end(0)
  }, 500).unref()
}
function parentOf(pid) {
  try {
    return /^PPid:\s+(\d+)/m.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))?.[1] ?? null
  }
  catch { return null }
}

/** One more part that must be ended; gives it, or throws when the end has begun meanwhile. */
function started(part) {
  ends.push(part.stop)
  if (ending) throw new Stop('Ended while it was starting.')
  return part
}

async function main() {
  const node = process.versions.node.split('.').map(Number)
  if (node[0] < 20 || (node[0] === 20 && node[1] < 19))
    throw new Stop(`Kovrin needs Node.js 20.19 or newer; this is ${process.versions.node}.`)
  openData(data)
  ends.push(lock(data))
  mkdirSync(logs, { recursive: true })
  await installPackages(logs)
  if (!ending) await build(logs)
  if (ending) throw new Stop('Ended while it was built.')
  const who = servant()
  const program = programFor(who, data)
  let url = process.env.DATABASE_URL
  if (!url) {
    say('Starting the database …')
    url = started(await startPostgres(data, logs, gaveUp)).url
  }
  say('Starting the simulated devices …')
  const standins = started(await startStandins(data, logs, { who, program, gaveUp }))
  const port = await freePort()
  say('Starting the server …')
  const at = `http://127.0.0.1:${port}`
  const env = {
    DATABASE_URL: url,
    KOVRIN_DATA: data,
    KOVRIN_JOBS: join(program, '.output/jobs/analysis.mjs'),
    KOVRIN_STANDINS: JSON.stringify(standins.addresses),
    KOVRIN_LOGS: folderFor(who, join(data, 'server-log')),
    KOVRIN_BACKUPS: folderFor(who, join(data, 'backups')),
    HOST: '127.0.0.1',
    PORT: String(port),
    NITRO_HOST: '127.0.0.1',
    NITRO_PORT: String(port),
  }
  const begin = () => beginServer(program, who, env, at)
  const keeper = started(await keepRunning('The server', begin, { gaveUp, final: cannotStart }))
  watch(keeper, at)
  writeFileSync(join(data, 'address'), at)
  ends.push(() => rmSync(join(data, 'address'), { force: true }))
  say('Ready.')
  console.log(`Kovrin is ready at ${at}`)
}

for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP']) process.on(signal, () => void end(0))
// nobody reads us any more (`npm start | head`): that is an end as well
for (const stream of [process.stdout, process.stderr]) stream.on('error', () => void end(0))
tieToNpm()
const running = main()
settled = running.catch(() => {})
running.catch((error) => {
  if (ending) return
  failWith(error)
  void end(1)
})
