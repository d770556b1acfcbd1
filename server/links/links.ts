import { randomUUID } from 'node:crypto'
import { sql } from 'drizzle-orm'
import { contentOf, draftOf, type Change, type Device, type Documents, type LinkState } from '../../core/documents'
import { differences, parametersOf, rampOf, showParameter, valueAt } from '../../core/rig'
import { actorOf } from '../store/actor'
import { onBus, serverId, tellServers } from '../store/bus'
import { complain as complainOf, database, onDatabaseLost, storeFault } from '../store/client'
import { writeLog } from '../store/log'
import { documents } from '../store/schema'
import { notConfirmed, readConfirmed } from './addresses'
import { claim, readClaims, releaseOthers, type Claim } from './claims'
import { keepLink, keepRead, keepTold } from './keeping'
import { Link, type SendOutcome } from './link'
import { lineDriver } from './lineDriver'
import { Locks } from './locks'
import { placeOf, resolveAddress, serialKey } from './places'

interface Owned {
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
const lookEvery = 2000
/** Most values that cannot be of which a device’s link tells in words at once. */
const mostOdd = 20
let timer: NodeJS.Timeout | undefined
let looking: Promise<void> | null = null
let again = false

const locks = new Locks(() => {
  // another server may own them now
  for (const { link } of owned.values()) link.stop()
  owned.clear()
})

/** Every device of every site that is not deleted. */
async function allDevices(): Promise<{ site: string, device: Device }[]> {
  const rows = await database().execute<{ site: string, content: Device }>(sql`
    select d.site_id as site, d.content from ${documents} d
    join ${documents} s on s.site_id = d.site_id and s.key = 'site' and s.content->>'deleted' = 'false'
    where d.key like 'device/%'`)
  return rows.rows.map(({ site, content }) => ({ site, device: content }))
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
  for (const [key, mine] of owned) if (!wanted.has(key)) await close(key, mine)
  const claimed = await readClaims()
  const confirmed = await readConfirmed()
  for (const { site, device } of all) await attend(site, device, claimed, confirmed)
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
    if (by.site !== site) return `“${by.name}” drives it. Take it over to drive it from here.`
    if (by.device !== device) return 'Another device of this site is the same one at another address.'
  }
  return null
}

