import { randomUUID } from 'node:crypto'
import { sql } from 'drizzle-orm'
import { contentOf, draftOf, type Change, type Device, type Documents } from '../../core/documents'
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

interface Owned {
  site: string
  device: string
  address: string
  link: Link
  /** Values that are being sent and read back. */
  wished: Map<string, unknown>
  /** What of the draft does not fit the device, and what the device tells that cannot be, in words. */
  left: () => string[]
}
const owned = new Map<string, Owned>()
const watched = new Map<string, () => void>()
const keyOf = (site: string, device: string) => `${site}/${device}`
const lookEvery = 2000
/** Most values that cannot be of which a device’s link tells at once. */
const mostOdd = 20
let timer: NodeJS.Timeout | undefined
let looking: Promise<void> | null = null
let again = false

const locks = new Locks(() => {
  // another server may own them now
  for (const { link } of owned.values()) link.stop()
  owned.clear()
})

/** Where the stand-ins listen, as the start script tells: {"processor":"127.0.0.1:41231"}. */
const standinAddresses = (): Record<string, string> =>
  JSON.parse(process.env.KOVRIN_STANDINS ?? '{}') as Record<string, string>

/** Host and port of an address; `standin:processor@rack` is the copy of a simulated device in a rack of its own. */
export function resolveAddress(address: string): string | null {
  if (!address.startsWith('standin:')) return address || null
  const [name, rack] = address.slice('standin:'.length).split('@') as [string, string | undefined]
  const at = standinAddresses()[name]
  if (!at) return null
  return rack ? `${at}#${rack}` : at
}

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
  for (const [key, { link, address }] of owned) if (!wanted.has(key)) await close(key, link, address)
  const claimed = await readClaims()
  const confirmed = await readConfirmed()
  for (const { site, device } of all) await attend(site, device, claimed, confirmed)
}

async function close(key: string, link: Link, address: string) {
  link.stop()
  owned.delete(key)
  await locks.release(address)
}

async function attend(
  site: string,
  device: Device,
  claimed: ReadonlyMap<string, Claim>,
  confirmed: ReadonlySet<string>,
) {
  const key = keyOf(site, device.id)
  const address = device.address || key
  const open = owned.get(key)
  if (open && open.address !== address) await close(key, open.link, open.address)
  const unconfirmed = notConfirmed(device.address, confirmed)
  if (unconfirmed !== null) return keepLink(site, device.id, 'unconfirmed', unconfirmed, [])
  const by = device.address ? (claimed.get(address) ?? (await claim(address, site, device.id))) : null
  if (by && (by.site !== site || by.device !== device.id)) {
    if (owned.has(key)) await close(key, owned.get(key)!.link, address)
    const why = `“${by.name}” drives it. Take it over to drive it from here.`
    return keepLink(site, device.id, 'elsewhere', why, [])
  }
  // said once when it changes, and it may not have been kept then
  const mine = owned.get(key)
  if (mine) return void keepLink(site, device.id, mine.link.state, mine.link.reason, mine.left()).catch(complain)
  if (!(await locks.own(address))) return
  await releaseOthers(address, site, device.id)
  hold(site, device, address)
}

/** The same, failing with words for a person: they stand beside the device. */
const inWords = <T>(keeping: Promise<T>): Promise<T> => keeping.catch((error: unknown) => {
  throw new Error(storeFault(error), { cause: error })
})

function hold(site: string, { id, name }: Device, address: string) {
  let said: 'live' | 'lost' | null = null
  let left: string[] = []
  const odd = new Map<string, string>()
  const wished = new Map<string, unknown>()
  const wrong = () => [...left, ...odd.values()]
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
    read: async (capability, settings) => {
      left = await inWords(keepRead(site, id, capability, settings, wished))
      odd.clear()
    },
    held: async (told) => {
      const found = await inWords(keepTold(site, id, told, wished))
      for (const { path } of told) odd.delete(path)
      for (const [path, why] of found) if (odd.size < mostOdd) odd.set(path, why)
      if (found.size) keepLink(site, id, link.state, link.reason, wrong()).catch(complain)
    },
  })
  owned.set(keyOf(site, id), { site, device: id, address, link, wished, left: wrong })
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
