<script setup lang="ts">
import { familyName } from '~~/core/rig'
import type { AlignMap, FilterVariant } from '~~/core/tune'
import { showDelay, showFrequency, showLevel } from '~~/core/units'
import type { Trace } from '~/charts/traces'
import { stripOf } from '~/charts/strip'
import CurveChart from '~/charts/CurveChart.vue'
import DepthChart from '~/charts/DepthChart.vue'
import { phrase } from '~/parts/phrase'

/** Scores of a search: over delay with both polarities, and where crossovers were tried over their corners too. */
const props = defineProps<{
  maps: readonly AlignMap[]
  variants: readonly FilterVariant[]
  reach: number
  hue: number
}>()
const lowest = -12
/** The map's lightest: where it tells apart what is worth setting. */
const faint = -6
const map = computed(() => props.maps[0]!)
const xs = computed(() => Float64Array.from(map.value.delays, t => t * 1000))
const everywhere = computed(() => Array.from(xs.value, () => true))
const traces = computed<Trace[]>(() => {
  const line = (id: string, name: string, values: Float64Array, dash: number): Trace =>
    ({ id, name, values, dash, hue: props.hue, predicted: true, strong: !dash, trusted: everywhere.value })
  return [
    line('kept', phrase('align.polarityNormal'), map.value.kept, 0),
    line('turned', phrase('common.polarityInverted'), map.value.turned, 1),
  ]
})
const cursor = ref<number | null>(null)
/** Where today's value lies. */
const today = computed(() => {
  let at = 0
  xs.value.forEach((t, k) => {
    if (Math.abs(t) < Math.abs(xs.value[at]!)) at = k
  })
  return at
})
const read = computed(() => {
  const k = cursor.value
  if (k === null || k >= map.value.delays.length) return phrase('align.moveOverTheMap')
  return `${showDelay(map.value.delays[k]!)}: ${showLevel(map.value.kept[k]!)}, inverted `
    + showLevel(map.value.turned[k]!)
})

const cornerOf = (v: FilterVariant) => {
  const act = v.acts[0]?.act
  return act?.kind === 'pass' ? act.pass : null
}
/** The variants of one kind of crossover, by their corners. */
const family = computed(() => {
  const passes = props.variants.flatMap((v, n) => {
    const pass = cornerOf(v)
    return pass && props.maps[n] ? [{ n, pass, kind: `${pass.family} ${pass.order}` }] : []
  })
  const best = (n: number) => Math.max(...props.maps[n]!.kept, ...props.maps[n]!.turned)
  const top = passes.toSorted((a, b) => best(b.n) - best(a.n))[0]
  return top ? passes.filter(p => p.kind === top.kind) : []
})
/** Rows of the picture: so many steps of delay are one. */
const rowEvery = 10
const depth = computed(() => {
  const list = family.value
  if (list.length < 2) return null
  const rows = Math.floor((map.value.delays.length - 1) / rowEvery) + 1
  const levels = new Float32Array(rows * list.length)
  for (let row = 0; row < rows; row++) {
    list.forEach(({ n }, column) => {
      const { kept, turned } = props.maps[n]!
      const k = row * rowEvery
      levels[row * list.length + column] = Math.max(kept[k]!, turned[k]!)
    })
  }
  return { levels, columns: list.length, low: list[0]!.pass.frequency, high: list.at(-1)!.pass.frequency }
})
</script>

<template>
  <p class="num small">
    {{ read }}
  </p>
  <div class="map">
    <CurveChart
      :name="phrase('align.sumOverDelay')"
      :unit="phrase('align.dbBelowTheBest')"
      :min="lowest"
      :max="0"
      :step="3"
      :traces="traces"
      :xs="xs"
      :x="{ kind: 'time', min: -reach * 1000, max: reach * 1000 }"
      :cursor="cursor"
      :pinned="today"
      :strip="stripOf(traces.map(t => t.name))"
      @cursor="cursor = $event"
    />
  </div>
  <template v-if="depth">
    <p class="small">
      {{
        phrase('align.theSameForDb', {
          familyName: familyName(family[0]!.pass.family),
          part: 6 * family[0]!.pass.order,
          low: showFrequency(depth.low),
          high: showFrequency(depth.high),
        })
      }}
    </p>
    <div class="map">
      <DepthChart
        :name="phrase('align.sumOverDelayAnd')"
        :unit="phrase('align.dbBelowTheBest')"
        :columns="depth.columns"
        :levels="depth.levels"
        :floor="faint"
        :low="depth.low"
        :high="depth.high"
        :from="-reach * 1000"
        :to="reach * 1000"
        :mark="0"
      />
    </div>
  </template>
</template>

<style scoped>
.map {
  height: 210px;
  display: grid;
}
</style>
