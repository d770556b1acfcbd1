import { desc, eq } from 'drizzle-orm'
import * as v from 'valibot'
import { database } from '../../../db/client'
import { readLog } from '../../../db/log'
import { settingHistory, sites } from '../../../db/schema'

const Query = v.object({
  limit: v.optional(
    v.pipe(v.string(), v.transform(Number), v.number(), v.integer(), v.minValue(1), v.maxValue(1000)),
    '200',
  ),
})

export default defineEventHandler(async (event) => {
  const id = param(event, 'site')
  const { limit } = checked(Query, getQuery(event))
  const db = database()
  if (!(await db.select({ id: sites.id }).from(sites).where(eq(sites.id, id))).length)
    throw notFound(`site “${id}”`)
  const [changes, log] = await Promise.all([
    db
      .select()
      .from(settingHistory)
      .where(eq(settingHistory.siteId, id))
      .orderBy(desc(settingHistory.id))
      .limit(limit),
    readLog(id, limit),
  ])
  return { changes, log }
})
