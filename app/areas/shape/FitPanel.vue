<script setup lang="ts">
import { wordsOf, message } from '~~/core/words'
import { magnitude } from '~~/core/dsp'
import { followed, noNeeds } from '~~/core/documents'
import { deviceQ, type Band } from '~~/core/rig'
import { curveToFit, type FitFilter, type FitKind } from '~~/core/tune'
import { quantities, showFrequency, showLevel, showNumber } from '~~/core/units'
import { isKind } from '~/document/useStrip'
import { useFit } from './useFit'
import { useShaping } from '~/document/shaping'
import { useTargets } from '~/document/targets'
import { useCharts } from '~/charts/useCharts'
import { useSite } from '~/document/site'
import { useTakes } from '~/document/takes'
import { useView } from '~/document/view'
import { choicesOf, choicesOfNames } from '~/parts/choices'
import { useNotices } from '~/parts/notices'
import { phrase } from '~/parts/phrase'

/** Filters for the picked strip that bring the takes in view nearest to the target, in the strip's free bands. */
const site = useSite()
const view = useView()
const takes = useTakes()
const charts = useCharts()
const notices = useNotices()
const shaping = useShaping()
const targets = useTargets()
const fit = useFit()

/** What stands in the bands that are in: kept as it is, or let go for what the fit finds. */
const keep = ref(true)
const bandsOf = computed(() => shaping.settings.filter(s => isKind(s, 'band')))
/** Filters of the loudspeaker's sheet stay whatever the room asks for. */
const ofSheet = computed(() => {
  const output = shaping.output
  const f = output && followed(site.documents, output)
  const sheet = f && site.sheetOf(f.sheet)
  return (sheet?.bands.find(b => b.id === f!.band)?.needs ?? noNeeds).eq.length
})
const replaced = computed(() =>
  (keep.value ? [] : bandsOf.value.slice(ofSheet.value).filter(s => s.draft.on)))
const free = computed(() => bandsOf.value.filter(s => !s.draft.on || replaced.value.includes(s)))
/** Curves of this source's takes in view as the draft will have them. */
const curves = computed(() =>
  takes.measured.filter(({ take }) => take.source === view.cell?.source).map(({ take, curve, data }) => ({
    take,
    data,
    curve: takes.predicted.find(p => p.take.id === take.id)?.curve ?? curve,
  })))
/** Takes whose prediction leaves out edits that it cannot foresee. */
const inPart = computed(() => curves.value.filter(c => (takes.unforeseen[c.take.id] ?? []).length))
/** From what the strip passes to 800 Hz: above it a room's detail is left alone (common practice). */
const usualRange = computed(() => {
  const passes = shaping.settings.filter(s => isKind(s, 'pass'))
  const corner = (side: 'high' | 'low') =>
    passes.find(s => s.draft.on && s.parameter.capability.side === side)?.draft
  const low = corner('high')?.frequency ?? 40
  const high = Math.min(corner('low')?.frequency ?? 20_000, low < 800 ? 800 : 16_000)
  return { low, high: Math.max(high, 2 * low) }
})
const own = reactive<{ low: number | null, high: number | null }>({ low: null, high: null })
watch([() => shaping.strip?.device, () => shaping.strip?.strip], () => {
  Object.assign(own, { low: null, high: null })
  fit.stop()
  fit.result.value = null
})
const low = computed(() => own.low ?? usualRange.value.low)
const high = computed(() => own.high ?? usualRange.value.high)
const bands = ref(6)
const most = ref(0)
const narrow = ref(6)
const kinds = ref<'peaking' | 'shelves'>('peaking')
/** dB for which the fewest filters are wanted; 0: best with N filters. */
const enough = ref(0)
const fill = ref(false)
const modes = ref(true)
const left = ref<number[]>([])
/** Places left alone that are shown until all are asked for. */
const few = 3
const all = ref(false)
const limits = choicesOf([0, 3, 6], n => (n ? phrase('shape.upToDbUp', { n }) : phrase('shape.cutsOnly')))
const widths = choicesOf([3, 6, 12, 30], n => phrase('shape.qUpTo', { n }))
const wishes = choicesOf([0, 1, 1.5, 2, 3], n => (n
  ? phrase('shape.theFewestForDb', {
      n,
    })
  : phrase('shape.bestWithNFilters')))
