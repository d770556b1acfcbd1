import { lt } from 'drizzle-orm'
import * as v from 'valibot'
import { Keeping, usualKeeping } from '../../core/contract'
import { database } from './client'
import { keeping, log } from './schema'

const day = 24 * 3600 * 1000

/** How this installation keeps what it has. */
export async function readKeeping(): Promise<Keeping> {
  const [row] = await database().select().from(keeping).limit(1)
  const read = v.safeParse(Keeping, row?.value)
  return read.success ? read.output : usualKeeping
}

export async function writeKeeping(value: Keeping) {
  await database().insert(keeping).values({ name: 'keeping', value })
    .onConflictDoUpdate({ target: keeping.name, set: { value } })
}

/** Takes away lines of the sites' logs that are older than they shall be kept. */
export async function dropOldLog(now = Date.now()) {
  const { logDays } = await readKeeping()
  if (logDays !== null) await database().delete(log).where(lt(log.at, new Date(now - logDays * day)))
}
