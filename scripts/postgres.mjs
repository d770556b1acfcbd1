// A PostgreSQL cluster of Kovrin's own under the data folder, on 127.0.0.1 and a free port.
import { randomBytes } from 'node:crypto'
import {
  chmodSync,
  chownSync,
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

function command(who, file, args, log) {
  const out = openSync(log, 'a')
  if (who.uid) chownSync(log, who.uid, who.gid)
  return new Promise((resolve, reject) => {
    const child = spawn(file, args, {
      ...who,
      cwd: '/',
      stdio: ['ignore', out, out],
      env: { PATH: process.env.PATH, LC_ALL: 'C.UTF-8', HOME: '/' },
      detached: true,
    })
    child.on('error', reject)
    child.on('exit', code =>
      code === 0
        ? resolve()
        : reject(
            new Stop(
              `${file.split('/').pop()} failed; its words are in `
              + `${log}:\n${readFileSync(log, 'utf8').trim().split('\n').slice(-6).join('\n')}`,
            ),
          ),
    )
  })
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

/** Makes the cluster if there is none and starts it. Gives `url` and `stop`. */
export async function startPostgres(data, logs) {
  if (!binaries()) await debianPackages('PostgreSQL', ['postgresql'], logs)
  const bin = binaries()
  if (!bin) throw new Stop('PostgreSQL was installed, but its programs are not under /usr/lib/postgresql.')
  const who = owner()
  const home = join(data, 'postgres')
  const cluster = join(home, 'cluster')
  const secret = join(home, 'password')
  const log = join(logs, 'postgres.log')
  mkdirSync(home, { recursive: true })
  mkdirSync(logs, { recursive: true })
  checkReachable(home, who)
  if (who.uid) for (const folder of [home, logs]) chownSync(folder, who.uid, who.gid)
  chmodSync(home, 0o700)

  if (!existsSync(join(cluster, 'PG_VERSION'))) {
    say('Making the database …')
    // made beside and moved into place, so that a start cut short leaves nothing half-made
    const fresh = join(home, 'cluster.new')
    rmSync(fresh, { recursive: true, force: true })
    writeFileSync(secret, randomBytes(18).toString('hex'), { mode: 0o600 })
    if (who.uid) chownSync(secret, who.uid, who.gid)
    await command(
      who,
      join(bin, 'initdb'),
      [
        '-D',
        fresh,
        '-U',
        'kovrin',
        '--auth=scram-sha-256',
        `--pwfile=${secret}`,
        '--encoding=UTF8',
        '--locale=C.UTF-8',
      ],
      log,
    )
    renameSync(fresh, cluster)
  }
  else await clearOld(bin, who, cluster, log)
  const made = readFileSync(join(cluster, 'PG_VERSION'), 'utf8').trim()
  const have = bin.split('/').at(-2)
  if (made !== have)
    throw new Stop(
      `The database under ${cluster} was made by PostgreSQL ${made}, but ${have} is installed. Install `
      + `postgresql-${made}, or move the folder away to begin anew.`,
    )

  const port = await freePort()
  await command(
    who,
    join(bin, 'pg_ctl'),
    [
      'start',
      '-D',
      cluster,
      '-w',
      '-t',
      '60',
      '-l',
      log,
      '-o',
      `-c listen_addresses=127.0.0.1 -c port=${port} -c unix_socket_directories=`,
    ],
    log,
  )
  const url = `postgresql://kovrin:${readFileSync(secret, 'utf8')}@127.0.0.1:${port}/postgres`
  return {
    url,
    version: made,
    stop: () => command(who, join(bin, 'pg_ctl'), ['stop', '-D', cluster, '-m', 'fast', '-w', '-t', '30'], log),
  }
}
