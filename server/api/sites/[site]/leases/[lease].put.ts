import { asker } from '../../../../access/sessions'
import { leaseLasts, mayActOn, notYours, renewLease } from '../../../../leases/leases'

/** The owner is still there. */
export default defineEventHandler(async (event) => {
  const [site, id] = [param(event, 'site'), param(event, 'lease')]
  if (!await mayActOn(site, id, (await asker(event)).person)) throw conflict(notYours)
  if (!(await renewLease(site, id))) throw notFound('such temporary state: it has ended and was restored')
  return { id, seconds: leaseLasts }
})
