import { randomUUID } from 'node:crypto'
import { and, eq, gt, lt, sql } from 'drizzle-orm'
import type { TemporaryAnswer } from '../../core/contract'
import { contentOf, valueIn, type Documents, type Edit } from '../../core/documents'
import { holdParameter, parametersOf, valueAt } from '../../core/rig'
import { equal } from '../../core/units'
import { deliver } from '../links/sending'
import { actorOf, Quicker, type Outcome } from '../store/actor'
import type { StoodThen } from '../store/backup'
import { complain, database } from '../store/client'
import type { Asker, EditRequest } from '../store/edits'
import { Passage, settingsAmong, WayBack } from '../store/gate'
import { writeLog } from '../store/log'
import { leases, type LeaseEntry } from '../store/schema'
import { message, wordsOf } from '../../core/words'

/** Seconds that a lease lasts after its owner was last heard of. */
export const leaseLasts = 15
const lookEvery = 1000
const until = () => sql`now() + make_interval(secs => ${leaseLasts})`
/** One that has ended and is being put back: it cannot go on any more. */
const ended = new Date(0)
const goesOn = gt(leases.until, ended)
/** What somebody hears who did not begin it. */
export const notYours = message('lease.notYours')
const entryKey = ({ document, path }: Pick<LeaseEntry, 'document' | 'path'>) => `${document} ${path}`

/** Begins a temporary state, for instance the mutes of a round of sweeps; ends by itself when it is not renewed. */
export async function beginLease(site: string, what: string, { who, person }: Asker): Promise<string> {
  const id = randomUUID()
  await database().insert(leases).values({ id, siteId: site, person, who, what, until: until(), entries: {} })
  return id
}

/** True where a person may go on with a temporary state or end it: whoever began it; also where there is none. */
export async function mayActOn(site: string, id: string, person: string): Promise<boolean> {
  const [lease] = await database().select({ person: leases.person }).from(leases)
    .where(and(eq(leases.id, id), eq(leases.siteId, site)))
  return !lease || lease.person === person
}
/** Says that the owner is still there. False when the lease has ended. */
export async function renewLease(site: string, id: string): Promise<boolean> {
  const rows = await database()
    .update(leases)
    .set({ until: until() })
    .where(and(eq(leases.id, id), eq(leases.siteId, site), goesOn))
    .returning({ id: leases.id })
  return rows.length > 0
}

/** What stands at a place of the documents; of settings the neutral value where nothing is set. */
function standingAt(now: Documents, { document, path }: Pick<LeaseEntry, 'document' | 'path'>): unknown {
  if (!document.startsWith('settings/')) return valueIn(now, document, path)
  const device = contentOf(now, 'device', document.slice('settings/'.length))
  const settings = contentOf(now, 'settings', document.slice('settings/'.length))
  return device && settings ? valueAt(device.capability, settings, path) : undefined
}

/** What will stand where an edit is made: of settings as the device holds it, neutral where it is taken away. */
function keptAs(now: Documents, edit: Edit): unknown {
  const device = contentOf(now, 'device', edit.document.replace('settings/', ''))
  const parameter = device && parametersOf(device.capability).get(edit.path)
  if (!parameter || !edit.document.startsWith('settings/')) return edit.new
  const held = holdParameter(device.capability, edit.path, edit.new === undefined ? parameter.neutral : edit.new)
  return held.ok ? held.value : edit.new
}

/**
 * Edits that belong to a lease: what they replace is kept with it in the same commit, and put back when it ends. Live
 * settings ask `passage` first.
 */
