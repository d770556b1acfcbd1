import { and, eq, sql } from 'drizzle-orm'
import {
  differences,
  readParameter,
  sameValue,
  writeParameter,
  type Capability,
  type ParameterPath,
  type ParameterValue,
  type Settings,
} from '../../core/rig'
import { database, type Transaction } from '../db/client'
import { devices, settingHistory, sites } from '../db/schema'
import { tell } from '../live/channel'

/** The device's row, locked until the transaction ends, so that two changes never overtake one another. */
export async function lockDevice(tx: Transaction, siteId: string, deviceId: string) {
  const [row] = await tx
    .select()
    .from(devices)
    .where(and(eq(devices.siteId, siteId), eq(devices.id, deviceId)))
    .for('update')
  return row
}

/**
 * Lets this transaction's commit return before the disk has it. Only for values that a device holds too: after
 * a power cut they
 * are read back from there. Waiting for the disk twice an edit would cost 50 to 200 ms, which is felt under live hands.
 */
export const leaveToDevice = (tx: Transaction) => tx.execute(sql`set local synchronous_commit = off`)

export const touch = (tx: Transaction, siteId: string) =>
  tx
    .update(sites)
    .set({ touchedAt: sql`now()` })
    .where(eq(sites.id, siteId))

type DeviceRow = NonNullable<Awaited<ReturnType<typeof lockDevice>>>

/**
 * Inside a transaction on a locked row: keeps what a device confirmed (`sent`) or what was changed on it
 * (`device`).
 */
export async function keepHeld(
  tx: Transaction,
  row: DeviceRow,
  path: ParameterPath,
  value: ParameterValue,
  kind: 'sent' | 'device',
  who: string,
) {
  if (!row.held) return null
  const { siteId, id } = row
  const old = readParameter(row.held, path)
  // a draft that had no change of its own follows the device
  const follows = kind === 'device' && sameValue(readParameter(row.draft, path), old)
  const draft = follows ? writeParameter(row.draft, path, value) : row.draft
  const revision = row.revision + 1
  await tx
    .update(devices)
    .set({ held: writeParameter(row.held, path, value), draft, revision })
    .where(and(eq(devices.siteId, siteId), eq(devices.id, id)))
  await tx.insert(settingHistory).values({ siteId, deviceId: id, path, old, new: value, kind, who })
  return { type: 'held' as const, device: id, path, value, revision, draft: follows ? draft : null }
}

/** The same in a transaction of its own, told to every page. */
export async function recordHeld(
  siteId: string,
  deviceId: string,
  path: ParameterPath,
  value: ParameterValue,
  kind: 'sent' | 'device',
  who: string,
) {
  const told = await database().transaction(async (tx) => {
    await leaveToDevice(tx)
    const row = await lockDevice(tx, siteId, deviceId)
    return row ? keepHeld(tx, row, path, value, kind, who) : null
  })
  if (told) tell(siteId, told)
}

/**
 * Keeps a whole reading of a device, as on connecting: differences from what it held go into the history one by
 * one.
 */
export async function recordRead(siteId: string, deviceId: string, capability: Capability, settings: Settings) {
  const told = await database().transaction(async (tx) => {
    const row = await lockDevice(tx, siteId, deviceId)
    if (!row) return null
    const changed = row.held ? differences(capability, row.held, settings) : []
    if (row.held && !changed.length) return { draft: row.draft, revision: row.revision }
    const draft = row.held
      ? changed.reduce(
          (now, d) => (sameValue(readParameter(now, d.path), d.from) ? writeParameter(now, d.path, d.to) : now),
          row.draft,
        )
      : settings
    const revision = row.revision + 1
    await tx
      .update(devices)
      .set({ capability, held: settings, draft, revision })
      .where(and(eq(devices.siteId, siteId), eq(devices.id, deviceId)))
    if (changed.length)
      await tx
        .insert(settingHistory)
        .values(
          changed.map(d => ({
            siteId,
            deviceId,
            path: d.path,
            old: d.from,
            new: d.to,
            kind: 'device' as const,
            who: 'At the device',
          })),
        )
    return { draft, revision }
  })
  if (told) tell(siteId, { type: 'device', device: deviceId, held: settings, ...told })
}
