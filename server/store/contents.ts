import { inArray } from 'drizzle-orm'
import { database, type Database, type Transaction } from './client'
import { contents } from './schema'

/** Keeps contents under their hashes; those that are there already stay. */
export async function keepContents(db: Database | Transaction, shared: Readonly<Record<string, unknown>>) {
  // in one order, so that two who keep the same at once wait for each other and never both
  const rows = Object.keys(shared).sort().map(hash => ({ hash, content: shared[hash] }))
  if (rows.length) await db.insert(contents).values(rows).onConflictDoNothing()
}

/** Contents by their hashes; those that there are none of are left out. */
export async function readContents(hashes: readonly string[]): Promise<Record<string, unknown>> {
  if (!hashes.length) return {}
  const rows = await database().select().from(contents).where(inArray(contents.hash, [...hashes]))
  return Object.fromEntries(rows.map(r => [r.hash, r.content]))
}
