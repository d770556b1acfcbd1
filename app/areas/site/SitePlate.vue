<script setup lang="ts">
import { message } from '~~/core/words'
import { useElementSize } from '@vueuse/core'
import {
  airLoss, boundsOf, flightChange, octaveBands, roomAreas, speedOfSound, type Corner, type Place,
} from '~~/core/acoustics'
import { floorPlaces, roomDecay, seatsOf, sheetAt, type Seat } from '~~/core/documents'
import { showNumber } from '~~/core/units'
import { CoverageAnswer, type CoverageRequest } from '~~/core/contract'
import { hearFrom } from '~/workers/line'
import { usePlan } from '~/document/usePlan'
import type { LevelMap } from './planDrawing'
import { useSite } from '~/document/site'
import { useLength } from '~/document/useLength'
import { useView } from '~/document/view'
import { choicesOf, choicesOfCodes } from '~/parts/choices'
import { useNotices } from '~/parts/notices'
import AirTable from './AirTable.vue'
import DistanceTable from './DistanceTable.vue'
import PlanCanvas from './PlanCanvas.vue'
import { phrase } from '~/parts/phrase'

const site = useSite()
const view = useView()
const length = useLength()
const tabs = [
  { id: 'plan', name: phrase('site.plan') },
  { id: 'table', name: phrase('site.distances') },
  { id: 'air', name: phrase('site.airAndDecay') },
] as const
const tab = ref<(typeof tabs)[number]['id']>('plan')
const band = ref(2000)
const units = choicesOfCodes({ m: 'site.metres', ft: 'site.feet' })
const octaves = choicesOf(octaveBands, f => `${f} Hz`)
const measuring = ref(false)
const measured = ref('')
const changes = usePlan()
const plan = computed(() => site.plan)
const c = computed(() => speedOfSound(plan.value.air))
const signed = (v: number) => `${v > 0 ? '+' : ''}${showNumber(v, 2)}`
/** What the change of air until the show does to 100 ms of delay and to the top octave. */
const later = computed(() => {
  const time = 100 * flightChange(plan.value.air, plan.value.airLater)
  const delay = phrase('site.delayChangeByShow', { signed: signed(time) })
  const top = (airLoss(8000, plan.value.airLater) - airLoss(8000, plan.value.air)) * 10
  return phrase('site.levelChangeAtKhz', { delay, signed: signed(-top) })
})
const decay = computed(() => roomDecay(plan.value))

const seats = computed(() =>
  site.areas.flatMap(a =>
    seatsOf(a).map((s): Seat & { along: number, across: number } => ({ ...s, along: a.rows, across: a.seats })),
  ),
)
const ear = 1.2
/** What the level map covers: the seats, or the whole floor while there are none. */
const covered = computed(() => {
  const step = Math.max(0.2, plan.value.room.size.x / 120)
  return seats.value.length
    ? seats.value
    : floorPlaces(plan.value.room, Math.min(ear, plan.value.room.size.z), step).map(place => ({
        place,
        along: step,
        across: step,
      }))
})
const map = shallowRef<LevelMap | null>(null)
const spread = ref(0)
const worker = new Worker(new URL('../../workers/coverage.worker.ts', import.meta.url), { type: 'module' })
onBeforeUnmount(() => worker.terminate())
/** The newest wish while one is being computed: a drag asks oftener than the worker answers. */
let busy = false
let wanted = false
function ask() {
  if (busy) {
    wanted = true
    return
  }
  busy = true
  wanted = false
  const radiators = site.sources.flatMap(s => s.elements).flatMap(({ sheet, place, aim }) => {
    const known = site.sheetOf(sheet)
    return known ? [{ ...sheetAt(known, band.value), place: { ...place }, aim: { ...aim } }] : []
  })
  if (!radiators.length) {
    // nothing radiates: no level is painted anywhere
    busy = false
    map.value = null
    spread.value = 0
    return
  }
  const places = Float32Array.from(covered.value.flatMap(s => [s.place.x, s.place.y, s.place.z]))
  const cells = Float32Array.from(covered.value.flatMap(s => [s.along, s.across]))
  const use = (answer: CoverageAnswer) => {
    busy = false
    if (wanted) ask()
    const { levels } = answer
    const top = levels.reduce((a, b) => Math.max(a, b), -200)
    spread.value = answer.spread
    map.value = { places, cells, levels, range: [top - 30, top - 6] }
  }
  hearFrom(worker, CoverageAnswer, use, (why) => {
    busy = false
    useNotices().say('error', message('coverage.stopped', { why }))
  })
  worker.postMessage({
    places,
    radiators,
    air: { ...plan.value.air },
    frequency: band.value,
  } satisfies CoverageRequest)
}
watch([plan, () => site.areas, () => site.sources, () => site.sheets, band], ask, { immediate: true })

