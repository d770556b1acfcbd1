import { desc, eq, sql, type SQL } from 'drizzle-orm'
import type { Message } from '../../core/words'
import { say } from '../../core/words/say'
import { complain, database } from './client'
import { log } from './schema'

/**
 * Writes one line into a site's log; a log that cannot be written is told on the terminal, never thrown into
 * the work it tells of.
 */
export async function writeLog(siteId: string, who: string, told: Message) {
  const what = say(told) ?? told.code
  try {
    await database().insert(log).values({ siteId, who, what, ...told })
  }
  catch (error) {
    complain(`Log of ${siteId}: “${what}” could not be written`, error)
  }
}

/** A site's log, newest first. */
export const readLog = (siteId: string, limit: number) =>
  database().select().from(log).where(eq(log.siteId, siteId)).orderBy(desc(log.id)).limit(limit)

const tellsTake = (what: SQL) => sql`${what} ~ '^Took “.*”\\.$'`
const nameIn = (what: SQL) => sql`substring(${what} from '^Took “(.*)”\\.$')`
/** Lines of before had words alone. Code and values of those that something is done by later: a take's. */
export const codeOf = (what: SQL) => sql`case when ${tellsTake(what)} then 'log.take.saved' end`
export const valuesOf = (what: SQL) =>
  sql`case when ${tellsTake(what)} then jsonb_build_object('name', ${nameIn(what)}) end`
