<script setup lang="ts">
import { useTimeoutFn } from '@vueuse/core'
import { pairsIn, type FilterVariant, type VariantCandidate } from '~~/core/tune'
import { quantities, showDelay, showFrequency, showLevel, showNumber } from '~~/core/units'
import { useAligning } from './aligning'
import { usePairVariants } from './usePairVariants'
import { useSearch } from './useSearch'
import { useSite } from '~/document/site'
import { choicesOf } from '~/parts/choices'
import SumMap from './SumMap.vue'
import TrialPanel from './TrialPanel.vue'
import { phrase } from '~/parts/phrase'
import { wordsOf } from '~~/core/words'

/** Two sources where they overlap: seen at every position, tried by hand, and searched for their best sum. */
const site = useSite()
const aligning = useAligning()
const search = useSearch()

const own = reactive<{ low: number | null, high: number | null }>({ low: null, high: null })
const band = computed<[number, number] | null>(() => {
  const found = aligning.overlap
  const [low, high] = [own.low ?? found?.[0], own.high ?? found?.[1]]
  return low !== undefined && high !== undefined && high > low ? [low, high] : null
})
const reach = ref(0.025)
const withLevel = ref(false)
const worst = ref<number | null>(null)
const even = ref(0)
const wish = usePairVariants()
/** The variants of the search that is shown. */
const variants = shallowRef<FilterVariant[]>([])
watch([() => aligning.reference?.id, () => aligning.move?.id], () => {
  Object.assign(own, { low: null, high: null })
  search.clear()
  again.stop()
})
function start() {
  again.stop()
  if (!band.value) return
  const parts = pairsIn(aligning.both, band.value)
  variants.value = wish.variants(band.value, parts.frequencies)
  search.start({
    ...parts,
    delay: [-reach.value, reach.value],
    step: 2e-5,
    weights: aligning.places.map(p => p.position.weight),
    names: aligning.places.map(p => p.position.name),
    variants: variants.value.map(({ reference, move }) => ({ reference, move })),
    ...(withLevel.value ? { level: [-6, 6] as [number, number] } : {}),
    ...(worst.value === null ? {} : { worst: worst.value }),
    ...(even.value ? { even: even.value } : {}),
  })
}
// what is drawn is what is set now: it goes when that changes, and is looked for again once that stands still
const again = useTimeoutFn(start, 300, { immediate: false })
watch(() => aligning.places, () => {
  if (!search.maps.value.length && !search.busy.value && !again.isPending.value) return
  search.clear()
  again.start()
})
const told = (c: VariantCandidate) =>
  `${c.delay >= 0 ? '+' : ''}${showDelay(c.delay)}, polarity ${c.polarity > 0 ? 'normal' : 'inverted'}`
  + (c.level ? `, ${showLevel(c.level)}` : '')
const filterOf = (c: VariantCandidate) => variants.value[c.variant] ?? null
const inPart = computed(() =>
  aligning.places.filter(p => p.r.unforeseen.length || p.m.unforeseen.length).map(p => p.position.name))
const stopOrStart = () => (search.busy.value ? search.stop() : start())
</script>

<template>
  <p
    v-if="!aligning.reference || !aligning.move"
    class="soft"
  >
    {{ aligning.known.length
      ? phrase('align.oneSourceIsMeasured')
      : phrase('align.nothingCanBeAligned') }}
  </p>
  <template v-else>
    <h2>{{ phrase('align.with', { name: aligning.move.name, other: aligning.reference.name }) }}</h2>
    <p
      v-if="!aligning.places.length"
      class="soft"
    >
      {{ phrase('align.theyWereMeasuredTogether') }}
    </p>
    <template v-else>
      <TrialPanel
        :band="band"
        :reach="reach"
      />
      <h3>{{ phrase('common.search') }}</h3>
      <div class="wish">
        <NumberField
          v-if="band"
          :label="phrase('common.from')"
          :name="phrase('align.overlapFrom')"
          :value="band[0]"
          v-bind="quantities.frequency"
          @change="own.low = $event"
        />
        <NumberField
          v-if="band"
          :label="phrase('common.to')"
          :name="phrase('align.overlapTo')"
          :value="band[1]"
          v-bind="quantities.frequency"
          @change="own.high = $event"
        />
        <ChoiceField
          v-model:value="reach"
          :label="phrase('align.delayRange')"
          :options="choicesOf([0.005, 0.01, 0.025, 0.05], t => `±${t * 1000} ms`)"
        />
        <ChoiceField
          v-model:value="worst"
          :label="phrase('align.worstPositionAtLeast')"
          :options="choicesOf([null, -3, -6], n => (n === null ? 'any' : `${n} dB`))"
        />
        <ChoiceField
          v-model:value="even"
          :label="phrase('align.optimiseFor')"
          :options="choicesOf([0, 0.5, 1], n => (n ? `even, ×${n}` : phrase('align.highestLevel')))"
        />
        <ChoiceField
          v-model:value="wish.filters.value"
          :label="phrase('align.alsoTry')"
          :options="wish.choices.value"
        />
        <CheckField
          v-model:value="withLevel"
          :label="phrase('align.matchLevels')"
        />
        <ActionButton
          class="go"
          size="small"
          :label="search.busy.value ? phrase('align.stop', {
            percent: Math.round(100 * search.part.value),
          }) : phrase('align.findBestSum')"
          :disabled="!band"
          @click="stopOrStart"
        />
      </div>
      <p
        v-if="!band"
        class="sentence warn"
      >
        {{ phrase('align.theyOverlapNowhereNowhere') }}
      </p>
      <p
        v-if="inPart.length"
        class="sentence warn"
      >
        {{ phrase('align.atTheDraftsAre', { inPart: inPart.join(', ') }) }}
      </p>
      <p
        v-if="search.why.value"
        class="sentence error"
      >
        {{ search.why.value }}
      </p>
      <template v-if="search.maps.value.length && band">
        <p class="small">
          {{
            phrase('align.summationLossFromTo', {
              low: showFrequency(band[0]),
              high: showFrequency(band[1]),
              places: aligning.places.length,
            })
          }}
        </p>
        <SumMap
          :maps="search.maps.value"
          :variants="variants"
          :reach="reach"
          :hue="aligning.move.hue"
        />
        <div
          class="candidates"
          data-testid="candidates"
        >
          <article
            v-for="(c, n) in search.candidates.value.slice(0, 3)"
            :key="n"
          >
            <h3>{{ told(c) }}</h3>
            <p v-if="filterOf(c)?.name">
              {{
                phrase('align.withDbOfEnergy', {
                  name: filterOf(c)!.name ?? '',
                  plus: c.gain > 0 ? '+' : '',
                  gain: showNumber(c.gain, 1),
                })
              }}
            </p>
            <p>
              {{ phrase('align.summationLoss') }} <b class="num">{{ showNumber(-c.score, 1) }} dB</b><template
                v-for="(level, k) in c.positions"
                :key="k"
              >
                {{ k ? ', ' : ': ' }}{{ aligning.places[k]?.position.name }} {{ showNumber(-level, 1) }}
              </template>
            </p>
            <p
              v-for="(r, k) in c.reasons"
              :key="k"
              class="small soft"
            >
              {{ wordsOf(r) }}
            </p>
            <ActionButton
              size="small"
              :severity="n ? 'secondary' : undefined"
              :label="site.live ? phrase('common.apply') : phrase('align.applyToDraft')"
              @click="aligning.apply(c, filterOf(c))"
            />
          </article>
        </div>
      </template>
    </template>
  </template>
</template>

<style scoped>
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