export async function editOnLease(
  site: string,
  id: string,
  { edits, live }: Pick<EditRequest, 'edits' | 'live'>,
  asker: Asker,
  passage = new Passage(site),
): Promise<Outcome> {
  return actorOf(site).do(async (now) => {
    const [lease] = await database()
      .select()
      .from(leases)
      .where(and(eq(leases.id, id), eq(leases.siteId, site), goesOn))
    if (contentOf(now, 'site')?.deleted)
      return { ok: false, status: 'missing', why: message('site.noSuch') }
    if (!lease) return { ok: false, status: 'missing', why: message('lease.over') }
    if (lease.person !== asker.person) return { ok: false, status: 'refused', why: notYours }
    const refused = live ? await passage.admit(now, settingsAmong(now, edits)) : null
    if (refused) return refused
    const entries = { ...lease.entries }
    for (const edit of edits) {
      const key = entryKey(edit)
      const { document, path } = edit
      const old = entries[key] ? entries[key].old : standingAt(now, edit)
      entries[key] = { document, path, old, now: keptAs(now, edit) }
    }
    const doing = { ...asker, gesture: null, live, origin: 'lease', undo: 'none' } as const
    return {
      ok: true,
      hand: 'person',
      parts: [{ edits, doing }],
      also: async (tx) => {
        const still = await tx.update(leases).set({ entries, until: until() })
          .where(and(eq(leases.id, id), goesOn)).returning({ id: leases.id })
        // it ended between: what is set now would never be put back
        if (!still.length) throw new Quicker()
      },
    }
  })
}

/** Settings that stand only for a while, who set them, and for what. What somebody changed since stands for good. */
export async function temporaryOf(site: string): Promise<TemporaryAnswer> {
  const rows = await database().select().from(leases).where(eq(leases.siteId, site))
  const now = rows.length ? (await actorOf(site).read())?.documents ?? {} : {}
  const stands = (e: LeaseEntry | null) => e && isSetting(e) && !e.put && !equal(e.old, e.now)
    && equal(standingAt(now, e), e.now)
  return rows.flatMap(({ who, what, entries }) => Object.values(entries)
    .filter(stands)
    .map(e => ({ device: deviceOf(e), path: e.path, who, what })))
}

type Lease = typeof leases.$inferSelect
/** What became of the values of a lease that ended. */
interface Ending {
  restored: number
  /** Changed by somebody else since: they stay. */
  left: number
  /** Put back as soon as they can be. */
  waiting: number
}

/**
 * Ends a lease and puts everything back that nobody else has changed since, value by value; what cannot be put back
 * now is kept and tried again. Null without such a lease.
 */
export async function endLease(site: string, id: string): Promise<Ending | null> {
  const [lease] = await database()
    .update(leases)
    .set({ until: ended })
    .where(and(eq(leases.id, id), eq(leases.siteId, site), goesOn))
    .returning()
  return lease ? await restoring(lease) : null
}

const atWork = new Map<string, Promise<Ending>>()
/** One restoration of a lease at a time: whoever asks meanwhile gets what comes of it. */
function restoring(lease: Lease): Promise<Ending> {
  const going = atWork.get(lease.id) ?? restore(lease).finally(() => atWork.delete(lease.id))
  atWork.set(lease.id, going)
  return going
}

const isOpening = ({ old }: LeaseEntry) => old === false || typeof old === 'number'
const deviceOf = ({ document }: LeaseEntry) => document.slice('settings/'.length)
const isSetting = ({ document }: LeaseEntry) => document.startsWith('settings/')

/** Puts the drafts back that still stand as the lease made them; gives what waits now, and what somebody changed. */
async function putBack(lease: Omit<Lease, 'id' | 'until'>): Promise<{ waiting: LeaseEntry[], left: number }> {
  const waiting: LeaseEntry[] = []
  let left = 0
  // first what falls silent, then what begins to sound
  const entries = Object.values(lease.entries).sort((a, b) => Number(isOpening(a)) - Number(isOpening(b)))
  const { who, person } = lease
  const doing = { who, person, gesture: null, live: true, origin: 'lease', undo: 'none' } as const
  const outcome = await actorOf(lease.siteId).do((now) => {
    waiting.length = left = 0
    const edits: Edit[] = []
    for (const entry of entries) {
      const { document, path, old } = entry
      const stands = standingAt(now, entry)
      const has = isSetting(entry) ? contentOf(now, 'device', deviceOf(entry)) : undefined
      const isGone = isSetting(entry) && !(has && parametersOf(has.capability).has(path))
      const mine = equal(stands, entry.put ? old : entry.now)
      // a device that came back without this parameter, or somebody’s own value: nothing is put over it
      if (isGone || !mine || (has && !holdParameter(has.capability, path, old).ok)) {
        left++
        continue
      }
      if (!entry.put) edits.push({ document, path, old: stands, new: old })
      if (isSetting(entry)) waiting.push({ ...entry, put: true })
    }
    return { ok: true, hand: 'person', parts: edits.map(edit => ({ edits: [edit], doing })) }
  })
  if (outcome.ok) return { waiting, left }
  complain('Leases', new Error(`${lease.what}: ${wordsOf(outcome.why)}`))
  return { waiting: outcome.status === 'missing' ? [] : entries, left: 0 }
}

