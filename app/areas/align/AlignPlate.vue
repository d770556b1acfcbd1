<script setup lang="ts">
import type { AlignCandidate } from '~~/core/tune'
import { quantities, showDelay, showFrequency, showLevel, showNumber } from '~~/core/units'
import type { Trace } from '~/charts/traces'
import { stripOf } from '~/charts/strip'
import { useAligning } from './aligning'
import { useSearch } from './useSearch'

/** Sources against each other: arrivals at every position, and the search for their best sum, before it is sent. */
const site = useSite()
const aligning = useAligning()
const search = useSearch()

const columns = computed(() => [
  { id: 'source', name: 'Source' },
  ...site.positions.map((p, n) => ({ id: `p${n}`, name: p.name, numeric: true })),
])
const rows = computed(() => aligning.table.filter(r => r.cells.some(Boolean)))
/** Sources that nothing was measured of. */
const missing = computed(() => aligning.table.filter(r => !r.cells.some(Boolean)).map(r => r.source.name))
const against = computed(() => aligning.table.find(r => r.source.id === aligning.reference?.id))
const isReference = (id: string) => id === aligning.reference?.id
/** A cell: when the reference arrives, or how much later than it another does. */
function arrivalAt(row: (typeof aligning.table)[number], n: number): string {
  const [cell, first] = [row.cells[n], against.value?.cells[n]]
  if (!cell) return '–'
  if (cell.arrival === null) return 'cannot tell'
  if (isReference(row.source.id) || !first || first.arrival === null) return showDelay(cell.arrival)
  const apart = cell.arrival - first.arrival
  return `${apart > 0 ? '+' : ''}${showDelay(apart)}`
}

const own = reactive<{ low: number | null, high: number | null }>({ low: null, high: null })
const band = computed<[number, number] | null>(() => {
  const found = aligning.overlap
  const [low, high] = [own.low ?? found?.[0], own.high ?? found?.[1]]
  return low !== undefined && high !== undefined && high > low ? [low, high] : null
})
const reach = ref(0.025)
const withLevel = ref(false)
const worst = ref<number | null>(null)
watch(() => [aligning.reference?.id, aligning.move?.id], () => {
  Object.assign(own, { low: null, high: null })
  search.clear()
})
function start() {
  if (!band.value) return
  search.start({
    ...aligning.pairsIn(band.value),
    delay: [-reach.value, reach.value],
    step: 2e-5,
    weights: aligning.places.map(p => p.position.weight),
    names: aligning.places.map(p => p.position.name),
    ...(withLevel.value ? { level: [-6, 6] as [number, number] } : {}),
    ...(worst.value === null ? {} : { worst: worst.value }),
  })
}
// what is drawn is what is set now: it is looked for again when that changes
watch(() => aligning.places, () => {
  if (search.map.value || search.busy.value) start()
})
const lowest = -12
const xs = computed(() => Float64Array.from(search.map.value?.delays ?? [], t => t * 1000))
const everywhere = computed(() => Array.from(xs.value, () => true))
const traces = computed<Trace[]>(() => {
  const map = search.map.value
  const line = (id: string, name: string, values: Float64Array, dash: number): Trace => ({
    id, name, values, dash, hue: aligning.move?.hue ?? 0, predicted: true, strong: !dash, trusted: everywhere.value,
  })
  return map ? [line('kept', 'polarity as it is', map.kept, 0), line('turned', 'polarity turned', map.turned, 1)] : []
})
const strip = computed(() => stripOf(traces.value.map(t => t.name)))
const cursor = ref<number | null>(null)
/** Where today's value lies. */
const today = computed(() => {
  let at: number | null = null
  xs.value.forEach((t, k) => {
    if (at === null || Math.abs(t) < Math.abs(xs.value[at]!)) at = k
  })
  return at
})
const read = computed(() => {
  const [k, map] = [cursor.value, search.map.value]
  if (k === null || !map || k >= map.delays.length) return null
  return `${showDelay(map.delays[k]!)}: ${showLevel(map.kept[k]!)}, turned ${showLevel(map.turned[k]!)}`
})
const told = (c: AlignCandidate) =>
  `${c.delay >= 0 ? '+' : ''}${showDelay(c.delay)}, polarity ${c.polarity > 0 ? 'as it is' : 'turned'}`
  + (c.level ? `, ${showLevel(c.level)}` : '')
const inPart = computed(() => aligning.places.filter(p => p.r.inPart || p.m.inPart).map(p => p.position.name))
</script>

