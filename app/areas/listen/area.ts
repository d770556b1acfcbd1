import { computed } from 'vue'
import type { Area, CommandRow } from '~/areas/area'
import PlateView from '~/charts/PlateView.vue'
import { useView } from '~/document/view'
import { later } from '~/parts/later'
import { useListen } from '~/sound/listen'
import ListenInspector from './ListenInspector.vue'
import { phrase } from '~/parts/phrase'

function commands() {
  const view = useView()
  const listen = useListen()
  const areInputs = computed(() => view.area === 'listen' && view.plate === 'inputs')
  return computed<CommandRow[]>(() => [
    ['inputs', areInputs.value ? phrase('common.charts') : phrase('listen.inputsAndOutputs'), () =>
      view.go('listen', areInputs.value ? null : 'inputs')],
    ['listen', listen.running ? phrase('listen.stopListening') : phrase('listen.listenWithoutNoise'), () =>
      void (listen.running ? listen.stop() : listen.start())],
  ])
}

export const listen: Area = {
  id: 'listen',
  name: phrase('listen.listen'),
  plate: PlateView,
  plates: { inputs: later(() => import('./InputsPanel.vue')) },
  inspector: ListenInspector,
  charts: true,
  ledger: true,
  ribbon: true,
  commands,
}
