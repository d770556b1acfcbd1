import type { Area } from '~/areas/area'
import { later } from '~/parts/later'
import { phrase } from '~/parts/phrase'

export const rig: Area = {
  id: 'rig',
  name: phrase('rig.rig'),
  plate: later(() => import('./RigPlate.vue')),
  plates: { device: later(() => import('./DevicePlate.vue')) },
  inspector: 'shape',
  ledger: true,
  ribbon: true,
}
