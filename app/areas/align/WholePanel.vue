<script setup lang="ts">
import { isCombined, soundedIn } from '~~/core/documents'
import { standardGrid } from '~~/core/dsp'
import { showLevel, showNumber } from '~~/core/units'
import { stripOf } from '~/charts/strip'
import { useWhole } from './useWhole'
import { useHeard } from '~/document/heard'
import { useSite } from '~/document/site'
import { useTakes } from '~/document/takes'
import CurveChart from '~/charts/CurveChart.vue'

/** The whole system as it will sound at every position, alternatives beside it, and takes of several that prove it. */
const site = useSite()
const takes = useTakes()
const heard = useHeard()
const whole = useWhole()

const measured = computed(() => heard.job?.sources.filter(s => s.takes.some(Boolean)) ?? [])
const cursor = ref<number | null>(null)
const top = computed(() => {
  const all = whole.traces.value.flatMap(t => Array.from(t.values).filter((v, k) => t.trusted[k] && Number.isFinite(v)))
  return all.length ? Math.ceil((Math.max(...all) + 2) / 6) * 6 : 12
})
const first = computed(() => whole.sums.value.find(s => s.level !== null)?.level ?? null)
const columns = [
  { id: 'position', name: 'Position' },
  { id: 'level', name: '200 Hz to 4 kHz', numeric: true },
  { id: 'left', name: 'Excluded' },
]
const ways = [
  { id: 'name', name: 'Set as' },
  { id: 'between', name: 'Between positions', numeric: true },
  { id: 'off', name: 'Error to target', numeric: true },
  { id: 'acts', name: '' },
]
const dB = (value: number | undefined) => (value === undefined ? 'cannot tell' : `${showNumber(value, 2)} dB`)
/** Takes of several sources together, against what was foreseen. */
const combined = computed(() => takes.all.filter(isCombined).toReversed().map((t) => {
  const apart = heard.apartOf(t)
  const names = soundedIn(t).map(id => site.sourceName(id)).join(' + ')
  const stale = Boolean(takes.stale[t.id]?.length)
  const told = apart === null
    ? 'takes of each alone, by the same clock, are missing'
    : `predicted and measured differ by ${showNumber(apart, 1)} dB where all are trusted`
  return { take: t, names, told: stale ? 'something was set since: take it again' : told }
}))
</script>

<template>
  <p
    v-if="!measured.length"
    class="soft"
  >
    No source measured alone yet: the whole is predicted from takes of each source.
  </p>
  <template v-else>
    <h2>Combined response, as drafted</h2>
    <div class="row who">
      <CheckField
        v-for="s in measured"
        :key="s.id"
        :label="s.name"
        :value="!whole.muted.value.includes(s.id)"
        @change="whole.toggle(s.id)"
      />
    </div>
    <p
      v-if="!whole.playing.value"
      class="soft"
    >
      All sources are excluded: silent.
    </p>
    <template v-else>
      <div class="chart">
        <CurveChart
          name="Predicted sum by position"
          unit="dB"
          :min="top - 48"
          :max="top"
          :step="6"
          :traces="whole.traces.value"
          :xs="standardGrid"
          :x="{ kind: 'frequency', min: 20, max: 20_000 }"
          :cursor="cursor"
          :strip="stripOf(whole.traces.value.map(t => t.name))"
          @cursor="cursor = $event"
        />
      </div>
      <FigureTable
        label="Predicted level by position"
        :rows="whole.sums.value"
        :columns="columns"
        :row-key="r => r.position.id"
        :row-attributes="r => ({ 'data-whole': r.position.id })"
      >
        <template #position="{ row }">
          {{ row.position.name }}
        </template>
        <template #level="{ row }">
          {{ row.level === null || first === null ? '–' : showLevel(row.level - first) }}
        </template>
        <template #left="{ row }">
          <span class="soft">{{ row.missing.length ? `not measured: ${row.missing.join(', ')}` : '' }}
            {{ row.inPart.length ? `predicted in part: ${row.inPart.join(', ')}` : '' }}</span>
        </template>
      </FigureTable>
      <p class="soft small">
        Levels against the first position. Coverage by plan: see Site.
      </p>
    </template>
    <div class="row apart">
      <h2>Alternatives</h2>
      <ActionButton
        size="small"
        severity="secondary"
        label="Save drafts as alternative"
        @click="whole.keep()"
      />
    </div>
    <FigureTable
      label="Alternatives"
      :rows="whole.compared.value"
      :columns="ways"
      :row-key="r => r.id ?? 'now'"
      :row-attributes="r => ({ 'data-way': r.name })"
    >
      <template #name="{ row }">
        <TextField
          v-if="row.id"
          label="Name"
          :name="`Name of ${row.name}`"
          layout="bare"
          :value="row.name"
          @change="whole.rename(row.id, $event)"
        />
        <span v-else>{{ row.name }}</span>
      </template>
      <template #between="{ row }">
        {{ dB(row.figures?.between) }}
      </template>
      <template #off="{ row }">
        {{ dB(row.figures?.off) }}
      </template>
      <template #acts="{ row }">
        <ActionButton
          size="small"
          text
          :label="whole.shown.value === row.id ? 'Shown' : 'Show'"
          :disabled="whole.shown.value === row.id"
          @click="whole.shown.value = row.id"
        />
        <template v-if="row.id">
          <ActionButton
            size="small"
            text
            label="Set"
            :aria-label="`Set ${row.name}`"
            @click="whole.use(row.id, false)"
          />
          <ActionButton
            size="small"
            text
            label="Send"
            :aria-label="`Send ${row.name}`"
            @click="whole.use(row.id, true)"
          />
          <ActionButton
            size="small"
            text
            label="Delete"
            :aria-label="`Delete ${row.name}`"
            @click="whole.remove(row.id)"
          />
        </template>
      </template>
    </FigureTable>
    <p class="soft small">
      Thirds of an octave, 100 Hz to 10 kHz{{ whole.comparedAt.value.length
        ? `, at ${whole.comparedAt.value.join(', ')}: where all of them were measured by one microphone`
        : ': at no position were all of them measured by one microphone' }}.
    </p>
    <h2>Measured together</h2>
    <p
      v-for="c in combined"
      :key="c.take.id"
      :data-combined="c.take.id"
    >
      <b>{{ c.names }}</b> at {{ site.positionOf(c.take.position)?.name }}: {{ c.told }}
    </p>
    <p
      v-if="!combined.length"
      class="soft"
    >
      No take of several sources yet: in Listen use “Also feed this”, then take.
    </p>
  </template>
</template>

<style scoped>
.chart {
  display: grid;
  height: 250px;
}
.who {
  flex-wrap: wrap;
  gap: 0.3rem 0.9rem;
}
</style>
