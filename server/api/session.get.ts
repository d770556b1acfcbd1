import { asker } from '../access/sessions'

/** Who this browser is to the server. */
export default defineEventHandler(asker)
