import { sql } from 'drizzle-orm'
import * as v from 'valibot'
import { Keeping, type BackupCheck } from '../../core/contract'
import { origins, readDocument, splitKey } from '../../core/documents'
import { linesOf, ofTheMoment, type ArchivedTable, type Line, type StoodThen } from './backup'
import { database, type Transaction } from './client'
import { hashOf } from './hash'
import { takeData, undoStates } from './schema'
import { codeOf, valuesOf } from './log'
import { refusal, wordsOf } from '../../core/words'

/** What became of an archive's sites. */
export interface Restored {
  restored: string[]
  /** Sites that were there already, and stayed as they are. */
  left: string[]
  /** What stood only for a while in those that were put back. */
  temporary: StoodThen[]
}

const rowsTogether = 200
/** Most sites that an archive is read with: what is told of each is kept until its end. */
const mostSites = 10_000
const bytesTogether = 2 ** 20
/** Rows of these belong to the whole installation: what is there already stays. */
const shared = new Set<ArchivedTable>(['keeping', 'contents'])

const text = (most: number) => v.pipe(v.string(), v.maxLength(most))
/** What a row must be to be put back; columns that are not named here are checked by the database. */
const rowSchemas = {
  keeping: v.object({ name: v.literal('keeping'), value: Keeping }),
  sites: v.object({ id: v.pipe(v.string(), v.regex(/^[\w-]{1,80}$/)), number: v.pipe(v.number(), v.minValue(0)) }),
  contents: v.pipe(
    v.object({ hash: v.string(), content: v.unknown() }),
    v.check(({ hash, content }) => hashOf(content) === hash, 'its content is not what its key says'),
  ),
  documents: v.pipe(v.object({ key: v.string(), content: v.unknown() }), v.rawCheck(({ dataset, addIssue }) => {
    if (!dataset.typed) return
    const read = readDocument(dataset.value.key, dataset.value.content)
    if (!read.ok) addIssue({ message: wordsOf(read.why) })
  })),
  changes: v.object({
    number: v.pipe(v.number(), v.integer(), v.minValue(1)),
    document: v.pipe(v.string(), v.check(key => splitKey(key) !== null, 'is no kind of document')),
    path: text(300), value: v.object({}), gesture: v.nullable(text(200)), who: text(200), person: text(200),
    origin: v.picklist(origins), live: v.boolean(), undo: v.picklist(undoStates),
  }),
  log: v.object({
    who: text(200), what: text(10_000), code: v.nullish(text(100)),
    values: v.nullish(v.record(text(100), v.union([text(10_000), v.number()]))),
  }),
} satisfies Record<ArchivedTable, v.GenericSchema>

/** Throws RangeError for a row that cannot be put back. */
function checkRow(table: ArchivedTable, row: Record<string, unknown>) {
  const read = v.safeParse(rowSchemas[table], row)
  if (read.success) return
  throw refusal('backup.row', { table, where: v.getDotPath(read.issues[0]) ?? '', why: read.issues[0].message })
}

/** Puts rows of one table in, many in a statement. */
class Writer {
  private table: ArchivedTable | null = null
  private rows: Record<string, unknown>[] = []
  private bytes = 0
  constructor(private readonly tx: Transaction) {}

  async add(table: ArchivedTable, row: Record<string, unknown>) {
    if (table !== this.table || this.rows.length >= rowsTogether || this.bytes > bytesTogether) await this.flush()
    this.table = table
    // a log's lines are numbered anew: their order is all that the number says
    const kept = table === 'log' ? { ...row, id: undefined } : row
    this.rows.push(kept)
    this.bytes += JSON.stringify(kept).length
  }

  async flush() {
    const { table, rows } = this
    this.rows = []
    this.bytes = 0
    if (!table || !rows.length) return
    const name = sql.identifier(table)
    const what = sql`jsonb_populate_recordset(null::${name}, ${JSON.stringify(rows)}::jsonb)`
    if (table === 'log') {
      await this.tx.execute(
        sql`insert into log (site_id, who, what, code, "values", at)
          select r.site_id, r.who, r.what, coalesce(r.code, ${codeOf(sql`r.what`)}),
            coalesce(r."values", ${valuesOf(sql`r.what`)}), r.at from ${what} r`)
      return
    }
    const there = shared.has(table) ? sql`on conflict do nothing` : sql``
    await this.tx.execute(sql`insert into ${name} select * from ${what} ${there}`)
  }
}

const isOfTheMoment = (table: string): table is typeof ofTheMoment[number] =>
  (ofTheMoment as readonly string[]).includes(table)

const siteOf = (line: Line): string | null => {
  if ('take' in line) return line.site
  if (!('table' in line)) return null
  const key = line.table === 'sites' ? line.row.id : line.row.site_id
  return typeof key === 'string' ? key : null
}

type Found = Omit<BackupCheck['sites'][number], 'here'>
type Here = NonNullable<BackupCheck['sites'][number]['here']>

