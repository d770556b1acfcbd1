import { UndoBody } from '../../../../core/contract'
import { sendLive } from '../../../links/live'
import { undo } from '../../../store/undo'
import { asker } from '../../../access/sessions'

export default defineEventHandler(async (event) => {
  const site = param(event, 'site')
  const { live } = await readChecked(event, UndoBody)
  const answer = await undo(site, true, live, await asker(event))
  if (answer.status === 'missing') throw notFound(`site “${site}”`)
  if (answer.status === 'nothing') throw conflict('There is nothing left to redo at this site.')
  if (answer.status === 'refused') throw conflict(answer.why)
  const { why } = await sendLive(site, live ? answer.changes : [], { ok: true, changes: answer.changes, documents: {} })
  return { what: answer.what, why }
})
