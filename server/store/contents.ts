import { inArray } from 'drizzle-orm'
import { database, type Database, type Transaction } from './client'
import { contents } from './schema'

/** Contents that go into one statement: more would hold up whoever waits meanwhile. */
const atOnce = 20

/** Keeps contents under their hashes; those that are there already stay. */
export async function keepContents(db: Database | Transaction, shared: Readonly<Record<string, unknown>>) {
  // in one order, so that two who keep the same at once wait for each other and never both
  const hashes = Object.keys(shared).sort()
  for (let at = 0; at < hashes.length; at += atOnce) {
    const rows = hashes.slice(at, at + atOnce).map(hash => ({ hash, content: shared[hash] }))
    await db.insert(contents).values(rows).onConflictDoNothing()
  }
}

/** Contents by their hashes; those that there are none of are left out. */
export async function readContents(hashes: readonly string[]): Promise<Record<string, unknown>> {
  if (!hashes.length) return {}
  const rows = await database().select().from(contents).where(inArray(contents.hash, [...hashes]))
  return Object.fromEntries(rows.map(r => [r.hash, r.content]))
}