/** Both views to one scale, one above the other: what is at 10 m stands at 10 m in both. */
const { width, height } = useElementSize(useTemplateRef('views'))
const rows = computed(() => {
  const { x, y, z } = plan.value.room.size
  const edge = 52
  const scale = Math.max(1, Math.min((width.value - 54) / x, (height.value - 2 * edge - 6) / (y + z)))
  return `${Math.round(y * scale + edge)}px ${Math.round(z * scale + edge)}px`
})

const step = (v: number) => Math.round(v * 10) / 10
/** Steps of 0.1 m inside the room; a microphone dropped among seats takes the nearest one. */
function snap(what: 'source' | 'position' | 'corner', place: Place): Place {
  const { size, outline } = plan.value.room
  const most = what === 'corner' && outline ? { x: 300, y: 300 } : size
  const inside = {
    x: step(Math.min(most.x, Math.max(0, place.x))),
    y: step(Math.min(most.y, Math.max(0, place.y))),
    z: step(Math.min(size.z, Math.max(0, place.z))),
  }
  if (what !== 'position' || !view.snapToSeats) return inside
  const near = seats.value.reduce<{ place: Place, at: number } | null>((best, s) => {
    const at = Math.hypot(s.place.x - place.x, s.place.y - place.y)
    return at < (best?.at ?? 1) ? { place: s.place, at } : best
  }, null)
  return near ? { ...near.place } : inside
}
function move(what: 'source' | 'position', id: string, element: number, place: Place) {
  void (what === 'position' ? changes.setPosition(id, { place }) : changes.moveElement(id, element, place))
}
function reshape(key: string, outline: Corner[]) {
  if (key !== 'room') return void changes.setArea(key, { outline })
  const { x, y } = boundsOf(outline) // the smallest corner stays at 0
  const shifted = outline.map(p => ({ x: p.x - x[0], y: p.y - y[0] }))
  const size = { ...plan.value.room.size, x: x[1] - x[0], y: y[1] - y[0] }
  void changes.setRoom({ outline: shifted, size })
}
</script>

