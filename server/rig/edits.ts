import { and, eq } from 'drizzle-orm'
import { differences, holdParameter, parameterName, readParameter, sameValue, writeParameter, type ParameterPath, type ParameterValue } from '../../core/rig'
import { database } from '../db/client'
import { devices, settingHistory } from '../db/schema'
import { DeviceRefusal } from '../links/driver'
import { linkOf } from '../links/links'
import { tell } from '../live/channel'
import { lockDevice, recordHeld, touch } from './held'

export type EditAnswer =
  | { status: 'missing' }
  | { status: 'refused', why: string }
  | { status: 'overtaken', why: string, value: ParameterValue }
  | { status: 'kept', value: ParameterValue, sent: boolean, why: string | null }

export interface Edit { path: ParameterPath, old: ParameterValue, new: unknown, live: boolean }

/**
 * One change of one parameter by one person: checked against the device's limits and against the value that the person saw,
 * kept in the draft with its history, and in live mode sent on to the device.
 */
export async function applyEdit(siteId: string, deviceId: string, edit: Edit, who: string): Promise<EditAnswer> {
  const answer = await database().transaction(async (tx): Promise<EditAnswer> => {
    const row = await lockDevice(tx, siteId, deviceId)
    if (!row) return { status: 'missing' }
    const held = holdParameter(row.capability, edit.path, edit.new)
    if (!held.ok) return { status: 'refused', why: held.why }
    const current = readParameter(row.draft, edit.path)
    if (!sameValue(current, edit.old)) return { status: 'overtaken', why: `${parameterName(edit.path)} was changed meanwhile.`, value: current }
    if (!sameValue(current, held.value)) {
      await tx.update(devices).set({ draft: writeParameter(row.draft, edit.path, held.value) }).where(and(eq(devices.siteId, siteId), eq(devices.id, deviceId)))
      await tx.insert(settingHistory).values({ siteId, deviceId, path: edit.path, old: current, new: held.value, kind: 'edit', who })
      await touch(tx, siteId)
    }
    return { status: 'kept', value: held.value, sent: false, why: null }
  })
  if (answer.status !== 'kept') return answer
  tell(siteId, { type: 'draft', device: deviceId, path: edit.path, value: answer.value, who })
  if (!edit.live) return answer
  const why = await writeToDevice(siteId, deviceId, edit.path, answer.value, who)
  return { ...answer, sent: why === null, why }
}

/** Sends one value and keeps what the device confirms; null when it went well, else the reason. */
async function writeToDevice(siteId: string, deviceId: string, path: ParameterPath, value: ParameterValue, who: string): Promise<string | null> {
  const connection = linkOf(siteId, deviceId)?.connection
  if (!connection) return 'The device is not connected: the change is kept as a draft.'
  try {
    const confirmed = await connection.write(path, value)
    await recordHeld(siteId, deviceId, path, confirmed, 'sent', who)
    return sameValue(confirmed, value) ? null : `The device holds another value than was sent for ${parameterName(path)}.`
  }
  catch (error) {
    return error instanceof DeviceRefusal ? `The device refused: ${error.message}` : `The device was lost while sending: the change is kept as a draft.`
  }
}

export interface SendReport { sent: ParameterPath[], left: { path: ParameterPath, why: string }[] }

/** Writes every unsent value of a device, in order, then reads it back whole. Stops at the first lost connection; what is left stays in the draft. */
export async function sendDraft(siteId: string, deviceId: string, who: string): Promise<SendReport | null> {
  const [row] = await database().select().from(devices).where(and(eq(devices.siteId, siteId), eq(devices.id, deviceId)))
  if (!row) return null
  const unsent = row.held ? differences(row.capability, row.held, row.draft) : []
  const report: SendReport = { sent: [], left: [] }
  for (const { path, to } of unsent) {
    const why = await writeToDevice(siteId, deviceId, path, to, who)
    if (why) report.left.push({ path, why })
    else report.sent.push(path)
  }
  const connection = linkOf(siteId, deviceId)?.connection
  if (!connection || !report.sent.length) return report
  try {
    const { settings } = await connection.read()
    const wrong = report.sent.filter(path => !sameValue(readParameter(settings, path), unsent.find(d => d.path === path)!.to))
    report.sent = report.sent.filter(path => !wrong.includes(path))
    report.left.push(...wrong.map(path => ({ path, why: 'The device reads back another value.' })))
  }
  catch (error) {
    report.left.push(...report.sent.map(path => ({ path, why: `Sent, but not read back: ${(error as Error).message}.` })))
    report.sent = []
  }
  return report
}

/** Lets the draft of a device go: every unsent value becomes what the device holds. Null when there is no such device. */
export async function dropDraft(siteId: string, deviceId: string, who: string): Promise<ParameterPath[] | null> {
  const told = await database().transaction(async (tx) => {
    const row = await lockDevice(tx, siteId, deviceId)
    if (!row) return null
    const unsent = row.held ? differences(row.capability, row.draft, row.held) : []
    if (unsent.length) {
      await tx.update(devices).set({ draft: row.held! }).where(and(eq(devices.siteId, siteId), eq(devices.id, deviceId)))
      await tx.insert(settingHistory).values(unsent.map(d => ({ siteId, deviceId, path: d.path, old: d.from, new: d.to, kind: 'edit' as const, who })))
      await touch(tx, siteId)
    }
    return { unsent, held: row.held, revision: row.revision }
  })
  if (told?.held && told.unsent.length) tell(siteId, { type: 'device', device: deviceId, draft: told.held, held: told.held, revision: told.revision })
  return told && told.unsent.map(d => d.path)
}