const kindChoices = choicesOfNames({ peaking: 'peaking', shelves: phrase('shape.peakingAndShelves') })

function start() {
  const band = free.value[0]?.parameter.capability
  if (!band) return
  left.value = []
  const gone = magnitude(shaping.responseOf(replaced.value, 'draft'))
  const wanted: FitKind[] = kinds.value === 'peaking' ? ['peaking'] : ['peaking', 'low-shelf', 'high-shelf']
  const without = (f: number, k: number) => targets.now.level(f) + gone[k]!
  const read = curves.value.map(({ take, curve }) => curveToFit(curve, {
    weight: site.positionOf(take.position)?.weight ?? 1, trust: charts.settings.trust, without,
  }))
  const { at } = targets.now
  fit.start({
    body: {
      sampleRate: shaping.rate,
      curves: read,
      target: at === null ? 'flat' : { frequency_hz: [10, 40_000], magnitude_db: [at, at] },
      range: [low.value, high.value],
      bands: Math.min(bands.value, free.value.length),
      gain: [Math.max(-18, band.gain.min), Math.min(most.value, band.gain.max)],
      q: [Math.max(0.4, band.q.min), Math.min(narrow.value, band.q.max)],
      kinds: wanted.filter(k => band.types.includes(k)),
      fill: fill.value,
    },
    ...(enough.value ? { enough: enough.value } : {}),
    responses: modes.value ? curves.value.flatMap(({ data }) => (data.impulse ? [data.impulse] : [])) : [],
  })
}
function words({ kind, frequency, gain, q }: FitFilter, n: number): string {
  const worth = fit.worth.value[n]
  return `${kind === 'peaking' ? '' : `${kind} `}${showFrequency(frequency)} ${showLevel(gain)} Q ${showNumber(q, 2)}`
    + (worth === undefined ? '' : phrase('shape.improvesByDb', { worth: showNumber(worth, 1) }))
}
const toggle = (n: number) => {
  left.value = left.value.includes(n) ? left.value.filter(x => x !== n) : [...left.value, n]
}

/** Sets the filters that are picked into the free bands, as one step; in the device's own Q. */
async function accept() {
  const filters = fit.result.value!.filters.filter((_, n) => !left.value.includes(n))
  const { device } = shaping.strip!
  const edits = filters.map(({ kind, frequency, gain, q }, n) => {
    const { parameter, draft } = free.value[n]!
    const own = kind === 'peaking' ? deviceQ(q, gain, parameter.capability) : q
    const value = { ...draft, on: true, type: kind, frequency, gain, q: own }
    return { device, path: parameter.path, value }
  })
  // what is let go and not used anew is taken out
  const rest = replaced.value.filter(s => !edits.some(e => e.path === s.parameter.path))
  const out = rest.map(s => ({ device, path: s.parameter.path, value: { ...(s.draft as Band), on: false } }))
  if (!(await site.editAll([...edits, ...out]))) return
  fit.result.value = null
  const act = { name: phrase('common.undo'), run: () => void site.undo() }
  notices.say('info', message('fit.set', { filters: edits.length }), { act })
}
</script>

