import { EditsBody } from '../../../../core/contract'
import { sendLive } from '../../../links/sending'
import { editOnLease } from '../../../leases/leases'
import { makeEdits } from '../../../store/edits'
import { Passage } from '../../../store/gate'
import { asker } from '../../../access/sessions'

/** Makes edits: all of them, or none; live settings go on to their devices. */
export default defineEventHandler(async (event) => {
  const site = param(event, 'site')
  const { edits, gesture = crypto.randomUUID(), live, lease, agreed } = await readChecked(event, EditsBody, 4 * 2 ** 20)
  const passage = new Passage(site, agreed)
  try {
    const by = await asker(event)
    const outcome = lease === undefined
      ? await makeEdits(site, { edits, gesture, live }, by, passage)
      : await editOnLease(site, lease, { edits, live }, by, passage)
    const { changes } = answered(outcome)
    const { sent, why } = await sendLive(passage, live ? edits : [], outcome)
    return { number: changes.at(-1)?.number ?? actorNumber(site), changes, sent, why }
  }
  finally {
    passage.end()
  }
})
