<script setup lang="ts">
import { hasMoved } from '~~/core/tune'
import { speedOfSound } from '~~/core/acoustics'
import { fewBlocks, trustedPart } from '~~/core/measure'
import { showFrequency, showNumber } from '~~/core/units'
import { useCharts } from './useCharts'
import { useSite } from '~/document/site'
import { useView } from '~/document/view'
import { useListen } from '~/sound/listen'
import { useSets } from '~/sound/sets'
import { phrase } from '~/parts/phrase'

/** The numbers people act on, large: arrival, distance, trust, blocks. */
const site = useSite()
const view = useView()
const listen = useListen()
const charts = useCharts()
const sets = useSets()
/** Where these numbers are from, when that is not the picked cell. */
const elsewhere = computed(() => {
  const at = listen.front && sets.placeOf(listen.front)
  return at && at.id !== view.cell?.position ? at.name : null
})

const electronics = computed(() => listen.electronics())
const shown = computed(() => {
  const a = listen.arrival
  if (!a || !site.open || !listen.curve) return null
  const metres = (a.time - electronics.value) * speedOfSound(site.plan.air)
  return {
    ms: showNumber(a.time * 1000, 2),
    metres: showNumber(metres, 2),
    electronics: showNumber(electronics.value * 1000, 2),
    turned: a.polarity === -1,
    off: hasMoved(a, listen.delay),
  }
})
/** How far two clocks' beginnings lie apart, nobody knows. */
const clocks = computed(() => !!listen.front && sets.clocks(listen.front))
const trust = computed(() => {
  const c = listen.curve
  if (!c || listen.blocks < fewBlocks) return null
  const threshold = charts.settings.trust
  const { part, level, band } = trustedPart(c, listen.arrival?.band ?? null, threshold)
  const [low, high] = band.map(f => showFrequency(Math.round(f))) as [string, string]
  return {
    percent: Math.round(100 * part),
    known: `coherence ≥ ${threshold}${level === null ? '' : `, ±${showNumber(level, level < 1 ? 2 : 1)} dB`}`,
    where: phrase('charts.ofToDbMedian', { low, high, where: listen.arrival ? phrase('charts.whereItPlays') : '' }),
  }
})
</script>

<template>
  <div
    v-if="listen.curve"
    class="numbers"
  >
    <div
      v-if="!shown"
      data-testid="no-arrival"
    >
      <span class="big num soft">{{ showNumber(listen.delay * 1000, 2) }}</span> {{ phrase('charts.ms') }}
      <span class="small warn">{{
        listen.assumed ? phrase('charts.fromPlanNoArrival') : phrase('charts.noArrivalStandsOut')
      }}</span>
    </div>
    <div
      v-else
      data-testid="arrival"
    >
      <span class="big num">{{ shown.ms }}</span> {{ phrase('charts.ms') }}
      <span class="soft small">{{ phrase('charts.arrival') }}<b
        v-if="listen.silent"
        class="warn"
      >{{ phrase('charts.ofOthersIsSilent', { name: listen.silent.name }) }}</b><b v-if="elsewhere">{{
        phrase('charts.at', { elsewhere })
      }}</b>{{
        shown.off ? phrase('charts.movedFindItAgain') : ''
      }}{{ shown.turned ? phrase('common.polarityInverted2') : '' }}</span>
    </div>
    <div
      v-if="shown && !listen.silent"
      data-testid="distance"
      :title="phrase('charts.propagationDelayWithoutThe', { electronics: shown.electronics })"
    >
      <span class="big num">{{ shown.metres }}</span> m
      <span
        v-if="clocks"
        class="warn small"
      >{{ phrase('charts.betweenTwoClocksOnly') }}</span>
      <span
        v-else
        class="soft small"
      >{{ phrase('charts.acousticDistanceLatencyMs', { electronics: shown.electronics }) }}</span>
    </div>
    <div
      data-testid="trust"
      :title="trust?.where"
    >
      <span class="big num">{{ trust?.percent ?? '–' }}</span> %
      <span class="soft small">{{
        trust?.known ?? phrase('charts.coherence')
      }}, {{ phrase('common.block', { blocks: listen.blocks }) }}<template v-if="listen.gaps.dropped">{{
        phrase('charts.leftOutForGaps', {
          dropped: listen.gaps.dropped,
        })
      }}</template><template
        v-if="listen.gaps.poor"
      >{{
        phrase('charts.asDisturbed', {
          poor: listen.gaps.poor,
        })
      }}</template><b v-if="listen.frameNow?.paused">{{ phrase('charts.paused') }}</b></span>
    </div>
  </div>
</template>

<style scoped>
.numbers {
  display: flex;
  gap: 1.3rem;
}
.numbers > div {
  white-space: nowrap;
}
.numbers .small {
  display: block;
}
.warn {
  color: var(--warn);
}
</style>
