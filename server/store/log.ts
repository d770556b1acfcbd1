import { desc, eq } from 'drizzle-orm'
import { complain, database } from './client'
import { log } from './schema'

/**
 * Writes one line into a site's log; a log that cannot be written is told on the terminal, never thrown into
 * the work it tells of.
 */
export async function writeLog(siteId: string, who: string, what: string) {
  try {
    await database().insert(log).values({ siteId, who, what })
  }
  catch (error) {
    complain(`Log of ${siteId}: “${what}” could not be written`, error)
  }
}

/** A site's log, newest first. */
export const readLog = (siteId: string, limit: number) =>
  database().select().from(log).where(eq(log.siteId, siteId)).orderBy(desc(log.id)).limit(limit)
