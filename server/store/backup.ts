import { createHash } from 'node:crypto'
import { Readable } from 'node:stream'
import { createGunzip, createGzip, constants } from 'node:zlib'
import { eq, sql, type SQL } from 'drizzle-orm'
import * as v from 'valibot'
import { currentVersion } from '../../core/documents'
import { readingDatabase, type Database, type Transaction } from './client'
import { leases } from './schema'
import { refusal } from '../../core/words'

// The archive of everything, or of one site (docs/formats.md): JSON lines in gzip. First what it is, then a line a row
// of each table, bytes in parts, last how many rows there were and the SHA-256 of all before.

const archiveVersion = 1
/** Longest line of an archive that is read; its rows are far shorter, and bytes come in parts. */
const longestLine = 64 * 2 ** 20
/** Bytes of a take that stand in one line. */
const partBytes = 3 * 2 ** 16
const rowsAtOnce = 50

/** Tables in the order in which their rows can be put back; `bySite`: only rows of a site belong to its archive. */
export const archived = [
  { table: 'keeping', bySite: false },
  { table: 'sites', bySite: true },
  { table: 'contents', bySite: true },
  { table: 'documents', bySite: true },
  { table: 'changes', bySite: true },
  { table: 'log', bySite: true },
] as const
export type ArchivedTable = (typeof archived)[number]['table']
/** What archives of older versions hold besides, and what is never put back: who is in, and what may be driven now. */
export const ofTheMoment = ['sessions', 'addresses', 'claims', 'leases'] as const
const tables = [...archived.map(a => a.table), ...ofTheMoment]

/** Settings that stood only for a while when a backup was made: the drafts get back what was there before. */
export const StoodThen = v.object({
  site: v.string(),
  who: v.pipe(v.string(), v.maxLength(200)),
  what: v.pipe(v.string(), v.maxLength(500)),
  entries: v.array(v.object({
    document: v.pipe(v.string(), v.startsWith('settings/')),
    path: v.pipe(v.string(), v.maxLength(300)),
    old: v.optional(v.unknown()),
    now: v.optional(v.unknown()),
  })),
})
export type StoodThen = v.InferOutput<typeof StoodThen>

export const Line = v.union([
  v.object({
    format: v.literal('kovrin-backup'),
    version: v.number(),
    documents: v.number(),
    site: v.nullable(v.string()),
    at: v.string(),
    temporary: v.optional(v.array(StoodThen), []),
  }),
  v.object({ table: v.picklist(tables), row: v.record(v.string(), v.unknown()) }),
  v.object({
    take: v.string(),
    site: v.string(),
    part: v.number(),
    of: v.number(),
    bytes: v.pipe(v.string(), v.base64()),
  }),
  v.object({ end: v.object({ rows: v.record(v.string(), v.number()), sha256: v.string() }) }),
])
export type Line = v.InferOutput<typeof Line>

/**
 * Hashes of what the takes of some sites share: snapshots, and the capabilities in them; also of takes that only
 * history has.
 */
export const sharedOf = (site: SQL) => sql`
  with snapshots as (
    select content->>'snapshot' as hash from documents where site_id ${site} and key like 'take/%'
    union select value->'new'->>'snapshot' from changes where site_id ${site} and document like 'take/%'
    union select value->'old'->>'snapshot' from changes where site_id ${site} and document like 'take/%'
  )
  select hash from snapshots where hash is not null
  union select d.value->>'capability' from contents c join snapshots s on s.hash = c.hash,
    jsonb_each(c.content->'devices') d where jsonb_typeof(c.content->'devices') = 'object'`

function rowsOf(table: ArchivedTable, site: string | null): SQL {
  const name = sql.identifier(table)
  if (site === null) return sql`select * from ${name}`
  // a cursor's query takes no parameters
  const own = sql`= current_setting('kovrin.site')`
  if (table === 'sites') return sql`select * from sites where id ${own}`
  if (table === 'contents') return sql`select * from contents where hash in (${sharedOf(own)})`
  return sql`select * from ${name} where site_id ${own}`
}

