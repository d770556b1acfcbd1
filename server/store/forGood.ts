import { and, eq, sql } from 'drizzle-orm'
import { contentOf } from '../../core/documents'
import { message, type Code, type Message } from '../../core/words'
import { actorOf, renewSite, type Outcome } from './actor'
import { sharedOf } from './backup'
import { database, type Transaction } from './client'
import { byHand, type Asker } from './edits'
import { changes, log, sites, takeData } from './schema'

// What is deleted for good is nowhere any more: not in the history, not in what takes share. Only what was put aside
// before can go.

/** Takes away shared contents that no take of any site, or of its history, names any more. */
async function dropUnused(tx: Transaction) {
  // whoever keeps a take at this moment is done before, or waits
  await tx.execute(sql`lock table contents in exclusive mode`)
  await tx.execute(sql`delete from contents where hash not in (${sharedOf(sql`is not null`)})`)
}

/** What the log tells of a take. */
const saved: Code = 'log.take.saved'

export type Gone = { ok: true } | { ok: false, status: 'missing' | 'refused', why: Message }

/** Deletes a site that was put aside, with everything that it ever had. */
export async function deleteSite(site: string): Promise<Gone> {
  const mirror = await actorOf(site).read()
  const info = mirror && contentOf(mirror.documents, 'site')
  if (!info) return { ok: false, status: 'missing', why: message('site.noSuch') }
  if (!info.deleted)
    return { ok: false, status: 'refused', why: message('site.inUse', { name: info.name }) }
  const gone = await database().transaction(async (tx) => {
    const still = sql`exists (select 1 from documents d where d.site_id = ${sites.id} and d.key = 'site'
      and d.content->>'deleted' = 'true')`
    const rows = await tx.delete(sites).where(and(eq(sites.id, site), still)).returning({ id: sites.id })
    await dropUnused(tx)
    return rows.length > 0
  })
  await renewSite(site)
  return gone ? { ok: true } : { ok: false, status: 'refused', why: message('site.broughtBack') }
}

/** Deletes a take that is out of the ledger: its bytes, and what the history says of it. */
export async function deleteTake(site: string, id: string, asker: Asker): Promise<Outcome> {
  const document = `take/${id}`
  return actorOf(site).do((now) => {
    const take = contentOf(now, 'take', id)
    if (contentOf(now, 'site')?.deleted !== false)
      return { ok: false, status: 'missing', why: message('site.noSuch') }
    if (!take) return { ok: false, status: 'missing', why: message('take.noSuch') }
    if (!take.deleted) return { ok: false, status: 'refused', why: message('take.inLedger', { name: take.name }) }
    return {
      ok: true,
      hand: 'server',
      parts: [{ edits: [{ document, path: '', old: take }], doing: byHand(asker, null, false) }],
      also: async (tx) => {
        await tx.delete(takeData).where(and(eq(takeData.siteId, site), eq(takeData.id, id)))
        await tx.execute(sql`
          delete from ${log} where site_id = ${site} and code = ${saved} and "values"->>'name' in (select name from (
            select value->'new'->>'name' as name from ${changes} where site_id = ${site} and document = ${document}
            union select value->>side from ${changes}, unnest(array['old', 'new']) side
              where site_id = ${site} and document = ${document} and path = '/name') names)`)
        // the numbers stay, so that whoever follows misses none; what they told of does not
        await tx.update(changes).set({ path: '', value: {}, undo: 'gone' })
          .where(and(eq(changes.siteId, site), eq(changes.document, document)))
        await dropUnused(tx)
      },
    }
  })
}
