<script setup lang="ts">
import type { Position } from '~~/core/rig'
import { plainKind } from '../shape/fields'

const props = defineProps<{ position: Position }>()
const site = useSite(), view = useView()
const set = (change: Partial<Position>) => void site.editPlan('position', props.position.id, props.position, { ...props.position, ...change })
const metres = plainKind('m', 0.1, 2)
async function remove() {
  if (await site.editPlan('position', props.position.id, props.position, null)) view.thing = null
}
</script>

<template>
  <div class="section">
    <div class="row apart"><h2>Position</h2><Button size="small" text label="To the room" @click="view.thing = null" /></div>
    <label class="name"><span class="small soft">Name</span><input class="text" :value="position.name" aria-label="Name" @change="set({ name: ($event.target as HTMLInputElement).value })"></label>
    <div class="three">
      <NumberField label="Along" :value="position.place.x" v-bind="metres" @change="set({ place: { ...position.place, x: $event } })" />
      <NumberField label="Across" :value="position.place.y" v-bind="metres" @change="set({ place: { ...position.place, y: $event } })" />
      <NumberField label="Height" :value="position.place.z" v-bind="metres" @change="set({ place: { ...position.place, z: $event } })" />
    </div>
    <NumberField label="Weight in averages" :value="position.weight" v-bind="plainKind('', 0.1, 2)" @change="set({ weight: $event })" />
    <Button size="small" severity="secondary" label="Remove position" @click="remove" />
  </div>
</template>

<style scoped>
.three { display: grid; grid-template-columns: 1fr 1fr 1fr; gap: 0.5rem; }
.name { display: grid; gap: 0.1rem; }
</style>
