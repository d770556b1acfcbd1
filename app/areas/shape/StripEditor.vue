<script setup lang="ts">
import type { PickedStrip } from '~/document/view'
import { parameterName, type BlockId } from '~~/core/rig'
import { editorOf } from './editors'
import BlockFields from '~/charts/blocks/BlockFields.vue'
import { showNumber } from '~~/core/units'
import { useShaping } from '~/document/shaping'
import { isKind, useStrip, type Setting } from '~/document/useStrip'
import { useSite } from '~/document/site'
import { useHall } from '~/sound/hall'
import BandTable from './BandTable.vue'
import FilterActs from './FilterActs.vue'
import PassEditor from './PassEditor.vue'
import { phrase } from '~/parts/phrase'

/** Everything that can be set in one strip of a device, from what the device says of itself. */
const props = defineProps<{ strip: PickedStrip }>()
const { device, settings, set, merge } = useStrip(() => props.strip)
const kindOf = <K extends BlockId>(kind: K) => settings.value.filter(s => isKind(s, kind))
const own = ['gain', 'delay', 'mute', 'polarity', 'pass', 'band'] as const
const others = computed(() => settings.value.filter(s => !own.some(kind => isKind(s, kind))))
const name = computed(() => {
  const own = device.value?.capability.strips.find(s => s.id === props.strip.strip)?.name ?? ''
  return `${device.value?.name ?? ''}, ${own.toLowerCase()}`
})
const hall = useHall()
const site = useSite()
const shaping = useShaping()
/** What the pass that makes a crossover with this one is called. */
function twinName(s: Setting): string | null {
  const twin = shaping.twinOf(s)
  return twin && parameterName(site.deviceOf(twin.device)?.capability, twin.path).toLowerCase()
}
function titleOf(setting: Setting): string {
  const { parameter: { kind, short, capability }, draft } = setting
  const words = `${short}: ${kind.show(draft, capability)}`
  const taken = isKind(setting, 'limiter') ? hall.reductions[`${props.strip.device} ${props.strip.strip}`] : undefined
  return taken !== undefined && taken > 0.05
    ? phrase('shape.takesAwayDbNow2', {
        words,
        taken: showNumber(taken, 1),
      })
    : words
}
/** Editors of kinds that are more than fields. */
const rate = computed(() => device.value?.capability.sampleRate ?? 48_000)
</script>

<template>
  <div class="editor">
    <div class="section">
      <div class="pair">
        <BlockFields
          v-for="s in [...kindOf('gain'), ...kindOf('delay')]"
          :key="s.parameter.path"
          v-memo="[s, rate]"
          :setting="s"
          :sample-rate="rate"
          @change="set(s, $event)"
        />
      </div>
      <div class="pair">
        <BlockFields
          v-for="s in [...kindOf('polarity'), ...kindOf('mute')]"
          :key="s.parameter.path"
          v-memo="[s, rate]"
          :setting="s"
          :sample-rate="rate"
          @change="set(s, $event)"
        />
      </div>
    </div>
    <div
      v-if="kindOf('pass').length"
      class="section"
    >
      <PassEditor
        v-for="s in kindOf('pass')"
        :key="s.parameter.path"
        v-memo="[s, twinName(s)]"
        :setting="s"
        :twin="twinName(s)"
        @change="shaping.change({ setting: s }, $event)"
      />
    </div>
    <div
      v-if="kindOf('band').length"
      class="section"
    >
      <div class="row apart">
        <h3>{{ phrase('shape.parametricEq') }}</h3>
        <FilterActs
          :bands="kindOf('band')"
          :device="strip.device"
          :rate="rate"
          :name="name"
        />
      </div>
      <BandTable
        :settings="kindOf('band')"
        @change="merge"
      />
    </div>
    <div
      v-for="s in others"
      :key="s.parameter.path"
      v-memo="[s, strip, titleOf(s), rate]"
      class="section"
    >
      <FoldSection
        :id="`block-${s.parameter.kind.kind}`"
        :title="titleOf(s)"
      >
        <div :class="{ pair: !editorOf(s) }">
          <component
            :is="editorOf(s) ?? BlockFields"
            :setting="s"
            :strip="strip"
            :sample-rate="rate"
            @change="set(s, $event)"
          />
        </div>
      </FoldSection>
    </div>
  </div>
</template>

<style scoped>
.pair {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 0.6rem;
  align-items: end;
}
</style>
