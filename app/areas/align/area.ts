import type { Area } from '~/areas/area'
import { later } from '~/parts/later'

/** What of two or more sources stands on the plate, by its name in the address. */
export const alignViews = {
  times: 'Times',
  pair: 'Pair',
  whole: 'Combined',
  levels: 'Levels',
  alike: 'Phase matching',
} as const

const plate = later(() => import('./AlignPlate.vue'))

export const align: Area = {
  id: 'align',
  name: 'Align',
  plate,
  plates: Object.fromEntries(Object.keys(alignViews).map(name => [name, plate])),
  inspector: later(() => import('./AlignInspector.vue')),
  ledger: true,
  ribbon: true,
}
