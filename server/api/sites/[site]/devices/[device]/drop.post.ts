import { contentOf } from '../../../../../../core/documents'
import { differences } from '../../../../../../core/rig'
import { makeEdits } from '../../../../../store/edits'
import { asker } from '../../../../../access/sessions'

/** Lets the draft of a device go: every unsent value becomes what the device holds. */
export default defineEventHandler(async (event) => {
  const { site, device, documents } = await deviceAsked(event)
  const { capability } = contentOf(documents, 'device', device)!
  const held = contentOf(documents, 'held', device)
  const draft = contentOf(documents, 'settings', device) ?? {}
  const edits = held
    ? differences(capability, draft, held).map(({ path, from, to }) => ({
        document: `settings/${device}`,
        path,
        old: from,
        new: to,
      }))
    : []
  if (edits.length)
    answered(await makeEdits(site, { edits, gesture: crypto.randomUUID(), live: false }, await asker(event)))
  return { dropped: edits.map(e => e.path) }
})
