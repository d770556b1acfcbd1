import { SendAllBody } from '../../../../core/contract'
import { allOf } from '../../../../core/documents'
import { asker } from '../../../access/sessions'
import { ownOf, sendDrafts, unsentOf } from '../../../links/send'
import { openSite } from '../../../store/sites'

/** Sends every unsent value of several devices as one step and reads back. */
export default defineEventHandler(async (event) => {
  const site = param(event, 'site')
  const { devices, whose, agreed } = await readChecked(event, SendAllBody)
  if (!await openSite(site)) throw notFound('site.noSuch')
  const { person } = await asker(event)
  const { reports } = answered(await sendDrafts(site, agreed, async (now) => {
    const all = allOf(now, 'device').map(d => d.id)
    const unsent = unsentOf(now, devices ? all.filter(d => devices.includes(d)) : all)
    return whose === 'mine' ? await ownOf(site, person, unsent) : unsent
  }))
  return { reports }
})
