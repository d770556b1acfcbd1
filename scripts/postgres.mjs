// A PostgreSQL cluster of Kovrin's own under the data folder, on 127.0.0.1 and a free port.
import { randomBytes } from 'node:crypto'
import {
  chownSync,
  closeSync,
  existsSync,
  mkdirSync,
  openSync,
  readFileSync,
  readdirSync,
  renameSync,
  rmSync,
  statSync,
  writeFileSync,
} from 'node:fs'
import { createServer } from 'node:net'
import { spawn, spawnSync } from 'node:child_process'
import { dirname, join } from 'node:path'
import { keepRunning } from './keep.mjs'
import { debianPackages, isRoot, say, Stop } from './say.mjs'

const versions = '/usr/lib/postgresql'
const binaries = () =>
  existsSync(versions)
    ? readdirSync(versions)
      .filter(v => existsSync(join(versions, v, 'bin/initdb')))
      .sort((a, b) => Number(b) - Number(a))
      .map(v => join(versions, v, 'bin'))[0]
    : undefined

const freePort = () =>
  new Promise((resolve, reject) => {
    const probe = createServer().on('error', reject)
    probe.listen(0, '127.0.0.1', () => {
      const { port } = probe.address()
      probe.close(() => resolve(port))
    })
  })

/** PostgreSQL refuses to run as root: then everything it touches belongs to the `postgres` user. */
function owner() {
  if (!isRoot()) return {}
  const id = flag => Number(spawnSync('id', [flag, 'postgres'], { encoding: 'utf8' }).stdout)
  const uid = id('-u')
  const gid = id('-g')
  if (!uid)
    throw new Stop('PostgreSQL is installed, but its user “postgres” is missing. Reinstall the package postgresql.')
  return { uid, gid }
}

const environment = () => ({ PATH: process.env.PATH, LC_ALL: 'C.UTF-8', HOME: '/' })
const lastWords = log => readFileSync(log, 'utf8').trim().split('\n').slice(-6).join('\n')

function command(who, file, args, log) {
  const out = openSync(log, 'a')
  return new Promise((resolve, reject) => {
    const child = spawn(file, args, {
      ...who,
      cwd: '/',
      stdio: ['ignore', out, out],
      env: environment(),
      detached: true,
    })
    child.on('error', reject)
    child.on('exit', (code) => {
      if (code === 0) return resolve()
      reject(new Stop(`${file.split('/').pop()} failed; its words are in ${log}:\n${lastWords(log)}`))
    })
  })
}

const isReady = (bin, port) =>
  spawnSync(join(bin, 'pg_isready'), ['-q', '-h', '127.0.0.1', '-p', String(port), '-t', '1']).status === 0

/** Starts the server process itself; resolves once it takes connections. */
async function begin(who, bin, cluster, port, log) {
  const out = openSync(log, 'a')
  const settings = ['listen_addresses=127.0.0.1', `port=${port}`, 'unix_socket_directories=']
  const child = spawn(join(bin, 'postgres'), ['-D', cluster, ...settings.flatMap(s => ['-c', s])], {
    ...who,
    cwd: '/',
    stdio: ['ignore', out, out],
    env: environment(),
    detached: true,
  })
  closeSync(out)
  const failed = new Promise((_, reject) => child.once('error', reject))
  failed.catch(() => {})
  for (let tries = 0; tries < 600; tries++) {
    if (child.exitCode !== null || child.signalCode !== null)
      throw new Stop(`The database did not start; its words are in ${log}:\n${lastWords(log)}`)
    if (isReady(bin, port)) return child
    await Promise.race([failed, new Promise(next => setTimeout(next, 100))])
  }
  child.kill('SIGQUIT')
  throw new Stop(`The database was not ready within a minute; its words are in ${log}:\n${lastWords(log)}`)
}

