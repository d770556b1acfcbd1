import { randomUUID } from 'node:crypto'
import { createReadStream, createWriteStream } from 'node:fs'
import { access, constants, open as openFile, readdir, rename, rm, stat } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { Readable } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import type { BackupFile } from '../../core/contract'
import { Shares } from '../access/shares'
import { archiveOf, checkArchive } from '../store/backup'
import { dropOldLog, readKeeping } from '../store/keeping'
import { complain, databaseNow } from '../store/client'
import { log } from '../watch/log'
import { refusal } from '../../core/words'

const hour = 3600 * 1000
const day = 24 * hour
/** How often it is looked whether one is due; the first look waits until a start has settled. */
const lookEvery = 10 * 60 * 1000
const pattern = /^kovrin-(daily|asked)-(\d{4})(\d\d)(\d\d)-(\d\d)(\d\d)(\d\d)(\d{3})\.jsonl\.gz$/

let why: string | null = null
let making: Promise<BackupFile> | null = null
/** What begins when that is done. */
let following: Promise<BackupFile> | null = null
let timer: NodeJS.Timeout | undefined

/** Why the last backup could not be made; null when it could. */
export const lastFailure = () => why

/** The folder of backups, as the user wants it. Throws RangeError where there is none. */
export async function backupFolder(): Promise<string> {
  const folder = (await readKeeping()).folder ?? process.env.KOVRIN_BACKUPS
  if (!folder) throw refusal('backup.noFolder')
  return folder
}

/** Throws RangeError with a sentence when a folder cannot take backups. */
export async function checkFolder(folder: string) {
  try {
    await readdir(folder)
    await access(folder, constants.W_OK)
  }
  catch (error) {
    throw refusal('backup.notWritten', { folder, why: (error as Error).message })
  }
}

function fileOf(name: string, bytes: number): BackupFile | null {
  const [, , y, mo, d, h, mi, s, ms] = pattern.exec(name) ?? []
  return ms === undefined ? null : { name, bytes, at: `${y}-${mo}-${d}T${h}:${mi}:${s}.${ms}Z` }
}

/** Backups in a folder, newest first. */
export async function listBackups(folder: string): Promise<BackupFile[]> {
  const names = (await readdir(folder)).filter(n => pattern.test(n))
  const files = await Promise.all(names.map(async n => fileOf(n, (await stat(join(folder, n))).size)!))
  return files.sort((a, b) => (a.at < b.at ? 1 : -1))
}

/** Writes an archive of everything beside, reads it back, and only then lets it take its name. */
async function make(kind: 'daily' | 'asked'): Promise<BackupFile> {
  const folder = await backupFolder()
  await checkFolder(folder)
  const stamp = new Date(await databaseNow()).toISOString().replace(/[-:.]/g, '').replace('T', '-').replace('Z', '')
  const name = `kovrin-${kind}-${stamp}.jsonl.gz`
  const half = join(folder, `${name}.part`)
  try {
    await pipeline(archiveOf(null), createWriteStream(half, { flags: 'wx', mode: 0o600, flush: true }))
    await checkArchive(createReadStream(half))
    await rename(half, join(folder, name))
  }
  catch (error) {
    await rm(half, { force: true })
    throw error
  }
  const { keep } = await readKeeping()
  const daily = (await listBackups(folder)).filter(f => f.name.startsWith('kovrin-daily-'))
  for (const old of daily.slice(keep)) await rm(join(folder, old.name), { force: true })
  log.info({ name }, 'backup')
  return fileOf(name, (await stat(join(folder, name))).size)!
}

/**
 * Makes a backup of everything, as it stands now or later: one at a time, so that what is asked for while one is made
 * begins after it, once for all who wait. Throws RangeError with a sentence when it cannot be.
 */
export function makeBackup(kind: 'daily' | 'asked'): Promise<BackupFile> {
  if (!making && !following) return begin(kind)
  const after = () => {
    following = null
    return begin(kind)
  }
  return following ??= making!.then(after, after)
}

function begin(kind: 'daily' | 'asked'): Promise<BackupFile> {
  making = make(kind)
    .then((made) => {
      why = null
      return made
    }, (error: NodeJS.ErrnoException) => {
      why = error.code === 'ENOSPC' ? 'The disk of the backups is full.' : error.message
      throw error.code === 'ENOSPC' ? new RangeError(why) : error
    })
    .finally(() => (making = null))
  return making
}

/** Lays what comes down as a file before it is used: nobody waits for whoever sends slowly. */
export async function laidDown<T>(bytes: AsyncIterable<Uint8Array>, use: (file: Readable) => Promise<T>): Promise<T> {
  const file = join(await backupFolder(), `.coming-${randomUUID()}`)
  try {
    await pipeline(bytes, createWriteStream(file, { flags: 'wx', mode: 0o600 }))
    return await use(createReadStream(file))
  }
  catch (error) {
    if ((error as NodeJS.ErrnoException).code === 'ENOSPC')
      throw refusal('backup.noRoomNothingChanged')
    throw error
  }
  finally {
    await rm(file, { force: true })
  }
}

/** Whose archives are on their way to their readers, and how many of one reader and of all may be. */
const going = new Shares(2, 8)

/**
 * An archive to send: laid down first, so that who reads it slowly holds nothing but a file, which goes with the last
 * of it. Null where too many are on their way, of this asker or of all.
 */
export async function archiveToSend(
  site: string | null,
  who: string,
): Promise<{ file: Readable, bytes: number } | null> {
  if (!going.take(who, 1)) return null
  const path = join(await backupFolder().catch(() => tmpdir()), `.going-${randomUUID()}`)
  try {
    await pipeline(archiveOf(site), createWriteStream(path, { flags: 'wx', mode: 0o600 }))
    const open = await openFile(path)
    const { size } = await open.stat()
    const file = open.createReadStream()
    file.once('close', () => going.give(who, 1))
    return { file, bytes: size }
  }
  catch (error) {
    going.give(who, 1)
    if ((error as NodeJS.ErrnoException).code === 'ENOSPC')
      throw refusal('backup.noRoom')
    throw error
  }
  finally {
    // it stays readable for who has it open
    await rm(path, { force: true })
  }
}

const halfFile = /^\.(?:coming|going)-[\w-]+$/
/** Takes away what a server that was killed left of files that come or go. */
async function sweepHalves(folder: string) {
  for (const name of (await readdir(folder)).filter(n => halfFile.test(n))) {
    const { mtimeMs } = await stat(join(folder, name))
    if (Date.now() - mtimeMs > day) await rm(join(folder, name), { force: true })
  }
}

/** Makes the daily one when it is due, and lets go of old lines of the logs. */
export async function lookAtBackups(at?: number): Promise<void> {
  try {
    const now = at ?? await databaseNow()
    await dropOldLog(now)
    const { daily } = await readKeeping()
    const folder = await backupFolder().catch(() => null)
    if (folder !== null) await sweepHalves(folder)
    if (!daily) return
    // one of the future was made while a clock was wrong
    const known = (await listBackups(await backupFolder())).filter(f => Date.parse(f.at) <= now + hour)
    if (!known[0] || now - Date.parse(known[0].at) >= day) await makeBackup('daily')
  }
  catch (error) {
    complain('The daily backup', error)
  }
}

export function startBackups() {
  if (process.env.KOVRIN_BACKUPS) timer = setInterval(lookAtBackups, lookEvery)
}
export const stopBackups = () => clearInterval(timer)
