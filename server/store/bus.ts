import { randomUUID } from 'node:crypto'
import pg from 'pg'
import { sql } from 'drizzle-orm'
import type { Sounding } from '../../core/contract'
import { database, databaseUrl } from './client'

/** This server among those that share a database. */
export const serverId = randomUUID()

/** What servers that share a database tell one another. */
export type BusMessage
  = | { kind: 'changed', site: string, number: number, from: string }
    | { kind: 'renewed', site: string, from: string }
    | { kind: 'hush', site: string, from: string }
    | { kind: 'open', site: string, from: string }
    | { kind: 'sounds', site: string, from: string, page: string, sounding: Sounding }
    | { kind: 'ask', id: string, from: string, site: string, device: string, command: unknown }
    | { kind: 'answer', id: string, from: string, to: string, answer: unknown }

const channel = 'kovrin'
type Listener = (message: BusMessage) => void
const listeners = new Set<Listener>()
const backListeners = new Set<() => void>()

let client: pg.Client | null = null
let closing = false
let retry: NodeJS.Timeout | undefined

/** Hears what all servers tell, this one too, until the returned function is called. */
export function onBus(listener: Listener): () => void {
  listeners.add(listener)
  return () => listeners.delete(listener)
}
/** Calls back whenever listening began anew: what was told meanwhile was missed and must be read. */
export function onBusBack(listener: () => void): () => void {
  backListeners.add(listener)
  return () => backListeners.delete(listener)
}

/** Tells the other servers; small messages only (8000 bytes is PostgreSQL's limit). */
export const tellServers = (message: BusMessage) =>
  database().execute(sql`select pg_notify(${channel}, ${JSON.stringify(message)})`)

/** Listens on a connection of its own, and again whenever that is lost. */
export async function openBus(): Promise<void> {
  closing = false
  const made = new pg.Client({ connectionString: databaseUrl(), connectionTimeoutMillis: 5000, keepAlive: true })
  const again = () => {
    if (client !== made || closing) return
    client = null
    retry = setTimeout(() => void openBus().catch(() => {}), 500)
  }
  client = made
  made.on('error', again)
  made.on('end', again)
  made.on('notification', ({ payload }) => {
    const message = JSON.parse(payload ?? '{}') as BusMessage
    for (const listener of listeners) listener(message)
  })
  try {
    await made.connect()
    await made.query(`listen ${channel}`)
    for (const listener of backListeners) listener()
  }
  catch (error) {
    again()
    throw error
  }
}

export async function closeBus() {
  closing = true
  clearTimeout(retry)
  const open = client
  client = null
  await open?.end().catch(() => {})
}
