import { sql } from 'drizzle-orm'
import { drizzle, type NodePgDatabase } from 'drizzle-orm/node-postgres'
import { migrate } from 'drizzle-orm/node-postgres/migrator'
import { join } from 'node:path'
import pg from 'pg'
import { log } from '../watch/log'
import * as schema from './schema'

export type Database = NodePgDatabase<typeof schema>
export type Transaction = Parameters<Parameters<Database['transaction']>[0]>[0]

let open: { pool: pg.Pool, db: Database } | null = null
/** For what reads a whole archive: so many at once, and none of the others waits for them. */
let reading: { pool: pg.Pool, db: Database } | null = null
const lostListeners = new Set<() => void>()

export function databaseUrl(): string {
  const url = process.env.DATABASE_URL
  if (url) return url
  throw new Error(
    'DATABASE_URL is not set. Start Kovrin with `npm start`, or set it to a PostgreSQL server of your own.',
  )
}

/** No statement, lock or connection is waited for without end. */
const limits = {
  max: 10,
  connectionTimeoutMillis: 5000,
  statement_timeout: 30_000,
  query_timeout: 35_000,
  lock_timeout: 10_000,
  idle_in_transaction_session_timeout: 60_000,
}

/** The database that `DATABASE_URL` names; connects when first asked. Throws when the variable is missing. */
export const database = (): Database => (open ??= connected(limits.max)).db

/** The same database by connections of their own, for what holds one for long. */
export const readingDatabase = (): Database => (reading ??= connected(mostReading)).db

function connected(max: number) {
  const pool = new pg.Pool({ connectionString: databaseUrl(), ...limits, max })
  pool.on('error', (error) => {
    log.warn(`Database connection lost: ${error.message}`)
    for (const listener of lostListeners) listener()
  })
  return { pool, db: drizzle(pool, { schema }) }
}

/** The clock that all servers share. */
export async function databaseNow(): Promise<number> {
  const { rows } = await database().execute<{ now: string }>(
    sql`select (extract(epoch from clock_timestamp()) * 1000)::text as now`)
  return Number(rows[0]!.now)
}

const mostReading = 3

/** Calls back when a connection to the database was lost: what was told meanwhile must be read again. */
export function onDatabaseLost(listener: () => void): () => void {
  lostListeners.add(listener)
  return () => lostListeners.delete(listener)
}

const awayCodes = new Set(['ECONNREFUSED', 'ECONNRESET', 'EPIPE', 'ENOENT', '57P01', '57P02', '57P03', '53300'])
const awayWords = /Connection terminated|connection timeout|timeout expired|timeout exceeded|not queryable|shutting down|starting up/i

/** True when a failure came from a database that cannot be reached, or that went away in the middle. */
export function databaseAway(error: unknown): boolean {
  for (let at = error, depth = 0; at instanceof Error && depth < 8; at = at.cause, depth++) {
    const code = (at as { code?: string }).code ?? ''
    if (awayCodes.has(code) || code.startsWith('08') || awayWords.test(at.message)) return true
    if (at instanceof AggregateError && at.errors.some(databaseAway)) return true
  }
  return false
}

/** Why something could not be stored, in a few words for a person. */
export function storeFault(error: unknown): string {
  if (databaseAway(error)) return 'the database does not answer'
  if (diskFull(error)) return 'the disk of the database is full'
  // a failure of the database's own comes with the whole statement
  return (error as Error).cause instanceof Error ? 'the database refused it' : (error as Error).message
}

/** Complains of what failed; a database that is away is a sentence, anything else comes with its stack. */
export function complain(what: string, error: unknown) {
  if (databaseAway(error)) log.warn(`${what}: the database does not answer`)
  else log.error({ err: error as Error }, what)
}

/** True when the database refused a value itself: one out of its range, or that it has no type for (class 22). */
export const valueRefused = (error: unknown) => hasCode(error, '22')

/** True when there was no room to store it. */
export const diskFull = (error: unknown) => hasCode(error, '53100')

function hasCode(error: unknown, start: string): boolean {
  for (let at = error, depth = 0; at instanceof Error && depth < 8; at = at.cause, depth++)
    if (((at as { code?: string }).code ?? '').startsWith(start)) return true
  return false
}

const patience = 10_000
/** Waits until the database answers: it may be coming back itself. Throws its last complaint when it does not. */
export async function databaseThere(): Promise<void> {
  for (const began = Date.now(); ;) {
    try {
      await database().execute(sql`select 1`)
      return
    }
    catch (error) {
      if (!databaseAway(error) || Date.now() - began > patience) throw error
    }
    await new Promise(next => setTimeout(next, 100))
  }
}

/** Brings the database's tables to this version. */
export const migrateDatabase = (folder = join(process.cwd(), 'server/store/migrations')) =>
  migrate(database(), { migrationsFolder: folder })

export async function closeDatabase() {
  await Promise.all([open?.pool.end(), reading?.pool.end()])
  open = null
  reading = null
}
