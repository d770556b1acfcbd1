<script setup lang="ts">
import { heightAt, materials, materialIds, pressureAt } from '~~/core/acoustics'
import { sides, type Position, type SitePlan, type Source, type Surface } from '~~/core/rig'
import { plainKind } from '../shape/fields'

const site = useSite(), view = useView()
const plan = computed(() => site.site!.plan)
const source = computed(() => site.site!.sources.find(s => s.id === view.thing))
const position = computed(() => site.site!.positions.find(p => p.id === view.thing))
const sideNames = { front: 'Stage wall', back: 'Back wall', left: 'Left wall', right: 'Right wall', floor: 'Floor', ceiling: 'Ceiling' }
const metres = plainKind('m', 0.1, 2)

const setPlan = (change: Partial<SitePlan>) => void site.editPlan('plan', 'plan', plan.value, { ...plan.value, ...change })
const setSize = (axis: 'x' | 'y' | 'z', value: number) => setPlan({ room: { ...plan.value.room, size: { ...plan.value.room.size, [axis]: value } } })
const setSurface = (side: typeof sides[number], surface: string) => setPlan({ room: { ...plan.value.room, surfaces: { ...plan.value.room.surfaces, [side]: surface as Surface } } })
const setAir = (which: 'air' | 'airLater', change: Partial<SitePlan['air']>) => setPlan({ [which]: { ...plan.value[which], ...change } })

const free = (list: { id: string }[], base: string) => { let n = list.length + 1; while (list.some(x => x.id === `${base}-${n}`)) n++; return n }
async function addSource() {
  const n = free(site.site!.sources, 'source'), { size } = plan.value.room
  const used = site.site!.sources.flatMap(s => s.elements.map(e => `${e.output.device}:${e.output.channel}`))
  const output = site.site!.plan.wires.filter(w => w.from.device !== site.site!.plan.feed.device).map(w => w.to).find(o => !used.includes(`${o.device}:${o.channel}`)) ?? { device: 'processor', channel: 0 }
  const made: Source = { id: `source-${n}`, name: `Source ${n}`, hue: site.site!.sources.length % 8, elements: [{ model: 'top-12', place: { x: Math.min(2, size.x / 4), y: size.y / 2, z: Math.min(3, size.z * 0.6) }, aim: { turn: 0, tilt: 10 }, output }] }
  if (await site.editPlan('source', made.id, null, made)) view.thing = made.id
}
async function addPosition() {
  const n = free(site.site!.positions, 'position'), { size } = plan.value.room
  const made: Position = { id: `position-${n}`, name: `Position ${n}`, place: { x: Math.round(size.x * 6) / 10, y: size.y / 2, z: Math.min(1.2, size.z / 2) }, weight: 1, dash: site.site!.positions.length % 5 }
  if (await site.editPlan('position', made.id, null, made)) view.thing = made.id
}
</script>

<template>
  <div data-testid="site-inspector">
    <div class="section">
      <div class="two">
        <Button size="small" severity="secondary" label="Add source" @click="addSource" />
        <Button size="small" severity="secondary" label="Add position" @click="addPosition" />
      </div>
      <Button size="small" text label="Undo the last change of the plan" @click="site.undoPlan()" />
    </div>
    <SourceEditor v-if="source" :key="source.id" :source="source" />
    <PositionEditor v-else-if="position" :key="position.id" :position="position" />
    <template v-else>
      <div class="section">
        <h2>Room</h2>
        <div class="three">
          <NumberField label="Length" :value="plan.room.size.x" v-bind="metres" @change="setSize('x', $event)" />
          <NumberField label="Width" :value="plan.room.size.y" v-bind="metres" @change="setSize('y', $event)" />
          <NumberField label="Height" :value="plan.room.size.z" v-bind="metres" @change="setSize('z', $event)" />
        </div>
        <label v-for="s in sides" :key="s" class="labelled"><span class="small soft">{{ sideNames[s] }}</span>
          <select :value="typeof plan.room.surfaces[s] === 'string' ? plan.room.surfaces[s] : ''" :aria-label="sideNames[s]" @change="setSurface(s, ($event.target as HTMLSelectElement).value)">
            <option v-if="typeof plan.room.surfaces[s] !== 'string'" value="" disabled>own absorption</option>
            <option v-for="m in materialIds" :key="m" :value="m">{{ materials[m].name }}</option>
          </select>
        </label>
      </div>
      <div v-for="which in (['air', 'airLater'] as const)" :key="which" class="section">
        <h2>{{ which === 'air' ? 'Air now' : 'Air at show time' }}</h2>
        <div class="three">
          <NumberField label="Temperature" :value="plan[which].temperature" v-bind="plainKind('°C', 0.5, 1)" @change="setAir(which, { temperature: $event })" />
          <NumberField label="Humidity" :value="plan[which].humidity" v-bind="plainKind('%', 1, 0)" @change="setAir(which, { humidity: $event })" />
          <NumberField label="Pressure" :value="plan[which].pressure" v-bind="plainKind('kPa', 0.1, 1)" @change="setAir(which, { pressure: $event })" />
          <NumberField label="or height" :value="heightAt(plan[which].pressure)" v-bind="plainKind('m', 10, 0)" @change="setAir(which, { pressure: Math.round(pressureAt($event) * 100) / 100 })" />
        </div>
      </div>
      <p class="section soft small">Click a loudspeaker or a position in the plan to edit it; drag to move it.</p>
    </template>
  </div>
</template>

<style scoped>
.two { display: grid; grid-template-columns: 1fr 1fr; gap: 0.5rem; }
.three { display: grid; grid-template-columns: 1fr 1fr 1fr; gap: 0.5rem; }
.labelled { display: grid; grid-template-columns: 84px 1fr; align-items: center; }
</style>
