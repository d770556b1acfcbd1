import { and, eq, notInArray, sql } from 'drizzle-orm'
import { database } from '../store/client'
import { claims, documents } from '../store/schema'

/** Sites that are deleted give up what they claimed. */
const deleted = sql`(select site_id from ${documents} where key = 'site' and content->>'deleted' = 'true')`

/** Who drives an address now. */
export interface Claim {
  site: string
  device: string
  /** The site's name. */
  name: string
}
const standing = () =>
  database()
    .select({ address: claims.address, site: claims.siteId, device: claims.deviceId, info: documents.content })
    .from(claims)
    .leftJoin(documents, and(eq(documents.siteId, claims.siteId), eq(documents.key, 'site')))
const asClaim = ({ site, device, info }: { site: string, device: string, info: unknown }): Claim => ({
  site,
  device,
  name: (info as { name?: string } | null)?.name ?? site,
})

/** All claims by their addresses; those of deleted sites are given up first. */
export async function readClaims(): Promise<Map<string, Claim>> {
  await database().execute(sql`delete from ${claims} where ${claims.siteId} in ${deleted}`)
  return new Map((await standing()).map(row => [row.address, asClaim(row)]))
}

/** Claims an address for a site's device where nobody has it; gives who drives it now. */
export async function claim(address: string, site: string, device: string): Promise<Claim> {
  await database().insert(claims).values({ address, siteId: site, deviceId: device }).onConflictDoNothing()
  const [row] = await standing().where(eq(claims.address, address))
  return row ? asClaim(row) : { site, device, name: site }
}

/** Takes a device over from whatever site drives it. Gives the site that had it, by any of its names. */
export async function takeClaim(addresses: readonly string[], site: string, device: string): Promise<string | null> {
  return database().transaction(async (tx) => {
    let from: string | null = null
    // always in the same order, so that two who take it over wait for one another
    for (const address of [...addresses].sort()) {
      const [had] = await tx.select().from(claims).where(eq(claims.address, address)).for('update')
      await tx
        .insert(claims)
        .values({ address, siteId: site, deviceId: device })
        .onConflictDoUpdate({ target: claims.address, set: { siteId: site, deviceId: device } })
      if (had && (had.siteId !== site || had.deviceId !== device)) from ??= had.siteId
    }
    return from
  })
}

/** Lets go of what a site's device claimed by other names than these. */
export const releaseOthers = (addresses: readonly string[], site: string, device: string) =>
  database()
    .delete(claims)
    .where(and(eq(claims.siteId, site), eq(claims.deviceId, device), notInArray(claims.address, [...addresses])))
