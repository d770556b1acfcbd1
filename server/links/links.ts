import { sql } from 'drizzle-orm'
import type { Change, Device, LinkState } from '../../core/documents'
import { actorOf } from '../store/actor'
import { complain as complainOf, database, onDatabaseLost, storeFault } from '../store/client'
import { writeLog } from '../store/log'
import { documents } from '../store/schema'
import { notConfirmed, readConfirmed } from './addresses'
import { claim, readClaims, releaseOthers, type Claim } from './claims'
import { forgetTold, keepHousekeeping, keepLink, keepRead, keepTold } from './keeping'
import { isOpen, onOpened } from '../live/openSites'
import { Link } from './link'
import { ocaDriver } from './ocaDriver'
import { Locks } from './locks'
import { placeOf, resolveAddress, serialKey } from './places'
import { message } from '../../core/words'

/** A device that this server drives. */
export interface Owned {
  site: string
  device: string
  address: string
  /** What is locked: one for all addresses that lead there. */
  place: string
  link: Link
  /** Values that are being sent and read back. */
  wished: Map<string, unknown>
  /** What of the draft does not fit the device, and what the device tells that cannot be. */
  wrong: () => Pick<LinkState, 'misfits' | 'unknown'>
}
const owned = new Map<string, Owned>()
const watched = new Map<string, () => void>()
/** Numbers that devices told of themselves, by their places. */
const serials = new Map<string, string>()
const keyOf = (site: string, device: string) => `${site}/${device}`
/** A device that this server drives; undefined where another does, or none. */
export const ownedOf = (site: string, device: string): Owned | undefined => owned.get(keyOf(site, device))
const lookEvery = 2000
/** Most values that cannot be of which a device’s link tells in words at once. */
const mostOdd = 20
/** Most of them that are kept at all: no device has more parameters. */
const mostUnknown = 20_000
let timer: NodeJS.Timeout | undefined
let looking: Promise<void> | null = null
let again = false

const locks = new Locks(() => {
  // another server may own them now
  for (const { link } of owned.values()) link.stop()
  owned.clear()
})

type Placed = Pick<Device, 'id' | 'name' | 'address'>

/** Every device of every site that is not deleted: what is needed to reach it. */
async function allDevices(): Promise<{ site: string, device: Placed }[]> {
  const rows = await database().execute<Placed & { site: string }>(sql`
    select d.site_id as site, d.content->>'id' as id, d.content->>'name' as name, d.content->>'address' as address
    from ${documents} d
    join ${documents} s on s.site_id = d.site_id and s.key = 'site' and s.content->>'deleted' = 'false'
    where d.key like 'device/%'`)
  return rows.rows.map(({ site, ...device }) => ({ site, device }))
}

/**
 * Looks at every device: opens the links that are this server's to hold, closes those that are no longer. Never
 * rejects: what failed is complained of, and tried again at the next look.
 */
export function lookAtDevices(): Promise<void> {
  if (looking) again = true
  looking ??= look().catch(complain).finally(() => {
    looking = null
    if (again) {
      again = false
      void lookAtDevices()
    }
  })
  return looking
}
const complain = (error: unknown) => complainOf('Links', error)

async function look() {
  const all = await allDevices()
  const wanted = new Set(all.map(({ site, device }) => keyOf(site, device.id)))
  for (const [key, mine] of owned) {
    if (wanted.has(key)) continue
    await close(key, mine)
    await forgetTold(mine.site, mine.device)
  }
  for (const key of kept.keys()) if (!wanted.has(key)) kept.delete(key)
  const claimed = await readClaims()
  const confirmed = await readConfirmed()
  for (const { site, device } of all) await attend(site, device, claimed, confirmed)
}

/** What was last kept of a link, and the document that it was kept in; a site that was put back has others. */
const kept = new Map<string, { said: string, at: unknown }>()

/** Keeps what is to be said of a link, where that is not kept already. */
async function sayLink(
  site: string,
  device: string,
  state: LinkState['state'],
  why: string | null,
  wrong: Pick<LinkState, 'misfits' | 'unknown'> = { misfits: [], unknown: [] },
) {
  const key = keyOf(site, device)
  const said = JSON.stringify([state, why, wrong])
  const there = () => actorOf(site).known?.[`link/${device}`]
  const known = kept.get(key)
  if (known?.said === said && known.at !== undefined && known.at === there()) return
  await keepLink(site, device, state, why, wrong)
  kept.set(key, { said, at: there() })
}

async function close(key: string, { link, place }: Owned) {
  link.stop()
  owned.delete(key)
  await locks.release(place)
}

/** Who else drives a device by one of the names that it is claimed by, in words; null: nobody. */
async function drivenElsewhere(
  site: string,
  device: string,
  keys: readonly string[],
  claimed: ReadonlyMap<string, Claim>,
): Promise<string | null> {
  for (const key of keys) {
    const by = claimed.get(key) ?? (await claim(key, site, device))
    if (by.site !== site) return `Controlled by “${by.name}”. Take control to drive it from here.`
    if (by.device !== device) return 'Another device of this site is the same one at another address.'
  }
  return null
}

