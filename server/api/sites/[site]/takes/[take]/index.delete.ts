import { asker } from '../../../../../access/sessions'
import { deleteTake } from '../../../../../store/forGood'

/** Deletes a take that is out of the ledger, for good. */
export default defineEventHandler(async (event) => {
  const gone = await deleteTake(param(event, 'site'), param(event, 'take'), await asker(event))
  if (!gone.ok && gone.status === 'refused') throw refused(409, gone.why)
  answered(gone)
  return {}
})
