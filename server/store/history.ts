import { and, asc, desc, eq, inArray, ne, or, like } from 'drizzle-orm'
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

/** Who wrote a value of a draft last. */
export interface DraftAuthor {
  device: string
  path: string
  who: string
  person: string
  at: string
}

/** Who wrote values of drafts last; those that nobody ever changed are left out. */
export async function draftAuthors(
  site: string,
  wanted: readonly { device: string, paths: readonly string[] }[],
): Promise<DraftAuthor[]> {
  if (!wanted.length) return []
  const asked = new Set(wanted.flatMap(({ device, paths }) => paths.map(path => `${device} ${path}`)))
  const { document, path, who, person, at } = changes
  const rows = await database().selectDistinctOn([document, path], { document, path, who, person, at }).from(changes)
    .where(and(
      eq(changes.siteId, site),
      inArray(document, wanted.map(w => `settings/${w.device}`)),
      inArray(path, [...new Set(wanted.flatMap(w => w.paths))]),
    ))
    .orderBy(asc(document), asc(path), desc(changes.number))
  return rows
    .map(r => ({ ...r, device: r.document.slice('settings/'.length), at: r.at.toISOString() }))
    .filter(r => asked.has(`${r.device} ${r.path}`))
    .map(({ document: _, ...rest }) => rest)
}
