import { planRestore } from '../../store/restore'

/** Reads an archive to its end and says what is in it, and what putting it back would change; keeps nothing. */
export default defineEventHandler(async (event) => {
  try {
    return await planRestore(incoming(event))
  }
  catch (error) { throw asRefused(error) }
})
