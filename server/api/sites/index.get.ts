import { listSites } from '../../db/sites'

export default defineEventHandler(() => listSites())
