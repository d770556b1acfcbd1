import { createHash, randomBytes, randomUUID } from 'node:crypto'
import { Readable } from 'node:stream'
import { isDeepStrictEqual } from 'node:util'
import { gunzipSync, gzipSync } from 'node:zlib'
import { sql } from 'drizzle-orm'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { usualKeeping } from '../../core/contract'
import type { Edit } from '../../core/documents'
import { encodeTake } from '../../core/formats/take'
import { beginLease, editOnLease, endThose } from '../leases/leases'
import { ann, closeTestDatabase, demoSite, documentsOf, openTestDatabase } from '../testing/database'
import { renewSite } from './actor'
import { archived, archiveOf, checkArchive } from './backup'
import { database } from './client'
import { makeEdits } from './edits'
import { deleteSite, deleteTake } from './forGood'
import { writeLog } from './log'
import { planRestore, restoreArchive } from './restore'
import { addresses, claims, keeping, leases, sessions, sites } from './schema'
import { copySite } from './sites'
import { keepTake } from './takes'
import { message, Refusal } from '../../core/words'

beforeAll(openTestDatabase)
afterAll(closeTestDatabase)

const edit = (site: string, edits: Edit[]) => makeEdits(site, { edits, gesture: 'g', live: false }, ann)
const set = (site: string, path: string, old: unknown, value: unknown) =>
  edit(site, [{ document: 'settings/processor', path, old, new: value }])
const remove = (site: string) => edit(site, [{ document: 'site', path: '/deleted', old: false, new: true }])

/** A take of so many points. */
function bytesOf(points: number): Buffer {
  const frequencies = Float64Array.from({ length: points }, (_, n) => 20 + n)
  const re = Float64Array.from(frequencies, Math.cos)
  return Buffer.from(encodeTake({
    curve: { frequencies, re, im: re, coherence: null }, impulse: null, harmonics: [], signalToNoise: [] }))
}
const info = { method: 'live', input: 'test', sampleRate: 48_000, length: 1024, blocks: 4, arrival: null,
  microphoneLevel: null, referenceLevel: null, sweep: null } as const
const timing = { reference: 'loop', sameClock: true, drift: null, delay: 0 } as const
async function take(site: string, name: string, points = 300): Promise<string> {
  const wanted = { source: 'main-l', position: 'mix', only: null, feed: 'test', info, timing, name, number: 2 ** 30 }
  const outcome = await keepTake(site, wanted as never, bytesOf(points), ann)
  if (!outcome.ok) throw new Refusal(outcome.why)
  return outcome.take!.id
}

/** A site that has something in every table. */
async function fullSite(): Promise<string> {
  const site = await demoSite()
  expect(await set(site, '/outputs/0/gain', 0, -3)).toMatchObject({ ok: true })
  expect(await set(site, '/outputs/9/gain', 0, -1.1)).toMatchObject({ ok: true })
  await take(site, 'Long one: “ä” 𝄞 \\u0000', 150_000)
  await take(site, 'Short one')
  await writeLog(site, 'Ann', message('log.device.online', { device: 'Something' }))
  await database().insert(claims).values({ address: `10.1.1.1:${site}`, siteId: site, deviceId: 'processor' })
  await database().insert(leases).values({
    id: randomUUID(), siteId: site, person: 'ann', who: 'Ann', what: 'Solo', until: new Date(), entries: {} })
  return site
}
/** Every row of every table as text, in one order. */
async function everyRow(): Promise<Record<string, string[]>> {
  const all: Record<string, string[]> = {}
  for (const table of [...archived.map(a => a.table), 'take_data'] as const) {
    const { rows } = await database().execute<{ row: Record<string, unknown> }>(
      sql`select to_jsonb(t) as row from ${sql.identifier(table)} t`)
    const lines = rows.map(({ row: { id, ...row } }) => JSON.stringify(table === 'log' ? row : { id, ...row }))
    all[table] = lines.sort()
  }
  return all
}
/** Compared without being printed: rows hold takes. */
const rowsAreStill = async (before: object) => isDeepStrictEqual(await everyRow(), before)
async function bytes(stream: Readable): Promise<Buffer> {
  const parts: Buffer[] = []
  for await (const part of stream) parts.push(part as Buffer)
  return Buffer.concat(parts)
}
const from = (data: Buffer) => Readable.from([data.subarray(0, 7), data.subarray(7)])
const emptied = () => database().execute(sql`truncate sites, contents, keeping cascade`)

