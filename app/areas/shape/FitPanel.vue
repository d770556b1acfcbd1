<script setup lang="ts">
import { magnitude } from '~~/core/dsp'
import { trusted } from '~~/core/measure'
import { deviceQ, type Band, type BandCapability, type Pass, type PassCapability } from '~~/core/rig'
import { targets, type FitFilter, type TargetId } from '~~/core/tune'
import { quantities, showFrequency, showLevel, showNumber } from '~~/core/units'
import { useFit } from './useFit'
import { useShaping } from './shaping'

/** Filters for the picked strip that bring the takes in view nearest to a target, in the strip's free bands. */
const site = useSite()
const view = useView()
const takes = useTakes()
const charts = useCharts()
const notices = useNotices()
const shaping = useShaping()
const fit = useFit()

const free = computed(() => shaping.settings.filter(s => s.parameter.kind.kind === 'band' && !(s.draft as Band).on))
/** Curves of this source's takes in view as the draft will have them. */
const curves = computed(() =>
  takes.measured.filter(({ take }) => take.source === view.cell?.source).map(({ take, curve }) => ({
    take,
    curve: takes.predicted.find(p => p.take.id === take.id)?.curve ?? curve,
  })))
/** From what the strip passes to 800 Hz: above it a room's detail is left alone (common practice). */
const usualRange = computed(() => {
  const corner = (side: 'high' | 'low') => shaping.filters.find(s =>
    s.parameter.kind.kind === 'pass' && (s.draft as Pass).on
    && (s.parameter.capability as unknown as PassCapability).side === side)?.draft as Pass | undefined
  const low = corner('high')?.frequency ?? 40
  const high = Math.min(corner('low')?.frequency ?? 20_000, low < 800 ? 800 : 16_000)
  return { low, high: Math.max(high, 2 * low) }
})
const own = reactive<{ low: number | null, high: number | null }>({ low: null, high: null })
watch(() => shaping.strip, () => {
  Object.assign(own, { low: null, high: null })
  fit.stop()
  fit.result.value = null
})
const low = computed(() => own.low ?? usualRange.value.low)
const high = computed(() => own.high ?? usualRange.value.high)
const bands = ref(6)
const most = ref(0)
const fill = ref(false)
const left = ref<number[]>([])
/** Places left alone that are shown until all are asked for. */
const few = 3
const all = ref(false)
const limits = choicesOf([0, 3, 6], n => (n ? `up to ${n} dB up` : 'cuts only'))
const targetChoices = choicesOf(Object.keys(targets) as TargetId[], id => targets[id].name)

function start() {
  const band = free.value[0]?.parameter.capability as unknown as BandCapability | undefined
  if (!band) return
  left.value = []
  const target = targets[charts.settings.target]
  fit.start({
    sampleRate: shaping.rate,
    curves: curves.value.map(({ take, curve }) => {
      const levels = magnitude(curve)
      const flags = trusted(curve, charts.settings.trust)
      const at = [...curve.frequencies.keys()].filter(k => levels[k]! > -150 && (flags[k] || curve.coherence))
      return {
        frequency_hz: at.map(k => curve.frequencies[k]!),
        magnitude_db: at.map(k => levels[k]! - target.level(curve.frequencies[k]!)),
        ...(curve.coherence ? { coherence: at.map(k => Math.min(1, Math.max(0, curve.coherence![k]!))) } : {}),
        weight: site.positionOf(take.position)?.weight ?? 1,
      }
    }),
    target: 'flat',
    range: [low.value, high.value],
    bands: Math.min(bands.value, free.value.length),
    gain: [Math.max(-18, band.gain.min), Math.min(most.value, band.gain.max)],
    q: [Math.max(0.4, band.q.min), Math.min(6, band.q.max)],
    kinds: ['peaking'],
    fill: fill.value,
  })
}
const words = (f: FitFilter) => `${showFrequency(f.frequency)} ${showLevel(f.gain)} Q ${showNumber(f.q, 2)}`
const toggle = (n: number) => {
  left.value = left.value.includes(n) ? left.value.filter(x => x !== n) : [...left.value, n]
}

/** Sets the filters that are picked into the free bands, as one step; in the device's own Q. */
async function accept() {
  const filters = fit.result.value!.filters.filter((_, n) => !left.value.includes(n))
  const { device } = shaping.strip!
  const edits = filters.map(({ frequency, gain, q }, n) => {
    const { parameter, draft } = free.value[n]!
    const own = deviceQ(q, gain, parameter.capability as unknown as BandCapability)
    const value = { ...(draft as Band), on: true, type: 'peaking', frequency, gain, q: own }
    return { device, path: parameter.path, value }
  })
  if (!(await site.editAll(edits))) return
  fit.result.value = null
  const act = { name: 'Undo', run: () => void site.undo() }
  notices.say('info', `${edits.length} ${edits.length === 1 ? 'filter is' : 'filters are'} set.`, { act })
}
</script>

<template>
  <div
    class="fit"
    data-testid="fit"
  >
    <ChoiceField
      v-model:value="charts.settings.target"
      label="Target"
      :options="targetChoices"
    />
    <div class="two">
      <NumberField
        label="From"
        name="Fit from"
        :value="low"
        v-bind="quantities.frequency"
        @change="own.low = $event"
      />
      <NumberField
        label="To"
        name="Fit to"
        :value="high"
        v-bind="quantities.frequency"
        @change="own.high = $event"
      />
    </div>
    <SliderField
      v-model:value="bands"
      label="Filters at most"
      layout="above"
      :min="1"
      :max="Math.max(1, free.length)"
      :show="n => `${Math.min(n, free.length)} of ${free.length} free`"
    />
    <ChoiceField
      v-model:value="most"
      label="Gain"
      layout="beside"
      :options="limits"
    />
    <CheckField
      v-model:value="fill"
      label="fill dips whatever made them"
    />
    <p
      v-if="!curves.length"
      class="small soft"
    >
      Show takes of this source first, best of several positions: what is in view is fitted.
    </p>
    <p
      v-else-if="!free.length"
      class="small warn"
    >
      Every EQ band of this strip is in use: take one out first.
    </p>
    <ActionButton
      v-if="fit.part.value === null"
      size="small"
      :label="`Fit to ${curves.length} ${curves.length === 1 ? 'take' : 'takes'} in view`"
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
        label="Stop"
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
        <b class="num">{{ showNumber(fit.result.value.before, 1) }} dB</b> from the target now,
        <b class="num">{{ showNumber(fit.result.value.after, 1) }} dB</b> with {{ fit.result.value.filters.length }}
        {{ fit.result.value.filters.length === 1 ? 'filter' : 'filters' }} (RMS).
      </p>
      <CheckField
        v-for="(f, n) in fit.result.value.filters"
        :key="n"
        :label="words(f)"
        :value="!left.includes(n)"
        @change="toggle(n)"
      />
      <p
        v-for="l in all ? fit.result.value.left : fit.result.value.left.slice(0, few)"
        :key="l.frequency"
        class="small soft"
      >
        <b>{{ showFrequency(l.frequency) }}</b> {{ l.reason }}
      </p>
      <button
        v-if="fit.result.value.left.length > few"
        class="plain small"
        :aria-expanded="all"
        @click="all = !all"
      >
        <u>{{ all ? 'Show less' : `and ${fit.result.value.left.length - few} more places that are left alone` }}</u>
      </button>
      <ActionButton
        size="small"
        label="Set these filters"
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
