import { checkArchive } from '../../store/backup'

/** Reads an archive to its end and says what is in it; keeps nothing. */
export default defineEventHandler(async (event) => {
  try {
    return await checkArchive(incoming(event))
  }
  catch (error) { throw refusal(error) }
})
