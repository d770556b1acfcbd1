import { differences, outputsOf } from '../rig'
import type { Documents } from './kinds'
import { allOf, contentOf, draftOf, heldOf } from './site'
import { message, type Message } from '../words'

/** What is open in a site besides its ledger, devices away, edits that wait, sources that nothing drives. */
export function openFindings(documents: Documents): Message[] {
  const devices = allOf(documents, 'device')
  const away = devices.filter(d => contentOf(documents, 'link', d.id)?.state !== 'live')
  const unsent = devices.reduce((sum, { id, capability }) => {
    if (!contentOf(documents, 'held', id)) return sum
    return sum + differences(capability, heldOf(documents, id), draftOf(documents, id)).length
  }, 0)
  const wiring = contentOf(documents, 'wiring')
  const undriven = allOf(documents, 'source').filter(s => !wiring || !outputsOf(wiring, s.id).length)
  return [
    ...(away.length ? [message('open.devices', { devices: away.length })] : []),
    ...(unsent ? [message('open.unsent', { edits: unsent })] : []),
    ...(undriven.length ? [message('open.undriven', { sources: undriven.length })] : []),
  ]
}