async function* rowLines(tx: Transaction, table: ArchivedTable, site: string | null) {
  const order = table === 'log' ? sql`order by id` : sql``
  await tx.execute(sql`
    declare archive no scroll cursor for
    select row_to_json(r)::text as line from (${rowsOf(table, site)} ${order}) r`)
  for (;;) {
    const { rows } = await tx.execute<{ line: string }>(sql`fetch ${sql.raw(String(rowsAtOnce))} from archive`)
    for (const { line } of rows) yield `{"table":"${table}","row":${line}}`
    if (rows.length < rowsAtOnce) break
  }
  await tx.execute(sql`close archive`)
}

/** The bytes of a take in base64, in pieces that can be put together as they are. */
export async function* base64Pieces(db: Database | Transaction, site: string, take: string, bytes: number) {
  for (let from = 0; from < Math.max(bytes, 1); from += partBytes) {
    const { rows } = await db.execute<{ data: Buffer }>(sql`
      select substring(data from ${from + 1} for ${partBytes}) as data
      from take_data where site_id = ${site} and id = ${take}`)
    yield rows[0]!.data.toString('base64')
  }
}

async function* takeLines(tx: Transaction, site: string | null) {
  const where = site === null ? sql`true` : sql`site_id = ${site}`
  const { rows } = await tx.execute<{ site_id: string, id: string, bytes: number }>(
    sql`select site_id, id, length(data) as bytes from take_data where ${where} order by site_id, id`)
  for (const { site_id: of, id, bytes } of rows) {
    const parts = Math.max(1, Math.ceil(bytes / partBytes))
    let part = 0
    for await (const text of base64Pieces(tx, of, id, bytes))
      yield JSON.stringify({ take: id, site: of, part: part++, of: parts, bytes: text })
  }
}

/** What stands only for a while, at this moment. */
async function standingNow(tx: Transaction, site: string | null): Promise<StoodThen[]> {
  const all = await tx.select().from(leases).where(site === null ? undefined : eq(leases.siteId, site))
  return all.flatMap(({ siteId, who, what, entries }) => {
    const standing = Object.values(entries)
      .filter(e => e.document.startsWith('settings/') && !e.put)
      .map(({ document, path, old, now }) => ({ document, path, old, now }))
    return standing.length ? [{ site: siteId, who, what, entries: standing }] : []
  })
}

async function* allLines(tx: Transaction, site: string | null) {
  yield JSON.stringify({
    format: 'kovrin-backup',
    version: archiveVersion,
    documents: currentVersion,
    site,
    at: new Date().toISOString(),
    temporary: await standingNow(tx, site),
  })
  for (const { table, bySite } of archived) if (bySite || site === null) yield* rowLines(tx, table, site)
  yield* takeLines(tx, site)
}

