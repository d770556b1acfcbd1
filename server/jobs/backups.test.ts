import { mkdtempSync, readdirSync, readFileSync, rmSync, utimesSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { Readable } from 'node:stream'
import { gunzipSync } from 'node:zlib'
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest'
import { usualKeeping } from '../../core/contract'
import { checkArchive } from '../store/backup'
import { readKeeping, writeKeeping } from '../store/keeping'
import { writeLog, readLog } from '../store/log'
import { closeTestDatabase, demoSite, openTestDatabase } from '../testing/database'
import { archiveToSend, lastFailure, laidDown, listBackups, lookAtBackups, makeBackup } from './backups'
import { message } from '../../core/words'

let folder = ''
beforeAll(openTestDatabase)
afterAll(closeTestDatabase)
beforeEach(async () => {
  folder = mkdtempSync(join(tmpdir(), 'kovrin-backups-'))
  process.env.KOVRIN_BACKUPS = folder
  await writeKeeping(usualKeeping)
  return () => rmSync(folder, { recursive: true, force: true })
})
const hour = 3_600_000

describe('the daily backup', () => {
  it('is made when there is none of the last day, and so many stay', async () => {
    await demoSite()
    await lookAtBackups()
    expect(await listBackups(folder)).toHaveLength(1)
    await lookAtBackups(Date.now() + 20 * hour)
    expect(await listBackups(folder)).toHaveLength(1)
    await writeKeeping({ ...usualKeeping, keep: 2 })
    await makeBackup('asked')
    for (const days of [2, 3, 4]) await lookAtBackups(Date.now() + days * 24 * hour)
    const names = (await listBackups(folder)).map(f => f.name)
    expect(names.filter(n => n.startsWith('kovrin-daily-'))).toHaveLength(2)
    expect(names.filter(n => n.startsWith('kovrin-asked-'))).toHaveLength(1)
  })
  it('one of the future, made by a wrong clock, keeps none from being made; halves that were left go', async () => {
    const name = 'kovrin-daily-20991127-010203004.jsonl.gz'
    writeFileSync(join(folder, name), 'x')
    for (const half of ['.going-1', '.coming-2']) {
      writeFileSync(join(folder, half), 'x')
      utimesSync(join(folder, half), 1, 1)
    }
    await lookAtBackups()
    expect((await listBackups(folder)).filter(f => f.name !== name)).toHaveLength(1)
    expect(readdirSync(folder).filter(n => n.startsWith('.'))).toEqual([])
  })
  it('slow readers hold files, no connection: so many of one asker, and of all', async () => {
    await demoSite()
    const one = await Promise.all([1, 2, 3].map(() => archiveToSend(null, 'one')))
    expect(one.map(a => a !== null).sort()).toEqual([false, true, true])
    const others = await Promise.all(Array.from({ length: 8 }, (_, n) => archiveToSend(null, `other ${n}`)))
    expect(others.filter(a => a !== null)).toHaveLength(6)
    // and nobody waits for any of them
    for (let n = 0; n < 12; n++) expect(await readKeeping()).toEqual(usualKeeping)
    const [first] = one.filter(a => a !== null)
    expect(await checkArchive(first!.file)).toMatchObject({ sites: expect.any(Number) as number })
    for (const archive of [...one, ...others]) archive?.file.destroy()
    await expect.poll(async () => (await archiveToSend(null, 'one'))?.file.destroy() !== undefined).toBe(true)
    expect(readdirSync(folder).filter(n => n.startsWith('.'))).toEqual([])
  })
  it('is not made when it is not wished', async () => {
    await writeKeeping({ ...usualKeeping, daily: false })
    await lookAtBackups()
    expect(await listBackups(folder)).toEqual([])
  })
  it('that cannot be written says why, leaves no half file, and is tried again', async () => {
    const gone = join(folder, 'gone')
    await writeKeeping({ ...usualKeeping, folder: gone })
    await expect(makeBackup('asked')).rejects.toThrow(/cannot be written to/)
    expect(lastFailure()).toMatch(/cannot be written to/)
    await writeKeeping(usualKeeping)
    await makeBackup('asked')
    expect(lastFailure()).toBeNull()
    expect(readdirSync(folder).filter(n => n.endsWith('.part'))).toEqual([])
  })
  it('that is asked for while one is made begins after it, and holds what was there by then', async () => {
    const site = await demoSite()
    const first = makeBackup('daily')
    await writeLog(site, 'Ann', message('log.site.created', { name: 'Said before the button was pressed' }))
    const [second, third] = await Promise.all([makeBackup('asked'), makeBackup('asked')])
    expect(second).toEqual(third)
    expect((await listBackups(folder)).map(f => f.name)).toEqual([second.name, (await first).name])
    const text = gunzipSync(readFileSync(join(folder, second.name))).toString()
    expect(text).toContain('Said before the button was pressed')
  })
  it('knows its own files from others', async () => {
    writeFileSync(join(folder, 'kovrin-daily-notes.txt'), '')
    writeFileSync(join(folder, 'kovrin-daily-20261127-010203004.jsonl.gz'), 'x')
    expect(await listBackups(folder)).toEqual([
      { name: 'kovrin-daily-20261127-010203004.jsonl.gz', bytes: 1, at: '2026-11-27T01:02:03.004Z' },
    ])
  })
})
it('lines of the logs go after the days that they shall stay', async () => {
  const site = await demoSite()
  await writeLog(site, 'Ann', message('log.site.demo'))
  await writeKeeping({ ...usualKeeping, daily: false, logDays: 30 })
  await lookAtBackups(Date.now() + 29 * 24 * hour)
  expect(await readLog(site, 10)).toHaveLength(1)
  await lookAtBackups(Date.now() + 31 * 24 * hour)
  expect(await readLog(site, 10)).toEqual([])
  expect((await readKeeping()).logDays).toBe(30)
})
it('what comes is laid down only while it is used, also when its use fails', async () => {
  const pieces = () => Readable.from([Buffer.from('abc')])
  const length = async (file: AsyncIterable<Buffer>) => {
    let n = 0
    for await (const part of file) n += part.length
    return n
  }
  expect(await laidDown(pieces(), length)).toBe(3)
  await expect(laidDown(pieces(), () => Promise.reject(new RangeError('no')))).rejects.toThrow('no')
  expect(readdirSync(folder)).toEqual([])
})
