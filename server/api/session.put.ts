import { SessionBody } from '../../core/contract'
import { enter } from '../access/sessions'

/** Says how the person at this browser is called. */
export default defineEventHandler(async (event) => {
  const { who } = await readChecked(event, SessionBody)
  return enter(event, who)
})
