import { LeaseBody } from '../../../../../core/contract'
import { beginLease, leaseLasts } from '../../../../leases/leases'
import { openSite } from '../../../../store/sites'
import { asker } from '../../../../access/sessions'

/** Begins a temporary state. */
export default defineEventHandler(async (event) => {
  const site = param(event, 'site')
  const { what } = await readChecked(event, LeaseBody)
  if (!await openSite(site)) throw notFound('site.noSuch')
  setResponseStatus(event, 201)
  return { id: await beginLease(site, what, await asker(event)), seconds: leaseLasts }
})
