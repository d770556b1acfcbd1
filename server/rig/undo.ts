import { and, asc, desc, eq } from 'drizzle-orm'
import * as v from 'valibot'
import { parameterName, showParameter, type ParameterPath, type ParameterValue } from '../../core/rig'
import type { Change } from '../db/changes'
import { database } from '../db/client'
import { changes, devices, sites, takes } from '../db/schema'
import { applyEdit } from './edits'
import { inOrder } from './inOrder'
import { PlanEdit, replayPlan } from './plan'
import { changeTake, TakeChange } from './takes'

export type UndoAnswer
  = | { status: 'missing' }
    | { status: 'nothing' }
    | { status: 'refused', why: string }
    | { status: 'done', what: string, why: string | null }

type Step = { ok: true, what: string, why?: string | null } | { ok: false, overtaken: boolean, why: string }
const gone = (what: string): Step => ({ ok: false, overtaken: true, why: `${what} is no longer there.` })

/** Makes `then` of what is `now`, if it still is. */
const makers: Record<
  Change['what'],
  (site: string, change: Change, now: unknown, then: unknown, live: boolean, who: string) => Promise<Step>
> = {
  plan: replay,
  source: replay,
  position: replay,
  async setting(site, { key }, now, then, live, who) {
    const at = key.indexOf('/')
    const id = key.slice(0, at)
    const path: ParameterPath = key.slice(at)
    const answer = await inOrder(`${site}/${id}`, () =>
      applyEdit(site, id, { path, old: now as ParameterValue, new: then, live, gesture: null }, who),
    )
    if (answer.status === 'missing') return gone('The device')
    if (answer.status !== 'kept') return { ok: false, overtaken: answer.status === 'overtaken', why: answer.why }
    const [device] = await database()
      .select({ name: devices.name })
      .from(devices)
      .where(and(eq(devices.siteId, site), eq(devices.id, id)))
    return {
      ok: true,
      what: `${device!.name}: ${parameterName(path)} is ${showParameter(path, answer.value)} again.`,
      why: answer.why,
    }
  },
  async take(site, { key }, now, then, _, who) {
    const [row] = await database()
      .select()
      .from(takes)
      .where(and(eq(takes.siteId, site), eq(takes.id, key)))
    if (!row) return gone('The take')
    const present: Record<string, unknown> = { ...row, deleted: row.deletedAt !== null }
    if (Object.entries(now as object).some(([k, value]) => present[k] !== value))
      return { ok: false, overtaken: true, why: `“${row.name}” was changed meanwhile.` }
    const change = v.parse(TakeChange, then)
    const made = await changeTake(site, key, change, who, false)
    return made
      ? {
          ok: true,
          what:
            change.deleted === undefined
              ? `“${made.name}” is as it was.`
              : `“${made.name}” is ${change.deleted ? 'out of' : 'back in'} the ledger.`,
        }
      : gone('The take')
  },
}
async function replay(site: string, change: Change, now: unknown, then: unknown): Promise<Step> {
  const answer = await replayPlan(
    site,
    v.parse(PlanEdit, { what: change.what, key: change.key, old: now, new: then }),
  )
  if (answer.status === 'kept') return { ok: true, what: 'The plan is as it was.' }
  return answer.status === 'missing'
    ? gone('The site')
    : { ok: false, overtaken: answer.status === 'overtaken', why: answer.why }
}

/**
 * Takes back the newest change of a site that still stands, or makes the last one that was taken back again; of
 * a gesture all its
 * changes. What somebody else changed meanwhile is left as it is, and out of what can be taken back, so that
 * the one before
 * can be reached.
 */
export const undo = (site: string, redo: boolean, live: boolean, who: string): Promise<UndoAnswer> =>
  inOrder(`${site} undo`, async () => {
    const [there] = await database().select({ deletedAt: sites.deletedAt }).from(sites).where(eq(sites.id, site))
    if (!there || there.deletedAt) return { status: 'missing' }
    const standing = and(eq(changes.siteId, site), eq(changes.undone, redo), eq(changes.replaced, false))
    const order = redo ? asc : desc
    const [first] = await database().select().from(changes).where(standing).orderBy(order(changes.id)).limit(1)
    if (!first) return { status: 'nothing' }
    const all = first.gesture
      ? await database()
          .select()
          .from(changes)
          .where(and(standing, eq(changes.gesture, first.gesture)))
          .orderBy(order(changes.id))
      : [first]
    let last: Extract<Step, { ok: true }> | null = null
    for (const change of all) {
      const step = await makers[change.what](
        site,
        change,
        redo ? change.old : change.new,
        redo ? change.new : change.old,
        live,
        who,
      )
      if (step.ok || step.overtaken)
        await database()
          .update(changes)
          .set(step.ok ? { undone: !redo } : { undone: true, replaced: true })
          .where(eq(changes.id, change.id))
      if (!step.ok)
        return {
          status: 'refused',
          why: `${step.why} ${step.overtaken ? `It stays as it is now; do it once more for the change ${redo ? 'after' : 'before'} it.` : 'Nothing was changed.'}`,
        }
      last = step
    }
    return {
      status: 'done',
      what: all.length > 1 ? `${last!.what} (and ${all.length - 1} more)` : last!.what,
      why: last!.why ?? null,
    }
  })