<template>
  <section
    class="plate site"
    :aria-label="phrase('common.plate')"
  >
    <header class="row apart heads">
      <h2>{{ site.name }}</h2>
      <div class="row">
        <button
          v-for="t in tabs"
          :key="t.id"
          class="plain tab"
          :class="{ on: tab === t.id }"
          :aria-pressed="tab === t.id"
          @click="tab = t.id"
        >
          {{ t.name }}
        </button>
        <SegmentField
          v-model:value="view.lengths"
          :label="phrase('site.lengthsIn')"
          layout="bare"
          :options="units"
        />
      </div>
    </header>
    <dl>
      <div>
        <dt>{{ phrase('site.room') }}</dt>
        <dd
          class="num"
          data-testid="room"
        >
          {{
            (['x', 'y', 'z'] as const)
              .map(a =>
                length
                  .show(plan.room.size[a], 2)
                  .replace(/ .*/, '')
                  .replace(/\.?0+$/, ''),
              )
              .join(' × ')
          }}
          {{ length.unit.value }}, {{ showNumber(roomAreas(plan.room).volume, 0) }} m³
        </dd>
      </div>
      <div>
        <dt>{{ phrase('site.speedOfSound') }}</dt>
        <dd class="num">
          {{ showNumber(c, 1) }} m/s
        </dd>
      </div>
      <div>
        <dt>{{ phrase('site.airLossAtKhz') }}</dt>
        <dd class="num">
          {{ phrase('site.dbPerM', { airLoss: showNumber(airLoss(8000, plan.air) * 10, 2) }) }}
        </dd>
      </div>
      <div>
        <dt>{{ phrase('site.reverberationTimeEyringHz') }}</dt>
        <dd class="num">
          {{ [1, 4, 6].map(o => showNumber(decay[o]!, 2)).join(' · ') }} s
        </dd>
      </div>
      <div>
        <dt>{{ phrase('site.atShowTime2') }}</dt>
        <dd
          class="num"
          data-testid="later"
        >
          {{ later }}
        </dd>
      </div>
    </dl>
    <template v-if="tab === 'plan'">
      <div
        ref="views"
        class="views"
        :style="{ gridTemplateRows: rows }"
      >
        <PlanCanvas
          v-for="side in ['above', 'beside'] as const"
          :key="side"
          :side="side"
          :plan="plan"
          :areas="site.areas"
          :sources="site.sources"
          :positions="site.positions"
          :picked="view.thing"
          :map="side === 'above' ? map : null"
          :measuring="measuring"
          :snap="snap"
          @pick="view.thing = $event"
          @move="move"
          @reshape="reshape"
          @measured="measured = $event"
        />
      </div>
      <div class="row small foot">
        <button
          class="plain tab"
          :class="{ on: measuring }"
          :aria-pressed="measuring"
          @click="measuring = !measuring"
        >
          {{ phrase('site.measureADistance') }}
        </button>
        <CheckField
          v-if="seats.length"
          v-model:value="view.snapToSeats"
          :label="phrase('site.seatsAsPositions')"
        />
        <ChoiceField
          v-model:value="band"
          class="octave"
          :label="phrase('site.directLevelAtOctave')"
          :name="phrase('site.directLevelAtOctaveBand')"
          layout="beside"
          :options="octaves"
        />
        <span
          v-if="measuring"
          class="soft"
        ><b
          v-if="measured"
          class="num"
          data-testid="measured"
        >{{ measured }}</b> {{ phrase('site.dragFromOnePlace') }}</span>
        <span
          v-else-if="map && site.sources.length"
          class="soft"
          data-testid="spread"
        >{{
          phrase('site.fullColourWithinDb', {
            where: seats.length ? phrase('site.overPlace', {
              seats: seats.length,
            }) : phrase('site.atMOverThe', { ear }),
          })
        }}
          <b class="num">{{ showNumber(spread, 1) }} dB</b></span>
        <span
          v-else
          class="soft"
        >{{ phrase('site.addASourceTo', { floor: seats.length ? phrase('site.seats') : phrase('site.floor') }) }}</span>
      </div>
    </template>
    <DistanceTable v-else-if="tab === 'table'" />
    <AirTable v-else />
  </section>
</template>

<style scoped>
.heads {
  flex-wrap: wrap;
  gap: 0.3rem 0.8rem;
}
.heads h2 {
  flex: 1 1 14rem;
}
.site {
  display: grid;
  grid-template-rows: auto auto minmax(0, 1fr) auto;
  gap: 0.5rem;
  padding: 0.6rem 0.9rem;
  min-height: 0;
  overflow: hidden;
}
dl {
  display: flex;
  flex-wrap: wrap;
  gap: 0.2rem 1.3rem;
  margin: 0;
}
dt {
  color: var(--ink-soft);
  font-size: 0.84rem;
}
dd {
  margin: 0;
  font-size: 0.98rem;
  font-weight: 600;
}
.views {
  display: grid;
  gap: 0.4rem;
  min-height: 0;
  align-content: center;
  overflow: hidden;
}
.tab {
  padding: 0.35rem 0.9rem;
  border: 1px solid var(--rule-strong);
  min-height: 34px;
  white-space: nowrap;
}
.tab.on {
  background: var(--accent);
  color: var(--accent-ink);
}
.foot {
  gap: 0.4rem 0.9rem;
  flex-wrap: wrap;
}
.octave {
  grid-template-columns: auto 96px;
  column-gap: 0.5rem;
}
</style>
