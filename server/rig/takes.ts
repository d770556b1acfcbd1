import { and, eq, sql } from 'drizzle-orm'
import * as v from 'valibot'
import { devicesOnPath, sourceOutputs, type PathSettings, type Rig } from '../../core/rig'
import type { TakeInfo } from '../../core/formats/take'
import { recordChange } from '../db/changes'
import { database } from '../db/client'
import { writeLog } from '../db/log'
import { loadSite, takeColumns, takeRecord, type TakeRecord } from '../db/sites'
import { takes } from '../db/schema'
import { tell } from '../live/channel'
import { touch } from './held'

export type KeepAnswer
  = { status: 'missing', what: string } | { status: 'moved', why: string } | { status: 'kept', take: TakeRecord }

/**
 * Stores one take whole, with the settings that the devices on its path held while it was measured. Refused
 * when those have
 * changed since: a curve must never be filed under settings it was not made with.
 */
export async function keepTake(
  siteId: string,
  cell: { source: string, position: string },
  info: TakeInfo,
  data: Buffer,
  who: string,
  name?: string,
): Promise<KeepAnswer> {
  const site = await loadSite(siteId)
  if (!site) return { status: 'missing', what: `site “${siteId}”` }
  const source = site.sources.find(s => s.id === cell.source)
  const position = site.positions.find(p => p.id === cell.position)
  if (!source) return { status: 'missing', what: `source “${cell.source}” in ${site.name}` }
  if (!position) return { status: 'missing', what: `position “${cell.position}” in ${site.name}` }
  const rig: Rig = {
    wires: site.plan.wires,
    devices: Object.fromEntries(
      site.devices.map(d => [d.id, { capability: d.capability, settings: d.held ?? d.draft }]),
    ),
  }
  // what was not measured now has nothing to do with the settings of now
  const onPath
    = info.method === 'import' || info.method === 'average'
      ? []
      : devicesOnPath(rig, site.plan.feed, sourceOutputs(source))
  const moved = onPath.filter(id => info.revisions[id] !== site.devices.find(d => d.id === id)!.revision)
  if (moved.length) {
    const names = moved.map(id => site.devices.find(d => d.id === id)!.name).join(' and ')
    return {
      status: 'moved',
      why: `The settings of ${names} changed while this was measured. Nothing was kept: let the average settle and `
        + `take it again.`,
    }
  }
  const settings: PathSettings = Object.fromEntries(onPath.map(id => [id, rig.devices[id]!.settings]))
  const geometry
    = info.method === 'import' || info.method === 'average'
      ? undefined
      : { cabinets: source.elements.map(e => e.place), microphone: position.place }
  const record = await database().transaction(async (tx) => {
    const [count] = await tx
      .select({ n: sql<number>`count(*)::int` })
      .from(takes)
      .where(and(eq(takes.siteId, siteId), eq(takes.sourceId, source.id), eq(takes.positionId, position.id)))
    const [row] = await tx
      .insert(takes)
      .values({
        siteId,
        sourceId: source.id,
        positionId: position.id,
        name: name ?? `${source.name} · ${position.name} ${count!.n + 1}`,
        info: geometry ? { ...info, geometry } : info,
        feed: site.plan.feed,
        settings,
        data,
        who,
      })
      .returning()
    await recordChange(
      tx,
      siteId,
      { what: 'take', key: row!.id, old: { deleted: true }, new: { deleted: false } },
      who,
    )
    await touch(tx, siteId)
    const { siteId: _, data: __, deletedAt: ___, ...rest } = row!
    return takeRecord(rest)
  })
  await writeLog(siteId, who, `Took “${record.name}”.`)
  tell(siteId, { type: 'take', take: record })
  return { status: 'kept', take: record }
}

/** Bytes of a take (see core/formats/take), or null. */
export async function takeData(siteId: string, takeId: string): Promise<Buffer | null> {
  const [row] = await database()
    .select({ data: takes.data })
    .from(takes)
    .where(and(eq(takes.siteId, siteId), eq(takes.id, takeId)))
  return row?.data ?? null
}

export const TakeChange = v.strictObject({
  name: v.optional(v.pipe(v.string(), v.trim(), v.minLength(1, 'A take needs a name'), v.maxLength(120))),
  note: v.optional(v.pipe(v.string(), v.maxLength(2000))),
  hue: v.optional(v.nullable(v.pipe(v.number(), v.integer(), v.minValue(0), v.maxValue(7)))),
  offset: v.optional(v.pipe(v.number(), v.minValue(-120), v.maxValue(120))),
  shift: v.optional(v.pipe(v.number(), v.minValue(-5), v.maxValue(5))),
  place: v.optional(v.nullable(v.pipe(v.number(), v.finite()))),
  deleted: v.optional(v.boolean()),
})
export type TakeChange = v.InferOutput<typeof TakeChange>

/**
 * Renames, colours, moves, deletes or brings back a take; null when there is none. A deleted take keeps its
 * data. `record`: it can be taken back.
 */
export async function changeTake(
  siteId: string,
  takeId: string,
  change: TakeChange,
  who: string,
  record = true,
): Promise<TakeRecord | null> {
  const { deleted, ...fields } = change
  const row = await database().transaction(async (tx) => {
    const at = and(eq(takes.siteId, siteId), eq(takes.id, takeId))
    const [before] = await tx
      .select({ ...takeColumns, deletedAt: takes.deletedAt })
      .from(takes)
      .where(at)
      .for('update')
    if (!before) return null
    const old = Object.fromEntries(
      Object.keys(change).map(k => [
        k,
        k === 'deleted' ? before.deletedAt !== null : before[k as keyof typeof fields],
      ]),
    )
    const [after] = await tx
      .update(takes)
      .set({ ...fields, ...(deleted === undefined ? {} : { deletedAt: deleted ? new Date() : null }) })
      .where(at)
      .returning({ ...takeColumns })
    if (record && JSON.stringify(old) !== JSON.stringify(change))
      await recordChange(tx, siteId, { what: 'take', key: takeId, old, new: change }, who)
    return after!
  })
  if (!row) return null
  const changed = takeRecord(row)
  if (deleted !== undefined)
    await writeLog(siteId, who, `${deleted ? 'Deleted' : 'Brought back'} the take “${changed.name}”.`)
  tell(siteId, deleted ? { type: 'take-gone', id: takeId } : { type: 'take', take: changed })
  return changed
}

/** A second take of the same data, to be worked on apart. Null when there is none. */
export async function duplicateTake(siteId: string, takeId: string, who: string): Promise<TakeRecord | null> {
  const [row] = await database()
    .select()
    .from(takes)
    .where(and(eq(takes.siteId, siteId), eq(takes.id, takeId)))
  if (!row || row.deletedAt) return null
  const { id: _, ...rest } = row
  const made = await database().transaction(async (tx) => {
    const [copy] = await tx
      .insert(takes)
      .values({ ...rest, name: `${row.name} copy`.slice(0, 120), who })
      .returning({ ...takeColumns })
    await recordChange(
      tx,
      siteId,
      { what: 'take', key: copy!.id, old: { deleted: true }, new: { deleted: false } },
      who,
    )
    return copy
  })
  const record = takeRecord(made!)
  tell(siteId, { type: 'take', take: record })
  return record
}
