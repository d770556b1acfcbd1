import { contentOf, draftOf, type Documents, type Rise } from '../../core/documents'
import { differences } from '../../core/rig'
import { actorOf } from '../store/actor'
import { Passage } from '../store/gate'
import { draftAuthors } from '../store/history'
import { deliver, type Delivery } from './sending'

/** What of the drafts of some devices is not in them, by device. */
export function unsentOf(now: Documents, devices: readonly string[]): Delivery[] {
  return devices.flatMap((device) => {
    const capability = contentOf(now, 'device', device)?.capability
    const held = contentOf(now, 'held', device)
    if (!capability || !held) return []
    const paths = differences(capability, held, draftOf(now, device)).map(d => d.path)
    return paths.length ? [{ device, paths }] : []
  })
}

/** Of unsent values those that a person wrote last, and those that nobody ever changed. */
export async function ownOf(site: string, person: string, all: readonly Delivery[]): Promise<Delivery[]> {
  const foreign = new Set((await draftAuthors(site, all))
    .filter(a => a.person !== person).map(a => `${a.device} ${a.path}`))
  return all
    .map(({ device, paths }) => ({ device, paths: paths.filter(path => !foreign.has(`${device} ${path}`)) }))
    .filter(d => d.paths.length)
}

/** Sends unsent values of devices as one step and reads them back; or the refusal with what would get louder. */
export async function sendDrafts(
  site: string,
  agreed: readonly Rise[],
  wanted: (now: Documents) => Delivery[] | Promise<Delivery[]>,
) {
  const passage = new Passage(site, agreed)
  let deliveries: Delivery[] = []
  try {
    const outcome = await actorOf(site).do(async (now) => {
      deliveries = await wanted(now)
      const wishes = deliveries.flatMap(({ device, paths }) => {
        const draft = draftOf(now, device)
        return paths.map(path => ({ device, path, value: draft[path] }))
      })
      return await passage.admit(now, wishes) ?? { ok: true, hand: 'person', parts: [] }
    })
    if (!outcome.ok) return outcome
    const number = actorOf(site).number
    return { ok: true as const, reports: await deliver(passage, deliveries, { readBack: true, number }) }
  }
  finally {
    passage.end()
  }
}
