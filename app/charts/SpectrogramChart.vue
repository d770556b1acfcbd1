<script setup lang="ts">
import type { Drawn } from './traces'
import { fractionalOctaves } from '~~/core/measure'
import { useListen } from '~/sound/listen'
import DepthChart from './DepthChart.vue'
import { phrase } from '~/parts/phrase'

/** Levels of the last twenty seconds, newest at the top. */
defineProps<{ drawn: Drawn | null }>()
const listen = useListen()
const bands = fractionalOctaves(24, 16, 20_000)
const rows = 200
const seconds = 20
/** Milliseconds without a new spectrum that are no pause. */
const longest = 1500
const levels = shallowRef(new Float32Array(rows * bands.length).fill(-90))
let top = -30
let last = 0
watch(
  () => listen.spectrum,
  (now) => {
    const row = (seconds * 1000) / rows
    const passed = (performance.now() - last) / row
    if (!now || passed < 0.9) return
    last = performance.now()
    // the axis is time: what came late takes as many rows as it took, and a pause stays empty
    const moved = Math.min(rows, Math.max(1, Math.round(passed)))
    const filled = moved > longest / row ? 1 : moved
    top = Math.max(
      top - 0.05,
      now.microphone.reduce((a, b) => Math.max(a, b), -80),
    )
    const next = new Float32Array(levels.value.length).fill(-90)
    next.set(levels.value.subarray(0, (rows - moved) * bands.length), moved * bands.length)
    for (let n = 0; n < filled; n++)
      now.microphone.forEach((v, k) => (next[n * bands.length + k] = Math.max(-90, v - top)))
    levels.value = next
  },
)
</script>

<template>
  <DepthChart
    :name="phrase('charts.spectrogram')"
    :unit="phrase('common.db')"
    :columns="bands.length"
    :levels="levels"
    :floor="-70"
    :low="bands[0]!.middle"
    :high="bands[bands.length - 1]!.middle"
    :from="0"
    :to="seconds"
  />
</template>
