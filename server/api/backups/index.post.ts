import { makeBackup } from '../../jobs/backups'

/** Makes a backup of everything now, and reads it back. */
export default defineEventHandler(async (event) => {
  try {
    const made = await makeBackup('asked')
    setResponseStatus(event, 201)
    return made
  }
  catch (error) { throw asRefused(error) }
})
