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
import { phrase } from '~/parts/phrase'

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
  { id: 'position', name: phrase('common.position') },
  { id: 'level', name: phrase('align.hzToKhz'), numeric: true },
  { id: 'left', name: phrase('align.excluded') },
]
const ways = [
  { id: 'name', name: phrase('align.setAs') },
  { id: 'between', name: phrase('align.betweenPositions'), numeric: true },
  { id: 'off', name: phrase('align.errorToTarget'), numeric: true },
  { id: 'acts', name: '' },
]
const dB = (value: number | undefined) => (value === undefined
  ? phrase('align.cannotTell')
  : `${showNumber(value, 2)} dB`)
/** Takes of several sources together, against what was foreseen. */
const combined = computed(() => takes.all.filter(isCombined).toReversed().map((t) => {
  const apart = heard.apartOf(t)
  const names = soundedIn(t).map(id => site.sourceName(id)).join(' + ')
  const stale = Boolean(takes.stale[t.id]?.length)
  const told = apart === null
    ? phrase('align.takesOfEachAlone')
    : phrase('align.predictedAndMeasuredDiffer', { apart: showNumber(apart, 1) })
  return { take: t, names, told: stale ? phrase('align.somethingWasSetSince') : told }
}))
</script>

<template>
  <p
    v-if="!measured.length"
    class="soft"
  >
    {{ phrase('align.noSourceMeasuredAloneYet') }}
  </p>
  <template v-else>
    <h2>{{ phrase('align.combinedResponseAsDrafted') }}</h2>
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
      {{ phrase('align.allSourcesAreExcluded') }}
    </p>
    <template v-else>
      <div class="chart">
        <CurveChart
          :name="phrase('align.predictedSumByPosition')"
          :unit="phrase('common.db')"
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
        :label="phrase('align.predictedLevelByPosition')"
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
          <span class="soft">{{ row.missing.length ? phrase('align.notMeasured', {
            missing: row.missing.join(', '),
          }) : '' }}
            {{ row.inPart.length ? phrase('align.predictedInPart', { inPart: row.inPart.join(', ') }) : '' }}</span>
        </template>
      </FigureTable>
      <p class="soft small">
        {{ phrase('align.levelsAgainstTheFirst') }}
      </p>
    </template>
    <div class="row apart">
      <h2>{{ phrase('align.alternatives') }}</h2>
      <ActionButton
        size="small"
        severity="secondary"
        :label="phrase('align.saveDraftsAsAlternative')"
        @click="whole.keep()"
      />
    </div>
    <FigureTable
      :label="phrase('align.alternatives')"
      :rows="whole.compared.value"
      :columns="ways"
      :row-key="r => r.id ?? 'now'"
      :row-attributes="r => ({ 'data-way': r.name })"
    >
      <template #name="{ row }">
        <TextField
          v-if="row.id"
          :label="phrase('common.name')"
          :name="phrase('align.nameOf', { name: row.name })"
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
          :label="whole.shown.value === row.id ? phrase('align.shown') : phrase('common.show')"
          :disabled="whole.shown.value === row.id"
          @click="whole.shown.value = row.id"
        />
        <template v-if="row.id">
          <ActionButton
            size="small"
            text
            :label="phrase('align.set')"
            :aria-label="phrase('align.set2', { name: row.name })"
            @click="whole.use(row.id, false)"
          />
          <ActionButton
            size="small"
            text
            :label="phrase('common.send')"
            :aria-label="phrase('align.send', { name: row.name })"
            @click="whole.use(row.id, true)"
          />
          <ActionButton
            size="small"
            text
            :label="phrase('common.delete')"
            :aria-label="phrase('align.delete', { name: row.name })"
            @click="whole.remove(row.id)"
          />
        </template>
      </template>
    </FigureTable>
    <p class="soft small">
      {{
        phrase('align.thirdsOfAnOctave', {
          where: whole.comparedAt.value.length ? phrase('align.atWhereAllOf', {
            comparedAt: whole.comparedAt.value.join(', '),
          }) : phrase('align.atNoPositionWere'),
        })
      }}
    </p>
    <h2>{{ phrase('align.measuredTogether') }}</h2>
    <p
      v-for="c in combined"
      :key="c.take.id"
      :data-combined="c.take.id"
    >
      <b>{{ c.names }}</b> {{ phrase(
        'align.at2',
        { name: site.positionOf(c.take.position)?.name ?? '', told: c.told },
      ) }}
    </p>
    <p
      v-if="!combined.length"
      class="soft"
    >
      {{ phrase('align.noTakeOfSeveral') }}
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
