import { duplicateTake } from '../../../../../store/takes'
import { asker } from '../../../../../access/sessions'

export default defineEventHandler(async (event) => {
  const outcome = await duplicateTake(param(event, 'site'), param(event, 'take'), await asker(event))
  answered(outcome)
  return outcome.take
})
