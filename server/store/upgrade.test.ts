import { createHash } from 'node:crypto'
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { sql } from 'drizzle-orm'
import pg from 'pg'
import { afterAll, afterEach, describe, expect, it } from 'vitest'
import { allOf, contentOf } from '../../core/documents'
import { firstSite } from '../../core/documents/firstVersion'
import { decodeTake } from '../../core/formats/take'
import { freshDatabase, migrations } from '../testing/database'
import { forgetActors } from './actor'
import { closeDatabase, database, migrateDatabase } from './client'
import { ledgerOf, openSite } from './sites'
import { upgradeDatabase } from './upgrade'
import { message } from '../../core/words'

afterEach(async () => {
  await closeDatabase()
  forgetActors()
})
afterAll(closeDatabase)

const journal = JSON.parse(readFileSync(join(migrations, 'meta/_journal.json'), 'utf8')) as {
  entries: { idx: number, tag: string, when: number }[]
}

/** A database as Kovrin's first version left it: its tables, a site, a take, a history. */
async function firstDatabase(): Promise<void> {
  const client = new pg.Client({ connectionString: await freshDatabase() })
  await client.connect()
  await client.query('create schema drizzle')
  await client.query(
    'create table drizzle.__drizzle_migrations (id serial primary key, hash text not null, created_at bigint)',
  )
  for (const { tag, when } of journal.entries.filter(e => e.idx < 6)) {
    const text = readFileSync(join(migrations, `${tag}.sql`), 'utf8')
    await client.query(text.replaceAll('--> statement-breakpoint', ''))
    const hash = createHash('sha256').update(text).digest('hex')
    await client.query('insert into drizzle.__drizzle_migrations (hash, created_at) values ($1, $2)', [hash, when])
  }
  const old = firstSite(bytes => Buffer.from(bytes).toString('base64'))
  const site = 'old-hall-1a2b'
  await client.query('insert into sites (id, name, plan) values ($1, $2, $3)', [site, old.name, old.plan])
  for (const [n, { id, name, hue, elements }] of old.sources.entries()) {
    await client.query(
      'insert into sources (id, site_id, "order", name, hue, elements) values ($1, $2, $3, $4, $5, $6)',
      [id, site, n, name, hue, JSON.stringify(elements)],
    )
  }
  for (const [n, p] of (
    old.positions as { id: string, name: string, place: object, weight: number, dash: number }[]
  ).entries()) {
    await client.query(
      'insert into positions (id, site_id, "order", name, place, weight, dash) values ($1, $2, $3, $4, $5, $6, $7)',
      [p.id, site, n, p.name, p.place, p.weight, p.dash],
    )
  }
  for (const [n, d] of old.devices.entries()) {
    await client.query(
      `insert into devices (id, site_id, "order", name, address, capability, draft, held, revision)
      values ($1, $2, $3, $4, $5, $6, $7, $8, 3)`,
      [d.id, site, n, d.name, d.address, d.capability, d.draft, d.held],
    )
  }
  const [take] = old.takes
  await client.query(
    `insert into takes (id, site_id, source_id, position_id, name, info, feed, settings, who, data, note)
    values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11)`,
    [
      '0b6f0d06-5f5a-4d2e-9e5c-0d7d1d6f9a01',
      site,
      take!.source,
      take!.position,
      take!.name,
      take!.info,
      take!.feed,
      take!.settings,
      take!.who,
      Buffer.from(take!.data, 'base64'),
      take!.note,
    ],
  )
  await client.query(
    `insert into setting_history (site_id, device_id, path, old, new, kind, who)
    values ($1, 'processor', '/outputs/0/turned', 'false', 'true', 'edit', 'Ann')`,
    [site],
  )
  await client.query(
    `insert into log (site_id, who, what)
    values ($1, 'Ann', 'Made the site.'), ($1, 'Ann', 'Took “Left · Desk 1”.')`,
    [site],
  )
  await client.end()
}

describe('a database of the first version', () => {
  it('comes over whole: site, settings, takes with their bytes, history; and is not touched twice', async () => {
    await firstDatabase()
    await migrateDatabase(migrations)
    await upgradeDatabase()
    await upgradeDatabase()
    const { documents, number } = (await openSite('old-hall-1a2b'))!
    expect(contentOf(documents, 'site')!.name).toBe('Old hall')
    expect(allOf(documents, 'source').map(s => s.name)).toEqual(['Left', 'Right'])
    // simulated devices stand in the rack that is delivered as it was then
    expect(contentOf(documents, 'device', 'processor')!.address).toBe('standin:processor@first')
    expect(contentOf(documents, 'settings', 'processor')).toMatchObject({ '/outputs/0/polarity': 'inverted' })
    const [take] = allOf(documents, 'take')
    expect(take).toMatchObject({ note: 'the old one', timing: { delay: 0.03 } })
    const [row] = (await database().execute<{ data: Buffer }>(sql`select data from take_data`)).rows
    expect(decodeTake(row!.data).curve.re[5]).toBe(0.5)
    const open = [message('open.devices', { devices: 2 })]
    expect(await ledgerOf('old-hall-1a2b')).toEqual({ cells: 2, fresh: 1, stale: 0, takes: 1, open })
    const history = await database().execute(sql`select document, path, value, who from changes order by number`)
    expect(history.rows).toEqual([
      {
        document: 'settings/processor',
        path: '/outputs/0/polarity',
        value: { old: 'normal', new: 'inverted' },
        who: 'Ann',
      },
    ])
    // what a line tells of a take is known by its code from now on; others stay as they were
    const lines = await database().execute(sql`select what, code, "values" from log order by id`)
    expect(lines.rows).toEqual([
      { what: 'Made the site.', code: null, values: null },
      { what: 'Took “Left · Desk 1”.', code: 'log.take.saved', values: { name: 'Left · Desk 1' } },
    ])
    expect(number).toBe(1)
    const left = await database().execute(sql`select to_regclass('first.sites')::text as there`)
    expect(left.rows).toEqual([{ there: null }])
  })
  it('that a newer Kovrin made is refused with a sentence and left as it is', async () => {
    await freshDatabase()
    await migrateDatabase(migrations)
    await database().execute(sql`insert into sites (id, version) values ('later', 99)`)
    await expect(upgradeDatabase()).rejects.toThrow(/newer Kovrin \(version 99; this one knows 2\)/)
    expect((await database().execute(sql`select version from sites`)).rows).toEqual([{ version: 99 }])
  })
})
