import { asker } from '../../../../access/sessions'
import { leaseLasts, mayActOn, notYours, renewLease } from '../../../../leases/leases'

/** The owner is still there. */
export default defineEventHandler(async (event) => {
  const [site, id] = [param(event, 'site'), param(event, 'lease')]
  if (!await mayActOn(site, id, (await asker(event)).person)) throw refused(409, notYours)
  if (!(await renewLease(site, id))) throw notFound('lease.noSuch')
  return { id, seconds: leaseLasts }
})
