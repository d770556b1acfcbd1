<script setup lang="ts">
import { airLoss, flightChange, octaveBands } from '~~/core/acoustics'
import { roomDecay } from '~~/core/documents'
import type { TableColumn } from '~/parts/columns'
import { routeTo, setDelay } from '~~/core/rig'
import { showDelay, showNumber } from '~~/core/units'
import { useSite } from '~/document/site'
import { phrase } from '~/parts/phrase'

const site = useSite()
const plan = computed(() => site.plan)
const octaves = computed(() => {
  const now = roomDecay(plan.value)
  const later = roomDecay({ room: plan.value.room, air: plan.value.airLater })
  return octaveBands.map((f, o) => {
    const loss = airLoss(f, plan.value.air) * 100
    const lossLater = airLoss(f, plan.value.airLater) * 100
    return {
      f,
      loss: showNumber(loss, 2),
      lossLater: showNumber(lossLater, 2),
      more: showNumber(lossLater - loss, 2),
      decay: showNumber(now[o]!, 2),
      decayLater: showNumber(later[o]!, 2),
    }
  })
})
/** Delays set for distance, as the devices hold them, and what the same distance will take at show time. */
const delays = computed(() => {
  const part = 1 + flightChange(plan.value.air, plan.value.airLater)
  return site.sources.map((s) => {
    const [from, to] = [site.feedFrom(), site.outputs(s.id)[0]]
    const route = from && to ? routeTo(site.confirmedRig, from, to) : null
    const delay = route ? setDelay(site.confirmedRig, route) : null
    return { id: s.id, name: s.name, delay, later: delay === null ? null : delay * part }
  })
})
const said = ({ temperature, humidity }: { temperature: number, humidity: number }) =>
  `(${temperature} °C, ${humidity} %)`
const caption = computed(() =>
  phrase('site.airLossByIso', { now: said(plan.value.air), later: said(plan.value.airLater) }))
type Octave = (typeof octaves.value)[number]
const figure = (id: keyof Octave, name: string): TableColumn<Octave> =>
  ({ id, name, numeric: true, text: o => o[id] })
const octaveColumns = [
  { id: 'f', name: phrase('site.octave'), text: (o: Octave) => `${o.f} Hz` },
  figure('loss', phrase('site.lossNowDbIn')),
  figure('lossLater', phrase('site.atShowTime')),
  figure('more', 'change'),
  figure('decay', phrase('site.decayNowS')),
  figure('decayLater', phrase('site.atShowTime')),
]
type Delay = (typeof delays.value)[number]
const delayColumns: TableColumn<Delay>[] = [
  { id: 'name', name: phrase('common.source'), text: d => d.name },
  {
    id: 'now',
    name: phrase('site.setNow'),
    numeric: true,
    text: d => (d.delay === null ? phrase('site.notFedNoPath') : showDelay(d.delay)),
    pale: d => d.delay === null,
  },
  { id: 'later', name: phrase('site.atShowTime2'), numeric: true, text: d => (d.later === null
    ? ''
    : showDelay(d.later)) },
  {
    id: 'change',
    name: phrase('site.change'),
    numeric: true,
    text: d => (d.delay === null || d.later === null ? '' : showDelay(d.later - d.delay)),
  },
]
</script>

<template>
  <div class="scroll">
    <FigureTable
      data-testid="air"
      :label="phrase('common.air')"
      :caption="caption"
      :rows="octaves"
      :columns="octaveColumns"
      :row-key="o => o.f"
    />
    <FigureTable
      v-if="delays.length"
      :label="phrase('site.delays')"
      :caption="phrase('site.delaySetForEach')"
      :rows="delays"
      :columns="delayColumns"
      :row-key="d => d.id"
    />
  </div>
</template>

<style scoped>
.scroll {
  overflow: auto;
  min-height: 0;
  display: grid;
  gap: 1.2rem;
  align-content: start;
}
</style>
