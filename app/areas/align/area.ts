import type { Area } from '~/areas/area'
import { later } from '~/parts/later'
import { phrase } from '~/parts/phrase'

/** What of two or more sources stands on the plate, by its name in the address. */
export const alignViews = {
  times: phrase('common.times'),
  pair: phrase('align.pair'),
  whole: phrase('align.combined'),
  levels: phrase('align.levels'),
  alike: phrase('align.phaseMatching'),
} as const

const plate = later(() => import('./AlignPlate.vue'))

export const align: Area = {
  id: 'align',
  name: phrase('align.align'),
  plate,
  plates: Object.fromEntries(Object.keys(alignViews).map(name => [name, plate])),
  inspector: later(() => import('./AlignInspector.vue')),
  ledger: true,
  ribbon: true,
}
