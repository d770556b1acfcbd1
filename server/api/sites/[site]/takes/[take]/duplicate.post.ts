import { duplicateTake } from '../../../../../store/takes'

export default defineEventHandler(async (event) => {
  const outcome = await duplicateTake(param(event, 'site'), param(event, 'take'), asker(event))
  answered(outcome)
  return outcome.take
})
