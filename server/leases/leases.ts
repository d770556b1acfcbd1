import { randomUUID } from 'node:crypto'
import { and, eq, lt, sql } from 'drizzle-orm'
import { contentOf, valueIn, type Change, type Documents, type Edit } from '../../core/documents'
import { holdParameter, parametersOf, valueAt } from '../../core/rig'
import { equal } from '../../core/units'
import { drive } from '../links/links'
import { actorOf, type Outcome } from '../store/actor'
import { complain, database } from '../store/client'
import { liveSettings, type Asker } from '../store/edits'
import { writeLog } from '../store/log'
import { leases, type LeaseEntry } from '../store/schema'

/** Seconds that a lease lasts after its owner was last heard of. */
export const leaseLasts = 15
const lookEvery = 1000
const until = () => new Date(Date.now() + leaseLasts * 1000)
const entryKey = ({ document, path }: Pick<LeaseEntry, 'document' | 'path'>) => `${document} ${path}`

/** Begins a temporary state, for instance the mutes of a round of sweeps; ends by itself when it is not renewed. */
export async function beginLease(site: string, what: string, { who, person }: Asker): Promise<string> {
  const id = randomUUID()
  await database().insert(leases).values({ id, siteId: site, person, who, what, until: until(), entries: {} })
  return id
}

/** Says that the owner is still there. False when the lease has ended. */
export async function renewLease(site: string, id: string): Promise<boolean> {
  const rows = await database()
    .update(leases)
    .set({ until: until() })
    .where(and(eq(leases.id, id), eq(leases.siteId, site)))
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

/** Edits that belong to a lease: what they replace is kept with it in the same commit, and put back when it ends. */
export async function editOnLease(
  site: string,
  id: string,
  edits: readonly Edit[],
  live: boolean,
  asker: Asker,
): Promise<Outcome> {
  return actorOf(site).do(async (now) => {
    const [lease] = await database()
      .select()
      .from(leases)
      .where(and(eq(leases.id, id), eq(leases.siteId, site)))
    if (contentOf(now, 'site')?.deleted)
      return { ok: false, status: 'missing', why: `There is no site “${site}”.` }
    if (!lease) return { ok: false, status: 'missing', why: 'This temporary state has ended and was put back.' }
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
        await tx.update(leases).set({ entries, until: until() }).where(eq(leases.id, id))
      },
    }
  })
}

/**
 * Ends a lease and puts everything back that nobody else has changed since. Gives how much that was; null
 * without such a lease.
 */
export async function endLease(site: string, id: string): Promise<{ restored: number, left: number } | null> {
  const mine = and(eq(leases.id, id), eq(leases.siteId, site))
  const [lease] = await database().select().from(leases).where(mine)
  if (!lease) return null
  const ended = await restore(lease)
  await database().delete(leases).where(mine) // only now: a server that dies in between puts back what is left
  return ended
}

async function restore(lease: typeof leases.$inferSelect): Promise<{ restored: number, left: number }> {
  const entries = Object.values(lease.entries)
  let left = 0
  const outcome = await actorOf(lease.siteId).do((now) => {
    const mine = entries.filter(e => equal(standingAt(now, e), e.now))
    left = entries.length - mine.length
    // first what falls silent, then what begins to sound
    const edits = [...mine]
      .sort((a, b) => Number(isOpening(a)) - Number(isOpening(b)))
      .map(({ document, path, old, now: value }): Edit => ({ document, path, old: value, new: old }))
    const doing = {
      who: lease.who,
      person: lease.person,
      gesture: null,
      live: true,
      origin: 'lease',
      undo: 'none',
    } as const
    return { ok: true, hand: 'person', parts: edits.length ? [{ edits, doing }] : [] }
  })
  if (!outcome.ok) {
    await writeLog(
      lease.siteId,
      'Kovrin',
      `${lease.what}: what it had changed could not be put back: ${outcome.why}`,
    )
    return { restored: 0, left: entries.length }
  }
  await sendAll(lease.siteId, outcome.changes)
  const restored = outcome.changes.length
  const others = left ? `; ${left} had been changed by somebody else and stay` : ''
  if (restored || left)
    await writeLog(
      lease.siteId,
      'Kovrin',
      `${lease.what} is over: ${restored} settings are as they were before${others}.`,
    )
  return { restored, left }
}

const isOpening = ({ old }: LeaseEntry) => old === false || typeof old === 'number'

async function sendAll(site: string, made: readonly Change[]) {
  const number = made.at(-1)?.number ?? 0
  await Promise.all(
    [...liveSettings(made)].map(([device, paths]) => drive(site, device, { paths, readBack: false, number })),
  )
}

let timer: NodeJS.Timeout | undefined

/** Ends every lease whose owner is gone, also those that another server or an earlier start began. */
export async function endOverdue() {
  const isOver = lt(leases.until, sql`now()`)
  for (const lease of await database().select().from(leases).where(isOver)) {
    await restore(lease)
    await database().delete(leases).where(and(eq(leases.id, lease.id), isOver))
  }
}
export function startLeases() {
  timer = setInterval(
    () => endOverdue().catch(error => complain('Leases', error)),
    lookEvery,
  )
}
export const stopLeases = () => clearInterval(timer)
