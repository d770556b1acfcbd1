import { randomUUID } from 'node:crypto'
import { and, eq } from 'drizzle-orm'
import {
  differences,
  holdParameter,
  parameterName,
  readParameter,
  sameValue,
  writeParameter,
  type ParameterPath,
  type ParameterValue,
} from '../../core/rig'
import { recordChange } from '../db/changes'
import { database } from '../db/client'
import { devices, settingHistory } from '../db/schema'
import { DeviceRefusal, type DeviceConnection } from '../links/driver'
import { linkOf } from '../links/links'
import { tell, type SiteEvent } from '../live/channel'
import { keepHeld, leaveToDevice, lockDevice, recordHeld, touch } from './held'

export type EditAnswer
  = | { status: 'missing' }
    | { status: 'refused', why: string }
    | { status: 'overtaken', why: string, value: ParameterValue }
    | { status: 'kept', value: ParameterValue, sent: boolean, why: string | null }

/** `gesture` joins edits that are taken back together; null keeps the edit out of what can be taken back. */
export interface Edit {
  path: ParameterPath
  old: ParameterValue
  new: unknown
  live: boolean
  gesture?: string | null
}

/**
 * One change of one parameter by one person: checked against the device's limits and against the value that the
 * person saw,
 * kept in the draft with its history, and in live mode sent on to the device and kept as it confirms it, all in
 * one transaction.
 */
export async function applyEdit(siteId: string, deviceId: string, edit: Edit, who: string): Promise<EditAnswer> {
  const connection = edit.live ? (linkOf(siteId, deviceId)?.connection ?? null) : null
  const events: SiteEvent[] = []
  const answer = await database().transaction(async (tx): Promise<EditAnswer> => {
    if (connection) await leaveToDevice(tx)
    const row = await lockDevice(tx, siteId, deviceId)
    if (!row) return { status: 'missing' }
    const wish = holdParameter(row.capability, edit.path, edit.new)
    if (!wish.ok) return { status: 'refused', why: wish.why }
    const { value } = wish
    const current = readParameter(row.draft, edit.path)
    if (!sameValue(current, edit.old))
      return { status: 'overtaken', why: `${parameterName(edit.path)} was changed meanwhile.`, value: current }
    if (!sameValue(current, value)) {
      row.draft = writeParameter(row.draft, edit.path, value)
      await tx
        .update(devices)
        .set({ draft: row.draft })
        .where(and(eq(devices.siteId, siteId), eq(devices.id, deviceId)))
      await tx
        .insert(settingHistory)
        .values({ siteId, deviceId, path: edit.path, old: current, new: value, kind: 'edit', who })
      if (edit.gesture !== null)
        await recordChange(
          tx,
          siteId,
          { what: 'setting', key: `${deviceId}${edit.path}`, old: current, new: value, gesture: edit.gesture },
          who,
        )
      await touch(tx, siteId)
    }
    events.push({ type: 'draft', device: deviceId, path: edit.path, value, who })
    if (!edit.live) return { status: 'kept', value, sent: false, why: null }
    const sent = await writeToDevice(connection, edit.path, value)
    if (!sent.ok) return { status: 'kept', value, sent: false, why: sent.why }
    const told = await keepHeld(tx, row, edit.path, sent.value, 'sent', who)
    if (told) events.push(told)
    return { status: 'kept', value, sent: true, why: null }
  })
  for (const event of events) tell(siteId, event)
  return answer
}

/** Sends one value; gives what the device confirms, or the reason why it is not there. */
async function writeToDevice(
  connection: DeviceConnection | null | undefined,
  path: ParameterPath,
  value: ParameterValue,
): Promise<{ ok: true, value: ParameterValue } | { ok: false, why: string }> {
  if (!connection) return { ok: false, why: 'The device is not connected: the change is kept as a draft.' }
  try {
    return { ok: true, value: await connection.write(path, value) }
  }
  catch (error) {
    return {
      ok: false,
      why:
        error instanceof DeviceRefusal
          ? `The device refused: ${error.message}`
          : 'The device was lost while sending: the change is kept as a draft.',
    }
  }
}

export interface SendReport {
  sent: ParameterPath[]
  left: { path: ParameterPath, why: string }[]
}

/**
 * Writes every unsent value of a device, in order, then reads it back whole. What cannot be sent stays in the
 * draft.
 */
export async function sendDraft(siteId: string, deviceId: string, who: string): Promise<SendReport | null> {
  const [row] = await database()
    .select()
    .from(devices)
    .where(and(eq(devices.siteId, siteId), eq(devices.id, deviceId)))
  if (!row) return null
  const unsent = row.held ? differences(row.capability, row.held, row.draft) : []
  const report: SendReport = { sent: [], left: [] }
  for (const { path, to } of unsent) {
    const sent = await writeToDevice(linkOf(siteId, deviceId)?.connection, path, to)
    if (!sent.ok) {
      report.left.push({ path, why: sent.why })
      continue
    }
    await recordHeld(siteId, deviceId, path, sent.value, 'sent', who)
    report.sent.push(path)
  }
  const connection = linkOf(siteId, deviceId)?.connection
  if (!connection || !report.sent.length) return report
  try {
    const { settings } = await connection.read()
    const wrong = report.sent.filter(
      path => !sameValue(readParameter(settings, path), unsent.find(d => d.path === path)!.to),
    )
    report.sent = report.sent.filter(path => !wrong.includes(path))
    report.left.push(...wrong.map(path => ({ path, why: 'The device reads back another value.' })))
  }
  catch (error) {
    report.left.push(
      ...report.sent.map(path => ({ path, why: `Sent, but not read back: ${(error as Error).message}.` })),
    )
    report.sent = []
  }
  return report
}

/**
 * Lets the draft of a device go: every unsent value becomes what the device holds. Null when there is no such
 * device.
 */
export async function dropDraft(siteId: string, deviceId: string, who: string): Promise<ParameterPath[] | null> {
  const told = await database().transaction(async (tx) => {
    const row = await lockDevice(tx, siteId, deviceId)
    if (!row) return null
    const unsent = row.held ? differences(row.capability, row.draft, row.held) : []
    if (unsent.length) {
      await tx
        .update(devices)
        .set({ draft: row.held! })
        .where(and(eq(devices.siteId, siteId), eq(devices.id, deviceId)))
      await tx
        .insert(settingHistory)
        .values(
          unsent.map(d => ({ siteId, deviceId, path: d.path, old: d.from, new: d.to, kind: 'edit' as const, who })),
        )
      const gesture = randomUUID()
      for (const d of unsent)
        await recordChange(
          tx,
          siteId,
          { what: 'setting', key: `${deviceId}${d.path}`, old: d.from, new: d.to, gesture },
          who,
        )
      await touch(tx, siteId)
    }
    return { unsent, held: row.held, revision: row.revision }
  })
  if (told?.held && told.unsent.length)
    tell(siteId, { type: 'device', device: deviceId, draft: told.held, held: told.held, revision: told.revision })
  return told && told.unsent.map(d => d.path)
}