/** Puts back in the drafts what stood only for a while when a site's backup was made; nothing goes to a device. */
export async function endThose({ site, who, what, entries }: StoodThen): Promise<void> {
  const all = Object.fromEntries(entries.map(e => [entryKey(e), e]))
  const { waiting, left } = await putBack({ siteId: site, who, person: 'backup', what, entries: all })
  await sayEnding(site, `“${what}”, which stood when the backup was made,`,
    { restored: waiting.length, left, waiting: 0 }, true)
}

/** Those of some values that their devices do not hold. */
async function unconfirmed(site: string, entries: readonly LeaseEntry[]): Promise<LeaseEntry[]> {
  const mirror = await actorOf(site).read()
  if (!mirror) return []
  return entries.filter((entry) => {
    const held = contentOf(mirror.documents, 'held', deviceOf(entry))
    const device = contentOf(mirror.documents, 'device', deviceOf(entry))
    return held && device && !equal(valueAt(device.capability, held, entry.path), entry.old)
  })
}

async function restore(lease: Lease): Promise<Ending> {
  const { siteId: site, id, what } = lease
  const before = Object.values(lease.entries)
  const isFirst = !before.some(e => e.put)
  const { waiting: put, left } = await putBack(lease)
  await keepEntries(id, put)
  const wishes = await unconfirmed(site, put)
  const passage = new WayBack(site)
  const mirror = await actorOf(site).read()
  if (mirror && wishes.length) {
    await passage.admit(mirror.documents, wishes.map(e => ({ device: deviceOf(e), path: e.path, value: e.old })))
    const deliveries = [...new Set(wishes.map(deviceOf))].map(device =>
      ({ device, paths: wishes.filter(e => deviceOf(e) === device).map(e => e.path) }))
    await deliver(passage, deliveries, { readBack: false, number: mirror.number })
  }
  const waiting = await unconfirmed(site, put)
  const restored = before.length - left - waiting.length
  if (waiting.length) await keepEntries(id, waiting)
  else await database().delete(leases).where(eq(leases.id, id))
  await sayEnding(site, what, { restored, left, waiting: waiting.length }, isFirst)
  return { restored, left, waiting: waiting.length }
}

const keepEntries = (id: string, entries: readonly LeaseEntry[]) =>
  database()
    .update(leases)
    .set({ entries: Object.fromEntries(entries.map(e => [entryKey(e), e])) })
    .where(eq(leases.id, id))

/** Says in the log how a temporary state ended: when it does, and once more when the last of it is back. */
async function sayEnding(site: string, what: string, { restored, left, waiting }: Ending, isFirst: boolean) {
  if (!isFirst && waiting) return
  if (!restored && !left && !waiting) return
  await writeLog(site, 'Kovrin', message('log.temporary.over', { what, restored, left, waiting }))
}

let timer: NodeJS.Timeout | undefined
let looking = false

/**
 * Ends every lease whose owner is gone, also those that another server or an earlier start began, and goes on with what
 * could not be put back yet. One that fails stops no other.
 */
export async function endOverdue() {
  const isOver = lt(leases.until, sql`now()`)
  for (const { id } of await database().select({ id: leases.id }).from(leases).where(isOver)) {
    try {
      const mine = and(eq(leases.id, id), isOver)
      const [lease] = await database().update(leases).set({ until: ended }).where(mine).returning()
      if (lease) await restoring(lease)
    }
    catch (error) { complain('Leases', error) }
  }
}
/** A look that goes on is not begun a second time. */
async function look() {
  if (looking) return
  looking = true
  try {
    await endOverdue()
  }
  catch (error) { complain('Leases', error) }
  finally {
    looking = false
  }
}
export function startLeases() {
  timer = setInterval(() => void look(), lookEvery)
}
export const stopLeases = () => clearInterval(timer)
