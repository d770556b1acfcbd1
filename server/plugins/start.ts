import { closeDatabase, migrateDatabase } from '../db/client'
import { seedDemo } from '../db/sites'
import { startLinks, stopLinks } from '../links/links'

export default defineNitroPlugin((nitro) => {
  // the start script holds our standard input open: when it is gone, however it went, so are we
  if (process.env.KOVRIN_TIED) process.stdin.on('end', () => process.exit(0)).resume()
  const ready = (async () => {
    await migrateDatabase()
    await seedDemo()
    await startLinks()
  })()
  ready.catch((error: Error) => {
    console.error(
      `Kovrin cannot start: ${error.message}${error.cause instanceof Error ? ` (${error.cause.message})` : ''}`,
    )
    process.exit(1)
  })
  // no request is answered before the tables are there
  nitro.hooks.hook('request', async () => {
    await ready
  })
  nitro.hooks.hook('close', async () => {
    stopLinks()
    await closeDatabase()
  })
})
