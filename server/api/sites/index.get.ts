import { listSites } from '../../store/sites'

export default defineEventHandler(() => listSites())
