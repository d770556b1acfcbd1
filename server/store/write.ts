import { sql } from 'drizzle-orm'
import type { Change, Documents } from '../../core/documents'
import { inTurns } from '../utils/turns'
import { serverId } from './bus'
import type { Database, Transaction } from './client'
import type { UndoState } from './schema'

/** A change on its way into the table, with whether it can be taken back. */
export interface Row {
  change: Change
  undo: UndoState
}
/** Changes made before that are now taken back, made again, or out of reach. */
export interface Mark {
  number: number
  undo: UndoState
}

const valueOf = ({ old, new: value }: Change) => ({
  ...(old === undefined ? {} : { old }),
  ...(value === undefined ? {} : { new: value }),
})

/** Rows as one JSON list. */
function* linesOf(rows: readonly Row[]): Generator<undefined, string> {
  const lines: string[] = []
  for (const { change, undo } of rows) {
    lines.push(JSON.stringify({ ...change, value: valueOf(change), undo }))
    yield
  }
  return `[${lines.join()}]`
}

/**
 * Stores changes that follow `base`, all or none, in one statement: the numbers, the documents as they are
 * after them, the rows, and
 * the word to other servers. False when somebody else's change came first: nothing is stored then.
 */
export async function writeChanges(
  db: Database | Transaction,
  site: string,
  base: number,
  rows: readonly Row[],
  after: Documents,
  marks: readonly Mark[] = [],
): Promise<boolean> {
  const number = base + rows.length
  const touched = [...new Set(rows.map(r => r.change.document))]
  const kept = touched.flatMap(key => (after[key] === undefined ? [] : [{ key, content: after[key] }]))
  const gone = touched.filter(key => after[key] === undefined)
  const lines = await inTurns(linesOf(rows))
  // whoever does something new can no longer redo what was undone before
  const persons = [
    ...new Set(rows.filter(r => r.undo === 'done' && r.change.origin === 'edit').map(r => r.change.person)),
  ]
  const told = JSON.stringify({ kind: 'changed', site, number, from: serverId })
  const result = await db.execute(sql`
    with bumped as (
      update sites set number = ${number}, touched_at = now() where id = ${site} and number = ${base} returning id
    ), kept as (
      insert into documents (site_id, key, content)
      select b.id, d.key, d.content from bumped b, jsonb_to_recordset(${JSON.stringify(kept)}::jsonb)
        as d(key text, content jsonb)
      on conflict (site_id, key) do update set content = excluded.content
    ), gone as (
      delete from documents where site_id = ${site} and exists (select 1 from bumped)
        and key in (select jsonb_array_elements_text(${JSON.stringify(gone)}::jsonb))
    ), lines as (
      insert into changes (site_id, number, document, path, value, gesture, who, person, origin, live, undo, at)
      select b.id, c.* from bumped b, jsonb_to_recordset(${lines}::jsonb) as c(
        number int, document text, path text, value jsonb, gesture text, who text, person text, origin text,
        live bool, undo text,
        at timestamptz)
    ), marked as (
      update changes set undo = m.undo
      from jsonb_to_recordset(${JSON.stringify(marks)}::jsonb) as m(number int, undo text)
      where changes.site_id = ${site} and changes.number = m.number and exists (select 1 from bumped)
    ), unredoable as (
      update changes set undo = 'gone' where site_id = ${site} and undo = 'undone' and exists (select 1 from bumped)
        and person in (select jsonb_array_elements_text(${JSON.stringify(persons)}::jsonb))
    )
    select pg_notify('kovrin', ${told}) from bumped`)
  return (result.rowCount ?? 0) > 0
}
