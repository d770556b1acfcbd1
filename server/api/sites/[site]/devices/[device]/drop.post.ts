import { contentOf } from '../../../../../../core/documents'
import { differences } from '../../../../../../core/rig'
import { makeEdits } from '../../../../../store/edits'
import { asker } from '../../../../../access/sessions'
import { DropBody } from '../../../../../../core/contract'
import { ownOf, unsentOf } from '../../../../../links/send'

/** Lets the draft of a device go, or a part of it: unsent values become what the device holds. */
export default defineEventHandler(async (event) => {
  const { site, device, documents } = await deviceAsked(event)
  const { whose, paths } = await readChecked(event, DropBody)
  const who = await asker(event)
  const all = unsentOf(documents, [device])
  const meant = new Set((whose === 'mine' ? await ownOf(site, who.person, all) : all).flatMap(d => d.paths))
  const isMeant = ({ path }: { path: string }) => meant.has(path) && (paths?.includes(path) ?? true)
  const { capability } = contentOf(documents, 'device', device)!
  const held = contentOf(documents, 'held', device)
  const draft = contentOf(documents, 'settings', device) ?? {}
  const edits = held
    ? differences(capability, draft, held).filter(isMeant).map(({ path, from, to }) => ({
        document: `settings/${device}`,
        path,
        old: from,
        new: to,
      }))
    : []
  if (edits.length)
    answered(await makeEdits(site, { edits, gesture: crypto.randomUUID(), live: false }, who))
  return { dropped: edits.map(e => e.path) }
})
