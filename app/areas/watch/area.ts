import type { Area } from '~/areas/area'
import { later } from '~/parts/later'
import { phrase } from '~/parts/phrase'

export const watch: Area = {
  id: 'watch',
  name: phrase('watch.watch'),
  plate: later(() => import('./WatchPlate.vue')),
  ledger: true,
  ribbon: true,
}
