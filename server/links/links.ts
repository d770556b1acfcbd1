import { database } from '../db/client'
import { writeLog } from '../db/log'
import { devices } from '../db/schema'
import { tell } from '../live/channel'
import { recordHeld, recordRead } from '../rig/held'
import { createLink, type Link, type LinkState } from './link'
import { lineDriver } from './lineDriver'

const links = new Map<string, Link>()
const key = (siteId: string, deviceId: string) => `${siteId}/${deviceId}`

/** Where the stand-ins listen, as the start script tells: {"processor":"127.0.0.1:41231"}. */
const standinAddresses = (): Record<string, string> => JSON.parse(process.env.KOVRIN_STANDINS ?? '{}')

function resolveAddress(address: string): string | null {
  return address.startsWith('standin:') ? (standinAddresses()[address.slice(8)] ?? null) : address || null
}

/** Opens a link to every device of every site, or of one. */
export async function startLinks(onlySite?: string) {
  const rows = await database()
    .select({ siteId: devices.siteId, id: devices.id, name: devices.name, address: devices.address })
    .from(devices)
  for (const row of rows) if (!onlySite || row.siteId === onlySite) open(row)
}

function open({ siteId, id, name, address }: { siteId: string, id: string, name: string, address: string }) {
  let told: 'live' | 'lost' | null = null
  const failed = (error: unknown) =>
    console.error(`Change on ${id} could not be stored: ${(error as Error).message}`)
  links.get(key(siteId, id))?.stop()
  links.set(
    key(siteId, id),
    createLink(lineDriver, () => resolveAddress(address), {
      state: (link) => {
        tell(siteId, { type: 'link', device: id, link })
        // once a change, not once a try: it may fail for many reasons while it is away
        if ((link.state === 'live' || link.state === 'lost') && link.state !== told) {
          told = link.state
          void writeLog(
            siteId,
            'Kovrin',
            `${name} ${told === 'live' ? 'is connected and in step' : `is lost: ${link.why}`}.`,
          )
        }
      },
      read: (capability, settings) => recordRead(siteId, id, capability, settings),
      changed: (path, value) => {
        recordHeld(siteId, id, path, value, 'device', 'At the device').catch(failed)
      },
    }),
  )
}

export function stopLinks() {
  for (const link of links.values()) link.stop()
  links.clear()
}

export const linkOf = (siteId: string, deviceId: string): Link | undefined => links.get(key(siteId, deviceId))

const unknown: LinkState = { state: 'searching', why: 'It has no link', since: new Date(0).toISOString() }
export const linkState = (siteId: string, deviceId: string): LinkState => linkOf(siteId, deviceId)?.state ?? unknown

/** How many links are in which state, for the health report. */
export const linkCounts = () =>
  [...links.values()].reduce<Record<string, number>>(
    (sum, l) => ({ ...sum, [l.state.state]: (sum[l.state.state] ?? 0) + 1 }),
    {},
  )
