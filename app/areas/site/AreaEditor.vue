<script setup lang="ts">
import { areaKinds, nextOrder, seatsOf, spreadSeats, type Area, type Position } from '~~/core/documents'
import { usePlan } from '~/document/usePlan'
import { plainQuantity } from '~~/core/units'
import { useSite } from '~/document/site'
import { useLength } from '~/document/useLength'
import { useView } from '~/document/view'
import { choicesOfCodes } from '~/parts/choices'
import CornerTable from './CornerTable.vue'
import { phrase } from '~/parts/phrase'

const props = defineProps<{ area: Area, fresh?: boolean }>()
const site = useSite()
const view = useView()
const length = useLength()
const { setArea, removeArea, addPosition } = usePlan()
const set = (change: Partial<Area>) => void setArea(props.area.id, change)
async function remove() {
  if (await removeArea(props.area.id)) view.thing = null
}
const seats = computed(() => seatsOf(props.area))
const kinds = choicesOfCodes(areaKinds)
const count = ref(6)
/** Positions spread evenly over the seats; those that exist stay. */
async function spread() {
  const first = site.positions.length
  for (const [n, seat] of spreadSeats(props.area, Math.max(1, Math.min(24, count.value))).entries()) {
    let k = first + n + 1
    while (site.positions.some(p => p.id === `position-${k}`)) k++
    const made: Position = {
      id: `position-${k}`,
      name: `${props.area.name} ${seat.row}-${seat.seat}`.slice(0, 80),
      order: nextOrder(site.positions),
      place: { ...seat.place },
      weight: 1,
      dash: k % 5,
    }
    if (!(await addPosition(made))) return
  }
}
</script>

<template>
  <div>
    <div class="section">
      <div class="row apart">
        <h2>{{ phrase('site.area') }}</h2>
        <ActionButton
          size="small"
          text
          :label="phrase('site.room')"
          @click="view.thing = null"
        />
      </div>
      <TextField
        :value="area.name"
        :label="phrase('common.name')"
        :maxlength="80"
        :autofocus="fresh"
        @change="set({ name: $event })"
      />
      <ChoiceField
        :label="phrase('common.kind')"
        :value="area.kind"
        :options="kinds"
        @change="set({ kind: $event })"
      />
      <div class="three">
        <NumberField
          :label="phrase('site.floorFront')"
          :value="area.floor"
          v-bind="length.field.value"
          @change="set(area.floor === area.rear ? { floor: $event, rear: $event } : { floor: $event })"
        />
        <NumberField
          :label="phrase('site.floorBack')"
          :value="area.rear"
          v-bind="length.field.value"
          @change="set({ rear: $event })"
        />
        <template v-if="area.kind !== 'stage'">
          <NumberField
            :label="phrase('site.earHeight')"
            :value="area.ear"
            v-bind="length.field.value"
            @change="set({ ear: $event })"
          />
          <NumberField
            :label="phrase('site.rowSpacing')"
            :value="area.rows"
            v-bind="length.field.value"
            @change="set({ rows: $event })"
          />
          <NumberField
            :label="phrase('site.seatSpacing')"
            :value="area.seats"
            v-bind="length.field.value"
            @change="set({ seats: $event })"
          />
        </template>
      </div>
      <template v-if="area.kind !== 'stage'">
        <p
          class="small"
          data-testid="seats"
        >
          {{ phrase('site.placeInRow', { seats: seats.length, row: seats.at(-1)?.row ?? 0 }) }}
        </p>
        <div class="row">
          <NumberField
            class="count"
            :label="phrase('site.positions')"
            :value="count"
            v-bind="plainQuantity('', 1, 0)"
            @change="count = Math.round($event)"
          /><ActionButton
            size="small"
            severity="secondary"
            :label="phrase('site.spreadOverTheSeats')"
            @click="spread"
          />
        </div>
      </template>
    </div>
    <div class="section">
      <h3>{{ phrase('site.corners') }}</h3>
      <CornerTable
        :outline="area.outline"
        :what="phrase('site.theArea', { name: area.name })"
        @change="set({ outline: $event })"
      />
      <ActionButton
        size="small"
        severity="secondary"
        :label="phrase('site.removeArea')"
        @click="remove"
      />
    </div>
  </div>
</template>

<style scoped>
.three {
  display: grid;
  grid-template-columns: 1fr 1fr 1fr;
  gap: 0.5rem;
}
.row {
  align-items: end;
}
.count {
  width: 90px;
}
p {
  margin: 0;
}
</style>
