import { lookAtDevices } from '../../../links/links'
import { deleteSite } from '../../../store/forGood'

/** Deletes a site that was put aside, for good. */
export default defineEventHandler(async (event) => {
  const site = param(event, 'site')
  const gone = await deleteSite(site)
  if (!gone.ok) throw refused(gone.status === 'missing' ? 404 : 409, gone.why)
  await lookAtDevices()
  return {}
})
