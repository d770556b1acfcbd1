import { sql } from 'drizzle-orm'
import { currentVersion, upgradeSite, type OldSite } from '../../core/documents'
import { database, type Transaction } from './client'
import { keepContents } from './contents'
import { codeOf, valuesOf } from './log'
import { changes, log, sites, takeData } from './schema'
import { insertSite, tools } from './sites'

// Moves what a database of the first version held (in schema "first" since migration 0006) into documents and
// changes, once.

const rowsOf = async <T>(tx: Transaction, query: ReturnType<typeof sql>): Promise<T[]> =>
  (await tx.execute(query)).rows as T[]

interface OldRow {
  id: string
  name: string
  plan: OldSite['plan']
  archived: boolean
  deleted_at: string | null
  touched_at: string
}
type OldTake = OldSite['takes'][number]
type OldTakeRow = Required<Omit<OldTake, 'source' | 'position' | 'deleted' | 'data' | 'at'>> & {
  source_id: string
  position_id: string
  deleted_at: Date | null
  data: Buffer
  at: string | Date
}

async function readFirst(tx: Transaction, row: OldRow): Promise<OldSite> {
  const own = <T>(query: ReturnType<typeof sql>) => rowsOf<T>(tx, query)
  const sources = await own<OldSite['sources'][number]>(
    sql`select id, name, hue, elements from first.sources where site_id = ${row.id} order by "order"`,
  )
  const positions = await own<OldSite['positions'][number]>(
    sql`select id, name, place, weight, dash from first.positions where site_id = ${row.id} order by "order"`,
  )
  const devices = await own<OldSite['devices'][number]>(
    sql`select id, name, address, capability, draft, held from first.devices
      where site_id = ${row.id} order by "order"`,
  )
  const takes = await own<OldTakeRow>(sql`select * from first.takes where site_id = ${row.id} order by at`)
  return {
    version: 1,
    name: row.name,
    archived: row.archived,
    deleted: row.deleted_at !== null,
    plan: row.plan,
    sources,
    positions,
    devices,
    takes: takes.map((t): OldTake => ({
      id: t.id,
      source: t.source_id,
      position: t.position_id,
      name: t.name,
      info: t.info,
      feed: t.feed,
      settings: t.settings,
      who: t.who,
      at: new Date(t.at).toISOString(),
      note: t.note,
      hue: t.hue,
      offset: t.offset,
      shift: t.shift,
      place: t.place,
      deleted: t.deleted_at !== null,
      data: t.data.toString('base64'),
    })),
  }
}

/** Every change of a setting that was ever made, in its order, as changes that can be read but no longer taken back. */
async function moveHistory(tx: Transaction, site: string) {
  const moved = sql`
    insert into ${changes} (site_id, number, document, path, value, gesture, who, person, origin, live, undo, at)
    select h.site_id, row_number() over (order by h.id),
      case h.kind when 'edit' then 'settings/' else 'held/' end || h.device_id,
      replace(h.path, '/turned', '/polarity'),
      case when h.path like '%/turned' then jsonb_build_object(
        'old', case when h.old = 'true'::jsonb then 'inverted' else 'normal' end,
        'new', case when h.new = 'true'::jsonb then 'inverted' else 'normal' end)
      else jsonb_build_object('old', coalesce(h.old, 'null'::jsonb), 'new', coalesce(h.new, 'null'::jsonb)) end,
      null, h.who, h.who, h.kind, false, 'none', h.at
    from first.setting_history h where h.site_id = ${site} order by h.id`
  await tx.execute(moved)
  await tx.execute(sql`
    update ${sites} set number = coalesce((select max(number) from ${changes} where site_id = ${site}), 0)
    where id = ${site}`)
}

/** True when there is something of the first version to move. */
const isThere = async (tx: Transaction) =>
  (await rowsOf<{ there: string | null }>(tx, sql`select to_regclass('first.sites')::text as there`))[0]?.there
  != null

/** Brings everything that is stored up to date; all of it or nothing. Throws with a sentence for a newer database. */
export async function upgradeDatabase() {
  await database().transaction(async (tx) => {
    await tx.execute(sql`lock table ${sites} in exclusive mode`)
    const [newer] = await rowsOf<{ version: number }>(tx, sql`select max(version)::int as version from ${sites}`)
    if ((newer?.version ?? 0) > currentVersion) {
      throw new Error(
        `This database was made by a newer Kovrin (version ${newer!.version}; this one knows ${currentVersion}). `
        + 'It was left as it is: start that one, or update this.',
      )
    }
    if (!(await isThere(tx))) return
    for (const row of await rowsOf<OldRow>(tx, sql`select * from first.sites`)) {
      // the start script waits while it hears this
      if (process.env.KOVRIN_TIED) process.stdout.write('Kovrin upgrades\n')
      const file = upgradeSite(await readFirst(tx, row), tools)
      await insertSite(tx, row.id, file.documents, new Date(row.touched_at))
      await keepContents(tx, file.contents)
      for (const [id, data] of Object.entries(file.data)) {
        await tx.insert(takeData).values({ siteId: row.id, id, data: Buffer.from(data, 'base64') })
      }
      await moveHistory(tx, row.id)
    }
    await tx.execute(
      sql`insert into ${log} (site_id, who, what, code, "values", at)
        select site_id, who, what, ${codeOf(sql`what`)}, ${valuesOf(sql`what`)}, at from first.log order by id`,
    )
    await tx.execute(sql`drop schema first cascade`)
  })
}
