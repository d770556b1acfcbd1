import { createServer, type AddressInfo } from 'node:net'
import { afterAll, beforeAll, expect, it, vi } from 'vitest'
import { closeTestDatabase, freshDatabase } from '../testing/database'
import { database } from '../store/client'
import { Locks } from './locks'
import { sql } from 'drizzle-orm'

let url: string
beforeAll(async () => {
  url = await freshDatabase()
})
afterAll(closeTestDatabase)

/** The database's processes that hold a lock for somebody. */
async function holders(): Promise<number[]> {
  const { rows } = await database().execute<{ pid: number }>(sql`
    select distinct l.pid from pg_locks l join pg_database d on d.oid = l.database
    where l.locktype = 'advisory' and d.datname = current_database()`)
  return rows.map(r => r.pid)
}
/** Ends them, as a database that goes down does. */
async function cut() {
  for (const pid of await holders()) await database().execute(sql`select pg_terminate_backend(${pid})`)
}

it('a name is one server’s until it lets go of it', async () => {
  const [here, there] = [new Locks(() => {}), new Locks(() => {})]
  expect(await here.own('a:1')).toBe(true)
  expect(await here.own('a:1')).toBe(true)
  expect(await there.own('a:1')).toBe(false)
  expect(await there.own('a:2')).toBe(true)
  await here.release('a:1')
  expect(await there.own('a:1')).toBe(true)
  await there.release('never:owned')
  await Promise.all([here.close(), there.close()])
})

it('with the connection all that was owned is lost, said once, and free for others', async () => {
  const lost = vi.fn()
  const [here, there] = [new Locks(lost), new Locks(() => {})]
  expect([await here.own('b:1'), await here.own('b:2')]).toEqual([true, true])
  await cut()
  await expect.poll(() => lost.mock.calls.length).toBe(1)
  expect(await there.own('b:1')).toBe(true)
  expect([await here.own('b:1'), await here.own('b:2')]).toEqual([false, true])
  expect(lost).toHaveBeenCalledTimes(1)
  await Promise.all([here.close(), there.close()])
})

it('a database that hangs is given up, and asked again later', async () => {
  const mute = createServer(() => {})
  await new Promise<void>(done => mute.listen(0, '127.0.0.1', done))
  const locks = new Locks(() => {}, { connectionTimeoutMillis: 100 })
  process.env.DATABASE_URL = `postgresql://nobody@127.0.0.1:${(mute.address() as AddressInfo).port}/none`
  await expect(locks.own('c:1')).rejects.toThrow(/timeout/)
  process.env.DATABASE_URL = url
  expect(await locks.own('c:1')).toBe(true)
  await locks.close()
  mute.close()
})

it('what got no answer in time is not owned, though the database gave it later', async () => {
  const lost = vi.fn()
  const [slow, other] = [new Locks(lost, { query_timeout: 150 }), new Locks(() => {})]
  expect(await slow.own('d:1')).toBe(true)
  const [pid] = await holders()
  process.kill(pid!, 'SIGSTOP')
  try {
    await expect(slow.own('d:2')).rejects.toThrow(/timeout/)
  }
  finally {
    process.kill(pid!, 'SIGCONT')
  }
  expect(lost).toHaveBeenCalledTimes(1)
  await expect.poll(() => other.own('d:2')).toBe(true)
  await expect.poll(() => other.own('d:1')).toBe(true)
  await Promise.all([slow.close(), other.close()])
})
