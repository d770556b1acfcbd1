<script setup lang="ts">
import { nearestNote, standardGrid } from '~~/core/dsp'
import { criticalDistance, nearest, octaveBands, roomAreas, speedOfSound } from '~~/core/acoustics'
import { roomDecay } from '~~/core/documents'
import { showFrequency, showLevel, showNumber } from '~~/core/units'
import { useShaping } from '~/document/shaping'
import { chartKinds } from '~/charts/registry'
import { stripOf } from '~/charts/strip'
import { magnitudeTrace } from '~/charts/traces'
import { useCharts } from './useCharts'
import { useDrawn } from './useDrawn'
import { useSite } from '~/document/site'
import { useLength } from '~/document/useLength'
import { useView } from '~/document/view'
import { useListen } from '~/sound/listen'
import ChartSlot from './ChartSlot.vue'
import FirstSteps from './FirstSteps.vue'
import LineKey from './LineKey.vue'
import PlateNumbers from './PlateNumbers.vue'
import { phrase } from '~/parts/phrase'

const site = useSite()
const view = useView()
const listen = useListen()
const charts = useCharts()
const length = useLength()
const shaping = useShaping()
const { source, position, drawn } = useDrawn()
const cursor = ref<number | null>(null)
const pinned = ref<number | null>(null)
const title = computed(() =>
  source.value && position.value
    ? phrase('common.cellAt', { source: source.value.name, position: position.value.name })
    : phrase('charts.noCellPicked'),
)

const readout = computed(() => {
  const k = cursor.value
  const d = drawn.value.find(t => t.id === 'live') ?? drawn.value.at(-1)
  if (k === null || !d) return null
  const { curve } = d
  const f = standardGrid[k]!
  const levels = magnitudeTrace(d).values
  const other = pinned.value
  return {
    name: d.name,
    f: showFrequency(f),
    level: showLevel(levels[k]!),
    angle: `${showNumber((Math.atan2(curve.im[k]!, curve.re[k]!) * 180) / Math.PI, 0)}°`,
    coherence: curve.coherence ? showNumber(curve.coherence[k]!, 2) : null,
    more: `${length.show(speedOfSound(site.plan.air) / f)} long, ${showNumber(1000 / f, 2)} ms, `
      + nearestNote(f),
    apart:
      other === null
        ? null
        : phrase('charts.andOctFrom', {
            levels: showLevel(levels[k]! - levels[other]!),
            octaves: showNumber(Math.log2(f / standardGrid[other]!), 2),
            frequency: showFrequency(standardGrid[other]!),
          }),
  }
})

const hint = computed(() => {
  // whoever shapes has something before him without a measurement
  if (drawn.value.length || (view.area === 'shape' && view.cell)) return null
  if (!view.cell) return phrase('charts.pickACellIn')
  if (!listen.running) return phrase('charts.startTheNoiseTo')
  if (listen.stalled) return phrase('charts.noSoundIsComing')
  if (!Number.isFinite(listen.levels.reference.rms) || listen.levels.reference.rms < -75)
    return phrase('charts.theReferenceIsSilent')
  if (listen.searching)
    return phrase('charts.lookingForTheArrival')
  return phrase('charts.theFirstTraceIs')
})
/** Charts in view, by their places: one alone, or all. */
const shown = computed(() => {
  const own = charts.shown.map((kind, place) => ({ kind, place, weight: chartKinds[kind].weight }))
  const alone = own.filter(c => charts.alone === c.place)
  if (alone.length) return alone
  // whoever shapes has the filters before him, over two charts of his own
  if (view.area !== 'shape' || charts.shown.includes('filters')) return own
  return [{ kind: 'filters' as const, place: -1, weight: chartKinds.filters.weight }, ...own.slice(0, 2)]
})
type Shown = (typeof shown.value)[number]
// named, so that they are the same at every picture
const placeOf = (c: Shown) => c.place
const weightOf = (c: Shown) => c.weight
const strip = computed(() => {
  const filters = shaping.strip && shown.value.some(c => c.kind === 'filters')
  return stripOf([...drawn.value.map(d => d.name), ...(filters
    ? [phrase('charts.inTheDevice', {
        name: shaping.name,
      })]
    : [])])
})
/** Says where pale is usual: beyond the critical distance at 1 kHz, by the plan. */
const roomy = computed(() => {
  const [s, p] = [source.value, position.value]
  if (!s || !p || !listen.curve) return null
  const metres = nearest(p.place, s.elements.map(e => e.place))
  const decay = roomDecay(site.plan)[octaveBands.indexOf(1000)]!
  return metres > criticalDistance(roomAreas(site.plan.room).volume, decay)
    ? phrase('charts.atTheRoomIs', { metres: length.show(metres, 0) })
    : null
})
/** Asked for by the key when it is open, so that the plate is not made anew with every picture. */
const lines = () => drawn.value
const pin = (index: number | null) => {
  pinned.value = pinned.value === null ? index : null
}
</script>

