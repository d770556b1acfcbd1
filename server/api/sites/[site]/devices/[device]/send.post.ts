import { SendBody } from '../../../../../../core/contract'
import { sendDrafts, unsentOf } from '../../../../../links/send'

/** Sends every unsent value of a device and reads back. */
export default defineEventHandler(async (event) => {
  const { agreed } = await readChecked(event, SendBody)
  const { site, device } = await deviceAsked(event)
  const { reports } = answered(await sendDrafts(site, agreed, now => unsentOf(now, [device])))
  const { sent, left } = reports[0] ?? { sent: [], left: [] }
  return { sent, left }
})