async function attend(
  site: string,
  device: Placed,
  claimed: ReadonlyMap<string, Claim>,
  confirmed: ReadonlySet<string>,
) {
  const key = keyOf(site, device.id)
  const place = device.address ? await placeOf(device.address) : key
  const open = owned.get(key)
  if (open && open.address !== device.address) await close(key, open)
  const unconfirmed = notConfirmed(device.address, confirmed)
  if (unconfirmed !== null) return sayLink(site, device.id, 'unconfirmed', unconfirmed)
  const serial = serials.get(place)
  const keys = device.address ? [place, ...(serial === undefined ? [] : [serialKey(serial)])] : []
  const elsewhere = await drivenElsewhere(site, device.id, keys, claimed)
  if (elsewhere !== null) {
    if (owned.has(key)) await close(key, owned.get(key)!)
    return sayLink(site, device.id, 'elsewhere', elsewhere)
  }
  // said once when it changes, and it may not have been kept then
  const mine = owned.get(key)
  if (mine) return void sayLink(site, device.id, mine.link.state, mine.link.reason, mine.wrong()).catch(complain)
  if (!(await locks.own(place))) return
  await releaseOthers(keys, site, device.id)
  hold(site, device, place)
}

/**
 * A device that tells a number of its own is claimed by it as well. Throws with words where another drives it already:
 * it was reached by another way.
 */
async function claimSerial(site: string, device: string, place: string, serial: string | null) {
  if (serial === null) return
  const isNew = serials.get(place) !== serial
  serials.set(place, serial)
  const elsewhere = await drivenElsewhere(site, device, [serialKey(serial)], new Map())
  if (elsewhere === null) {
    if (isNew) await releaseOthers([place, serialKey(serial)], site, device)
    return
  }
  void lookAtDevices()
  throw new Error(elsewhere)
}

/** What a site's device is claimed by: its place, and the number that it told of itself. */
export async function claimsOf(address: string): Promise<string[]> {
  const place = await placeOf(address)
  const serial = serials.get(place)
  return [place, ...(serial === undefined ? [] : [serialKey(serial)])]
}

/** The same, failing with words for a person: they stand beside the device. */
const inWords = <T>(keeping: Promise<T>): Promise<T> => keeping.catch((error: unknown) => {
  throw new Error(storeFault(error), { cause: error })
})

function hold(site: string, { id, name, address }: Placed, place: string) {
  let said: 'live' | 'lost' | null = null
  let left: string[] = []
  let odd = new Map<string, string>()
  const wished = new Map<string, unknown>()
  const wrong = () => ({ misfits: [...left, ...[...odd.values()].slice(0, mostOdd)], unknown: [...odd.keys()] })
  const link = new Link(ocaDriver, () => resolveAddress(address), {
    state: (state, why) => {
      sayLink(site, id, state, why, wrong()).catch(complain)
      // once a change, not once a try: it may fail for many reasons while it is away
      if ((state === 'live' || state === 'lost') && state !== said) {
        said = state
        const told = state === 'live'
          ? message('log.device.online', { device: name })
          : message('log.device.offline', { device: name, why: why ?? 'its connection ended' })
        void writeLog(site, 'Kovrin', told)
      }
    },
    read: async ({ capability, settings, serial, housekeeping }, passing) => {
      // its keeping begins at once: what the device tells next is newer and must come behind it
      const keeping = inWords(keepRead(site, id, capability, settings, wished, passing, serial))
      const [read] = await Promise.all([keeping, address ? inWords(claimSerial(site, id, place, serial)) : null])
      await inWords(keepHousekeeping(site, id, housekeeping))
      if (read.isSpare) void writeLog(site, 'Kovrin', message('log.device.swapped', { device: name }))
      left = read.left
      odd = new Map(read.odd)
    },
    housekeeping: state => void keepHousekeeping(site, id, state).catch(complain),
    held: async (told) => {
      const found = await inWords(keepTold(site, id, told, wished))
      for (const { path } of told) odd.delete(path)
      for (const [path, why] of found) if (odd.size < mostUnknown) odd.set(path, why)
      if (found.size) sayLink(site, id, link.state, link.reason, wrong()).catch(complain)
    },
  }, () => isOpen(site))
  const mine = { site, device: id, address, place, link, wished, wrong }
  owned.set(keyOf(site, id), mine)
}

onOpened((site) => {
  for (const mine of owned.values()) if (mine.site === site) mine.link.wake()
})

/** Changes of devices and of whole sites decide which links there are. */
export function watchSite(site: string) {
  if (watched.has(site)) return
  watched.set(
    site,
    actorOf(site).listen((changes: readonly Change[]) => {
      if (
        changes.some(c => (c.document.startsWith('device/') && c.path !== '/capability') || c.document === 'site')
      ) {
        void lookAtDevices()
      }
    }),
  )
}

export async function startLinks() {
  await lookAtDevices()
  timer = setInterval(lookAtDevices, lookEvery)
}

export async function stopLinks() {
  clearInterval(timer)
  await looking
  for (const { link } of owned.values()) link.stop()
  owned.clear()
  for (const stop of watched.values()) stop()
  watched.clear()
  await locks.close()
}

// what a device told while the database was away may not have been kept: read it again
onDatabaseLost(() =>
  setTimeout(() => {
    for (const { link } of owned.values()) link.compare().catch(complain)
  }, 1000),
)

/** How many links are in which state, for the health report. */
export function linkCounts(): Record<string, number> {
  const counts: Record<string, number> = {}
  for (const { link } of owned.values()) counts[link.state] = (counts[link.state] ?? 0) + 1
  return counts
}