<template>
  <section
    class="plate sheet"
    tabindex="0"
    aria-label="Plate"
    data-testid="align-plate"
  >
    <h2>When each source arrives</h2>
    <p
      v-if="!aligning.known.length"
      class="soft"
    >
      Nothing can be aligned yet: measure each source alone, at the positions where two of them are heard, with the same
      reference. In Listen, “Sweep all” does it by itself.
    </p>
    <template v-else>
      <FigureTable
        label="Arrivals by source and position"
        :rows="rows"
        :columns="columns"
        :row-key="r => r.source.id"
        :row-class="r => ({ reference: isReference(r.source.id) })"
        :row-attributes="r => ({ 'data-arrivals': r.source.id })"
      >
        <template #source="{ row }">
          <b>{{ row.source.name }}</b>
        </template>
        <template
          v-for="n in site.positions.length"
          :key="n"
          #[`p${n-1}`]="{ row }"
        >
          {{ arrivalAt(row, n - 1) }}
        </template>
      </FigureTable>
      <p class="soft small">
        {{ aligning.reference?.name }}: after the reference signal, electronics and drafts counted. The others: later
        (+) or earlier (−) than it. A sub has no sharp start that could be told: find its best sum below.
        {{ missing.length ? `Not measured yet: ${missing.join(', ')}.` : '' }}
      </p>
    </template>
    <template v-if="aligning.reference && aligning.move">
      <h2>{{ aligning.move.name }} with {{ aligning.reference.name }}</h2>
      <p
        v-if="!aligning.places.length"
        class="soft"
      >
        They were measured together nowhere: take both at one position, with the same reference.
      </p>
      <template v-else>
        <div class="row wish">
          <NumberField
            v-if="band"
            label="From"
            name="Overlap from"
            :value="band[0]"
            v-bind="quantities.frequency"
            @change="own.low = $event"
          />
          <NumberField
            v-if="band"
            label="To"
            name="Overlap to"
            :value="band[1]"
            v-bind="quantities.frequency"
            @change="own.high = $event"
          />
          <ChoiceField
            v-model:value="reach"
            label="Delays"
            :options="choicesOf([0.005, 0.01, 0.025, 0.05], t => `±${t * 1000} ms`)"
          />
          <ChoiceField
            v-model:value="worst"
            label="No place worse than"
            :options="choicesOf([null, -3, -6], n => (n === null ? 'any' : `${n} dB`))"
          />
          <CheckField
            v-model:value="withLevel"
            label="match levels"
          />
          <ActionButton
            class="go"
            size="small"
            :label="search.busy.value ? 'Stop' : 'Find the best sum'"
            :disabled="!band"
            @click="search.busy.value ? search.stop() : start()"
          />
        </div>
        <p
          v-if="!band"
          class="sentence warn"
        >
          They overlap nowhere: nowhere are both trusted and within 10 dB of each other.
        </p>
        <p
          v-if="inPart.length"
          class="sentence warn"
        >
          At {{ inPart.join(', ') }} the drafts are foreseen in part only: measure again before you trust this.
        </p>
        <p
          v-if="search.why.value"
          class="sentence error"
        >
          {{ search.why.value }}
        </p>
        <template v-if="search.map.value && band">
          <p class="small">
            Energy of their sum against the sum in phase, {{ showFrequency(band[0]) }} to {{ showFrequency(band[1]) }},
            over {{ aligning.places.length }} {{ aligning.places.length === 1 ? 'position' : 'positions' }}. The dashed
            line stands at what is set now.
            <b
              v-if="read"
              class="num"
            >{{ read }}</b>
          </p>
          <div class="map">
            <CurveChart
              name="Sum over delay"
              unit="dB under the sum in phase"
              :min="lowest"
              :max="0"
              :step="3"
              :traces="traces"
              :xs="xs"
              :x="{ kind: 'time', min: -reach * 1000, max: reach * 1000 }"
              :cursor="cursor"
              :pinned="today"
              :strip="strip"
              @cursor="cursor = $event"
            />
          </div>
          <div
            class="candidates"
            data-testid="candidates"
          >
            <article
              v-for="(c, n) in search.candidates.value.slice(0, 3)"
              :key="n"
            >
              <h3>{{ told(c) }}</h3>
              <p>
                <b class="num">{{ showNumber(c.score, 1) }} dB</b> under the sum in phase<template
                  v-for="(level, k) in c.positions"
                  :key="k"
                >
                  {{ k ? ', ' : ': ' }}{{ aligning.places[k]?.position.name }} {{ showNumber(level, 1) }}
                </template>
              </p>
              <p
                v-for="r in c.reasons"
                :key="r"
                class="small soft"
              >
                {{ r }}
              </p>
              <ActionButton
                size="small"
                :severity="n ? 'secondary' : undefined"
                :label="site.live ? 'Set this' : 'Set this in the draft'"
                @click="aligning.apply(c)"
              />
            </article>
          </div>
        </template>
      </template>
    </template>
    <p
      v-else-if="aligning.known.length"
      class="soft"
    >
      One source is measured: measure another alone to bring them together.
    </p>
  </section>
</template>

<style scoped>
.plate {
  overflow-y: auto;
  padding: 0.8rem;
}
h2,
h3 {
  margin: 0.4rem 0;
}
h3 {
  font-size: 1rem;
}
p {
  margin: 0.3rem 0;
}
.wish {
  align-items: end;
  flex-wrap: wrap;
}
.wish > * {
  width: 118px;
}
.wish > .go {
  width: auto;
  white-space: nowrap;
}
.map {
  height: 210px;
}
.candidates {
  display: grid;
  grid-template-columns: repeat(3, minmax(0, 1fr));
  gap: 0.8rem;
}
article {
  border: 1px solid var(--rule);
  border-radius: 3px;
  padding: 0.5rem 0.6rem;
}
</style>
