import { drizzle, type NodePgDatabase } from 'drizzle-orm/node-postgres'
import { migrate } from 'drizzle-orm/node-postgres/migrator'
import { join } from 'node:path'
import pg from 'pg'
import * as schema from './schema'

export type Database = NodePgDatabase<typeof schema>
export type Transaction = Parameters<Parameters<Database['transaction']>[0]>[0]

let open: { pool: pg.Pool, db: Database } | null = null

/** The database that `DATABASE_URL` names; connects when first asked. Throws when the variable is missing. */
export function database(): Database {
  if (!open) {
    const connectionString = process.env.DATABASE_URL
    if (!connectionString)
      throw new Error(
        'DATABASE_URL is not set. Start Kovrin with `npm start`, or set it to a PostgreSQL server of your own.',
      )
    const pool = new pg.Pool({ connectionString, max: 10 })
    pool.on('error', error => console.error(`Database connection lost: ${error.message}`))
    open = { pool, db: drizzle(pool, { schema }) }
  }
  return open.db
}

/** Brings the database's tables to this version. */
export const migrateDatabase = () =>
  migrate(database(), { migrationsFolder: join(process.cwd(), 'server/db/migrations') })

export async function closeDatabase() {
  await open?.pool.end()
  open = null
}
