import { leaseLasts, renewLease } from '../../../../leases/leases'

/** The owner is still there. */
export default defineEventHandler(async (event) => {
  const id = param(event, 'lease')
  if (!(await renewLease(param(event, 'site'), id)))
    throw notFound('such temporary state: it has ended and was restored')
  return { id, seconds: leaseLasts }
})
