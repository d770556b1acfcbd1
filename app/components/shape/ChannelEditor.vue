<script setup lang="ts">
import { bandTypes, sameValue, showParameter, type Band, type Channel } from '~~/core/rig'
import { speedOfSound } from '~~/core/acoustics'
import { parseDelay } from '~~/core/units'
import type { PickedBlock } from '~/stores/view'
import { numberKinds, octaves, tableKinds } from './fields'

const props = defineProps<{ block: PickedBlock }>()
const site = useSite()

const device = computed(() => site.deviceOf(props.block.device)!)
const capability = computed(() => device.value.capability[props.block.side].channel)
const draft = computed<Channel>(() => site.drafts[props.block.device]![props.block.side][props.block.channel]!)
const held = computed<Channel | null>(() => device.value.held?.[props.block.side][props.block.channel] ?? null)
const base = computed(() => `/${props.block.side}/${props.block.channel}`)
const set = (field: string, value: Parameters<typeof site.edit>[2]) =>
  void site.edit(props.block.device, `${base.value}/${field}`, value)
const setBand = (n: number, change: Partial<Band>) => set(`eq/${n}`, { ...draft.value.eq[n]!, ...change })

const delayContext = computed(() => ({
  speedOfSound: speedOfSound(site.site!.plan.air.temperature),
  sampleRate: device.value.capability.sampleRate,
}))
const metres = computed(() => (draft.value.delay * delayContext.value.speedOfSound).toFixed(2))
const differs = (n: number) => held.value && !sameValue(held.value.eq[n]!, draft.value.eq[n]!)
const hasGain = (b: Band) => b.type !== 'all-pass' && b.type !== 'notch'
</script>

<template>
  <div class="editor">
    <div class="section">
      <div class="pair">
        <NumberField
          label="Gain"
          :value="draft.gain"
          :held="held?.gain"
          v-bind="numberKinds.level"
          @change="set('gain', $event)"
        />
        <div v-if="capability.delay">
          <NumberField
            label="Delay"
            :value="draft.delay"
            :held="held?.delay"
            v-bind="numberKinds.delay"
            :parse="text => parseDelay(text, delayContext)"
            @change="set('delay', $event)"
          />
          <span class="soft small">{{ metres }} m at {{ site.site!.plan.air.temperature }} °C</span>
        </div>
      </div>
      <div class="row apart">
        <label class="row"><input
          type="checkbox"
          :checked="draft.turned"
          @change="set('turned', ($event.target as HTMLInputElement).checked)"
        >
          Polarity turned</label>
        <label class="row"><input
          type="checkbox"
          :checked="draft.mute"
          @change="set('mute', ($event.target as HTMLInputElement).checked)"
        >
          Mute</label>
      </div>
      <span
        v-if="held && (held.turned !== draft.turned || held.mute !== draft.mute)"
        class="held small"
      >in device {{ held.turned ? 'turned' : 'not turned' }}, {{ held.mute ? 'muted' : 'open' }}</span>
    </div>
    <div
      v-if="draft.highPass && capability.highPass"
      class="section"
    >
      <PassEditor
        label="High-pass"
        :pass="draft.highPass"
        :held="held?.highPass ?? null"
        :capability="capability.highPass"
        :path="`${base}/highPass`"
        @change="set('highPass', $event)"
      />
      <PassEditor
        v-if="draft.lowPass && capability.lowPass"
        label="Low-pass"
        :pass="draft.lowPass"
        :held="held?.lowPass ?? null"
        :capability="capability.lowPass"
        :path="`${base}/lowPass`"
        @change="set('lowPass', $event)"
      />
    </div>
    <div
      v-if="draft.eq.length"
      class="section"
    >
      <h3>Parametric EQ</h3>
      <table class="eq">
        <thead>
          <tr>
            <th><span class="hidden">On</span></th>
            <th>Kind</th>
            <th>Hz</th>
            <th>dB</th>
            <th>Q</th>
          </tr>
        </thead>
        <tbody
          v-for="(b, n) in draft.eq"
          :key="n"
          :class="{ off: !b.on }"
          :data-band="n + 1"
        >
          <tr>
            <td>
              <input
                type="checkbox"
                :checked="b.on"
                :aria-label="`EQ band ${n + 1} on`"
                @change="setBand(n, { on: ($event.target as HTMLInputElement).checked })"
              >
            </td>
            <td>
              <select
                :value="b.type"
                :aria-label="`EQ band ${n + 1} kind`"
                @change="setBand(n, { type: ($event.target as HTMLSelectElement).value as Band['type'] })"
              >
                <option
                  v-for="t in bandTypes.filter(x => capability.eq!.types.includes(x))"
                  :key="t"
                  :value="t"
                >
                  {{ t }}
                </option>
              </select>
            </td>
            <td>
              <NumberField
                :label="`EQ band ${n + 1} frequency`"
                compact
                :value="b.frequency"
                v-bind="tableKinds.frequency"
                @change="setBand(n, { frequency: $event, on: true })"
              />
            </td>
            <td>
              <NumberField
                v-if="hasGain(b)"
                :label="`EQ band ${n + 1} gain`"
                compact
                :value="b.gain"
                v-bind="tableKinds.level"
                @change="setBand(n, { gain: $event, on: true })"
              />
            </td>
            <td :title="octaves(b.q)">
              <NumberField
                :label="`EQ band ${n + 1} Q`"
                compact
                :value="b.q"
                v-bind="tableKinds.q"
                @change="setBand(n, { q: $event, on: true })"
              />
            </td>
          </tr>
          <tr v-if="differs(n)">
            <td />
            <td
              colspan="4"
              class="held small"
            >
              in device {{ showParameter(`${base}/eq/${n}`, held!.eq[n]!) }}
            </td>
          </tr>
        </tbody>
      </table>
      <p class="soft small">
        Arrow keys nudge; Shift for ten times. Q also takes a bandwidth: 0.33 oct.
      </p>
    </div>
  </div>
</template>

<style scoped>
.pair {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 0.6rem;
}
.held {
  color: var(--warn);
}
.eq {
  border-collapse: collapse;
  table-layout: fixed;
  width: 100%;
}
.eq th {
  text-align: left;
  font-weight: 500;
  font-size: 0.84rem;
  color: var(--ink-soft);
}
.eq td,
.eq th {
  padding: 1px 2px;
}
.eq th:nth-child(1) {
  width: 22px;
}
.eq th:nth-child(2) {
  width: 94px;
}
.eq th:nth-child(3) {
  width: 66px;
}
.off td:not(:first-child) {
  opacity: 0.62;
}
.eq :deep(input.num) {
  padding: 0 0.3rem;
  font-size: 0.92rem;
}
.hidden {
  position: absolute;
  clip-path: inset(50%);
}
p {
  margin: 0;
}
</style>
