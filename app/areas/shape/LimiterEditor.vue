<script setup lang="ts">
import { limiterPlace } from '~~/core/documents'
import { levelAt, parseThreshold, thresholdVolts } from '~~/core/rig'
import { decibelsOf, showDelay, showNumber } from '~~/core/units'
import type { PickedStrip } from '~/document/view'
import type { SettingOf } from '~/document/useStrip'
import { useSite } from '~/document/site'
import { useHall } from '~/sound/hall'
import BlockFields from '~/charts/blocks/BlockFields.vue'
import { phrase } from '~/parts/phrase'

/** A limiter: its threshold in the units of its place, and what it takes away now. */
const props = defineProps<{ setting: SettingOf<'limiter'>, strip: PickedStrip, sampleRate: number }>()
const emit = defineEmits<{ change: [value: unknown] }>()
const site = useSite()
const hall = useHall()
/** dB that it takes away now; undefined where that is not known. */
const reduction = computed(() => hall.reductions[`${props.strip.device} ${props.strip.strip}`])
const output = computed(() => {
  const outputs = site.deviceOf(props.strip.device)?.capability.outputs ?? []
  const channel = outputs.findIndex(o => o.strip === props.strip.strip)
  return channel < 0 ? null : { endpoint: { device: props.strip.device, channel }, port: outputs[channel]! }
})
const place = computed(() => (output.value
  ? limiterPlace(site.documents, output.value.endpoint)
  : { connector: null, loudspeaker: null, ohms: null }))
const ahead = computed(() => props.setting.parameter.capability.lookAhead ?? 0)
/** The threshold as it is at the connector and at the loudspeaker, as far as that is known. */
const elsewhere = computed(() => {
  const limiter = props.setting.draft
  const { connector, loudspeaker, ohms } = place.value
  const words: string[] = []
  const port = output.value?.port
  const atConnector = connector && decibelsOf(thresholdVolts(connector, limiter) / connector)
  const level = connector && port ? levelAt({ level: atConnector, fullScale: connector }, port) : null
  if (level?.unit === 'dBu') words.push(phrase('shape.dbuAt', {
    level: showNumber(level.value, 1),
    name: port!.name.toLowerCase(),
  }))
  if (loudspeaker) {
    const volts = thresholdVolts(loudspeaker, limiter)
    const watts = ohms ? `, ${showNumber(volts ** 2 / ohms, volts ** 2 / ohms < 10 ? 2 : 0)} W into ${ohms} Ω` : ''
    words.push(phrase('shape.vAtTheLoudspeaker', { volts: showNumber(volts, 1), watts }))
  }
  return words
})
const reads = {
  threshold: (text: string) => parseThreshold(text, place.value, (props.setting.draft).detector),
}
</script>

<template>
  <div class="limiter">
    <div class="pair">
      <BlockFields
        :setting="setting"
        :sample-rate="sampleRate"
        :reads="reads"
        @change="emit('change', $event)"
      />
    </div>
    <p
      v-if="elsewhere.length"
      class="small soft"
      data-testid="threshold"
    >
      {{ phrase('shape.itsThresholdIsDbu', { elsewhere: elsewhere.join('; ') }) }}
    </p>
    <p
      v-if="ahead"
      class="small soft"
    >
      {{ phrase('shape.lookAheadWithinThe', { ahead: showDelay(ahead, 1) }) }}
    </p>
  </div>
  <p
    v-if="reduction !== undefined"
    class="small"
    :class="reduction > 0.05 ? 'warn' : 'soft'"
    data-testid="reduction"
  >
    {{ reduction > 0.05 ? phrase('shape.takesAwayDbNow', {
      reduction: showNumber(reduction, 1),
    }) : phrase('shape.takesNothingAwayNow') }}
  </p>
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
