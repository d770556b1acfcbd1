import { computed } from 'vue'
import type { Area, CommandRow } from '~/areas/area'
import PlateView from '~/charts/PlateView.vue'
import { useSite } from '~/document/site'
import { useView } from '~/document/view'
import { later } from '~/parts/later'
import { useStates } from './states'
import { phrase } from '~/parts/phrase'

function commands() {
  const site = useSite()
  const view = useView()
  const states = useStates()
  return computed<CommandRow[]>(() => [
    ['other', states.has ? phrase('shape.aBOfThis') : phrase('shape.storeThisStripAs'), () => void states.swap()],
    ['sheets', phrase('shape.loudspeakerSheets'), () => view.openSheet(view.sheet || (site.sheets[0]?.id ?? ''))],
  ])
}

export const shape: Area = {
  id: 'shape',
  name: phrase('shape.shape'),
  plate: PlateView,
  plates: { sheets: later(() => import('./SheetPlate.vue')) },
  inspector: later(() => import('./ShapeInspector.vue')),
  charts: true,
  ledger: true,
  ribbon: true,
  commands,
}
