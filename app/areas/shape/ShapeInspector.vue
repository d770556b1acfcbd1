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
import { phrase } from '~/parts/phrase'

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
  { id: true, name: phrase('common.live') },
  { id: false, name: phrase('common.draft') },
]
/** Why there is nothing to set. */
const whyNone = computed(() => {
  if (!view.cell) return phrase('shape.pickACellIn')
  const undriven = listen.undriven
  if (undriven) return phrase('shape.nothingDrivesChooseIts', { name: undriven.name })
  return phrase('shape.noCableLeadsFrom')
})
</script>

<template>
  <div data-testid="shape-inspector">
    <div class="section">
      <div
        class="modes"
        role="radiogroup"
        :aria-label="phrase('common.edits')"
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
            ? phrase('shape.editsGoToThe')
            : phrase('shape.editsWaitUntilYou')
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
        {{ phrase('shape.temporarily', { out: hearing.out }) }}
      </p>
      <ActionButton
        size="small"
        :label="phrase('common.restore')"
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
          {{ phrase('shape.notConnectedEditsAre', { why: (link?.why ?? link?.state ?? '').replace(/\.$/, '') }) }}
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
          :title="phrase('shape.target', { name: targets.now.name })"
        >
          <TargetPanel />
        </FoldSection>
      </div>
      <div class="section">
        <FoldSection
          id="fit"
          :title="phrase('shape.fitToATarget')"
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
        :title="phrase('shape.groups', { groups: site.groups.length || phrase('common.none') })"
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
