import { ActBody } from '../../../../../../core/contract'
import { asker } from '../../../../../access/sessions'
import { actOn } from '../../../../../links/acts'

/** Has a device do something besides holding settings. */
export default defineEventHandler(async (event) => {
  const { act, blind, agreed } = await readChecked(event, ActBody)
  const { site, device } = await deviceAsked(event)
  const refusal = await actOn({ site, device, act, blind, agreed }, await asker(event))
  if (refusal) answered(refusal)
  return {}
})
