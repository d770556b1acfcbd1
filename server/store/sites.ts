import { randomUUID } from 'node:crypto'
import { desc, eq, sql } from 'drizzle-orm'
import * as v from 'valibot'
import {
  allOf,
  contentOf,
  currentVersion,
  movedParts,
  openFindings,
  rigOf,
  siteFileChecks,
  siteUpgrade,
  tellsCell,
  type Documents,
  type Tools,
} from '../../core/documents'
import { isStale, Snapshot, staleness, type Capability, type Then } from '../../core/rig'
import type { LedgerAnswer } from '../../core/contract'
import { inTurns, turn } from '../utils/turns'
import { actorOf } from './actor'
import { database, type Database, type Transaction } from './client'
import { keepContents, readContents } from './contents'
import { demoSites, simulatedRack } from './demo'
import type { Asker } from './edits'
import { hashOf } from './hash'
import { writeLog } from './log'
import { documents, log, sites, takeData } from './schema'
import { templateDocuments, type TemplateId } from './templates'
import { message } from '../../core/words'
import { say } from '../../core/words/say'

/** What core needs from outside to bring an older site up to date. */
export const tools: Tools = {
  hashOf,
  newId: randomUUID,
  bytesOf: base64 => Buffer.from(base64, 'base64'),
  base64Of: bytes => Buffer.from(bytes).toString('base64'),
}

/** Stores documents as a new site. */
export async function insertSite(tx: Database | Transaction, id: string, content: Documents, touchedAt?: Date) {
  await tx.insert(sites).values({ id, version: currentVersion, ...(touchedAt ? { touchedAt } : {}) })
  const rows = Object.entries(content).map(([key, value]) => ({ siteId: id, key, content: value }))
  for (let at = 0; at < rows.length; at += 50) await tx.insert(documents).values(rows.slice(at, at + 50))
}

/** What the list shows of a site: enough to draw its plan. */
const listed = ['site', 'plan', 'area/', 'source/', 'position/']

/** Every site in use (or every deleted one) with what a picture of its plan needs, newest work first. */
export async function listSites(deleted = false) {
  const rows = await database().execute<{ id: string, touched_at: Date | string, content: Documents }>(sql`
    select s.id, s.touched_at, jsonb_object_agg(d.key, d.content) as content
    from ${sites} s join ${documents} d on d.site_id = s.id and (
      d.key in ('site', 'plan') or d.key like 'area/%' or d.key like 'source/%' or d.key like 'position/%')
    group by s.id, s.touched_at order by s.touched_at desc`)
  return rows.rows
    .filter(r => contentOf(r.content, 'site')?.deleted === deleted)
    .map(r => ({
      id: r.id,
      touchedAt: new Date(r.touched_at).toISOString(),
      documents: Object.fromEntries(
        Object.entries(r.content).filter(([key]) => listed.some(l => key.startsWith(l))),
      ),
    }))
}

/** Whether there is a site of that name, deleted or not. */
export const siteExists = async (id: string) =>
  (await database().select({ id: sites.id }).from(sites).where(eq(sites.id, id))).length > 0

/** A site as a page opens it; null where there is none of that name, or it is deleted. */
export async function openSite(id: string): Promise<{ id: string, number: number, documents: Documents } | null> {
  const mirror = await actorOf(id).read()
  if (!mirror || contentOf(mirror.documents, 'site')?.deleted !== false) return null
  return { id, ...mirror }
}

/** Snapshots by their hashes, with their capabilities in place. */
export async function readSnapshots(hashes: readonly string[]): Promise<Map<string, Then>> {
  const found = await readContents([...new Set(hashes)])
  const snapshots = Object.entries(found).flatMap(([hash, content]) => {
    const read = v.safeParse(Snapshot, content)
    return read.success ? [[hash, read.output] as const] : []
  })
  const needed = snapshots.flatMap(([, s]) => Object.values(s.devices).map(d => d.capability))
  const capabilities = await readContents([...new Set(needed)])
  return new Map(
    snapshots.map(([hash, { from, cables, drives, devices }]) => [
      hash,
      {
        from,
        rig: {
          wiring: { cables, drives },
          devices: Object.fromEntries(
            Object.entries(devices).map(([id, { capability, settings }]) => [
              id,
              { capability: capabilities[capability] as Capability, settings },
            ]),
          ),
        },
      },
    ]),
  )
}

/**
 * How much of a site's ledger is measured and still true (cells by the state of their newest take), and what else is
 * open. Null when there is no such site.
 */
