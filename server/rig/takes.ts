import { and, eq, sql } from 'drizzle-orm'
import { devicesOnPath, sourceOutputs, type PathSettings, type Rig } from '../../core/rig'
import type { TakeInfo } from '../../core/formats/take'
import { database } from '../db/client'
import { writeLog } from '../db/log'
import { loadSite, takeRecord, type TakeRecord } from '../db/sites'
import { takes } from '../db/schema'
import { tell } from '../live/channel'
import { touch } from './held'

export type KeepAnswer = { status: 'missing', what: string } | { status: 'moved', why: string } | { status: 'kept', take: TakeRecord }

/**
 * Stores one take whole, with the settings that the devices on its path held while it was measured. Refused when those have
 * changed since: a curve must never be filed under settings it was not made with.
 */
export async function keepTake(siteId: string, cell: { source: string, position: string }, info: TakeInfo, data: Buffer, who: string): Promise<KeepAnswer> {
  const site = await loadSite(siteId)
  if (!site) return { status: 'missing', what: `site “${siteId}”` }
  const source = site.sources.find(s => s.id === cell.source), position = site.positions.find(p => p.id === cell.position)
  if (!source) return { status: 'missing', what: `source “${cell.source}” in ${site.name}` }
  if (!position) return { status: 'missing', what: `position “${cell.position}” in ${site.name}` }
  const rig: Rig = { wires: site.plan.wires, devices: Object.fromEntries(site.devices.map(d => [d.id, { capability: d.capability, settings: d.held ?? d.draft }])) }
  const onPath = devicesOnPath(rig, site.plan.feed, sourceOutputs(source))
  const moved = onPath.filter(id => info.revisions[id] !== site.devices.find(d => d.id === id)!.revision)
  if (moved.length) {
    const names = moved.map(id => site.devices.find(d => d.id === id)!.name).join(' and ')
    return { status: 'moved', why: `The settings of ${names} changed while this was measured. Nothing was kept: let the average settle and take it again.` }
  }
  const settings: PathSettings = Object.fromEntries(onPath.map(id => [id, rig.devices[id]!.settings]))
  const geometry = { cabinets: source.elements.map(e => e.place), microphone: position.place }
  const record = await database().transaction(async (tx) => {
    const [count] = await tx.select({ n: sql<number>`count(*)::int` }).from(takes).where(and(eq(takes.siteId, siteId), eq(takes.sourceId, source.id), eq(takes.positionId, position.id)))
    const [row] = await tx.insert(takes).values({
      siteId, sourceId: source.id, positionId: position.id, name: `${source.name} · ${position.name} ${count!.n + 1}`, info: { ...info, geometry }, feed: site.plan.feed, settings, data, who,
    }).returning()
    await touch(tx, siteId)
    const { siteId: _, data: __, ...rest } = row!
    return takeRecord(rest)
  })
  await writeLog(siteId, who, `Took “${record.name}”.`)
  tell(siteId, { type: 'take', take: record })
  return { status: 'kept', take: record }
}

/** Bytes of a take (see core/formats/take), or null. */
export async function takeData(siteId: string, takeId: string): Promise<Buffer | null> {
  const [row] = await database().select({ data: takes.data }).from(takes).where(and(eq(takes.siteId, siteId), eq(takes.id, takeId)))
  return row?.data ?? null
}
