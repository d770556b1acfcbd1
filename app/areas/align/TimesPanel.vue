<script setup lang="ts">
import { speedOfSound } from '~~/core/acoustics'
import { planDoubts } from '~~/core/tune'
import { showDelay, showNumber } from '~~/core/units'
import { useAligning } from './aligning'
import { useHeard } from '~/document/heard'
import { useSite } from '~/document/site'
import { choicesOfNames } from '~/parts/choices'
import ArrivalHand from './ArrivalHand.vue'
import { phrase } from '~/parts/phrase'

/** When each source arrives at each position: measured, from plan where nothing is measured, or put right by hand. */
const site = useSite()
const heard = useHeard()
const aligning = useAligning()

const units = {
  ms: 'ms', samples: phrase('align.samplesAtKhz'), m: phrase('site.metres'), ft: phrase('site.feet'),
} as const
const unit = ref<keyof typeof units>('ms')
const c = computed(() => speedOfSound(site.plan.air))
function show(seconds: number): string {
  if (unit.value === 'ms') return showDelay(seconds)
  if (unit.value === 'samples') return showNumber(seconds * 48_000, 0)
  const metres = seconds * c.value
  return unit.value === 'm' ? `${showNumber(metres, 2)} m` : `${showNumber(metres / 0.3048, 1)} ft`
}
const signed = (seconds: number) => `${seconds > 0 ? '+' : ''}${show(seconds)}`

const columns = computed(() => [
  { id: 'source', name: phrase('common.source') },
  ...site.positions.map((p, n) => ({ id: `p${n}`, name: p.name, numeric: true })),
])
/** The measured reference, else the first source: by the plan. */
const reference = computed(() =>
  site.sources.find(s => aligning.reference?.members.includes(s.id)) ?? site.sources[0] ?? null)
const rows = computed(() => aligning.table)
const against = computed(() => rows.value.find(r => r.source.id === reference.value?.id))
const isReference = (id: string) => id === reference.value?.id
type Row = (typeof rows.value)[number]

type Known = 'measured' | 'hand' | 'plan' | 'vague' | 'reflected'
/** When a source arrives, and how that is known; the plan's time where a reflection was heard instead. */
function arrivalOf(row: Row, n: number): { at: number | null, by: Known } {
  const cell = row.cells[n]
  if (cell && cell.arrival !== null)
    return { at: cell.arrival, by: cell.take.arrival === undefined ? 'measured' : 'hand' }
  if (cell && cell.reflected === null) return { at: null, by: 'vague' }
  return { at: heard.planned(row.source, site.positions[n]!), by: cell ? 'reflected' : 'plan' }
}
function told(row: Row, n: number) {
  const own = arrivalOf(row, n)
  if (own.at === null) return { text: own.by === 'vague' ? phrase('align.cannotTell') : '–', by: own.by }
  const first = against.value && arrivalOf(against.value, n)
  if (isReference(row.source.id) || !first || first.at === null) return { text: show(own.at), by: own.by }
  // measured against planned would be neither
  if (isPlanned(own.by) !== isPlanned(first.by)) {
    const planned = heard.planned(against.value!.source, site.positions[n]!)
    const mine = heard.planned(row.source, site.positions[n]!)
    return planned === null || mine === null
      ? { text: '–', by: own.by }
      : { text: signed(mine - planned), by: isPlanned(own.by) ? own.by : 'plan' as const }
  }
  return { text: signed(own.at - first.at), by: own.by }
}
const isPlanned = (by: Known) => by === 'plan' || by === 'reflected'
const marks = {
  measured: '',
  hand: phrase('align.byHand'),
  plan: phrase('align.byPlan'),
  vague: '',
  reflected: phrase('align.byPlan'),
}
/** What was heard instead, off the axis. */
const reflectedAt = (row: Row, n: number) => {
  const heardAs = row.cells[n]?.reflected ?? null
  return heardAs === null ? '' : phrase('align.heardAtOffAxis', { heardAs: show(heardAs) })
}
const vague = computed(() => rows.value
  .filter(r => r.cells.some(c => c && c.arrival === null && c.reflected === null)).map(r => r.source.name))
const vagueWords = computed(() => (vague.value.length
  ? phrase('align.noStartStandsOut', { vague: vague.value.join(', ') })
  : ''))
const missing = computed(() => rows.value.filter(r => !r.cells.some(Boolean)).map(r => r.source.name))

/** Where plan and measurement disagree, and which is likelier wrong. */
const doubts = computed(() => {
  const { job } = heard
  const first = job?.sources.find(s => s.id === reference.value?.id)
  if (!job || !first) return []
  return job.sources.filter(s => s !== first).flatMap((s) => {
    const found = planDoubts(job, s, first)
    if (!found.length) return []
    const measured = s.takes.filter((t, n) => t?.arrival != null && first.takes[n]?.arrival != null).length
    const why = found.length * 2 > measured
      ? phrase('align.atMostOfIts')
      : phrase('align.onlyThereAWrong')
    const where = found.map(d => d.told).join(', ')
    return [phrase('align.isNotHeardWhen', { name: s.name, other: first.name, where, why })]
  })
})
const picked = ref<{ source: string, n: number } | null>(null)
const pickedTake = computed(() => {
  const at = picked.value
  return at ? (rows.value.find(r => r.source.id === at.source)?.cells[at.n]?.take ?? null) : null
})
</script>

<template>
  <div class="row apart">
    <h2>{{ phrase('align.whenEachSourceArrives') }}</h2>
    <ChoiceField
      v-model:value="unit"
      :label="phrase('align.in')"
      layout="beside"
      :options="choicesOfNames(units)"
    />
  </div>
  <p
    v-if="!aligning.known.length"
    class="soft"
  >
    {{ phrase('align.nothingCanBeAlignedYet') }}
  </p>
  <FigureTable
    :label="phrase('align.arrivalsBySourceAnd')"
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
      <button
        v-if="row.cells[n - 1]"
        class="plain"
        :class="{ soft: told(row, n - 1).by === 'reflected' }"
        :title="phrase('align.lookAtTheImpulse', { name: row.source.name, position: site.positions[n - 1]!.name })"
        @click="picked = { source: row.source.id, n: n - 1 }"
      >
        {{ told(row, n - 1).text }}<span class="soft small">{{ marks[told(row, n - 1).by] }}</span>
        <span
          v-if="told(row, n - 1).by === 'reflected'"
          class="soft small reflected"
        >{{ reflectedAt(row, n - 1) }}</span>
      </button>
      <span
        v-else
        class="soft"
      >{{ told(row, n - 1).text }}<span class="small">{{ marks[told(row, n - 1).by] }}</span></span>
    </template>
  </FigureTable>
  <p class="soft small">
    {{
      phrase('align.afterTheReferenceSignal', {
        name: reference?.name ?? '',
        part: missing.length && aligning.known.length ? phrase('align.notMeasuredYet', {
          missing: missing.join(', '),
        }) : '',
        vagueWords,
      })
    }}
  </p>
  <p
    v-for="d in doubts"
    :key="d"
    class="sentence warn"
  >
    {{ d }}
  </p>
  <ArrivalHand
    v-if="pickedTake"
    :key="pickedTake.id"
    :take="pickedTake"
    @close="picked = null"
  />
</template>

<style scoped>
/* whose figure it is stands under it: a table of six positions fits */
button > .small,
span > .small {
  display: block;
}
.reflected {
  display: block;
  white-space: normal;
  max-width: 12rem;
}
</style>