/** Every folder above must let the postgres user through. */
function checkReachable(folder, who) {
  if (!who.uid) return
  for (let at = dirname(folder); at !== '/'; at = dirname(at)) {
    if ((statSync(at).mode & 0o001) === 0)
      throw new Stop(
        `The database's user cannot enter ${at}. Set KOVRIN_DATA to a folder that every user can reach (for example `
        + `/var/lib/kovrin), or run Kovrin as an ordinary user.`,
      )
  }
}

const alive = (pid) => {
  try {
    process.kill(pid, 0)
    return true
  }
  catch (error) {
    return error.code === 'EPERM'
  }
}

/** A server that a killed start left running: stopped first. A lock file without a server is taken away. */
async function clearOld(bin, who, cluster, log) {
  const lock = join(cluster, 'postmaster.pid')
  if (!existsSync(lock)) return
  const pid = Number(readFileSync(lock, 'utf8').split('\n')[0])
  const isOurs
    = alive(pid)
      && existsSync(`/proc/${pid}/cmdline`)
      && readFileSync(`/proc/${pid}/cmdline`, 'utf8').includes(cluster)
  if (isOurs) {
    say('Stopping the database that an earlier start left running …')
    await command(who, join(bin, 'pg_ctl'), ['stop', '-D', cluster, '-m', 'fast', '-w', '-t', '30'], log)
  }
  else rmSync(lock, { force: true })
}

async function makeCluster(bin, who, { home, cluster, secret, log }) {
  say('Making the database …')
  // made beside and moved into place, so that a start cut short leaves nothing half-made
  const fresh = join(home, 'cluster.new')
  rmSync(fresh, { recursive: true, force: true })
  writeFileSync(secret, randomBytes(18).toString('hex'), { mode: 0o600 })
  if (who.uid) chownSync(secret, who.uid, who.gid)
  const how = ['--auth=scram-sha-256', `--pwfile=${secret}`, '--encoding=UTF8', '--locale=C.UTF-8']
  await command(who, join(bin, 'initdb'), ['-D', fresh, '-U', 'kovrin', ...how], log)
  renameSync(fresh, cluster)
}

/**
 * Makes the cluster if there is none, starts it and keeps it running. Gives `url`, `version` and `stop`; `gaveUp` is
 * told a sentence when it cannot be kept running.
 */
export async function startPostgres(data, logs, gaveUp = error => console.error(error)) {
  if (!binaries()) await debianPackages('PostgreSQL', ['postgresql'], logs)
  const bin = binaries()
  if (!bin) throw new Stop('PostgreSQL was installed, but its programs are not under /usr/lib/postgresql.')
  const who = owner()
  const home = join(data, 'postgres')
  const cluster = join(home, 'cluster')
  const secret = join(home, 'password')
  const log = join(logs, 'postgres.log')
  mkdirSync(logs, { recursive: true })
  if (!existsSync(home)) mkdirSync(home, { recursive: true, mode: 0o700 })
  checkReachable(home, who)
  if (who.uid && statSync(home).uid !== who.uid) chownSync(home, who.uid, who.gid)

  if (!existsSync(join(cluster, 'PG_VERSION'))) await makeCluster(bin, who, { home, cluster, secret, log })
  else await clearOld(bin, who, cluster, log)
  const made = readFileSync(join(cluster, 'PG_VERSION'), 'utf8').trim()
  const have = bin.split('/').at(-2)
  if (made !== have)
    throw new Stop(
      `The database under ${cluster} was made by PostgreSQL ${made}, but ${have} is installed. Install `
      + `postgresql-${made}, or move the folder away to begin anew.`,
    )

  const port = await freePort()
  const keeper = await keepRunning('The database', () => begin(who, bin, cluster, port, log), { gaveUp })
  return {
    url: `postgresql://kovrin:${readFileSync(secret, 'utf8')}@127.0.0.1:${port}/postgres`,
    version: made,
    // SIGINT: whoever is connected is let go of
    stop: () => keeper.stop('SIGINT', 20_000),
  }
}
