import { ledgerOf } from '../../../store/sites'

/** How many cells of the ledger there are, and how many are fresh or stale. */
export default defineEventHandler(async (event) => {
  const id = param(event, 'site')
  const ledger = await ledgerOf(id)
  if (!ledger) throw notFound('site.noSuch')
  return ledger
})
