import { startBackups, stopBackups } from '../jobs/backups'
import { startLeases, stopLeases } from '../leases/leases'
// other servers ask this one to drive what it owns
import '../links/driving'
import { startLinks, stopLinks, watchSite } from '../links/links'
import { closeBus, openBus } from '../store/bus'
import { closeDatabase, databaseThere, migrateDatabase } from '../store/client'
import { seedDemo, siteIds } from '../store/sites'
import { upgradeDatabase } from '../store/upgrade'
import { cannotStart } from '../watch/ends'
import { log, openLog } from '../watch/log'

export default defineNitroPlugin((nitro) => {
  // the start script holds our standard input open: when it is gone, however it went, so are we
  if (process.env.KOVRIN_TIED) process.stdin.on('end', () => process.exit(0)).resume()
  const ready = (async () => {
    await openLog()
    await databaseThere()
    await migrateDatabase()
    await upgradeDatabase()
    await seedDemo()
    await openBus()
    for (const id of await siteIds()) watchSite(id)
    await startLinks()
    startLeases()
    startBackups()
    log.info('Kovrin’s server is ready')
  })()
  ready.catch((error: Error) => {
    const cause = error.cause instanceof Error ? ` (${error.cause.message})` : ''
    process.stderr.write(`Kovrin cannot start: ${error.message}${cause}\n`)
    process.exit(cannotStart)
  })
  // no request is answered before the tables are there
  nitro.hooks.hook('request', async () => {
    await ready
  })
  nitro.hooks.hook('close', async () => {
    stopLeases()
    stopBackups()
    await stopLinks()
    await closeBus()
    await closeDatabase()
  })
})