<template>
  <div
    class="fit"
    data-testid="fit"
  >
    <div class="two">
      <NumberField
        :label="phrase('common.from')"
        :name="phrase('shape.fitFrom')"
        :value="low"
        v-bind="quantities.frequency"
        @change="own.low = $event"
      />
      <NumberField
        :label="phrase('common.to')"
        :name="phrase('shape.fitTo')"
        :value="high"
        v-bind="quantities.frequency"
        @change="own.high = $event"
      />
    </div>
    <SliderField
      v-model:value="bands"
      :label="phrase('shape.filtersAtMost')"
      layout="above"
      :min="1"
      :max="Math.max(1, free.length)"
      :show="n => `${Math.min(n, free.length)} of ${free.length} free`"
    />
    <div class="two">
      <ChoiceField
        v-model:value="most"
        :label="phrase('common.gain')"
        :options="limits"
      />
      <ChoiceField
        v-model:value="narrow"
        :label="phrase('common.width')"
        :options="widths"
      />
      <ChoiceField
        v-model:value="kinds"
        :label="phrase('shape.kinds')"
        :options="kindChoices"
      />
      <ChoiceField
        v-model:value="enough"
        :label="phrase('shape.chooseBy')"
        :options="wishes"
      />
    </div>
    <CheckField
      v-model:value="keep"
      :label="phrase('shape.keepExistingFilters')"
    />
    <CheckField
      v-model:value="modes"
      :label="phrase('shape.cutRoomModesAt')"
    />
    <CheckField
      v-model:value="fill"
      :label="phrase('shape.alsoBoostDips')"
    />
    <p
      v-if="inPart.length"
      class="small warn"
    >
      {{
        phrase('shape.predictedInPartOnly', {
          part: inPart.length === 1 ? phrase('shape.oneTakeIs') : phrase('shape.takesAre', { inPart: inPart.length }),
        })
      }}
    </p>
    <p
      v-if="!curves.length"
      class="small soft"
    >
      {{ phrase('shape.showTakesOfThis') }}
    </p>
    <p
      v-else-if="!free.length"
      class="small warn"
    >
      {{ phrase('shape.everyEqBandOf') }}
    </p>
    <ActionButton
      v-if="fit.part.value === null"
      size="small"
      :label="phrase('shape.fitToTakeIn', { curves: curves.length })"
      :disabled="!curves.length || !free.length"
      @click="start"
    />
    <div
      v-else
      class="row"
      role="status"
    >
      <span class="num">{{ Math.round(100 * fit.part.value) }} %</span>
      <ActionButton
        size="small"
        severity="secondary"
        :label="phrase('common.stop')"
        @click="fit.stop()"
      />
    </div>
    <p
      v-if="fit.why.value"
      class="sentence error"
    >
      {{ fit.why.value }}
    </p>
    <template v-if="fit.result.value">
      <p data-testid="fit-error">
        <b class="num">{{ showNumber(fit.result.value.before, 1) }} dB</b> {{ phrase('shape.fromTheTargetNow') }}
        <b class="num">{{ showNumber(fit.result.value.after, 1) }} dB</b> {{
          phrase('shape.withFilterRms', {
            filters: fit.result.value.filters.length,
          })
        }}
      </p>
      <CheckField
        v-for="(f, n) in fit.result.value.filters"
        :key="n"
        :label="words(f, n)"
        :value="!left.includes(n)"
        @change="toggle(n)"
      />
      <p
        v-for="l in all ? fit.result.value.left : fit.result.value.left.slice(0, few)"
        :key="l.frequency"
        class="small soft"
      >
        <b>{{ showFrequency(l.frequency) }}</b> {{ wordsOf(l.reason) }}
      </p>
      <button
        v-if="fit.result.value.left.length > few"
        class="plain small"
        :aria-expanded="all"
        @click="all = !all"
      >
        <u>{{ all ? phrase('shape.showLess') : phrase('shape.andMorePlacesThat', {
          left: fit.result.value.left.length - few,
        }) }}</u>
      </button>
      <ActionButton
        size="small"
        :label="phrase('shape.applyFilters')"
        :disabled="fit.result.value.filters.length <= left.length"
        @click="accept"
      />
    </template>
  </div>
</template>

<style scoped>
.fit {
  display: grid;
  gap: 0.5rem;
}
.two {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 0.5rem;
}
p {
  margin: 0;
}
.warn {
  color: var(--warn);
}
</style>
