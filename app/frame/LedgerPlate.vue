<script setup lang="ts">
import { useSite } from '~/document/site'
import { useView } from '~/document/view'
import { useLedgerSummary } from './useLedger'
import LedgerGrid from './LedgerGrid.vue'
import { phrase } from '~/parts/phrase'

/** The whole ledger where the charts stand: for many sources and positions. */
const view = useView()
const site = useSite()
const summary = useLedgerSummary()
</script>

<template>
  <section
    class="plate"
    :aria-label="phrase('common.plate')"
    data-testid="ledger-plate"
  >
    <header class="row apart">
      <h2>{{ phrase('frame.ledger') }}</h2>
      <span class="soft">{{ summary }}</span>
      <ActionButton
        size="small"
        severity="secondary"
        :label="phrase('common.charts')"
        @click="view.plate = null"
      />
    </header>
    <LedgerGrid
      v-if="site.sources.length && site.positions.length"
      large
    />
    <p
      v-else
      class="soft"
    >
      {{ phrase('frame.itNeedsASource') }}
    </p>
  </section>
</template>

<style scoped>
.plate {
  display: grid;
  grid-template-rows: auto minmax(0, 1fr);
  gap: 0.6rem;
  min-height: 0;
  min-width: 0;
  padding: 0.6rem 0.6rem 0.4rem 0.8rem;
}
</style>
