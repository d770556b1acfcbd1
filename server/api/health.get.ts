import { sql } from 'drizzle-orm'
import { createConnection } from 'node:net'
import { version } from '../../package.json'
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

export default defineEventHandler(async (event) => {
  const standins = Object.entries(JSON.parse(process.env.KOVRIN_STANDINS ?? '{}') as Record<string, string>)
  const [db, states] = await Promise.all([
    databaseState(),
    Promise.all(standins.map(async ([name, address]) => [name, await answers(address)] as const)),
  ])
  if (!db.ok) setResponseStatus(event, 503)
  return { version, database: db, standins: Object.fromEntries(states), links: linkCounts() }
})
