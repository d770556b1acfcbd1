import { sql } from 'drizzle-orm'
import { statfs } from 'node:fs/promises'
import { createConnection } from 'node:net'
import { version } from '../../package.json'
import { backupFolder, lastFailure, listBackups } from '../jobs/backups'
import { linkCounts } from '../links/links'
import { database } from '../store/client'

const answers = (address: string) => new Promise<'answers' | 'silent'>((resolve) => {
  const [host, port] = address.split(':')
  const socket = createConnection({ host: host ?? '', port: Number(port), timeout: 500 })
  const end = (state: 'answers' | 'silent') => {
    socket.destroy()
    resolve(state)
  }
  socket.on('connect', () => end('answers')).on('error', () => end('silent')).on('timeout', () => end('silent'))
})

async function databaseState() {
  try {
    const { rows } = await database().execute<{ server_version: string }>(sql`show server_version`)
    return { ok: true, version: rows[0]!.server_version }
  }
  catch (error) { return { ok: false, why: (error as Error).message } }
}

async function freeAt(folder: string | undefined): Promise<number | null> {
  if (!folder) return null
  try {
    const { bavail, bsize } = await statfs(folder)
    return bavail * bsize
  }
  catch { return null }
}

/** The newest backup; that there is none, or that it cannot be told, is a state as well. */
async function backupState() {
  try {
    const folder = await backupFolder()
    const [newest] = await listBackups(folder)
    const hours = newest ? (Date.now() - Date.parse(newest.at)) / 3_600_000 : null
    return { folder, at: newest?.at ?? null, hours, why: lastFailure() }
  }
  catch (error) { return { at: null, hours: null, why: (error as Error).message } }
}

export default defineEventHandler(async (event) => {
  const standins = Object.entries(JSON.parse(process.env.KOVRIN_STANDINS ?? '{}') as Record<string, string>)
  const [db, states] = await Promise.all([
    databaseState(),
    Promise.all(standins.map(async ([name, address]) => [name, await answers(address)] as const)),
  ])
  if (!db.ok) setResponseStatus(event, 503)
  const backup = await backupState()
  return {
    version,
    up: process.uptime(),
    database: db,
    standins: Object.fromEntries(states),
    links: linkCounts(),
    backup,
    disk: { data: await freeAt(process.env.KOVRIN_DATA), backups: await freeAt(backup.folder) },
  }
})
