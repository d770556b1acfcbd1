import { asker } from '../../../../access/sessions'
import { endLease, mayActOn, notYours } from '../../../../leases/leases'

/** Ends it: what it changed is put back. */
export default defineEventHandler(async (event) => {
  const [site, id] = [param(event, 'site'), param(event, 'lease')]
  if (!await mayActOn(site, id, (await asker(event)).person)) throw refused(409, notYours)
  const ended = await endLease(site, id)
  if (!ended) throw notFound('lease.noSuch')
  return ended
})
