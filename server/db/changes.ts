import { and, desc, eq, sql } from 'drizzle-orm'
import type { Transaction } from './client'
import { changes } from './schema'

export type Change = typeof changes.$inferSelect
/** Steps of one value by one person within so long are one change: a knob turned, an arrow key held down. */
const oneMove = '2 seconds'

/**
 * Records a change that can be taken back, in the transaction that makes it. What was taken back before cannot
 * be made again
 * from then on. Changes of one `gesture` are taken back together.
 */
export async function recordChange(
  tx: Transaction,
  siteId: string,
  change: Pick<Change, 'what' | 'key' | 'old' | 'new'> & { gesture?: string | null },
  who: string,
) {
  await tx
    .update(changes)
    .set({ replaced: true })
    .where(and(eq(changes.siteId, siteId), eq(changes.undone, true), eq(changes.replaced, false)))
  if (change.what === 'setting' && !change.gesture) {
    const [last] = await tx
      .select({
        id: changes.id,
        key: changes.key,
        who: changes.who,
        undone: changes.undone,
        gesture: changes.gesture,
        fresh: sql<boolean>`${changes.at} > now() - ${sql.raw(`interval '${oneMove}'`)}`,
      })
      .from(changes)
      .where(eq(changes.siteId, siteId))
      .orderBy(desc(changes.id))
      .limit(1)
    if (last && last.key === change.key && last.who === who && last.fresh && !last.undone && !last.gesture) {
      await tx
        .update(changes)
        .set({ new: change.new, at: sql`now()` })
        .where(eq(changes.id, last.id))
      return
    }
  }
  await tx.insert(changes).values({ siteId, ...change, gesture: change.gesture ?? null, who })
}