describe('a backup', () => {
  it('of everything, put back into an empty database, is every row of every table', async () => {
    const site = await fullSite()
    await remove(await demoSite())
    await database().insert(keeping).values({ name: 'keeping', value: usualKeeping })
    const before = await everyRow()
    for (const rows of Object.values(before)) expect(rows.length).toBeGreaterThan(0)
    const archive = await bytes(archiveOf(null))
    expect(await checkArchive(from(archive))).toMatchObject({ sites: 2, takes: 2, changes: before.changes!.length })
    await emptied()
    expect((await planRestore(from(archive))).sites.map(s => s.here)).toEqual([null, null])
    expect((await restoreArchive(from(archive), false)).restored.sort())
      .toEqual(before.sites!.map(s => (JSON.parse(s) as { id: string }).id).sort())
    expect(await rowsAreStill(before)).toBe(true)
    expect(Object.keys(await documentsOf(site)).length).toBeGreaterThan(20)
    await emptied()
  })
  it('of a site holds that site alone; sites that are there stay, or make room when asked', async () => {
    const [site, other] = [await fullSite(), await fullSite()]
    const archive = await bytes(archiveOf(site))
    const text = gunzipSync(archive).toString('utf8')
    expect([text.includes(site), text.includes(other)]).toEqual([true, false])
    const before = await everyRow()
    const plan = await planRestore(from(archive))
    const changes = before.changes!.filter(c => c.includes(site)).length
    expect(plan.sites).toEqual([expect.objectContaining({
      id: site, takes: 2, changes, here: expect.objectContaining({ takes: 2, changes, deleted: false }) as object,
    })])
    expect(Date.parse(plan.sites[0]!.last!)).toBe(Date.parse(plan.sites[0]!.here!.last!))
    expect(await rowsAreStill(before)).toBe(true)
    expect(await restoreArchive(from(archive), false)).toEqual({ restored: [], left: [site], temporary: [] })
    expect(await rowsAreStill(before)).toBe(true)
    await database().execute(sql`update documents set content = '{}' where site_id = ${site}`)
    expect(await restoreArchive(from(archive), true)).toEqual({ restored: [site], left: [], temporary: [] })
    expect(await rowsAreStill(before)).toBe(true)
  })
  it('made in the middle of a round brings back the drafts as they were before it, and says so before', async () => {
    const site = await demoSite()
    await set(site, '/outputs/2/mute', false, true)
    const lease = await beginLease(site, 'Sweep all', ann)
    const mute = (n: number, old: boolean) =>
      ({ document: 'settings/processor', path: `/outputs/${n}/mute`, old, new: true })
    const round = { edits: [mute(0, false), mute(1, false), mute(2, true)], live: false }
    expect(await editOnLease(site, lease, round, ann)).toMatchObject({ ok: true })
    const archive = await bytes(archiveOf(site))
    expect((await planRestore(from(archive))).sites).toMatchObject([{ id: site, temporary: 3 }])
    await emptied()
    const { restored, temporary } = await restoreArchive(from(archive), false)
    expect([restored, temporary.map(t => t.what)]).toEqual([[site], ['Sweep all']])
    await renewSite(site)
    for (const stood of temporary) await endThose(stood)
    const draft = (await documentsOf(site))['settings/processor'] as Record<string, unknown>
    expect([0, 1, 2].map(n => draft[`/outputs/${n}/mute`] ?? false)).toEqual([false, false, true])
  })
  it('brings nobody in and drives nothing; a row that cannot be is refused, and nothing is changed', async () => {
    const site = await fullSite()
    const lines = gunzipSync(await bytes(archiveOf(site))).toString('utf8').trimEnd().split('\n')
    const packed = (own: readonly object[], edit = (line: string) => line) => {
      const kept = [lines[0]!, ...own.map(o => JSON.stringify(o)), ...lines.slice(1, -1).map(edit)]
      const rows: Record<string, number> = {}
      for (const line of kept.slice(1)) {
        const { table = 'parts' } = JSON.parse(line) as { table?: string }
        rows[table] = (rows[table] ?? 0) + 1
      }
      const sha256 = createHash('sha256').update(`${kept.join('\n')}\n`).digest('hex')
      return gzipSync(`${kept.join('\n')}\n${JSON.stringify({ end: { rows, sha256 } })}\n`)
    }
    await emptied()
    const planted = [
      { table: 'sessions', row: { id: 'planted', person: 'ann', who: 'Ann' } },
      { table: 'addresses', row: { address: '10.0.0.9:4001' } },
      { table: 'claims', row: { address: '10.0.0.9:4001', site_id: site, device_id: 'processor' } },
      { table: 'leases', row: { id: 'x', site_id: site, person: 'ann', who: 'Ann', what: 'Loud', until: new Date(0),
        entries: { 'settings/processor /outputs/0/gain':
          { document: 'settings/processor', path: '/outputs/0/gain', old: 12, now: -3 } } } },
    ]
    expect((await restoreArchive(from(packed(planted)), false)).restored).toEqual([site])
    for (const table of [sessions, addresses, claims, leases])
      expect(await database().select().from(table)).toEqual([])
    await emptied()
    const bad: [(line: string) => string, RegExp][] = [
      [l => l.replace(/"key":\s*"plan"/, '"key":"plan of nothing"'), /a row of “documents” cannot be/],
      [l => l.replace(/"weight":\s*1\b/, '"weight":"loud"'), /a row of “documents” cannot be/],
      [l => l.replace(/"origin":\s*"edit"/, '"origin":"magic"'), /a row of “changes” cannot be: origin/],
      [l => l.replace(/"sampleRate":\s*96000/, '"sampleRate":48000'), /a row of “contents” cannot be/],
      [l => l.replace(/"undo":\s*"done"/, '"undo":"never"'), /a row of “changes” cannot be: undo/],
    ]
    for (const [edit, why] of bad) {
      await expect(restoreArchive(from(packed([], edit)), false)).rejects.toThrow(why)
      await expect(planRestore(from(packed([], edit)))).rejects.toThrow(why)
      expect(await database().select().from(sites)).toEqual([])
    }
  })
  it('that was cut, changed or is none is refused in words, and nothing is changed', async () => {
    const site = await fullSite()
    const archive = await bytes(archiveOf(site))
    const text = gunzipSync(archive).toString('utf8')
    const before = await everyRow()
    const lines = text.trimEnd().split('\n')
    const packed = (l: string[]) => gzipSync(`${l.join('\n')}\n`)
    const bad: [Buffer, RegExp][] = [
      [archive.subarray(0, archive.length / 2), /cut short/],
      [packed(lines.slice(0, -1)), /end is missing/],
      [packed(lines.filter((_, k) => k !== 5)), /check sum/],
      [packed([...lines.slice(0, 3), lines[3]!.replace(/\d/, d => String((Number(d) + 1) % 10)), ...lines.slice(4)]),
        /check sum|damaged/],
      [packed([...lines, lines[1]!]), /follows the end/],
      [packed([lines[0]!.replace('"version":1', '"version":2'), ...lines.slice(1)]), /newer/],
      [packed(['{"hello":1}']), /damaged|no backup/],
      [gzipSync(''), /no backup/],
      [randomBytes(1000), /cannot be unpacked/],
      [Buffer.alloc(0), /cut short|no backup|cannot be unpacked/],
    ]
    for (const [data, why] of bad) {
      await expect(checkArchive(from(data))).rejects.toThrow(why)
      await expect(restoreArchive(from(data), true)).rejects.toThrow(RangeError)
    }
    expect(await rowsAreStill(before)).toBe(true)
  })
})

