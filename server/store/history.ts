import { and, desc, eq, ne, or, like } from 'drizzle-orm'
import { asChange } from './actor'
import { database } from './client'
import { changes } from './schema'

/** The newest changes of settings, drafts and what devices hold, newest first. */
export async function settingsHistory(site: string, limit: number) {
  const isSetting = or(like(changes.document, 'settings/%'), like(changes.document, 'held/%'))
  const rows = await database().select().from(changes)
    .where(and(eq(changes.siteId, site), isSetting, ne(changes.path, '')))
    .orderBy(desc(changes.number)).limit(limit)
  return rows.map(asChange)
}
