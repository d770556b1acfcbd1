<script setup lang="ts">
import { areaKinds, seatsOf, spreadSeats, type Area, type Position } from '~~/core/rig'
import { plainKind } from '../shape/fields'

const props = defineProps<{ area: Area }>()
const site = useSite()
const view = useView()
const length = useLength()
const plan = computed(() => site.site!.plan)
const set = (change: Partial<Area>) =>
  void site.editPlan('plan', 'plan', plan.value, {
    ...plan.value,
    areas: plan.value.areas.map(a => (a.id === props.area.id ? { ...a, ...change } : a)),
  })
async function remove() {
  if (
    await site.editPlan('plan', 'plan', plan.value, {
      ...plan.value,
      areas: plan.value.areas.filter(a => a.id !== props.area.id),
    })
  )
    view.thing = null
}
const seats = computed(() => seatsOf(props.area))
const count = ref(6)
/** Positions spread evenly over the seats; those that exist stay. */
async function spread() {
  const list = site.site!.positions
  for (const [n, seat] of spreadSeats(props.area, Math.max(1, Math.min(24, count.value))).entries()) {
    let k = list.length + n + 1
    while (site.site!.positions.some(p => p.id === `position-${k}`)) k++
    const made: Position = {
      id: `position-${k}`,
      name: `${props.area.name} ${seat.row}-${seat.seat}`.slice(0, 80),
      place: { ...seat.place },
      weight: 1,
      dash: k % 5,
    }
    if (!(await site.editPlan('position', made.id, null, made))) return
  }
}
</script>

<template>
  <div>
    <div class="section">
      <div class="row apart">
        <h2>Area</h2>
        <Button
          size="small"
          text
          label="To the room"
          @click="view.thing = null"
        />
      </div>
      <label class="name"><span class="small soft">Name</span><input
        class="text"
        :value="area.name"
        aria-label="Name"
        @change="set({ name: ($event.target as HTMLInputElement).value })"
      ></label>
      <label class="name"><span class="small soft">Kind</span><select
        :value="area.kind"
        aria-label="Kind"
        @change="set({ kind: ($event.target as HTMLSelectElement).value as Area['kind'] })"
      >
        <option
          v-for="(word, k) in areaKinds"
          :key="k"
          :value="k"
        >{{ word }}</option>
      </select></label>
      <div class="three">
        <NumberField
          label="Floor, front"
          :value="area.floor"
          v-bind="length.field.value"
          @change="set(area.floor === area.rear ? { floor: $event, rear: $event } : { floor: $event })"
        />
        <NumberField
          label="Floor, back"
          :value="area.rear"
          v-bind="length.field.value"
          @change="set({ rear: $event })"
        />
        <template v-if="area.kind !== 'stage'">
          <NumberField
            label="Ears at"
            :value="area.ear"
            v-bind="length.field.value"
            @change="set({ ear: $event })"
          />
          <NumberField
            label="Rows every"
            :value="area.rows"
            v-bind="length.field.value"
            @change="set({ rows: $event })"
          />
          <NumberField
            label="Seats every"
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
          {{ seats.length }} places in {{ seats.length ? seats[seats.length - 1]!.row : 0 }} rows
        </p>
        <div class="row">
          <NumberField
            class="count"
            label="Positions"
            :value="count"
            v-bind="plainKind('', 1, 0)"
            @change="count = Math.round($event)"
          /><Button
            size="small"
            severity="secondary"
            label="Spread over the seats"
            @click="spread"
          />
        </div>
      </template>
    </div>
    <div class="section">
      <h3>Corners</h3>
      <CornerTable
        :outline="area.outline"
        @change="set({ outline: $event })"
      />
      <Button
        size="small"
        severity="secondary"
        label="Remove area"
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
.name {
  display: grid;
  gap: 0.1rem;
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
