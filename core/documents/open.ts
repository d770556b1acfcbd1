import { differences, outputsOf } from '../rig'
import type { Documents } from './kinds'
import { allOf, contentOf, draftOf, heldOf } from './site'
import { phrase } from '../words'

const many = (count: number, one: string, several: string) => (count ? [`${count} ${count === 1 ? one : several}`] : [])

/** What is open in a site besides its ledger, in words: devices away, edits that wait, sources that nothing drives. */
export function openFindings(documents: Documents): string[] {
  const devices = allOf(documents, 'device')
  const away = devices.filter(d => contentOf(documents, 'link', d.id)?.state !== 'live')
  const unsent = devices.reduce((sum, { id, capability }) => {
    if (!contentOf(documents, 'held', id)) return sum
    return sum + differences(capability, heldOf(documents, id), draftOf(documents, id)).length
  }, 0)
  const wiring = contentOf(documents, 'wiring')
  const undriven = allOf(documents, 'source').filter(s => !wiring || !outputsOf(wiring, s.id).length)
  return [
    ...many(away.length, phrase('documents.deviceNotConnected'), phrase('documents.devicesNotConnected')),
    ...many(unsent, phrase('documents.unsentEdit'), phrase('documents.unsentEdits')),
    ...many(undriven.length, phrase('documents.sourceThatNoOutput'), phrase('documents.sourcesThatNoOutput')),
  ]
}
