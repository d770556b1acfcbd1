// The data folder: made when there is none, refused when it is somebody else's, never opened wider than it is. And the
// user as whom everything runs that listens.
import { spawnSync } from 'node:child_process'
import {
  chownSync,
  closeSync,
  cpSync,
  existsSync,
  mkdirSync,
  openSync,
  readFileSync,
  readdirSync,
  rmSync,
  statfsSync,
  statSync,
  unlinkSync,
  writeFileSync,
} from 'node:fs'
import { dirname, join } from 'node:path'
import { isRoot, root, say, Stop } from './say.mjs'

const version = 1
const markName = 'kovrin-data.json'
/** Bytes that must be free before anything is begun. */
const leastFree = 100 * 2 ** 20

/** What stands in the folder says whose it is; one of before the mark has a cluster of Kovrin's. */
function checkOwner(data) {
  const mark = join(data, markName)
  if (!existsSync(mark)) {
    if (!readdirSync(data).length || existsSync(join(data, 'postgres/password'))) return
    throw new Stop(`${data} has files in it that are not Kovrin's. Set KOVRIN_DATA to an empty folder or a new one.`)
  }
  let told
  try {
    told = JSON.parse(readFileSync(mark, 'utf8')).version
  }
  catch { throw new Stop(`${mark} cannot be read: whose folder this is is not known. Nothing was changed.`) }
  if (!Number.isInteger(told) || told > version)
    throw new Stop(
      `${data} was made by a newer Kovrin (version ${told}; this one knows ${version}). `
      + 'It was left as it is: start that one, or update this.',
    )
}

const words = { EROFS: 'is on a medium that cannot be written', EACCES: 'may not be written by this user',
  EPERM: 'may not be written by this user', ENOTDIR: 'is no folder', EEXIST: 'is no folder', ENOSPC: 'is full' }
const cannot = (data, error) =>
  new Stop(`The data folder ${data} ${words[error.code] ?? `cannot be used (${error.message})`}. `
    + 'Set KOVRIN_DATA to another, or make room. Nothing was changed.')

/** Step by step: a recursive mkdir never ends where a file system makes nothing. */
function makeFolder(path) {
  if (existsSync(path)) return
  makeFolder(dirname(path))
  // as root the database's own user must be able to enter
  mkdirSync(path, { mode: isRoot() ? 0o755 : 0o700 })
}

/** Makes or takes the data folder. Throws Stop with a sentence where it cannot serve; nothing is changed then. */
export function openData(data) {
  try {
    makeFolder(data)
    checkOwner(data)
    const { bavail, bsize } = statfsSync(data)
    if (bavail * bsize < leastFree)
      throw new Stop(`The data folder ${data} has ${Math.floor(bavail * bsize / 2 ** 20)} MB free; Kovrin needs 100.`)
    writeFileSync(join(data, markName), `${JSON.stringify({ kovrin: 'data', version })}\n`)
  }
  catch (error) {
    throw error instanceof Stop ? error : cannot(data, error)
  }
}

/** One Kovrin a data folder. A lock that a killed start left behind names a process that is gone: it does not count. */
export function lock(data) {
  const file = join(data, 'running.pid')
  for (let again = 0; again < 2; again++) {
    try {
      const handle = openSync(file, 'wx')
      writeFileSync(handle, String(process.pid))
      closeSync(handle)
      return () => unlinkSync(file)
    }
    catch (error) {
      if (error.code !== 'EEXIST') throw error
      const pid = Number(readFileSync(file, 'utf8'))
      if (pid !== process.pid && isStart(pid))
        throw new Stop(`Kovrin already runs on this data folder (process ${pid}). Open it there, or stop it first.`)
      unlinkSync(file)
    }
  }
  throw new Stop(`${file} is made again and again by something else.`)
}
function isStart(pid) {
  try {
    return readFileSync(`/proc/${pid}/cmdline`, 'utf8').includes('start.mjs')
  }
  catch { return false }
}

/** The user for all that listens: as root nobody in particular, else whoever started. */
export function servant() {
  if (!isRoot()) return {}
  const id = flag => Number(spawnSync('id', [flag, 'nobody'], { encoding: 'utf8' }).stdout)
  const uid = id('-u')
  if (!uid) throw new Stop('The user “nobody” is missing, as whom Kovrin serves when it is started by root.')
  return { uid, gid: id('-g') }
}

/** A folder of the servant's own, closed to others. */
export function folderFor(who, path) {
  if (!existsSync(path)) mkdirSync(path, { recursive: true, mode: 0o700 })
  if (who.uid && statSync(path).uid !== who.uid) chownSync(path, who.uid, who.gid)
  return path
}

const needed = ['.output', 'server/store/migrations']
/** Where the servant finds the built application: here, or a copy in the data folder when it may not enter here. */
export function programFor(who, data) {
  if (!who.uid) return root
  const looks = ['-e', 'require("fs").accessSync(process.argv[1])', join(root, '.output/server/index.mjs')]
  if (spawnSync(process.execPath, looks, { ...who, cwd: '/' }).status === 0) return root
  if (spawnSync(process.execPath, ['-e', ''], { ...who, cwd: '/' }).status !== 0)
    throw new Stop(`As root Kovrin serves as the user “nobody”, who may not run ${process.execPath}. Start Kovrin as `
      + 'an ordinary user, or install Node.js where every user can reach it.')
  const copy = join(data, 'program')
  say(`The user “nobody” may not enter ${root}: the application is copied to ${copy}`)
  rmSync(copy, { recursive: true, force: true })
  for (const part of needed) {
    mkdirSync(dirname(join(copy, part)), { recursive: true })
    cpSync(join(root, part), join(copy, part), { recursive: true, dereference: true })
  }
  return copy
}
