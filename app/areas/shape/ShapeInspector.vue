<script setup lang="ts">
import { useHearing } from './hearing'
import { useShaping } from '~/document/shaping'
import { useTargets } from '~/document/targets'
import { useSite } from '~/document/site'
import { useView } from '~/document/view'
import { useListen } from '~/sound/listen'
import FitPanel from './FitPanel.vue'
import GroupPanel from './GroupPanel.vue'
import SheetFollow from './SheetFollow.vue'
import StripEditor from './StripEditor.vue'
import TargetPanel from './TargetPanel.vue'

const site = useSite()
const view = useView()
const listen = useListen()
const hearing = useHearing()
const targets = useTargets()
const { strip } = storeToRefs(useShaping())
const title = computed(() => {
  if (!strip.value) return ''
  const device = site.deviceOf(strip.value.device)
  const name = device?.capability.strips.find(s => s.id === strip.value!.strip)?.name ?? strip.value.strip
  return `${device?.name}, ${name.toLowerCase()}`
})
const link = computed(() => strip.value && site.linkOf(strip.value.device))
const modes = [
  { id: true, name: 'Live' },
  { id: false, name: 'Draft' },
]
/** Why there is nothing to set. */
const whyNone = computed(() => {
  if (!view.cell) return 'Pick a cell in the ledger, or a block of the path ribbon, to set what is on the path.'
  const undriven = listen.undriven
  if (undriven) return `Nothing drives ${undriven.name}: choose its output in Site. Or pick a block of the path ribbon.`
  return 'No cable leads from Kovrin’s signal through a mixer to this source: see Rig. '
    + 'Or pick a block of the path ribbon.'
})
</script>

<template>
  <div data-testid="shape-inspector">
    <div class="section">
      <div
        class="modes"
        role="radiogroup"
        aria-label="Edits"
      >
        <button
          v-for="m in modes"
          :key="m.name"
          class="plain mode"
          role="radio"
          :aria-checked="site.live === m.id"
          :class="{ on: site.live === m.id }"
          @click="site.live = m.id"
        >
          {{ m.name }}
        </button>
      </div>
      <p class="soft small">
        {{
          site.live
            ? 'Edits go to the device as you make them.'
            : 'Edits wait until you press Send; the plate shows what they will do.'
        }}
      </p>
    </div>
    <div
      v-if="hearing.out"
      class="section"
    >
      <p
        class="sentence warn"
        role="status"
      >
        {{ hearing.out }}, temporarily.
      </p>
      <ActionButton
        size="small"
        label="Restore"
        @click="hearing.back()"
      />
    </div>
    <template v-if="strip">
      <div class="section">
        <h2>{{ title }}</h2>
        <p
          v-if="link?.state !== 'live'"
          class="sentence warn"
        >
          Not connected: {{ (link?.why ?? link?.state ?? '').replace(/\.$/, '') }}. Edits are kept as a draft.
        </p>
        <SheetFollow :strip="strip" />
      </div>
      <StripEditor
        :key="`${strip.device}${strip.strip}`"
        :strip="strip"
      />
      <div class="section">
        <FoldSection
          id="target"
          :title="`Target: ${targets.now.name}`"
        >
          <TargetPanel />
        </FoldSection>
      </div>
      <div class="section">
        <FoldSection
          id="fit"
          title="Fit to a target"
        >
          <FitPanel />
        </FoldSection>
      </div>
    </template>
    <div
      v-if="strip"
      class="section"
    >
      <FoldSection
        id="groups"
        :title="`Groups: ${site.groups.length || 'none'}`"
      >
        <GroupPanel />
      </FoldSection>
    </div>
    <p
      v-if="!strip"
      class="section soft"
    >
      {{ whyNone }}
    </p>
  </div>
</template>

<style scoped>
.modes {
  display: grid;
  grid-template-columns: 1fr 1fr;
  border: 1px solid var(--rule-strong);
  border-radius: 3px;
}
.mode {
  text-align: center;
  min-height: 38px;
  font-weight: 600;
  color: var(--ink-soft);
}
.mode.on {
  background: var(--accent);
  color: var(--accent-ink);
}
p {
  margin: 0;
}
</style>
