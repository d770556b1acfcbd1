import type { Area } from '~/areas/area'
import { later } from '~/parts/later'

export const watch: Area = {
  id: 'watch',
  name: 'Watch',
  plate: later(() => import('./WatchPlate.vue')),
  ledger: true,
  ribbon: true,
}
