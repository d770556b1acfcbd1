<script setup lang="ts">
import { bounceDip, cosineTo, distance, speedOfSound, surroundings } from '~~/core/acoustics'
import { showFrequency, showNumber } from '~~/core/units'

const site = useSite()
const length = useLength()
const c = computed(() => speedOfSound(site.plan.air.temperature))
const later = computed(() => speedOfSound(site.plan.airLater.temperature))
const rows = computed(() =>
  site.sources.map(s => ({
    source: s,
    cells: site.positions.map((p) => {
      const near = s.elements.reduce((a, b) => (distance(b.place, p.place) < distance(a.place, p.place) ? b : a))
      const metres = distance(near.place, p.place)
      return {
        id: p.id,
        far: length.show(metres),
        ms: showNumber((metres / c.value) * 1000, 2),
        angle: showNumber((Math.acos(cosineTo(near.aim, near.place, p.place)) * 180) / Math.PI, 0),
        shift: showNumber(metres * (1 / later.value - 1 / c.value) * 1000, 2),
      }
    }),
  })),
)
/** What stands around each source's first cabinet. */
const around = computed(() =>
  site.sources.map((s) => {
    const at = s.elements[0]!.place
    const { walls, floor, ceiling, corner } = surroundings(site.plan.room, at)
    const near = Math.min(...walls.map(w => w.distance), floor, ceiling)
    return {
      source: s,
      wall: walls[0]!,
      floor,
      ceiling,
      corner,
      dip: near > 0.05 && near < 5 ? showFrequency(Math.round(bounceDip(near, c.value))) : 'none below 17 Hz',
    }
  }),
)
</script>

<template>
  <div class="scroll">
    <p
      v-if="!rows.length || !site.positions.length"
      class="soft"
    >
      Distances appear when there is a source and a position.
    </p>
    <table
      v-else
      class="plain"
    >
      <caption class="small soft">
        From the nearest cabinet: distance, flight time, angle off its axis, and by how many ms the flight time will
        have changed at show time
      </caption>
      <thead>
        <tr>
          <th>Source</th>
          <th
            v-for="p in site.positions"
            :key="p.id"
            class="num"
          >
            {{ p.name }}
          </th>
        </tr>
      </thead>
      <tbody>
        <tr
          v-for="r in rows"
          :key="r.source.id"
        >
          <td>{{ r.source.name }}</td>
          <td
            v-for="x in r.cells"
            :key="x.id"
            class="num"
          >
            {{ x.far }}<br>{{ x.ms }} ms<br><span class="soft small">{{ x.angle }}° · {{ x.shift }}</span>
          </td>
        </tr>
      </tbody>
    </table>
    <table
      v-if="around.length"
      class="plain"
      data-testid="around"
    >
      <caption class="small soft">
        Around each source’s first cabinet; the dip is that of the nearest surface, a quarter wavelength
      </caption>
      <thead>
        <tr>
          <th>Source</th>
          <th>Nearest wall</th>
          <th class="num">
            Floor
          </th>
          <th class="num">
            Ceiling
          </th>
          <th class="num">
            Nearest corner
          </th>
          <th class="num">
            First dip
          </th>
        </tr>
      </thead>
      <tbody>
        <tr
          v-for="a in around"
          :key="a.source.id"
        >
          <td>{{ a.source.name }}</td>
          <td>
            {{ a.wall.name }} <span class="num">{{ length.show(a.wall.distance) }}</span>
          </td>
          <td class="num">
            {{ length.show(a.floor) }}
          </td>
          <td class="num">
            {{ length.show(a.ceiling) }}
          </td>
          <td class="num">
            {{ length.show(a.corner) }}
          </td>
          <td class="num">
            {{ a.dip }}
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
td.num {
  white-space: nowrap;
}
td:first-child {
  white-space: nowrap;
}
table.plain td,
table.plain th {
  padding-right: 0.4rem;
}
</style>
