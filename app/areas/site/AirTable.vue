<script setup lang="ts">
import { airLoss, octaveBands, speedOfSound } from '~~/core/acoustics'
import { roomDecay } from '~~/core/documents'
import { routeTo, setDelay } from '~~/core/rig'
import { showDelay, showNumber } from '~~/core/units'

const site = useSite()
const plan = computed(() => site.plan)
const octaves = computed(() => {
  const now = roomDecay(plan.value)
  const later = roomDecay({ room: plan.value.room, air: plan.value.airLater })
  return octaveBands.map((f, o) => {
    const loss = airLoss(f, plan.value.air) * 100
    const lossLater = airLoss(f, plan.value.airLater) * 100
    return {
      f,
      loss: showNumber(loss, 2),
      lossLater: showNumber(lossLater, 2),
      more: showNumber(lossLater - loss, 2),
      decay: showNumber(now[o]!, 2),
      decayLater: showNumber(later[o]!, 2),
    }
  })
})
/** Delays set for distance, as the devices hold them, and what the same distance will take at show time. */
const delays = computed(() => {
  const part = speedOfSound(plan.value.air.temperature) / speedOfSound(plan.value.airLater.temperature)
  return site.sources.map((s) => {
    const [from, to] = [site.feedFrom(), site.outputs(s.id)[0]]
    const route = from && to ? routeTo(site.heldRig, from, to) : null
    const delay = route ? setDelay(site.heldRig, route) : null
    return { id: s.id, name: s.name, delay, later: delay === null ? null : delay * part }
  })
})
</script>

<template>
  <div class="scroll">
    <table
      class="plain"
      data-testid="air"
    >
      <caption class="small soft">
        Air loss by ISO 9613-1 and decay time by Eyring, now ({{
          plan.air.temperature
        }}
        °C,
        {{
          plan.air.humidity
        }}
        %) and at show time ({{
          plan.airLater.temperature
        }}
        °C,
        {{
          plan.airLater.humidity
        }}
        %)
      </caption>
      <thead>
        <tr>
          <th>Octave</th>
          <th class="num">
            Loss now, dB in 100 m
          </th>
          <th class="num">
            at show time
          </th>
          <th class="num">
            change
          </th>
          <th class="num">
            Decay now, s
          </th>
          <th class="num">
            at show time
          </th>
        </tr>
      </thead>
      <tbody>
        <tr
          v-for="o in octaves"
          :key="o.f"
        >
          <td class="num first">
            {{ o.f }} Hz
          </td>
          <td class="num">
            {{ o.loss }}
          </td>
          <td class="num">
            {{ o.lossLater }}
          </td>
          <td class="num">
            {{ o.more }}
          </td>
          <td class="num">
            {{ o.decay }}
          </td>
          <td class="num">
            {{ o.decayLater }}
          </td>
        </tr>
      </tbody>
    </table>
    <table
      v-if="delays.length"
      class="plain"
    >
      <caption class="small soft">
        Delay set for each source, as the devices hold it, and what the same distance takes at show time
      </caption>
      <thead>
        <tr>
          <th>Source</th>
          <th class="num">
            Set now
          </th>
          <th class="num">
            At show time
          </th>
          <th class="num">
            Change
          </th>
        </tr>
      </thead>
      <tbody>
        <tr
          v-for="d in delays"
          :key="d.id"
        >
          <td>{{ d.name }}</td>
          <template v-if="d.delay !== null">
            <td class="num">
              {{ showDelay(d.delay) }}
            </td>
            <td class="num">
              {{ showDelay(d.later!) }}
            </td>
            <td class="num">
              {{ showDelay(d.later! - d.delay) }}
            </td>
          </template>
          <td
            v-else
            colspan="3"
            class="soft"
          >
            not fed by the feed: no path
          </td>
        </tr>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
.scroll {
  overflow: auto;
  min-height: 0;
  display: grid;
  gap: 1.2rem;
  align-content: start;
}
caption {
  text-align: left;
  padding-bottom: 0.4rem;
}
td.first {
  text-align: left !important;
}
</style>
