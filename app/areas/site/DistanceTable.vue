<script setup lang="ts">
import type { TableColumn } from '~/parts/columns'
import { cosineTo, distance, firstDips, nearSurfaces, speedOfSound, surroundings } from '~~/core/acoustics'
import { showNumber } from '~~/core/units'
import { sayRange } from './sayRange'
import { useSite } from '~/document/site'
import { useLength } from '~/document/useLength'
import { phrase } from '~/parts/phrase'

const site = useSite()
const length = useLength()
const c = computed(() => speedOfSound(site.plan.air))
const later = computed(() => speedOfSound(site.plan.airLater))
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
    const near = nearSurfaces(site.plan.room, at).toSorted((a, b) => a.distance - b.distance)[0]
    const dips = near && firstDips(near, at, site.positions.map(p => p.place), c.value)
    return {
      source: s,
      wall: walls[0]!,
      floor,
      ceiling,
      corner,
      dip: dips ? `${near.name}: ${sayRange(dips)}` : '–',
    }
  }),
)
const caption = phrase('site.fromTheNearestCabinet')
const columns = computed<TableColumn<(typeof rows.value)[number]>[]>(() => [
  { id: 'source', name: phrase('common.source'), text: r => r.source.name },
  ...site.positions.map(p => ({ id: p.id, name: p.name, numeric: true })),
])
const aroundColumns: TableColumn<(typeof around.value)[number]>[] = [
  { id: 'source', name: phrase('common.source'), text: a => a.source.name },
  { id: 'wall', name: phrase('site.nearestWall'), text: a => `${a.wall.name} ${length.show(a.wall.distance)}` },
  { id: 'floor', name: phrase('site.floor'), numeric: true, text: a => length.show(a.floor) },
  { id: 'ceiling', name: phrase('site.ceiling'), numeric: true, text: a => length.show(a.ceiling) },
  { id: 'corner', name: phrase('site.nearestCorner'), numeric: true, text: a => length.show(a.corner) },
  { id: 'dip', name: phrase('site.firstDipAtThe'), text: a => a.dip },
]
</script>

<template>
  <div class="scroll">
    <p
      v-if="!rows.length || !site.positions.length"
      class="soft"
    >
      {{ phrase('site.distancesAppearWhenThere') }}
    </p>
    <FigureTable
      v-else
      class="distances"
      :label="phrase('site.distances')"
      :caption="caption"
      :rows="rows"
      :columns="columns"
      :row-key="r => r.source.id"
    >
      <template
        v-for="(p, k) in site.positions"
        #[p.id]="{ row }"
        :key="p.id"
      >
        {{ row.cells[k]!.far }}<br>{{ row.cells[k]!.ms }} ms<br><span class="soft small">{{
          row.cells[k]!.angle }}° · {{ row.cells[k]!.shift }}</span>
      </template>
    </FigureTable>
    <FigureTable
      v-if="around.length"
      class="distances"
      data-testid="around"
      :label="phrase('site.surfacesAround')"
      :caption="phrase('site.aroundEachSourcesFirst')"
      :rows="around"
      :columns="aroundColumns"
      :row-key="a => a.source.id"
    />
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
.distances :deep(td:is(.num, :first-child)) {
  white-space: nowrap;
}
</style>
