import { SendBody } from '../../../../../../core/contract'
import { sendDrafts, unsentOf } from '../../../../../links/send'

/** Sends unsent values of a device, all or some, and reads back. */
export default defineEventHandler(async (event) => {
  const { agreed, paths } = await readChecked(event, SendBody)
  const { site, device } = await deviceAsked(event)
  const { reports } = answered(await sendDrafts(site, agreed, now =>
    unsentOf(now, [device])
      .map(d => (paths ? { device, paths: d.paths.filter(path => paths.includes(path)) } : d))
      .filter(d => d.paths.length)))
  const { sent, left } = reports[0] ?? { sent: [], left: [] }
  return { sent, left }
})
