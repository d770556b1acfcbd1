<script setup lang="ts">
import { routes } from '~~/core/rig'

const site = useSite()
const view = useView()

/** The block that was picked in the ribbon; else the processor output that feeds the picked source. */
const block = computed(() => {
  if (view.block) return view.block
  const s = site.site
  const to = view.cell && site.outputsOf(view.cell.source)[0]
  if (!s || !to) return null
  const hop = routes(site.draftRig, s.plan.feed, to)[0]?.find(
    h => s.devices.find(d => d.id === h.device)!.capability.matrix,
  )
  return hop ? { device: hop.device, side: 'outputs' as const, channel: hop.output } : null
})
const title = computed(
  () =>
    block.value
    && `${site.deviceOf(block.value.device)?.name}, ${block.value.side === 'outputs' ? 'output' : 'input'} ${block.value.channel + 1}`,
)
const link = computed(() => block.value && site.site!.links[block.value.device])
const modes = [
  { id: true, name: 'Live hands' },
  { id: false, name: 'Draft' },
]
</script>

<template>
  <div data-testid="shape-inspector">
    <div class="section">
      <div
        class="modes"
        role="radiogroup"
        aria-label="Where edits go"
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
    <template v-if="block">
      <div class="section">
        <h2>{{ title }}</h2>
        <p
          v-if="link?.state !== 'live'"
          class="sentence warn"
        >
          Not connected ({{ link?.why ?? link?.state }}). Edits are kept as a draft.
        </p>
      </div>
      <ChannelEditor
        :key="`${block.device}${block.side}${block.channel}`"
        :block="block"
      />
    </template>
    <p
      v-else
      class="section soft"
    >
      Pick a cell in the ledger, or a block of the path ribbon, to set what is on the path.
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
