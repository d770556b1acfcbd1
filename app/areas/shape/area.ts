import { computed } from 'vue'
import type { Area, CommandRow } from '~/areas/area'
import PlateView from '~/charts/PlateView.vue'
import { useSite } from '~/document/site'
import { useView } from '~/document/view'
import { later } from '~/parts/later'
import { useStates } from './states'

function commands() {
  const site = useSite()
  const view = useView()
  const states = useStates()
  return computed<CommandRow[]>(() => [
    ['other', states.has ? 'A/B of this strip' : 'Store this strip as B', () => void states.swap()],
    ['sheets', 'Loudspeaker sheets', () => view.openSheet(view.sheet || (site.sheets[0]?.id ?? ''))],
  ])
}

export const shape: Area = {
  id: 'shape',
  name: 'Shape',
  plate: PlateView,
  plates: { sheets: later(() => import('./SheetPlate.vue')) },
  inspector: later(() => import('./ShapeInspector.vue')),
  charts: true,
  ledger: true,
  ribbon: true,
  commands,
}