async function attend(
  site: string,
  device: Device,
  claimed: ReadonlyMap<string, Claim>,
  confirmed: ReadonlySet<string>,
) {
  const key = keyOf(site, device.id)
  const place = device.address ? await placeOf(device.address) : key
  const open = owned.get(key)
  if (open && open.address !== device.address) await close(key, open)
  const unconfirmed = notConfirmed(device.address, confirmed)
  if (unconfirmed !== null) return keepLink(site, device.id, 'unconfirmed', unconfirmed)
  const serial = serials.get(place)
  const keys = device.address ? [place, ...(serial === undefined ? [] : [serialKey(serial)])] : []
  const elsewhere = await drivenElsewhere(site, device.id, keys, claimed)
  if (elsewhere !== null) {
    if (owned.has(key)) await close(key, owned.get(key)!)
    return keepLink(site, device.id, 'elsewhere', elsewhere)
  }
  // said once when it changes, and it may not have been kept then
  const mine = owned.get(key)
  if (mine) return void keepLink(site, device.id, mine.link.state, mine.link.reason, mine.wrong()).catch(complain)
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

function hold(site: string, { id, name, address }: Device, place: string) {
  let said: 'live' | 'lost' | null = null
  let left: string[] = []
  let odd = new Map<string, string>()
  const wished = new Map<string, unknown>()
  const wrong = () => ({ misfits: [...left, ...[...odd.values()].slice(0, mostOdd)], unknown: [...odd.keys()] })
  const link = new Link(lineDriver, () => resolveAddress(address), {
    state: (state, why) => {
      keepLink(site, id, state, why, wrong()).catch(complain)
      // once a change, not once a try: it may fail for many reasons while it is away
      if ((state === 'live' || state === 'lost') && state !== said) {
        said = state
        void writeLog(
          site,
          'Kovrin',
          `${name} ${state === 'live' ? 'is connected and in step' : `is lost: ${why}`}.`,
        )
      }
    },
    read: async (capability, settings, serial) => {
      if (address) await inWords(claimSerial(site, id, place, serial))
      const read = await inWords(keepRead(site, id, capability, settings, wished))
      left = read.left
      odd = new Map(read.odd)
    },
    held: async (told) => {
      const found = await inWords(keepTold(site, id, told, wished))
      for (const { path } of told) odd.delete(path)
      for (const [path, why] of found) odd.set(path, why)
      if (found.size) keepLink(site, id, link.state, link.reason, wrong()).catch(complain)
    },
  })
  owned.set(keyOf(site, id), { site, device: id, address, place, link, wished, wrong })
}

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

/** What a server that owns a link is asked to do with its device; `number` is the change that it must know of first. */
export interface LinkCommand {
  /** Parameters whose draft shall go out; null: all that differ from what the device holds. */
  paths: string[] | null
  /** Reads the device back afterwards. */
  readBack: boolean
  number: number
}
export interface SendReport {
  sent: string[]
  left: { path: string, why: string }[]
}

/** Drives a device. What is read back afterwards stays wished until the device is known to hold it, or not to. */
async function carryOut({ site, device, link, wished }: Owned, command: LinkCommand): Promise<SendReport> {
  const { paths, readBack, number } = command
  const actor = actorOf(site)
  if (actor.number < number) await actor.follow()
  const mirror = await actor.read()
  const record = mirror && contentOf(mirror.documents, 'device', device)
  if (!record) return { sent: [], left: [] }
  const { capability } = record
  const draft = draftOf(mirror.documents, device)
  const held = contentOf(mirror.documents, 'held', device)
  const wanted = paths ?? (held ? differences(capability, held, draft).map(d => d.path) : [])
  const sent = new Map(wanted.map(path => [path, valueAt(capability, draft, path)]))
  if (readBack) for (const [path, to] of sent) wished.set(path, to)
  try {
    const outcomes = await Promise.all(
      [...sent].map(async ([path, to]): Promise<[string, SendOutcome]> => {
        const parameter = parametersOf(capability).get(path)
        const ramp = parameter ? rampOf(parameter, held && valueAt(capability, held, path), to) : []
        return [path, await link.wish(path, to, ramp)]
      }),
    )
    const report: SendReport = {
      sent: outcomes.filter(([, o]) => o.ok).map(([path]) => path),
      left: outcomes.flatMap(([path, o]) => (o.ok ? [] : [{ path, why: o.why }])),
    }
    if (readBack && report.sent.length) await compareBack(site, device, link, report)
    return report
  }
  finally {
    for (const [path, to] of sent) if (wished.get(path) === to) wished.delete(path)
  }
}

/** Reads a device back and takes out of the report what it does not really hold. */
async function compareBack(site: string, device: string, link: Link, report: SendReport) {
  try {
    await link.compare()
  }
  catch (error) {
    report.left.push(
      ...report.sent.map(path => ({ path, why: `Sent, but not read back: ${(error as Error).message}.` })),
    )
    report.sent = []
    return
  }
  const mirror = await actorOf(site).read()
  if (!mirror) return
  const { capability } = contentOf(mirror.documents, 'device', device)!
  const held = contentOf(mirror.documents, 'held', device) ?? {}
  const wrong = new Set(differences(capability, held, draftOf(mirror.documents, device)).map(d => d.path))
  report.left.push(
    ...report.sent.filter(p => wrong.has(p)).map(path => ({
      path, why: `The device holds ${showParameter(capability, path, valueAt(capability, held, path))} all the same.`,
    })),
  )
  report.sent = report.sent.filter(p => !wrong.has(p))
}

const answerTime = 6000
/** Milliseconds after which it is looked whether the owner of a link is still there. */
const ownerSilent = 400
const asked = new Map<string, (report: SendReport) => void>()
onBus((message) => {
  if (message.kind === 'answer' && message.to === serverId) asked.get(message.id)?.(message.answer as SendReport)
  if (message.kind !== 'ask' || message.from === serverId) return
  const mine = owned.get(keyOf(message.site, message.device))
  if (!mine) return
  carryOut(mine, message.command as LinkCommand)
    .then(answer => tellServers({ kind: 'answer', id: message.id, from: serverId, to: message.from, answer }))
    .catch(complain)
})

/** Most paths that go into one message between servers. */
const mostPaths = 100

/** Has a device driven by whichever server owns its link. */
export async function drive(site: string, device: string, command: LinkCommand): Promise<SendReport> {
  const mine = owned.get(keyOf(site, device))
  if (mine) return carryOut(mine, command)
  const mirror = await actorOf(site).read()
  if (!mirror || contentOf(mirror.documents, 'link', device)?.state !== 'live')
    return { sent: [], left: notDriven(mirror?.documents ?? {}, device, command.paths ?? ['']) }
  return askOwner(site, device, command)
}

/** What is said of settings of a device that is not there to take them. */
export function notDriven(now: Documents, device: string, paths: readonly string[]): SendReport['left'] {
  const link = contentOf(now, 'link', device)
  const why
    = link?.state === 'elsewhere' ? (link.why ?? '') : 'The device is not connected: the change is kept as a draft.'
  return paths.map(path => ({ path, why }))
}

/** Has the owner of a device's link do it; when there is none any more, whoever takes the link over does. */
async function askOwner(site: string, device: string, command: LinkCommand): Promise<SendReport> {
  const id = randomUUID()
  const paths = command.paths && command.paths.length > mostPaths ? null : command.paths
  const begun = Date.now()
  let timer: NodeJS.Timeout | undefined
  const answer = new Promise<SendReport>((resolve, reject) => {
    asked.set(id, resolve)
    timer = setInterval(() => {
      const mine = owned.get(keyOf(site, device))
      const waited = Date.now() - begun
      if (mine?.link.state === 'live') carryOut(mine, command).then(resolve, reject)
      else if (waited > answerTime) resolve(unanswered(command))
      else if (waited > ownerSilent) void lookAtDevices()
    }, 100)
  })
  await tellServers({ kind: 'ask', id, from: serverId, site, device, command: { ...command, paths } })
  return answer.finally(() => {
    clearInterval(timer)
    asked.delete(id)
  })
}
const unanswered = ({ paths }: LinkCommand): SendReport => ({
  sent: [],
  left: (paths ?? ['']).map(path => ({
    path,
    why: 'The device did not answer in time: the change is kept as a draft.',
  })),
})

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
