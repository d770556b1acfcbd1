import { EditsBody } from '../../../../core/contract'
import { sendLive } from '../../../links/live'
import { editOnLease } from '../../../leases/leases'
import { makeEdits } from '../../../store/edits'
import { asker } from '../../../access/sessions'

/** Makes edits: all of them, or none; live settings go on to their devices. */
export default defineEventHandler(async (event) => {
  const site = param(event, 'site')
  const { edits, gesture, live, lease } = await readChecked(event, EditsBody, 4 * 1024 * 1024)
  const outcome
    = lease === undefined
      ? await makeEdits(
          site,
          { edits, gesture: gesture === undefined ? crypto.randomUUID() : gesture, live },
          await asker(event),
        )
      : await editOnLease(site, lease, edits, live, await asker(event))
  const { changes } = answered(outcome)
  const { sent, why } = await sendLive(site, live ? edits : [], outcome)
  return { number: changes.at(-1)?.number ?? actorNumber(site), changes, sent, why }
})
