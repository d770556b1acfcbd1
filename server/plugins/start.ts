import { startLeases, stopLeases } from '../leases/leases'
import { startLinks, stopLinks, watchSite } from '../links/links'
import { closeBus, openBus } from '../store/bus'
import { closeDatabase, migrateDatabase } from '../store/client'
import { seedDemo, siteIds } from '../store/sites'
import { upgradeDatabase } from '../store/upgrade'

export default defineNitroPlugin((nitro) => {
  // the start script holds our standard input open: when it is gone, however it went, so are we
  if (process.env.KOVRIN_TIED) process.stdin.on('end', () => process.exit(0)).resume()
  const ready = (async () => {
    await migrateDatabase()
    await upgradeDatabase()
    await seedDemo()
    await openBus()
    for (const id of await siteIds()) watchSite(id)
    await startLinks()
    startLeases()
  })()
  ready.catch((error: Error) => {
    const cause = error.cause instanceof Error ? ` (${error.cause.message})` : ''
    console.error(`Kovrin cannot start: ${error.message}${cause}`)
    process.exit(1)
  })
  // no request is answered before the tables are there
  nitro.hooks.hook('request', async () => {
    await ready
  })
  nitro.hooks.hook('close', async () => {
    stopLeases()
    await stopLinks()
    await closeBus()
    await closeDatabase()
  })
})
