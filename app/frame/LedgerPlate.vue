<script setup lang="ts">
import { useSite } from '~/document/site'
import { useView } from '~/document/view'
import { useLedgerSummary } from './useLedger'
import LedgerGrid from './LedgerGrid.vue'

/** The whole ledger where the charts stand: for many sources and positions. */
const view = useView()
const site = useSite()
const summary = useLedgerSummary()
</script>

<template>
  <section
    class="plate"
    aria-label="Plate"
    data-testid="ledger-plate"
  >
    <header class="row apart">
      <h2>Ledger</h2>
      <span class="soft">{{ summary }}</span>
      <ActionButton
        size="small"
        severity="secondary"
        label="Charts"
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
      It needs a source and a position: draw them in Site.
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