<template>
  <section
    class="plate"
    :aria-label="phrase('common.plate')"
  >
    <header>
      <h2>{{ title }}</h2>
      <PlateNumbers />
    </header>
    <FirstSteps />
    <div class="row apart bar">
      <p
        class="readout small"
        :class="readout ? 'num' : 'soft'"
        data-testid="readout"
      >
        <template v-if="readout">
          <b>{{ readout.f }}</b> {{ readout.level }} {{ readout.angle
          }}<template v-if="readout.coherence">
            {{ phrase('charts.coherence2', { coherence: readout.coherence }) }}
          </template> ·
          {{ readout.apart ?? readout.more }} · {{ readout.name }}
        </template>
        <template v-else>
          {{
            phrase('charts.paleCoherenceUnder', {
              roomy: roomy ?? phrase('charts.pointAtTheChart'),
              trust: charts.settings.trust,
            })
          }}
        </template>
      </p>
      <LineKey :lines="lines" />
      <button
        v-if="charts.shown.length < 3 && charts.alone === null"
        class="plain add"
        @click="charts.add()"
      >
        {{ phrase('charts.chart2') }}
      </button>
    </div>
    <div class="charts">
      <SplitStack
        id="plate"
        :items="shown"
        :item-key="placeOf"
        :weight="weightOf"
      >
        <template #default="{ item }">
          <ChartSlot
            :place="item.place"
            :title="title"
            :kind="item.kind"
            :drawn="drawn"
            :cursor="cursor"
            :pinned="pinned"
            :removable="item.place >= 0 && charts.shown.length > 1"
            :strip="strip"
            @cursor="cursor = $event"
            @pin="pin"
          />
        </template>
      </SplitStack>
      <p
        v-if="hint"
        class="hint"
      >
        {{ hint }}
      </p>
    </div>
  </section>
</template>

<style scoped>
.plate {
  display: grid;
  grid-template-rows: auto auto auto minmax(0, 1fr);
  min-height: 0;
  min-width: 0;
  padding: 0.6rem 0.4rem 0.4rem 0.8rem;
}
header {
  display: flex;
  justify-content: space-between;
  align-items: center;
  gap: 1rem;
  padding-right: 0.6rem;
}
.readout {
  margin: 0.2rem 0;
  min-height: 1.3em;
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
}
.bar {
  min-width: 0;
  padding-right: 0.5rem;
}
.add {
  white-space: nowrap;
  color: var(--accent);
  min-height: 24px;
}
section > :last-child {
  grid-row: 4;
}
.bar {
  grid-row: 3;
}
.charts {
  min-height: 0;
  position: relative;
}
.hint {
  position: absolute;
  left: 60px;
  right: 20px;
  top: 22%;
  margin: 0;
  text-align: center;
  font-size: 1.1rem;
  color: var(--ink-soft);
  text-wrap: balance;
  pointer-events: none;
}
</style>
