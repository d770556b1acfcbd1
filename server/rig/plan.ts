import { and, eq, max } from 'drizzle-orm'
import * as v from 'valibot'
import { planFaults, Position, SitePlan, Source } from '../../core/rig'
import { database, type Transaction } from '../db/client'
import { recordChange } from '../db/changes'
import { readPlan } from '../db/sites'
import { positions, sites, sources, takes } from '../db/schema'
import { tell } from '../live/channel'
import { touch } from './held'

export const PlanEdit = v.variant('what', [
  v.strictObject({ what: v.literal('plan'), key: v.literal('plan'), old: SitePlan, new: SitePlan }),
  v.strictObject({ what: v.literal('source'), key: v.string(), old: v.nullable(Source), new: v.nullable(Source) }),
  v.strictObject({
    what: v.literal('position'),
    key: v.string(),
    old: v.nullable(Position),
    new: v.nullable(Position),
  }),
])
export type PlanEdit = v.InferOutput<typeof PlanEdit>

export type PlanAnswer
  = | { status: 'kept' }
    | { status: 'missing' }
    | { status: 'refused', why: string }
    | { status: 'overtaken', why: string }

/** Equal as JSON, whatever the order of the keys. */
const sorted = (value: unknown): unknown =>
  Array.isArray(value)
    ? value.map(sorted)
    : value && typeof value === 'object'
      ? Object.fromEntries(
          Object.entries(value)
            .sort(([a], [b]) => (a < b ? -1 : 1))
            .map(([k, x]) => [k, sorted(x)]),
        )
      : value
const same = (a: unknown, b: unknown) => JSON.stringify(sorted(a)) === JSON.stringify(sorted(b))

class Refused extends Error {
  constructor(readonly answer: PlanAnswer) {
    super('refused')
  }
}
const refuse = (why: string): never => {
  throw new Refused({ status: 'refused', why })
}

async function change(siteId: string, job: (tx: Transaction) => Promise<void>): Promise<PlanAnswer> {
  try {
    await database().transaction(async (tx) => {
      await job(tx)
      await touch(tx, siteId)
    })
  }
  catch (error) {
    if (error instanceof Refused) return error.answer
    throw error
  }
  const now = await readPlan(siteId)
  if (now) tell(siteId, { type: 'plan', ...now })
  return { status: 'kept' }
}

/**
 * One change of the plan, a source or a position: refused when somebody was quicker, or when the plan could not
 * be built.
 */
export const editPlan = (siteId: string, edit: PlanEdit, who: string): Promise<PlanAnswer> =>
  change(siteId, async (tx) => {
    await apply(tx, siteId, edit)
    await recordChange(tx, siteId, edit, who)
  })

/** The same without a record of its own: for what is taken back or made again. */
export const replayPlan = (siteId: string, edit: PlanEdit): Promise<PlanAnswer> =>
  change(siteId, tx => apply(tx, siteId, edit))

async function apply(tx: Transaction, siteId: string, edit: PlanEdit) {
  const [site] = await tx.select().from(sites).where(eq(sites.id, siteId)).for('update')
  if (!site || site.deletedAt) throw new Refused({ status: 'missing' })
  const now = (await readPlan(siteId, tx))!
  const list: { id: string }[] | null
    = edit.what === 'source' ? now.sources : edit.what === 'position' ? now.positions : null
  const current = list ? (list.find(x => x.id === edit.key) ?? null) : now.plan
  if (!same(current, edit.old))
    throw new Refused({
      status: 'overtaken',
      why: 'This part of the plan was changed meanwhile; the newer one is shown. Do it again if you still want it.',
    })
  if (edit.what !== 'plan' && edit.new && edit.new.id !== edit.key)
    refuse('A source or position keeps its own key.')
  const replaced = <T extends { id: string }>(all: T[], item: T | null) =>
    item
      ? all.some(x => x.id === item.id)
        ? all.map(x => (x.id === item.id ? item : x))
        : [...all, item]
      : all.filter(x => x.id !== edit.key)
  const faults = planFaults(
    edit.what === 'plan' ? edit.new : now.plan,
    edit.what === 'source' ? replaced(now.sources, edit.new) : now.sources,
    edit.what === 'position' ? replaced(now.positions, edit.new) : now.positions,
  )
  if (faults.length) refuse(faults.join(' '))
  if (edit.what === 'plan') {
    await tx.update(sites).set({ plan: edit.new }).where(eq(sites.id, siteId))
    return
  }
  const table = edit.what === 'source' ? sources : positions
  const cell = edit.what === 'source' ? takes.sourceId : takes.positionId
  const at = and(eq(table.siteId, siteId), eq(table.id, edit.key))
  if (!edit.new) {
    const kept = await tx.$count(takes, and(eq(takes.siteId, siteId), eq(cell, edit.key)))
    if (kept) refuse(`It has ${kept} ${kept === 1 ? 'take' : 'takes'}, which would be lost with it.`)
    await tx.delete(table).where(at)
    return
  }
  if (edit.old) {
    if (edit.what === 'source') await tx.update(sources).set(edit.new).where(at)
    else await tx.update(positions).set(edit.new).where(at)
    return
  }
  const [last] = await tx
    .select({ order: max(table.order) })
    .from(table)
    .where(eq(table.siteId, siteId))
  const order = (last?.order ?? -1) + 1
  if (edit.what === 'source') await tx.insert(sources).values({ ...edit.new, siteId, order })
  else await tx.insert(positions).values({ ...edit.new, siteId, order })
}
