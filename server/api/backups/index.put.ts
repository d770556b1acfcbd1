import { Keeping } from '../../../core/contract'
import { checkFolder } from '../../jobs/backups'
import { writeKeeping } from '../../store/keeping'

/** Says how backups and logs are kept. */
export default defineEventHandler(async (event) => {
  const keeping = await readChecked(event, Keeping)
  try {
    if (keeping.folder !== null) await checkFolder(keeping.folder)
  }
  catch (error) { throw asRefused(error) }
  await writeKeeping(keeping)
  return keeping
})
