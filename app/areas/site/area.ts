import type { Area } from '~/areas/area'
import { later } from '~/parts/later'
import { phrase } from '~/parts/phrase'

export const site: Area = {
  id: 'site',
  name: phrase('site.site'),
  plate: later(() => import('./SitePlate.vue')),
  inspector: later(() => import('./SiteInspector.vue')),
  ledger: true,
  ribbon: true,
}
