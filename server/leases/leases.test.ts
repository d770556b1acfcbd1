import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { ann, closeTestDatabase, demoSite, documentsOf, openTestDatabase } from '../testing/database'
import { beginLease, editOnLease, endLease } from './leases'

beforeAll(openTestDatabase)
afterAll(closeTestDatabase)

const path = '/outputs/0/mute'
const mutes = async (site: string) => (await documentsOf(site))['settings/processor'] as Record<string, unknown>
const mute = (site: string, lease: string) =>
  editOnLease(site, lease, {
    edits: [{ document: 'settings/processor', path, old: undefined, new: true }],
    live: false,
  }, ann)

describe('a temporary state', () => {
  it('is put back when it ends, and cannot be gone on with', async () => {
    const site = await demoSite()
    const lease = await beginLease(site, 'Solo', ann)
    expect(await mute(site, lease)).toMatchObject({ ok: true })
    expect((await mutes(site))[path]).toBe(true)
    expect(await endLease(site, lease)).toMatchObject({ restored: 1, left: 0 })
    expect((await mutes(site))[path]).toBeUndefined()
    expect(await mute(site, lease)).toMatchObject({ ok: false, status: 'missing', why: { code: 'lease.over' } })
  })
  it('that ends while something is set in it leaves nothing behind: it is put back, or not set', async () => {
    const site = await demoSite()
    for (let n = 0; n < 60; n++) {
      const lease = await beginLease(site, 'Solo', ann)
      const setting = mute(site, lease)
      // at another moment of the way each time
      for (let k = 0; k < n % 12; k++) await new Promise(setImmediate)
      await Promise.all([setting, endLease(site, lease)])
      expect((await mutes(site))[path], `after ${n % 12} turns`).toBeUndefined()
    }
  })
})
