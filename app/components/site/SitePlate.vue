<script setup lang="ts">
import { airLoss, distance, speedOfSound } from '~~/core/acoustics'
import { showNumber } from '~~/core/units'

const site = useSite()
const plan = computed(() => site.site!.plan)
const c = computed(() => speedOfSound(plan.value.air.temperature))
const rows = computed(() => site.site!.sources.map(s => ({
  source: s,
  cells: site.site!.positions.map((p) => {
    const metres = Math.min(...s.elements.map(e => distance(e.place, p.place)))
    return { id: p.id, metres: showNumber(metres, 2), ms: showNumber(metres / c.value * 1000, 2) }
  }),
})))
</script>

<template>
  <section class="plate sheet" aria-label="Plate">
    <h2>{{ site.site!.name }}</h2>
    <dl>
      <div><dt>Room</dt><dd class="num big">{{ plan.room.size.x }} × {{ plan.room.size.y }} × {{ plan.room.size.z }} m</dd></div>
      <div><dt>Air</dt><dd class="num big">{{ plan.air.temperature }} °C, {{ plan.air.humidity }} %</dd></div>
      <div><dt>Speed of sound</dt><dd class="num big">{{ showNumber(c, 1) }} m/s</dd></div>
      <div><dt>Air loss at 8 kHz</dt><dd class="num big">{{ showNumber(airLoss(8000, plan.air) * 10, 2) }} dB per 10 m</dd></div>
      <div><dt>Decay, 500 Hz to 1 kHz</dt><dd class="num big">{{ showNumber(plan.room.decay[3]!, 1) }} s</dd></div>
    </dl>
    <h3>Distance and flight time from the nearest cabinet of each source</h3>
    <table class="plain">
      <thead><tr><th>Source</th><th v-for="p in site.site!.positions" :key="p.id" class="num">{{ p.name }}</th></tr></thead>
      <tbody>
        <tr v-for="r in rows" :key="r.source.id">
          <td>{{ r.source.name }}</td>
          <td v-for="x in r.cells" :key="x.id" class="num">{{ x.metres }} m<br><span class="soft">{{ x.ms }} ms</span></td>
        </tr>
      </tbody>
    </table>
  </section>
</template>

<style scoped>
dl { display: flex; flex-wrap: wrap; gap: 0.6rem 2.2rem; margin: 0; }
dt { color: var(--ink-soft); font-size: 0.88rem; }
dd { margin: 0; font-size: 1.3rem; }
</style>
