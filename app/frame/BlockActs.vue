<script setup lang="ts">
import { quantities } from '~~/core/units'
import { useStrip } from '~/document/useStrip'
import type { RibbonBlock } from '~/frame/useRibbon'
import BlockFields from '~/charts/blocks/BlockFields.vue'
import { phrase } from '~/parts/phrase'

/** What is done most to a block of the path, without leaving it: mute, gain, delay, polarity; or its crosspoint. */
const props = defineProps<{ block: RibbonBlock }>()
const emit = defineEmits<{ more: [] }>()
const { device, settings, settingAt, set } = useStrip(() => ({
  device: props.block.edits?.device ?? props.block.point!.device,
  strip: props.block.edits?.strip ?? '',
}))
const shown = computed(() => settings.value.filter(s => s.parameter.kind.atHand))
/** The crosspoint as a setting of its device. */
const point = computed(() => props.block.point && settingAt(props.block.point.path))
const level = computed(() => (typeof point.value?.draft === 'number' ? point.value.draft : null))
</script>

<template>
  <div class="acts">
    <b>{{ block.title }}</b>
    <template v-if="point">
      <CheckField
        :label="phrase('frame.connected')"
        :value="level !== null"
        @change="set(point, $event ? 0 : null)"
      />
      <NumberField
        v-if="level !== null"
        :label="phrase('frame.levelOfTheCrosspoint')"
        :value="level"
        :held="typeof point.held === 'number' ? point.held : null"
        :by="point.by"
        v-bind="quantities.level"
        @change="set(point, $event)"
      />
    </template>
    <template v-else>
      <BlockFields
        v-for="s in shown"
        :key="s.parameter.path"
        :setting="s"
        :sample-rate="device?.capability.sampleRate ?? 48000"
        @change="set(s, $event)"
      />
      <p
        v-if="!shown.length"
        class="soft small"
      >
        {{ phrase('frame.nothingOfThisBlock') }}
      </p>
      <ActionButton
        size="small"
        text
        :label="phrase('frame.allOfItIn')"
        @click="emit('more')"
      />
    </template>
  </div>
</template>

<style scoped>
.acts {
  display: grid;
  gap: 0.5rem;
  width: 210px;
}
p {
  margin: 0;
}
</style>
