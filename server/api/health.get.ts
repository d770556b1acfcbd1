import { sql } from 'drizzle-orm'
import { createConnection } from 'node:net'
import { version } from '../../package.json'
import { database } from '../db/client'
import { linkCounts } from '../links/links'

const answers = (address: string) =>
  new Promise<'answers' | 'silent'>((resolve) => {
    const [host, port] = address.split(':')
    const socket = createConnection({ host, port: Number(port), timeout: 500 })
    const end = (state: 'answers' | 'silent') => {
      socket.destroy()
      resolve(state)
    }
    socket
      .on('connect', () => end('answers'))
      .on('error', () => end('silent'))
      .on('timeout', () => end('silent'))
  })

export default defineEventHandler(async (event) => {
  const standins = Object.entries(JSON.parse(process.env.KOVRIN_STANDINS ?? '{}') as Record<string, string>)
  const [db, states] = await Promise.all([
    database()
      .execute<{ server_version: string }>(sql`show server_version`)
      .then(
        r => ({ ok: true, version: r.rows[0]!.server_version }),
        (e: Error) => ({ ok: false, why: e.message }),
      ),
    Promise.all(standins.map(async ([name, address]) => [name, await answers(address)] as const)),
  ])
  if (!db.ok) setResponseStatus(event, 503)
  return { version, database: db, standins: Object.fromEntries(states), links: linkCounts() }
})
