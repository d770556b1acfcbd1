<script setup lang="ts">
import type { PickedStrip } from '~/frame/view'
import { useStrip } from './useStrip'

/** Everything that can be set in one strip of a device, from what the device says of itself. */
const props = defineProps<{ strip: PickedStrip }>()
const { device, settings, set, merge } = useStrip(() => props.strip)
const kindOf = (kind: string) => settings.value.filter(s => s.parameter.kind.kind === kind)
const own = ['gain', 'delay', 'mute', 'polarity', 'pass', 'band']
const others = computed(() => settings.value.filter(s => !own.includes(s.parameter.kind.kind)))
const name = computed(() => {
  const own = device.value?.capability.strips.find(s => s.id === props.strip.strip)?.name ?? ''
  return `${device.value?.name ?? ''}, ${own.toLowerCase()}`
})
const rate = computed(() => device.value?.capability.sampleRate ?? 48_000)
</script>

<template>
  <div class="editor">
    <div class="section">
      <div class="pair">
        <BlockFields
          v-for="s in [...kindOf('gain'), ...kindOf('delay')]"
          :key="s.parameter.path"
          :setting="s"
          :sample-rate="rate"
          @change="set(s, $event)"
        />
      </div>
      <div class="pair">
        <BlockFields
          v-for="s in [...kindOf('polarity'), ...kindOf('mute')]"
          :key="s.parameter.path"
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
        :setting="s"
        @change="merge(s, $event)"
      />
    </div>
    <div
      v-if="kindOf('band').length"
      class="section"
    >
      <div class="row apart">
        <h3>Parametric EQ</h3>
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
      class="section"
    >
      <FoldSection
        :id="`block-${s.parameter.kind.kind}`"
        :title="`${s.parameter.short}: ${s.parameter.kind.show(s.draft, s.parameter.capability)}`"
      >
        <div class="pair">
          <BlockFields
            :setting="s"
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
