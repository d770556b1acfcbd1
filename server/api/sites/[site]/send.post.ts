import { SendAllBody } from '../../../../core/contract'
import { allOf } from '../../../../core/documents'
import { sendDrafts, unsentOf } from '../../../links/send'
import { openSite } from '../../../store/sites'

/** Sends every unsent value of several devices as one step and reads back. */
export default defineEventHandler(async (event) => {
  const site = param(event, 'site')
  const { devices, agreed } = await readChecked(event, SendAllBody)
  if (!await openSite(site)) throw notFound(`site “${site}”`)
  const { reports } = answered(await sendDrafts(site, agreed, (now) => {
    const all = allOf(now, 'device').map(d => d.id)
    return unsentOf(now, devices ? all.filter(d => devices.includes(d)) : all)
  }))
  return { reports }
})
