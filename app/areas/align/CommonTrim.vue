<script setup lang="ts">
import { distanceLoss, nearest } from '~~/core/acoustics'
import { sheetAt } from '~~/core/documents'
import { levelOf, trimActs, trimToCommon } from '~~/core/tune'
import { showDelay, showLevel } from '~~/core/units'
import { useHeard, type HeardTake } from '~/document/heard'
import { useAligning } from './aligning'
import { useSite } from '~/document/site'
import { phrase } from '~/parts/phrase'

/** Loudspeakers round a listening place brought to one distance and one level: measured, or by the plan alone. */
const props = defineProps<{ measured: { source: { id: string }, cells: (HeardTake | null)[] }[] }>()
const site = useSite()
const heard = useHeard()
const aligning = useAligning()
const at = ref('')
const position = computed(() => site.positionOf(at.value) ?? site.positions[0] ?? null)
const n = computed(() => site.positions.findIndex(p => p.id === position.value?.id))
const picked = ref<string[]>([])
const toggle = (id: string) => {
  picked.value = picked.value.includes(id) ? picked.value.filter(p => p !== id) : [...picked.value, id]
}
const heardAt = 1000
/** When and how loud each picked source is heard there; all by the plan unless all were measured by one microphone. */
const channels = computed(() => {
  if (!position.value) return null
  const list = site.sources.filter(s => picked.value.includes(s.id))
  const cells = list.map(s => props.measured.find(r => r.source.id === s.id)?.cells[n.value] ?? null)
  const all = cells.every(c => c !== null && c.arrival !== null)
    && new Set(cells.map(c => c!.take.info.input)).size === 1
  const found = list.flatMap((source, k) => {
    if (all) return [{ source, arrival: cells[k]!.arrival!, level: levelOf(cells[k]!, 500, 2000) }]
    const arrival = heard.planned(source, position.value!)
    const sheet = site.sheetOf(source.elements[0]!.sheet)
    const far = nearest(position.value!.place, source.elements.map(e => e.place))
    return arrival === null || !sheet
      ? []
      : [{ source, arrival, level: sheetAt(sheet, heardAt).level - distanceLoss(far) }]
  })
  return { by: all ? 'measured' : 'from plan', found }
})
const trims = computed(() => {
  const found = channels.value?.found ?? []
  const list = found.length > 1 ? trimToCommon(found) : []
  return found.slice(0, list.length).map((c, k) => ({ ...c, ...list[k]! }))
})
const known: Record<string, string> = {
  'measured': phrase('align.measuredHzToKhz'),
  'from plan': phrase('align.fromPlanDistanceElectronics'),
}
const columns = [
  { id: 'source', name: phrase('align.loudspeaker') },
  { id: 'delay', name: phrase('align.delayBy'), numeric: true },
  { id: 'by', name: phrase('common.level'), numeric: true },
]
function set() {
  const acts = trimActs(trims.value.map(t => ({ ...t, source: t.source.id })))
  void aligning.perform(acts, phrase('align.arriveAtOnceAnd', {
    trims: trims.value.map(t => t.source.name).join(', '),
    name: position.value!.name,
  }))
}
</script>

<template>
  <h2>{{ phrase('align.trimToListeningPosition') }}</h2>
  <div class="row who">
    <ChoiceField
      :label="phrase('align.listeningPosition')"
      layout="beside"
      :value="position?.id ?? ''"
      :options="site.positions.map(p => ({ value: p.id, label: p.name }))"
      @change="at = $event"
    />
    <CheckField
      v-for="s in site.sources"
      :key="s.id"
      :label="s.name"
      :name="phrase('align.isOneOfThem', { name: s.name })"
      :value="picked.includes(s.id)"
      @change="toggle(s.id)"
    />
  </div>
  <template v-if="trims.length">
    <FigureTable
      :label="phrase('align.trimsToACommon')"
      :rows="trims"
      :columns="columns"
      :row-key="t => t.source.id"
      :row-attributes="t => ({ 'data-trim': t.source.id })"
    >
      <template #source="{ row }">
        {{ row.source.name }}
      </template>
      <template #delay="{ row }">
        {{ showDelay(row.delay) }}
      </template>
      <template #by="{ row }">
        {{ showLevel(row.by) }}
      </template>
    </FigureTable>
    <div class="row">
      <ActionButton
        size="small"
        :label="site.live ? phrase('align.applyTrims') : phrase('align.applyTrimsToDraft')"
        @click="set"
      />
      <span class="soft small">
        {{ phrase('align.nothingGetsLouder', { known: known[channels?.by ?? 'from plan']! }) }}
      </span>
    </div>
  </template>
  <p
    v-else
    class="soft small"
  >
    {{ phrase('align.pickTwoOrMore') }}
  </p>
</template>

<style scoped>
.who {
  flex-wrap: wrap;
  gap: 0.3rem 0.9rem;
}
</style>
