import type { Area } from '~/areas/area'
import { later } from '~/parts/later'

export const rig: Area = {
  id: 'rig',
  name: 'Rig',
  plate: later(() => import('./RigPlate.vue')),
  inspector: 'shape',
  ledger: true,
  ribbon: true,
}
