import type { Area } from '~/areas/area'
import { later } from '~/parts/later'

export const site: Area = {
  id: 'site',
  name: 'Site',
  plate: later(() => import('./SitePlate.vue')),
  inspector: later(() => import('./SiteInspector.vue')),
  ledger: true,
  ribbon: true,
}
