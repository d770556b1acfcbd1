import type { Area } from '~/areas/area'
import { later } from '~/parts/later'
import { phrase } from '~/parts/phrase'

export const run: Area = {
  id: 'run',
  name: phrase('common.runSheet'),
  plate: later(() => import('./RunPlate.vue')),
  ledger: true,
  ribbon: true,
}
