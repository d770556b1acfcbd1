import { and, asc, desc, eq, inArray, isNull } from 'drizzle-orm'
import {
  mergeEdits,
  invertEdit,
  nested,
  sayEdit,
  splitKey,
  valueIn,
  type Change,
  type Documents,
  type Edit,
  type EditRefusal,
} from '../../core/documents'
import { contentOf } from '../../core/documents'
import { parametersOf } from '../../core/rig'
import { equal } from '../../core/units'
import { actorOf, type Outcome } from './actor'
import { Passage, settingsAmong } from './gate'
import { database } from './client'
import type { Asker } from './edits'
import { changes } from './schema'
import { message, type Message } from '../../core/words'

export type UndoAnswer
  = | { status: 'nothing' }
    | { status: 'missing', why: Message }
    | { status: 'refused', why: Message }
    | { status: 'louder', refusal: { ok: false } & EditRefusal }
    | { status: 'done', what: string, changes: Change[] }

type Row = typeof changes.$inferSelect

/** The rows of the gesture that a person would undo next, or redo, in the order in which they were made. */
async function nextGesture(site: string, person: string, redo: boolean): Promise<Row[]> {
  const standing = and(
    eq(changes.siteId, site),
    eq(changes.person, person),
    eq(changes.undo, redo ? 'undone' : 'done'),
  )
  const [first] = await database()
    .select()
    .from(changes)
    .where(standing)
    .orderBy(redo ? asc(changes.number) : desc(changes.number))
    .limit(1)
  if (!first) return []
  const same = first.gesture === null ? isNull(changes.gesture) : eq(changes.gesture, first.gesture)
  if (first.gesture === null) return [first]
  return database().select().from(changes).where(and(standing, same)).orderBy(asc(changes.number))
}

const asEdit = ({ document, path, value }: Row): Edit => ({ document, path, ...value })

/** True when what an edit wants to replace still stands: nobody has changed it since. */
function stands(now: Documents, { document, path, old }: Edit): boolean {
  const at = splitKey(document)
  const value = valueIn(now, document, path)
  if (at?.kind !== 'settings' || path === '') return equal(value, old)
  const device = contentOf(now, 'device', at.id)
  const neutral = device && parametersOf(device.capability).get(path)?.neutral
  return equal(value ?? neutral, old ?? neutral)
}

/** Those of some edits that can be made; one that lies within another that cannot be made is left as well. */
function standing(now: Documents, edits: readonly Edit[]): Edit[] {
  const fallen = edits.filter((e, k) => !stands(now, e) && !edits.some((o, j) => j < k && nested(o, e)))
  return edits.filter(e => !fallen.includes(e) && !fallen.some(f => nested(f, e)))
}

/**
 * Takes back the newest gesture of a person that still stands, or makes the last one taken back again, all of
 * it in one go. What somebody
 * else has changed since is left as it is, and said.
 */
export async function undo(
  site: string,
  redo: boolean,
  live: boolean,
  asker: Asker,
  passage = new Passage(site),
): Promise<UndoAnswer> {
  let rows: Row[] = []
  let wanted: Edit[] = []
  let left = 0
  const outcome: Outcome = await actorOf(site).do(async (now) => {
    if (contentOf(now, 'site')?.deleted) return { ok: false, status: 'missing', why: message('site.noSuch') }
    rows = await nextGesture(site, asker.person, redo)
    const merged = mergeEdits(rows.map(asEdit))
    const all = redo ? merged : [...merged].reverse().map(invertEdit)
    wanted = standing(now, all)
    left = all.length - wanted.length
    if (!wanted.length) return { ok: false, status: 'refused', why: message('edit.overtaken') }
    const refused = live ? await passage.admit(now, settingsAmong(now, wanted)) : null
    if (refused) return refused
    const doing = { ...asker, gesture: null, live, origin: redo ? 'redo' : 'undo', undo: 'none' } as const
    const marks = rows.map(r => ({ number: r.number, undo: redo ? ('done' as const) : ('undone' as const) }))
    return { ok: true, hand: 'person', parts: [{ edits: wanted, doing }], marks }
  })
  if (!rows.length)
    return outcome.ok || outcome.status !== 'missing'
      ? { status: 'nothing' }
      : { status: 'missing', why: outcome.why }
  if (!outcome.ok && outcome.status === 'louder') return { status: 'louder', refusal: outcome }
  if (!outcome.ok) {
    // it can never be made again as it was: out of the way, so that the one behind it can be reached
    await database()
      .update(changes)
      .set({ undo: 'gone' })
      .where(
        and(
          eq(changes.siteId, site),
          inArray(
            changes.number,
            rows.map(r => r.number),
          ),
        ),
      )
    const which = redo ? 'after' : 'before'
    const why = wanted.length
      ? message('undo.refused', { why: outcome.why, which })
      : message('undo.overtaken', { which })
    return { status: 'refused', why }
  }
  const last = wanted[wanted.length - 1]!
  // of a setting what it is now, of everything else what was done to it
  const whole = splitKey(last.document)?.kind !== 'settings' || last.path === ''
  const said = sayEdit(outcome.documents, whole && !redo ? invertEdit(last) : last)
  const more = wanted.length > 1 ? ` (and ${wanted.length - 1} more)` : ''
  const others = left
    ? ` ${left} more ${left === 1 ? 'was' : 'were'} changed meanwhile and left as ${left === 1 ? 'it is' : 'they are'}.`
    : ''
  return {
    status: 'done',
    what: `${redo ? 'Redone' : 'Undone'}: ${said}${more}.${others}`,
    changes: outcome.changes,
  }
}
