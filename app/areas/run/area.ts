import type { Area } from '~/areas/area'
import { later } from '~/parts/later'

export const run: Area = {
  id: 'run',
  name: 'Run sheet',
  plate: later(() => import('./RunPlate.vue')),
  ledger: true,
  ribbon: true,
}