export async function ledgerOf(id: string): Promise<LedgerAnswer | null> {
  const site = await openSite(id)
  if (!site) return null
  const now = site.documents
  const takes = allOf(now, 'take')
    .filter(t => !t.deleted)
    .sort((a, b) => (a.at < b.at ? -1 : 1))
  const newest = new Map(takes.filter(tellsCell).map(t => [`${t.source}/${t.position}`, t]))
  const rig = rigOf(now, 'held')
  const snapshots = await readSnapshots([...newest.values()].flatMap(t => t.snapshot ?? []))
  let stale = 0
  for (const take of newest.values()) {
    const source = contentOf(now, 'source', take.source)
    const position = contentOf(now, 'position', take.position)
    const moved = take.geometry && source && position ? movedParts(take.geometry, source, position) : null
    const then = take.snapshot === null ? undefined : snapshots.get(take.snapshot)
    if (moved?.source || moved?.position || (then && isStale(staleness(then, rig, take.source)))) stale++
    await turn() // a long list must not hold up the server
  }
  const cells = allOf(now, 'source').length * allOf(now, 'position').length
  return { cells, fresh: newest.size - stale, stale, takes: takes.length, open: openFindings(now) }
}

/** A site's own key from its name: 'Ropewalk Hall' becomes 'ropewalk-hall-1a2b3c4d'. */
function keyOf(name: string): string {
  const plain = name
    .toLowerCase()
    .normalize('NFKD')
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-|-$/g, '')
    .slice(0, 40)
  return `${plain || 'site'}-${randomUUID().slice(0, 8)}`
}

/**
 * Stores a file of any version as a new site, whole or not at all; gives its key. Throws RangeError with the
 * reason when it cannot be.
 */
export async function importSite(file: unknown, asker: Asker): Promise<string> {
  const read = await inTurns(siteUpgrade(file, tools))
  const checked = await inTurns(siteFileChecks(read, tools))
  const info = contentOf(checked, 'site')!
  const site = { ...info, archived: false, deleted: false }
  const id = keyOf(site.name)
  await database().transaction(async (tx) => {
    await insertSite(tx, id, { ...checked, site })
    await keepContents(tx, read.contents)
    for (const take of allOf(checked, 'take')) {
      await tx
        .insert(takeData)
        .values({ siteId: id, id: take.id, data: Buffer.from(read.data[take.id]!, 'base64') })
    }
  })
  await writeLog(id, asker.who, message('log.site.created', { name: site.name }))
  return id
}

/** A copy of a site with its takes, under another name; links and what devices held stay with the first. */
export async function copySite(from: string, name: string, asker: Asker): Promise<string | null> {
  const mirror = await openSite(from)
  if (!mirror) return null
  const kept = Object.entries(mirror.documents).filter(([key]) => !/^(link|housekeeping)\//.test(key))
  const info = contentOf(mirror.documents, 'site')!
  const id = keyOf(name)
  await database().transaction(async (tx) => {
    const site = { ...info, name, archived: false, deleted: false }
    await insertSite(tx, id, { ...Object.fromEntries(kept), site })
    await tx.execute(sql`
      insert into ${takeData} (site_id, id, data) select ${id}, id, data from ${takeData} where site_id = ${from}`)
  })
  await writeLog(id, asker.who, message('log.site.created', { name }))
  return id
}

/** A new site drawn from a template, without devices or with a simulated rack of its own. */
export async function createSite(
  name: string,
  template: TemplateId,
  rig: 'none' | 'simulated',
  asker: Asker,
): Promise<string> {
  const id = keyOf(name)
  await database().transaction(tx =>
    insertSite(tx, id, { ...templateDocuments(template, name, rig), ...(rig === 'none' ? {} : simulatedRack(id)) }),
  )
  await writeLog(id, asker.who, message('log.site.created', { name }))
  return id
}

/** Every site's key, newest work first. */
export const siteIds = async () =>
  (await database().select({ id: sites.id }).from(sites).orderBy(desc(sites.touchedAt))).map(r => r.id)

const setUp = message('log.site.demo')
/** Puts Ropewalk Hall, untuned and tuned, into an empty database, whole or not at all. */
export async function seedDemo() {
  await database().transaction(async (tx) => {
    await tx.execute(sql`lock table ${sites} in exclusive mode`)
    if ((await tx.select({ id: sites.id }).from(sites).limit(1)).length) return
    const now = Date.now()
    for (const [n, { id, documents: content }] of demoSites.entries())
      await insertSite(tx, id, content, new Date(now + n))
    await tx
      .insert(log)
      .values(demoSites.map(({ id }) => ({ siteId: id, who: 'Kovrin', what: say(setUp)!, ...setUp })))
  })
}
