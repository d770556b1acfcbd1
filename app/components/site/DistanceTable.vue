<script setup lang="ts">
import { cosineTo, distance, speedOfSound } from '~~/core/acoustics'
import { showNumber } from '~~/core/units'

const site = useSite()
const c = computed(() => speedOfSound(site.site!.plan.air.temperature))
const later = computed(() => speedOfSound(site.site!.plan.airLater.temperature))
const rows = computed(() => site.site!.sources.map(s => ({
  source: s,
  cells: site.site!.positions.map((p) => {
    const near = s.elements.reduce((a, b) => distance(b.place, p.place) < distance(a.place, p.place) ? b : a)
    const metres = distance(near.place, p.place)
    return {
      id: p.id, metres: showNumber(metres, 2), ms: showNumber(metres / c.value * 1000, 2), angle: showNumber(Math.acos(cosineTo(near.aim, near.place, p.place)) * 180 / Math.PI, 0),
      shift: showNumber(metres * (1 / later.value - 1 / c.value) * 1000, 2),
    }
  }),
})))
</script>

<template>
  <div class="scroll">
    <p v-if="!rows.length || !site.site!.positions.length" class="soft">Distances appear when there is a source and a position.</p>
    <table v-else class="plain">
      <caption class="small soft">From the nearest cabinet: distance, flight time, angle off its axis, and how the flight time will have changed at show time</caption>
      <thead><tr><th>Source</th><th v-for="p in site.site!.positions" :key="p.id" class="num">{{ p.name }}</th></tr></thead>
      <tbody>
        <tr v-for="r in rows" :key="r.source.id">
          <td>{{ r.source.name }}</td>
          <td v-for="x in r.cells" :key="x.id" class="num">{{ x.metres }} m<br>{{ x.ms }} ms<br><span class="soft">{{ x.angle }}° · {{ x.shift }} ms</span></td>
        </tr>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
.scroll { overflow: auto; min-height: 0; }
caption { text-align: left; padding-bottom: 0.4rem; }
td.num { white-space: nowrap; }
</style>
