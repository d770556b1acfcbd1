import { backupFolder, lastFailure, listBackups } from '../../jobs/backups'
import { readKeeping } from '../../store/keeping'

/** The backups that there are, and how they are made. */
export default defineEventHandler(async () => {
  try {
    const folder = await backupFolder()
    return { keeping: await readKeeping(), folder, files: await listBackups(folder), why: lastFailure() }
  }
  catch (error) { throw asRefused(error) }
})
