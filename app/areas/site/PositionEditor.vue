<script setup lang="ts">
import { seatsOf, type Position } from '~~/core/documents'
import { usePlan } from '~/document/usePlan'
import { plainQuantity } from '~~/core/units'
import { useSite } from '~/document/site'
import { useLength } from '~/document/useLength'
import { useView } from '~/document/view'
import { phrase } from '~/parts/phrase'

const props = defineProps<{ position: Position, fresh?: boolean }>()
const site = useSite()
const view = useView()
const length = useLength()
const plan = usePlan()
const set = (change: Partial<Position>) => void plan.setPosition(props.position.id, change)
/** The seat that the microphone stands on, where it stands on one. */
const seat = computed(() =>
  site.areas.flatMap(area => seatsOf(area).map(s => ({ ...s, area })))
    .find(s => Math.hypot(s.place.x - props.position.place.x, s.place.y - props.position.place.y) < 0.05),
)
const areas = computed(() => site.areas.filter(a => a.kind !== 'stage'))
/** To the seat of that row and number in the same area, or as near as the row has one. */
function sit(areaId: string, row: number, number: number) {
  const all = seatsOf(areas.value.find(a => a.id === areaId)!)
  const inRow = all.filter(s => s.row === Math.max(1, Math.min(all.at(-1)?.row ?? 1, Math.round(row))))
  const to = inRow[Math.max(0, Math.min(inRow.length - 1, Math.round(number) - 1))]
  if (to) set({ place: { ...to.place } })
}
async function remove() {
  if (await plan.removePosition(props.position.id)) view.thing = null
}
</script>

<template>
  <div class="section">
    <div class="row apart">
      <h2>{{ phrase('common.position') }}</h2>
      <ActionButton
        size="small"
        text
        :label="phrase('site.room')"
        @click="view.thing = null"
      />
    </div>
    <TextField
        :value="position.name"
        :label="phrase('common.name')"
        :maxlength="80"
        :autofocus="fresh"
        @change="set({ name: $event })"
      />
    <div class="three">
      <NumberField
        :label="phrase('site.along')"
        :value="position.place.x"
        v-bind="length.field.value"
        @change="set({ place: { ...position.place, x: $event } })"
      />
      <NumberField
        :label="phrase('site.across')"
        :value="position.place.y"
        v-bind="length.field.value"
        @change="set({ place: { ...position.place, y: $event } })"
      />
      <NumberField
        :label="phrase('site.height')"
        :value="position.place.z"
        v-bind="length.field.value"
        @change="set({ place: { ...position.place, z: $event } })"
      />
    </div>
    <div
      v-if="areas.length"
      class="three"
    >
      <ChoiceField
        :label="phrase('site.audienceArea')"
        :value="seat?.area.id ?? ''"
        :options="areas.map(a => ({ value: a.id, label: a.name }))"
        :placeholder="phrase('site.noArea')"
        @change="sit($event, 1, 1)"
      />
      <NumberField
        v-if="seat"
        :label="phrase('site.row')"
        :value="seat.row"
        v-bind="plainQuantity('', 1, 0)"
        @change="sit(seat!.area.id, $event, seat!.seat)"
      />
      <NumberField
        v-if="seat"
        :label="phrase('site.seat')"
        :value="seat.seat"
        v-bind="plainQuantity('', 1, 0)"
        @change="sit(seat!.area.id, seat!.row, $event)"
      />
    </div>
    <NumberField
      :label="phrase('site.weightInAverages')"
      :value="position.weight"
      v-bind="plainQuantity('', 0.1, 2)"
      @change="set({ weight: $event })"
    />
    <ActionButton
      size="small"
      severity="secondary"
      :label="phrase('site.removePosition')"
      @click="remove"
    />
  </div>
</template>

<style scoped>
.three {
  display: grid;
  grid-template-columns: 1fr 1fr 1fr;
  gap: 0.5rem;
}
</style>
