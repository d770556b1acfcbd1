<script setup lang="ts">
import {
  bounceDip,
  bounceOnAxis,
  boundaryPower,
  loudspeakerIds,
  loudspeakerKinds,
  nearSurfaces,
  speedOfSound,
  startShelf,
  type LoudspeakerId,
} from '~~/core/acoustics'
import { logGrid } from '~~/core/dsp'
import type { Element, Source } from '~~/core/rig'
import { showFrequency, showLevel } from '~~/core/units'
import { plainKind } from '../shape/fields'

const props = defineProps<{ source: Source }>()
const site = useSite()
const view = useView()
const length = useLength()
const first = computed(() => props.source.elements[0]!)
const degrees = plainKind('°', 1, 0)
const set = (change: Partial<Source>) =>
  void site.editPlan('source', props.source.id, props.source, { ...props.source, ...change })
/** All cabinets of a source move together: the first leads. */
function setAll(change: Partial<Element>, shift = { x: 0, y: 0, z: 0 }) {
  set({
    elements: props.source.elements.map(e => ({
      ...e,
      ...change,
      place: { x: e.place.x + shift.x, y: e.place.y + shift.y, z: e.place.z + shift.z },
    })),
  })
}
const moveTo = (axis: 'x' | 'y' | 'z', value: number) =>
  setAll({}, { x: 0, y: 0, z: 0, [axis]: value - first.value.place[axis] })
const spacing = computed(() =>
  props.source.elements.length > 1 ? props.source.elements[1]!.place.y - first.value.place.y : 1,
)
const arrange = (count: number, step: number) =>
  set({
    elements: Array.from({ length: Math.max(1, Math.min(64, Math.round(count))) }, (_, n) => ({
      ...(props.source.elements[n] ?? first.value),
      place: { ...first.value.place, y: Math.round((first.value.place.y + n * step) * 100) / 100 },
    })),
  })

const outputs = computed(() =>
  site.site!.devices.flatMap(d =>
    Array.from({ length: d.capability.outputs.count }, (_, channel) => ({
      id: `${d.id}:${channel}`,
      name: `${d.name.split(' (')[0]} out ${channel + 1}`,
    })),
  ),
)
function setOutput(id: string) {
  const at = id.lastIndexOf(':')
  setAll({ output: { device: id.slice(0, at), channel: Number(id.slice(at + 1)) } })
}
async function remove() {
  if (await site.editPlan('source', props.source.id, props.source, null)) view.thing = null
}

const c = computed(() => speedOfSound(site.site!.plan.air.temperature))
const near = computed(() => nearSurfaces(site.site!.plan.room, first.value.place))
const distances = computed(() => near.value.map(s => s.distance))
const shelf = computed(() => startShelf(distances.value, c.value))
const grid = logGrid(24, 20, 500)
const path = (level: (f: number) => number) =>
  Array.from(
    grid,
    (f, k) =>
      `${k ? 'L' : 'M'}${((k / (grid.length - 1)) * 290).toFixed(1)} ${(60 - Math.max(-15, Math.min(12, level(f))) * 4).toFixed(1)}`,
  ).join('')
const power = computed(() => path(f => boundaryPower(distances.value, f, c.value)))
const axis = computed(() => path(f => bounceOnAxis(distances.value, f, c.value)))
</script>

