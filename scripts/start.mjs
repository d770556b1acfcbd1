// npm start: from a bare checkout to a running Kovrin, and back to nothing on Ctrl-C.
import { spawn } from 'node:child_process'
import { chmodSync, closeSync, mkdirSync, openSync, readFileSync, unlinkSync, writeFileSync } from 'node:fs'
import { createServer } from 'node:net'
import { join, resolve } from 'node:path'
import { build, installPackages } from './prepare.mjs'
import { startPostgres } from './postgres.mjs'
import { startStandins } from './standins.mjs'
import { failWith, root, say, Stop } from './say.mjs'

const data = resolve(process.env.KOVRIN_DATA ?? join(root, '.kovrin'))
const logs = join(data, 'logs')
const wish = Number(process.env.KOVRIN_PORT ?? 4310)
const ends = []
let ending = null

const isFree = port =>
  new Promise((yes) => {
    const probe = createServer().once('error', () => yes(false))
    probe.listen(port, '127.0.0.1', () => probe.close(() => yes(true)))
  })
async function freePort() {
  if (!Number.isInteger(wish) || wish < 1 || wish > 65535)
    throw new Stop(`KOVRIN_PORT must be a number from 1 to 65535, not “${process.env.KOVRIN_PORT}”.`)
  for (let port = wish; port < Math.min(wish + 50, 65536); port++) if (await isFree(port)) return port
  throw new Stop(`No free port from ${wish} to ${wish + 49}. Set KOVRIN_PORT.`)
}

/** One Kovrin a data folder. A lock that a killed start left behind names a process that is gone: it does not count. */
function lock() {
  const file = join(data, 'running.pid')
  for (let again = 0; again < 2; again++) {
    try {
      const handle = openSync(file, 'wx')
      writeFileSync(handle, String(process.pid))
      closeSync(handle)
      ends.push(() => unlinkSync(file))
      return
    }
    catch (error) {
      if (error.code !== 'EEXIST') throw error
      const pid = Number(readFileSync(file, 'utf8'))
      const mine = (() => {
        try {
          return readFileSync(`/proc/${pid}/cmdline`, 'utf8').includes('start.mjs')
        }
        catch {
          return false
        }
      })()
      if (pid !== process.pid && mine)
        throw new Stop(`Kovrin already runs on this data folder (process ${pid}). Open it there, or stop it first.`)
      unlinkSync(file)
    }
  }
}

function end(code) {
  ending ??= (async () => {
    say('Ending …')
    for (const stop of ends.reverse())
      await Promise.resolve()
        .then(stop)
        .catch(error => console.error(error.message))
    say('Everything has ended.')
    process.exit(code)
  })()
  return ending
}

function startServer(env) {
  const child = spawn(process.execPath, [join(root, '.output/server/index.mjs')], {
    cwd: root,
    stdio: ['pipe', 'inherit', 'inherit'],
    env: { ...process.env, ...env, KOVRIN_TIED: '1', NITRO_SHUTDOWN_TIMEOUT: '1500', NODE_ENV: 'production' },
    detached: true,
  })
  const gone = new Promise(done => child.once('exit', done))
  child.once('exit', (code) => {
    if (!ending) {
      console.error(`The server ended by itself (code ${code}).`)
      void end(1)
    }
  })
  ends.push(async () => {
    child.kill('SIGTERM')
    const hard = setTimeout(() => child.kill('SIGKILL'), 5000)
    await gone
    clearTimeout(hard)
  })
}

async function healthy(url) {
  for (let n = 0; n < 300; n++) {
    const answer = await fetch(`${url}/api/health`).catch(() => null)
    if (answer?.ok) return
    await new Promise(next => setTimeout(next, 100))
  }
  throw new Stop(`The server did not become ready within 30 s; see ${logs}.`)
}

process.on('SIGINT', () => void end(0))
process.on('SIGTERM', () => void end(0))
process.on('SIGHUP', () => void end(0))

try {
  const node = process.versions.node.split('.').map(Number)
  if (node[0] < 20 || (node[0] === 20 && node[1] < 19))
    throw new Stop(`Kovrin needs Node.js 20.19 or newer; this is ${process.versions.node}.`)
  mkdirSync(logs, { recursive: true })
  chmodSync(data, 0o755)
  lock()
  await installPackages(logs)
  await build(logs)
  let url = process.env.DATABASE_URL
  if (!url) {
    say('Starting the database …')
    const postgres = await startPostgres(data, logs)
    ends.push(postgres.stop)
    url = postgres.url
  }
  say('Starting the simulated devices …')
  const standins = await startStandins(data, logs)
  ends.push(standins.stop)
  const port = await freePort()
  say('Starting the server …')
  startServer({
    DATABASE_URL: url,
    KOVRIN_JOBS: join(root, '.output/jobs/analysis.mjs'),
    KOVRIN_STANDINS: JSON.stringify(standins.addresses),
    HOST: '127.0.0.1',
    PORT: String(port),
    NITRO_HOST: '127.0.0.1',
    NITRO_PORT: String(port),
  })
  await healthy(`http://127.0.0.1:${port}`)
  say('Ready.')
  console.log(`Kovrin is ready at http://127.0.0.1:${port}`)
}
catch (error) {
  if (!ending) {
    failWith(error)
    await end(1)
  }
}
