<script setup lang="ts">
import type { PickedStrip } from '~/frame/view'
import { levelAt, type Limiter } from '~~/core/rig'
import { showNumber } from '~~/core/units'
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
const hall = useHall()
/** dB that the strip’s limiter takes away now; undefined where that is not known. */
const reduction = computed(() => hall.reductions[`${props.strip.device} ${props.strip.strip}`])
/** A limiter's threshold as it is at the connector where the strip leaves; null where its full scale is not told. */
function thresholdAt({ threshold }: Limiter): string | null {
  const port = device.value?.capability.outputs.find(o => o.strip === props.strip.strip)
  const level = port?.fullScale ? levelAt({ level: threshold, fullScale: port.fullScale }, port) : null
  if (!level || level.unit === 'dBFS') return null
  return `${showNumber(level.value, 1)} ${level.unit} at ${port!.name.toLowerCase()}`
}
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
      <p
        v-if="s.parameter.kind.kind === 'limiter' && thresholdAt(s.draft as Limiter)"
        class="small soft"
      >
        Its threshold is {{ thresholdAt(s.draft as Limiter) }}.
      </p>
      <p
        v-if="s.parameter.kind.kind === 'limiter' && reduction !== undefined"
        class="small"
        :class="reduction > 0.05 ? 'warn' : 'soft'"
        data-testid="reduction"
      >
        {{ reduction > 0.05 ? `takes away ${showNumber(reduction, 1)} dB now` : 'takes nothing away now' }}
      </p>
    </div>
  </div>
</template>

<style scoped>
p {
  margin: 0.2rem 0 0;
}
.warn {
  color: var(--warn);
}
.pair {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 0.6rem;
  align-items: end;
}
</style>