describe('deleting for good', () => {
  const whole = async () => JSON.stringify(await everyRow())
  it('a site that was deleted is nowhere any more, nor what its takes alone shared; one in use stays', async () => {
    const site = await fullSite()
    const other = (await copySite(site, 'Copy', ann))!
    expect(await deleteSite(site)).toMatchObject({ ok: false, status: 'refused' })
    expect(await deleteSite('nowhere')).toMatchObject({ ok: false, status: 'missing' })
    await remove(site)
    expect(await deleteSite(site)).toEqual({ ok: true })
    expect((await whole()).includes(`"${site}"`)).toBe(false)
    expect((await everyRow()).contents!.length).toBeGreaterThan(0)
    await remove(other)
    await deleteSite(other)
    const { rows } = await database().execute<{ n: number }>(sql`select count(*)::int as n from take_data`)
    const takes = (await everyRow()).documents!.filter(d => d.includes('"take/'))
    expect(takes).toHaveLength(rows[0]!.n)
  })
  it('a take is gone from the ledger, the history and the disk; whoever follows ends equal to the server', async () => {
    const site = await fullSite()
    const id = await take(site, 'A secret')
    expect(await deleteTake(site, id, ann)).toMatchObject({ ok: false, status: 'refused' })
    await edit(site, [{ document: `take/${id}`, path: '/deleted', old: false, new: true }])
    expect(await deleteTake(site, id, ann)).toMatchObject({ ok: true })
    expect(await deleteTake(site, id, ann)).toMatchObject({ ok: false, status: 'missing' })
    expect((await whole()).includes('A secret')).toBe(false)
    expect((await documentsOf(site))[`take/${id}`]).toBeUndefined()
    const { rows } = await database().execute<{ n: number, most: number }>(
      sql`select count(*)::int as n, max(number) as most from changes where site_id = ${site}`)
    expect(rows[0]!.n).toBe(rows[0]!.most)
  })
})
