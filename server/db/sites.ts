import { and, asc, desc, eq, isNull, sql } from 'drizzle-orm'
import { movedParts, sourceOutputs, staleness } from '../../core/rig'
import type { Endpoint, PathSettings, Rig, Position, Settings, Capability, SitePlan, Source } from '../../core/rig'
import type { TakeInfo } from '../../core/formats/take'
import { ropewalkDevices } from '../../standins/ropewalk/devices'
import { ropewalk } from '../../standins/ropewalk/site'
import { database, type Database, type Transaction } from './client'
import { devices, log, positions, sites, sources, takes } from './schema'

export interface DeviceRecord {
  id: string
  name: string
  address: string
  capability: Capability
  draft: Settings
  held: Settings | null
  revision: number
}
export interface TakeRecord {
  id: string
  sourceId: string
  positionId: string
  name: string
  info: TakeInfo
  feed: Endpoint
  settings: PathSettings
  who: string
  at: string
  note: string
  hue: number | null
  /** dB added for viewing. */ offset: number
  /** Seconds taken out for viewing. */ shift: number
  /** Place in its cell's list; null: by its time. */ place: number | null
}

/** All that a page needs to open a site; curves are fetched take by take. */
export interface SiteSnapshot {
  id: string
  name: string
  plan: SitePlan
  sources: Source[]
  positions: Position[]
  devices: DeviceRecord[]
  takes: TakeRecord[]
}

/** What a new site is made of. */
export interface NewSite {
  id: string
  name: string
  plan: SitePlan
  sources: Source[]
  positions: Position[]
  devices: Pick<DeviceRecord, 'id' | 'name' | 'address' | 'capability' | 'draft'>[]
}

/** The simulated devices, as every new site gets them until it has its own. */
export const simulatedRig = (): NewSite['devices'] =>
  ropewalkDevices.map(d => ({
    id: d.id,
    name: d.name,
    address: `standin:${d.id}`,
    capability: d.capability,
    draft: d.delivered,
  }))

export async function insertSite(tx: Transaction, { id, name, plan, ...parts }: NewSite) {
  await tx.insert(sites).values({ id, name, plan })
  if (parts.sources.length)
    await tx.insert(sources).values(parts.sources.map((s, order) => ({ ...s, siteId: id, order })))
  if (parts.positions.length)
    await tx.insert(positions).values(parts.positions.map((p, order) => ({ ...p, siteId: id, order })))
  if (parts.devices.length)
    await tx.insert(devices).values(parts.devices.map((d, order) => ({ ...d, siteId: id, order })))
}

/** Puts Ropewalk Hall into an empty database, whole or not at all. */
export async function seedDemo() {
  await database().transaction(async (tx) => {
    await tx.execute(sql`lock table ${sites} in exclusive mode`)
    if ((await tx.select({ id: sites.id }).from(sites).limit(1)).length) return
    const { id, name, plan } = ropewalk
    await insertSite(tx, {
      id,
      name,
      plan,
      sources: ropewalk.sources,
      positions: ropewalk.positions,
      devices: simulatedRig(),
    })
    await tx.insert(log).values({ siteId: id, who: 'Kovrin', what: 'Ropewalk Hall was set up as the demo site.' })
  })
}

/** Every site with what a picture of its plan needs, newest work first. */
export async function listSites() {
  return database()
    .select({
      id: sites.id,
      name: sites.name,
      touchedAt: sites.touchedAt,
      archived: sites.archived,
      plan: sites.plan,
      sources: sql<
        Pick<Source, 'hue' | 'elements'>[]
      >`(select coalesce(json_agg(json_build_object('hue', s.hue, 'elements', s.elements)), '[]') from sources s where s.site_id = ${sites}.id)`,
      positions: sql<
        Position['place'][]
      >`(select coalesce(json_agg(p.place), '[]') from positions p where p.site_id = ${sites}.id)`,
    })
    .from(sites)
    .where(isNull(sites.deletedAt))
    .orderBy(desc(sites.touchedAt))
}
export type SiteRow = Awaited<ReturnType<typeof listSites>>[number]

/**
 * How much of a site's ledger is measured and still true: cells by the state of their newest take. Null when
 * there is no such site.
 */
export async function ledgerOf(
  siteId: string,
): Promise<{ cells: number, fresh: number, stale: number, takes: number } | null> {
  const site = await loadSite(siteId)
  if (!site) return null
  const rig: Rig = {
    wires: site.plan.wires,
    devices: Object.fromEntries(
      site.devices.map(d => [d.id, { capability: d.capability, settings: d.held ?? d.draft }]),
    ),
  }
  const newest = new Map(site.takes.map(t => [`${t.sourceId}/${t.positionId}`, t])) // takes come oldest first
  let stale = 0
  for (const take of newest.values()) {
    const source = site.sources.find(s => s.id === take.sourceId)!
    const position = site.positions.find(p => p.id === take.positionId)!
    const moved = take.info.geometry
      ? movedParts(take.info.geometry, source, position)
      : { source: false, position: false }
    if (moved.source || moved.position || staleness(rig, take.settings, take.feed, sourceOutputs(source)).length)
      stale++
    await new Promise(setImmediate) // a long list must not hold up the server
  }
  return {
    cells: site.sources.length * site.positions.length,
    fresh: newest.size - stale,
    stale,
    takes: site.takes.length,
  }
}

export const takeColumns = {
  id: takes.id,
  sourceId: takes.sourceId,
  positionId: takes.positionId,
  name: takes.name,
  info: takes.info,
  feed: takes.feed,
  settings: takes.settings,
  who: takes.who,
  at: takes.at,
  note: takes.note,
  hue: takes.hue,
  offset: takes.offset,
  shift: takes.shift,
  place: takes.place,
}

export const takeRecord = (row: Omit<TakeRecord, 'at'> & { at: Date }): TakeRecord => ({
  ...row,
  at: row.at.toISOString(),
})

/** The plan of a site with what stands in it, or null when there is none of that name. */
export async function readPlan(siteId: string, db: Database | Transaction = database()) {
  const [site] = await db.select().from(sites).where(eq(sites.id, siteId))
  if (!site || site.deletedAt) return null
  const sourceRows = await db.select().from(sources).where(eq(sources.siteId, siteId)).orderBy(asc(sources.order))
  const positionRows = await db
    .select()
    .from(positions)
    .where(eq(positions.siteId, siteId))
    .orderBy(asc(positions.order))
  return {
    name: site.name,
    plan: site.plan,
    sources: sourceRows.map(({ id, name, hue, elements }) => ({ id, name, hue, elements })),
    positions: positionRows.map(({ id, name, place, weight, dash }) => ({ id, name, place, weight, dash })),
  }
}

/** A site as a page opens it, or null when there is none of that name. */
export async function loadSite(siteId: string): Promise<SiteSnapshot | null> {
  const db = database()
  const plan = await readPlan(siteId)
  if (!plan) return null
  const [deviceRows, takeRows] = await Promise.all([
    db.select().from(devices).where(eq(devices.siteId, siteId)).orderBy(asc(devices.order)),
    db
      .select(takeColumns)
      .from(takes)
      .where(and(eq(takes.siteId, siteId), isNull(takes.deletedAt)))
      .orderBy(asc(takes.at)),
  ])
  return {
    id: siteId,
    ...plan,
    devices: deviceRows.map(({ id, name, address, capability, draft, held, revision }) => ({
      id,
      name,
      address,
      capability,
      draft,
      held,
      revision,
    })),
    takes: takeRows.map(takeRecord),
  }
}
