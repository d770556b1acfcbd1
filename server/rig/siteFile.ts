import { randomUUID } from 'node:crypto'
import { eq } from 'drizzle-orm'
import * as v from 'valibot'
import { Capability, Endpoint, planFaults, Position, Settings, SiteName, SitePlan, Source } from '../../core/rig'
import { decodeTake, TakeInfo } from '../../core/formats/take'
import { database } from '../db/client'
import { writeLog } from '../db/log'
import { insertSite, loadSite, simulatedRig, type NewSite } from '../db/sites'
import { sites, takes } from '../db/schema'
import { startLinks } from '../links/links'
import { templates, type TemplateId } from './templates'

/** A whole site as one file (docs/formats.md); takes carry their data (core/formats/take) as base64. */
export const SiteFile = v.strictObject({
  format: v.literal('kovrin-site'),
  version: v.literal(1),
  name: SiteName,
  plan: SitePlan,
  sources: v.pipe(v.array(Source), v.maxLength(500)),
  positions: v.pipe(v.array(Position), v.maxLength(2000)),
  devices: v.pipe(
    v.array(
      v.strictObject({
        id: v.string(),
        name: v.string(),
        address: v.string(),
        capability: Capability,
        draft: Settings,
      }),
    ),
    v.maxLength(200),
  ),
  takes: v.pipe(
    v.array(
      v.strictObject({
        source: v.string(),
        position: v.string(),
        name: v.string(),
        info: TakeInfo,
        feed: Endpoint,
        settings: v.record(v.string(), Settings),
        who: v.string(),
        at: v.pipe(v.string(), v.isoTimestamp()),
        note: v.optional(v.string(), ''),
        hue: v.optional(v.nullable(v.pipe(v.number(), v.integer())), null),
        offset: v.optional(v.number(), 0),
        shift: v.optional(v.number(), 0),
        place: v.optional(v.nullable(v.number()), null),
        data: v.pipe(v.string(), v.base64()),
      }),
    ),
    v.maxLength(5000),
  ),
})
export type SiteFile = v.InferOutput<typeof SiteFile>

/** A site's own key from its name: 'Ropewalk Hall' becomes 'ropewalk-hall-1a2b'. */
const keyOf = (name: string) =>
  `${
    name
      .toLowerCase()
      .normalize('NFKD')
      .replace(/[^a-z0-9]+/g, '-')
      .replace(/^-|-$/g, '')
      .slice(0, 40) || 'site'
  }-${randomUUID().slice(0, 4)}`

export async function exportSite(siteId: string): Promise<SiteFile | null> {
  const site = await loadSite(siteId)
  if (!site) return null
  const rows = await database()
    .select({ id: takes.id, data: takes.data })
    .from(takes)
    .where(eq(takes.siteId, siteId))
  const data = new Map(rows.map(r => [r.id, r.data.toString('base64')]))
  return {
    format: 'kovrin-site',
    version: 1,
    name: site.name,
    plan: site.plan,
    sources: site.sources,
    positions: site.positions,
    devices: site.devices.map(({ id, name, address, capability, draft }) => ({
      id,
      name,
      address,
      capability,
      draft,
    })),
    takes: site.takes.map(t => ({
      source: t.sourceId,
      position: t.positionId,
      name: t.name,
      info: t.info,
      feed: t.feed,
      settings: t.settings,
      who: t.who,
      at: t.at,
      note: t.note,
      hue: t.hue,
      offset: t.offset,
      shift: t.shift,
      place: t.place,
      data: data.get(t.id)!,
    })),
  }
}

/**
 * Stores a file as a new site, whole or not at all; gives its key. Throws RangeError with the reason when the
 * file contradicts itself.
 */
export async function importSite(file: SiteFile, who: string): Promise<string> {
  const faults = planFaults(file.plan, file.sources, file.positions)
  if (faults.length) throw new RangeError(faults.join(' '))
  const bytes = file.takes.map((t) => {
    if (!file.sources.some(s => s.id === t.source) || !file.positions.some(p => p.id === t.position))
      throw new RangeError(`The take “${t.name}” belongs to a source or position that the file does not have.`)
    const data = Buffer.from(t.data, 'base64')
    decodeTake(data)
    return data
  })
  return create(
    {
      id: keyOf(file.name),
      name: file.name,
      plan: file.plan,
      sources: file.sources,
      positions: file.positions,
      devices: file.devices,
    },
    who,
    file.takes.map((t, k) => ({ ...t, data: bytes[k]! })),
  )
}

/** A new site drawn from a template, with the simulated rig until it has its own devices. */
export const createSite = (name: string, template: TemplateId, who: string): Promise<string> =>
  create({ id: keyOf(name), name, ...templates[template].site, devices: simulatedRig() }, who, [])

async function create(
  site: NewSite,
  who: string,
  kept: (Omit<SiteFile['takes'][number], 'data'> & { data: Buffer })[],
): Promise<string> {
  await database().transaction(async (tx) => {
    await insertSite(tx, site)
    for (const t of kept)
      await tx
        .insert(takes)
        .values({
          siteId: site.id,
          sourceId: t.source,
          positionId: t.position,
          name: t.name,
          info: t.info,
          feed: t.feed,
          settings: t.settings,
          data: t.data,
          who: t.who,
          at: new Date(t.at),
          note: t.note,
          hue: t.hue,
          offset: t.offset,
          shift: t.shift,
          place: t.place,
        })
  })
  await startLinks(site.id)
  await writeLog(site.id, who, `Made the site “${site.name}”.`)
  return site.id
}

/**
 * Renames, archives, deletes or brings back a site; false when there is none. A deleted site keeps everything
 * until it is brought back.
 */
export async function changeSite(
  siteId: string,
  change: { name?: string, archived?: boolean, deleted?: boolean },
): Promise<boolean> {
  const { deleted, ...rest } = change
  const rows = await database()
    .update(sites)
    .set({ ...rest, ...(deleted === undefined ? {} : { deletedAt: deleted ? new Date() : null }) })
    .where(eq(sites.id, siteId))
    .returning({ id: sites.id })
  return rows.length > 0
}
