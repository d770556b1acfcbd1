import { endLease } from '../../../../leases/leases'

/** Ends it: what it changed is put back. */
export default defineEventHandler(async (event) => {
  const id = param(event, 'lease')
  const ended = await endLease(param(event, 'site'), id)
  if (!ended) throw notFound('such temporary state: it has ended already')
  return ended
})