/** What stands of some sites here. */
async function standing(ids: readonly string[]): Promise<Map<string, Here>> {
  if (!ids.length) return new Map()
  const list = sql.join(ids.map(id => sql`${id}`), sql`, `)
  const { rows } = await database().execute<Here & { id: string }>(sql`
    select s.id, coalesce(d.content->>'name', s.id) as name,
      coalesce((d.content->>'deleted')::boolean, false) as deleted,
      (select count(*)::int from take_data t where t.site_id = s.id) as takes,
      (select count(*)::int from changes c where c.site_id = s.id) as changes,
      (select to_json(max(c.at))#>>'{}' from changes c where c.site_id = s.id) as last
    from sites s left join documents d on d.site_id = s.id and d.key = 'site' where s.id in (${list})`)
  return new Map(rows.map(({ id, ...rest }) => [id, rest]))
}

/** Takes a line into what is told of its site. */
function tally(found: Map<string, Found>, line: Line) {
  const id = siteOf(line)
  if (id === null) return
  if ('table' in line && line.table === 'sites') {
    if (found.size >= mostSites) throw refusal('backup.manySites', { most: mostSites })
    found.set(id, { id, name: id, takes: 0, changes: 0, last: null, temporary: 0 })
  }
  const site = found.get(id)
  if (!site) {
    if ('table' in line && isOfTheMoment(line.table)) return
    throw refusal('backup.strayRow')
  }
  if ('take' in line) site.takes += line.part === 0 ? 1 : 0
  if (!('table' in line)) return
  const { key, content, at } = line.row as { key?: string, content?: { name?: unknown }, at?: unknown }
  if (line.table === 'documents' && key === 'site' && typeof content?.name === 'string') site.name = content.name
  if (line.table !== 'changes') return
  site.changes++
  if (typeof at === 'string' && (site.last === null || at > site.last)) site.last = at
}

/**
 * Reads an archive to its end and tells what it holds and what of it is here already; each row is looked at as if it
 * were put back, and nothing is kept. Throws RangeError with a sentence for a damaged archive.
 */
export async function planRestore(bytes: AsyncIterable<Uint8Array>): Promise<BackupCheck> {
  const rows: Record<string, number> = {}
  const found = new Map<string, Found>()
  let at = ''
  let stood: StoodThen[] = []
  for await (const line of linesOf(bytes)) {
    if ('format' in line) {
      ({ at } = line)
      stood = line.temporary
    }
    tally(found, line)
    if ('take' in line && line.part === 0) rows.takes = (rows.takes ?? 0) + 1
    if (!('table' in line) || isOfTheMoment(line.table)) continue
    checkRow(line.table, line.row)
    rows[line.table] = (rows[line.table] ?? 0) + 1
  }
  for (const { site, entries } of stood) {
    const its = found.get(site)
    if (its) its.temporary += entries.length
  }
  const here = await standing([...found.keys()])
  return { at, rows, sites: [...found.values()].map(site => ({ ...site, here: here.get(site.id) ?? null })) }
}

/**
 * Puts back what an archive holds, all of it or nothing. Sites that are there already stay as they are, or make room
 * for those of the archive when `replace` is set. Throws RangeError with a sentence for a damaged archive.
 */
export async function restoreArchive(bytes: AsyncIterable<Uint8Array>, replace: boolean): Promise<Restored> {
  return database().transaction(async (tx) => {
    await tx.execute(sql`set local statement_timeout = 0`)
    await tx.execute(sql`set local idle_in_transaction_session_timeout = 0`)
    await tx.execute(sql`lock table sites in exclusive mode`)
    const { rows } = await tx.execute<{ id: string }>(sql`select id from sites`)
    const there = new Set(rows.map(r => r.id))
    const restored: string[] = []
    const left: string[] = []
    const writer = new Writer(tx)
    let temporary: StoodThen[] = []
    let parts: Buffer[] = []
    for await (const line of linesOf(bytes)) {
      const site = siteOf(line)
      if ('format' in line) ({ temporary } = line)
      if ('table' in line && line.table === 'sites' && site !== null) {
        const isLeft = there.has(site) && !replace
        ;(isLeft ? left : restored).push(site)
        if (there.has(site) && replace) await tx.execute(sql`delete from sites where id = ${site}`)
      }
      if (site !== null && left.includes(site)) continue
      if ('table' in line && !isOfTheMoment(line.table)) {
        checkRow(line.table, line.row)
        await writer.add(line.table, line.row)
      }
      if ('take' in line) {
        await writer.flush()
        if (line.part !== parts.length) throw refusal('backup.partMissing')
        parts.push(Buffer.from(line.bytes, 'base64'))
        if (line.part < line.of - 1) continue
        await tx.insert(takeData).values({ siteId: line.site, id: line.take, data: Buffer.concat(parts) })
        parts = []
      }
    }
    await writer.flush()
    return { restored, left, temporary: temporary.filter(t => restored.includes(t.site)) }
  })
}