<template>
  <div>
    <div class="section">
      <div class="row apart">
        <h2>Source</h2>
        <Button
          size="small"
          text
          label="To the room"
          @click="view.thing = null"
        />
      </div>
      <label class="name"><span class="small soft">Name</span><input
        class="text"
        :value="source.name"
        aria-label="Name"
        @change="set({ name: ($event.target as HTMLInputElement).value })"
      ></label>
      <label class="name"><span class="small soft">Kind</span><select
        :value="first.model"
        aria-label="Kind"
        @change="setAll({ model: ($event.target as HTMLSelectElement).value as LoudspeakerId })"
      >
        <option
          v-for="k in loudspeakerIds"
          :key="k"
          :value="k"
        >{{ loudspeakerKinds[k].name }}</option>
      </select></label>
      <label class="name"><span class="small soft">Driven by</span><select
        :value="`${first.output.device}:${first.output.channel}`"
        aria-label="Driven by"
        @change="setOutput(($event.target as HTMLSelectElement).value)"
      >
        <option
          v-for="o in outputs"
          :key="o.id"
          :value="o.id"
        >{{ o.name }}</option>
      </select></label>
      <div class="three">
        <NumberField
          label="Along"
          :value="first.place.x"
          v-bind="length.field.value"
          @change="moveTo('x', $event)"
        />
        <NumberField
          label="Across"
          :value="first.place.y"
          v-bind="length.field.value"
          @change="moveTo('y', $event)"
        />
        <NumberField
          label="Height"
          :value="first.place.z"
          v-bind="length.field.value"
          @change="moveTo('z', $event)"
        />
        <NumberField
          label="Turn"
          :value="first.aim.turn"
          v-bind="degrees"
          @change="setAll({ aim: { ...first.aim, turn: $event } })"
        />
        <NumberField
          label="Tilt down"
          :value="first.aim.tilt"
          v-bind="degrees"
          @change="setAll({ aim: { ...first.aim, tilt: $event } })"
        />
      </div>
      <div class="three">
        <NumberField
          label="Cabinets"
          :value="source.elements.length"
          v-bind="plainKind('', 1, 0)"
          @change="arrange($event, spacing)"
        />
        <NumberField
          v-if="source.elements.length > 1"
          label="Spacing"
          :value="spacing"
          v-bind="length.field.value"
          @change="arrange(source.elements.length, $event)"
        />
      </div>
      <Button
        size="small"
        severity="secondary"
        label="Remove source"
        @click="remove"
      />
    </div>
    <div class="section">
      <h2>Near surfaces</h2>
      <p
        v-for="s in near"
        :key="s.name"
        class="small"
      >
        {{ s.name }} {{ length.show(s.distance)
        }}<template v-if="s.distance > 0.05">
          : first dip at {{ showFrequency(Math.round(bounceDip(s.distance, c))) }}
        </template>
      </p>
      <svg
        v-if="near.length"
        viewBox="-30 0 330 140"
        role="img"
        aria-label="What the near surfaces add, in dB over frequency"
      >
        <g
          v-for="db in [12, 6, 0, -6, -12]"
          :key="db"
        >
          <line
            x1="0"
            x2="290"
            :y1="60 - 4 * db"
            :y2="60 - 4 * db"
            class="rule"
          />
          <text
            x="-4"
            :y="64 - 4 * db"
            text-anchor="end"
          >{{ `${db}`.replace('-', '−') }}</text>
        </g>
        <text
          v-for="f in [20, 50, 100, 200, 500]"
          :key="f"
          :x="(Math.log(f / 20) / Math.log(25)) * 290"
          y="132"
          text-anchor="middle"
        >
          {{ f }}
        </text>
        <path
          :d="axis"
          class="axis"
        />
        <path
          :d="power"
          class="power"
        />
      </svg>
      <p
        v-if="near.length"
        class="small soft"
      >
        dB over Hz. Strong line: power into the room. Thin line: straight in front, as hard as it gets.
      </p>
      <p
        class="sentence"
        data-testid="boundary"
      >
        {{
          shelf
            ? `The surfaces lift the lows: begin with a low shelf of ${showLevel(shelf.gain)} at ${shelf.frequency} Hz. Dips are reflections: leave them.`
            : 'No surface near enough to lift the lows.'
        }}
      </p>
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
p {
  margin: 0;
}
svg {
  width: 100%;
  background: var(--paper);
}
svg text {
  font:
    11px 'Atkinson Hyperlegible Mono Variable',
    monospace;
  fill: var(--ink-soft);
}
.rule {
  stroke: var(--rule);
}
.power {
  stroke: var(--accent);
  stroke-width: 2.2;
  fill: none;
}
.axis {
  stroke: var(--ink-soft);
  stroke-width: 1;
  fill: none;
}
</style>
