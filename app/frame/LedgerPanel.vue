<script setup lang="ts">
import { useLocalStorage } from '@vueuse/core'
import { makings, useComparison } from '~/charts/comparison'
import { areas } from '~/areas/registry'
import { useTakeFiles } from '~/document/takeFiles'
import { useTakes } from '~/document/takes'
import { useView } from '~/document/view'
import { useLedgerSummary } from './useLedger'
import { choicesOfNames } from '~/parts/choices'
import DeletedTakes from './DeletedTakes.vue'
import LedgerGrid from './LedgerGrid.vue'
import TakeItem from './TakeItem.vue'
import { phrase } from '~/parts/phrase'

const view = useView()
const takes = useTakes()
const files = useTakeFiles()
const comparison = useComparison()
const summary = useLedgerSummary()
const wide = computed(() => areas[view.area].charts)
const large = computed(() => wide.value && view.plate === 'ledger')
/** Those before the newest are folded away until they are asked for. */
const older = useLocalStorage('kovrin-older-takes', false)
const makingChoices = choicesOfNames(makings)
</script>

<template>
  <aside
    class="ledger"
    :class="{ open: view.drawer === 'ledger' }"
    :aria-label="phrase('frame.ledger')"
  >
    <div class="section">
      <div class="row apart">
        <h2>{{ phrase('frame.ledger') }}</h2>
        <span
          class="soft small"
          data-testid="ledger-summary"
        >{{ summary }}</span>
      </div>
      <LedgerGrid v-if="!large" />
      <p class="soft small key">
        <i class="ledger-cell fresh" />{{ phrase('frame.fresh') }}
        <i class="ledger-cell stale" />{{ phrase('frame.stale') }}
        <i class="ledger-cell empty" />{{ phrase('common.toDo') }}
        <button
          v-if="wide"
          class="plain large"
          :aria-pressed="large"
          @click="view.plate = large ? null : 'ledger'"
        >
          <u>{{ large ? phrase('common.charts') : phrase('frame.large') }}</u>
        </button>
      </p>
    </div>
    <div class="section takes">
      <h3>{{ phrase('frame.takesInThisCell') }}</h3>
      <p
        v-if="!view.cell"
        class="soft small"
      >
        {{ phrase('frame.pickACellAbove') }}
      </p>
      <p
        v-else-if="!takes.picked.length"
        class="soft small"
      >
        {{ phrase('frame.noneYetStartThe') }}
      </p>
      <button
        v-if="takes.picked.length > 1"
        class="plain older small soft"
        :aria-expanded="older"
        @click="older = !older"
      >
        <i
          class="pi"
          :class="older ? 'pi-chevron-down' : 'pi-chevron-right'"
          aria-hidden="true"
        /> {{ phrase('frame.beforeTheNewest', { picked: takes.picked.length - 1 }) }}
      </button>
      <ul>
        <TakeItem
          v-for="t in older ? takes.picked : takes.picked.slice(-1)"
          :key="t.id"
          :take="t"
        />
      </ul>
      <DeletedTakes
        v-if="view.cell"
        v-bind="view.cell"
      />
      <FileField
        data-import
        :label="phrase('frame.importACurveOr')"
        :name="phrase('frame.importAMeasurementA')"
        accept=".txt,.csv,.frd,.wav,text/plain,text/csv,audio/wav"
        @pick="files.importFile($event[0]!)"
      />
    </div>
    <div class="section">
      <h3>{{ phrase('frame.compare') }}</h3>
      <CheckField
        v-model:value="view.layingOver"
        :label="phrase('frame.overlayEachPickedCell')"
      />
      <p class="soft small">
        {{ phrase('frame.orShiftClickCells') }}
        <template v-if="view.overlaid.length">
          {{ phrase('frame.laidOver', { overlaid: view.overlaid.length }) }}
          <button
            class="plain"
            @click="view.overlaid = []"
          >
            <u>{{ phrase('frame.clearOverlay') }}</u>
          </button>
        </template>
      </p>
      <ChoiceField
        v-model:value="comparison.making"
        :label="phrase('frame.curvesInView')"
        layout="beside"
        :options="makingChoices"
      />
      <template v-if="comparison.making !== 'none'">
        <CheckField
          v-if="comparison.making !== 'difference'"
          v-model:value="comparison.byTrust"
          :label="phrase('frame.weightByTrustToo')"
        />
        <p
          v-if="!comparison.made.length"
          class="small warn"
          data-testid="making"
        >
          {{
            comparison.making === 'difference'
              ? phrase('frame.aDifferenceNeedsTwo')
              : takes.shown.length < 2
                ? phrase('frame.anAverageNeedsTwo')
                : phrase('frame.allPositionsInView')
          }}
        </p>
        <ActionButton
          v-else
          size="small"
          severity="secondary"
          :label="phrase('frame.keepTheAsA', { made: comparison.making === 'difference'
            ? phrase('frame.difference')
            : phrase('frame.average') })"
          @click="comparison.madeRaw().slice(0, 1).forEach(files.keepMade)"
        />
      </template>
    </div>
  </aside>
</template>

<style scoped>
.ledger {
  background: var(--panel);
  border-right: 1px solid var(--rule);
  overflow-y: auto;
  min-height: 0;
}
.key i {
  display: inline-block;
  width: 12px;
  height: 12px;
  margin: 0 0.25rem -1px 0.5rem;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 0.6rem;
}
.takes p {
  margin: 0;
}
.large {
  float: right;
  min-height: 26px;
}
.older {
  min-height: 26px;
}
.older .pi {
  font-size: 0.7rem;
}
.warn {
  color: var(--warn);
}
.section p {
  margin: 0;
}
</style>