/** How many rows of each table, and takes, the lines told of. */
class Tally {
  readonly rows: Record<string, number> = {}
  add(kind: string) { this.rows[kind] = (this.rows[kind] ?? 0) + 1 }
  same = (other: Record<string, number>) =>
    [...new Set([...Object.keys(this.rows), ...Object.keys(other)])].every(k => this.rows[k] === other[k])
}
const kindOf = (line: string) => /^\{"table":"(\w+)"/.exec(line)?.[1] ?? (line.startsWith('{"take"') ? 'parts' : null)

async function* withEnd(lines: AsyncIterable<string>) {
  const sum = createHash('sha256')
  const tally = new Tally()
  for await (const line of lines) {
    const kind = kindOf(line)
    if (kind) tally.add(kind)
    const text = `${line}\n`
    sum.update(text)
    yield text
  }
  yield `${JSON.stringify({ end: { rows: tally.rows, sha256: sum.digest('hex') } })}\n`
}

/**
 * The archive as a stream of bytes, of one site or of everything, as it stands at one moment; the memory that it
 * takes does not grow with what is stored. The stream fails when the database does: a cut archive has no end.
 */
export function archiveOf(site: string | null): Readable {
  const packed = createGzip({ level: constants.Z_BEST_SPEED })
  const work = readingDatabase().transaction(async (tx) => {
    // the disk may be slow
    await tx.execute(sql`set local idle_in_transaction_session_timeout = 0`)
    await tx.execute(sql`select set_config('kovrin.site', ${site ?? ''}, true)`)
    const source = Readable.from(withEnd(allLines(tx, site)), { objectMode: true, highWaterMark: 4 })
    await new Promise<void>((resolve, reject) => {
      source.on('error', reject)
      packed.on('error', reject).on('close', resolve)
      source.pipe(packed)
      packed.on('end', resolve)
    })
    source.destroy()
  }, { isolationLevel: 'repeatable read' })
  work.catch((error: Error) => packed.destroy(error))
  return packed
}

/** The lines of an archive, in order. Throws RangeError with a sentence for what is none, or was cut or changed. */
export async function* linesOf(bytes: AsyncIterable<Uint8Array>): AsyncGenerator<Line> {
  const sum = createHash('sha256')
  const tally = new Tally()
  let first = true
  let ended = false
  for await (const text of textLines(bytes)) {
    if (ended) throw refusal('backup.afterEnd')
    const line = parsed(text)
    if (first !== 'format' in line) throw refusal('backup.noBackup')
    first = false
    if ('format' in line) checkVersion(line)
    if ('end' in line) {
      ended = true
      if (line.end.sha256 !== sum.digest('hex') || !tally.same(line.end.rows))
        throw refusal('backup.checkSum')
      continue
    }
    sum.update(`${text}\n`)
    if ('table' in line) tally.add(line.table)
    if ('take' in line) tally.add('parts')
    yield line
  }
  if (!ended) throw refusal(first ? 'backup.noBackup' : 'backup.cutShort')
}

function checkVersion({ version, documents }: Extract<Line, { format: string }>) {
  if (version <= archiveVersion && documents === currentVersion) return
  const newer = version > archiveVersion || documents > currentVersion
  throw refusal('backup.otherVersion', { age: newer ? 'a newer' : 'an older' })
}

function parsed(text: string): Line {
  try {
    return v.parse(Line, JSON.parse(text))
  }
  catch { throw refusal('backup.lineNotRead') }
}

/** Lines of text in gzip. */
async function* textLines(bytes: AsyncIterable<Uint8Array>): AsyncGenerator<string> {
  const unpacked = createGunzip()
  const source = Readable.from(bytes)
  source.on('error', error => unpacked.destroy(error))
  source.pipe(unpacked)
  let rest: Buffer[] = []
  let length = 0
  try {
    for await (const piece of unpacked as AsyncIterable<Buffer>) {
      let from = 0
      for (let at = piece.indexOf(10); at >= 0; at = piece.indexOf(10, from)) {
        yield Buffer.concat([...rest, piece.subarray(from, at)]).toString('utf8')
        rest = []
        length = 0
        from = at + 1
      }
      rest.push(piece.subarray(from))
      length += piece.length - from
      if (length > longestLine) throw refusal('backup.lineNoEnd')
    }
  }
  catch (error) {
    if ((error as { code?: string }).code?.startsWith('Z_'))
      throw refusal('backup.notUnpacked')
    throw error
  }
  if (length) throw refusal('backup.cutShort')
}

/** Reads an archive to its end; gives how many rows and takes it has. Throws RangeError as `linesOf`. */
export async function checkArchive(bytes: AsyncIterable<Uint8Array>): Promise<Record<string, number>> {
  const tally = new Tally()
  for await (const line of linesOf(bytes)) {
    if ('table' in line) tally.add(line.table)
    if ('take' in line && line.part === 0) tally.add('takes')
  }
  return tally.rows
}
