<script setup lang="ts">
import {
  bounceAt,
  boundaryPower,
  firstDips,
  nearSurfaces,
  speedOfSound,
  startShelf,
} from '~~/core/acoustics'
import { logGrid } from '~~/core/dsp'
import { roles, rolesOf, type Element, type Source, type SourceRole } from '~~/core/documents'
import { drivesOf } from '~~/core/rig'
import { plainQuantity, showLevel } from '~~/core/units'
import { sayRange } from './sayRange'
import { usePlan } from '~/document/usePlan'
import { useSite } from '~/document/site'
import { useLength } from '~/document/useLength'
import { useView } from '~/document/view'
import { choicesOfCodes } from '~/parts/choices'
import { phrase } from '~/parts/phrase'

const props = defineProps<{ source: Source, fresh?: boolean }>()
const site = useSite()
const view = useView()
const length = useLength()
const first = computed(() => props.source.elements[0]!)
const degrees = plainQuantity('°', 1, 0)
const plan = usePlan()
const setElements = (elements: Element[]) => void plan.setElements(props.source, elements)
/** All cabinets of a source move together: the first leads. */
function setAll(change: Partial<Element>, shift = { x: 0, y: 0, z: 0 }) {
  const tidy = (v: number) => Math.round(v * 1e4) / 1e4
  setElements(props.source.elements.map(e => ({
    ...e,
    ...change,
    place: { x: tidy(e.place.x + shift.x), y: tidy(e.place.y + shift.y), z: tidy(e.place.z + shift.z) },
  })))
}
const moveTo = (axis: 'x' | 'y' | 'z', value: number) =>
  setAll({}, { x: 0, y: 0, z: 0, [axis]: value - first.value.place[axis] })
const spacing = computed(() =>
  props.source.elements.length > 1 ? props.source.elements[1]!.place.y - first.value.place.y : 1,
)
const arrange = (count: number, step: number) =>
  setElements(Array.from({ length: Math.max(1, Math.min(64, Math.round(count))) }, (_, n) => ({
    ...(props.source.elements[n] ?? first.value),
    place: { ...first.value.place, y: Math.round((first.value.place.y + n * step) * 100) / 100 },
  })))

const outputs = computed(() =>
  site.devices.flatMap(d =>
    d.capability.outputs.map((_, channel) => ({
      id: `${d.id}:${channel}`,
      name: phrase('site.out', { device: d.name.split(' (')[0]!, channel: channel + 1 }),
    })),
  ),
)
/** Each band of the first cabinet, with what drives it; the others of a source go alike. */
const bands = computed(() => {
  const drives = drivesOf(site.wiring, props.source.id).filter(d => d.element === 0)
  return (site.sheetOf(first.value.sheet)?.bands ?? []).map((b, _, all) => {
    const output = drives.find(d => d.band === b.id)?.output
    const by = output ? `${output.device}:${output.channel}` : ''
    return { id: b.id, label: all.length > 1
      ? phrase('site.drivenBy', {
          name: b.name,
        })
      : phrase('site.drivenBy2'), by }
  })
})
function setOutput(band: string, id: string) {
  const at = id.lastIndexOf(':')
  void plan.setDrive(props.source, band, { device: id.slice(0, at), channel: Number(id.slice(at + 1)) })
}
async function remove() {
  if (await plan.removeSource(props.source)) view.thing = null
}

const c = computed(() => speedOfSound(site.plan.air))
const near = computed(() => nearSurfaces(site.plan.room, first.value.place))
const distances = computed(() => near.value.map(s => s.distance))
const plays = computed(() => {
  const bands = site.sheetOf(first.value.sheet)?.bands ?? []
  return bands.length ? [Math.min(...bands.map(b => b.low)), Math.max(...bands.map(b => b.high))] as const : undefined
})
const shelf = computed(() => startShelf(distances.value, c.value, plays.value))
/** Where the microphone stands that the thin line is drawn for: the picked position, or the first. */
const heardAt = computed(() => site.positions.find(p => p.id === view.cell?.position) ?? site.positions[0])
const dips = computed(() => near.value.map((s) => {
  const found = firstDips(s, first.value.place, site.positions.map(p => p.place), c.value)
  return found && sayRange(found)
}))
const grid = logGrid(24, 20, 500)
const path = (level: (f: number) => number) =>
  Array.from(
    grid,
    (f, k) =>
      `${k ? 'L' : 'M'}${((k / (grid.length - 1)) * 290).toFixed(1)} `
      + (60 - Math.max(-15, Math.min(12, level(f))) * 4).toFixed(1),
  ).join('')
const power = computed(() => path(f => boundaryPower(distances.value, f, c.value)))
const axis = computed(() => heardAt.value
  && path(f => bounceAt(near.value, first.value.place, heardAt.value!.place, f, c.value)))
/** What it is for: found from its kind and place, unless it is told. */
const parts = computed<{ value: SourceRole | '', label: string }[]>(() => {
  const untold = site.sources.map(({ role: _, ...s }) => s)
  const found = rolesOf(untold, site.sheets, site.areas)[props.source.id]!
  return [{ value: '', label: phrase('site.asFound', {
    role: phrase(roles[found]).toLowerCase(),
  }) }, ...choicesOfCodes(roles)]
})
</script>

<template>
  <div>
    <div class="section">
      <div class="row apart">
        <h2>{{ phrase('common.source') }}</h2>
        <ActionButton
          size="small"
          text
          :label="phrase('site.room')"
          @click="view.thing = null"
        />
      </div>
      <TextField
        :value="source.name"
        :label="phrase('common.name')"
        :maxlength="80"
        :autofocus="fresh"
        @change="plan.setSource(source.id, { name: $event })"
      />
      <ChoiceField
        :label="phrase('common.kind')"
        :value="first.sheet"
        :options="site.sheets.map(k => ({ value: k.id, label: k.name }))"
        @change="setAll({ sheet: $event })"
      />
      <ChoiceField
        :label="phrase('site.role')"
        :value="source.role ?? ''"
        :options="parts"
        @change="plan.setSource(source.id, { role: $event === '' ? undefined : $event })"
      />
      <ChoiceField
        v-for="b in bands"
        :key="b.id"
        :label="b.label"
        :value="b.by"
        :placeholder="phrase('site.nothingItIsSilent')"
        :options="outputs.map(o => ({ value: o.id, label: o.name }))"
        @change="setOutput(b.id, $event)"
      />
      <div class="three">
        <NumberField
          :label="phrase('site.along')"
          :value="first.place.x"
          v-bind="length.field.value"
          @change="moveTo('x', $event)"
        />
        <NumberField
          :label="phrase('site.across')"
          :value="first.place.y"
          v-bind="length.field.value"
          @change="moveTo('y', $event)"
        />
        <NumberField
          :label="phrase('site.height')"
          :value="first.place.z"
          v-bind="length.field.value"
          @change="moveTo('z', $event)"
        />
        <NumberField
          :label="phrase('site.azimuth')"
          :value="first.aim.turn"
          v-bind="degrees"
          @change="setAll({ aim: { ...first.aim, turn: $event } })"
        />
        <NumberField
          :label="phrase('site.downTilt')"
          :value="first.aim.tilt"
          v-bind="degrees"
          @change="setAll({ aim: { ...first.aim, tilt: $event } })"
        />
      </div>
      <div class="three">
        <NumberField
          :label="phrase('site.cabinets')"
          :value="source.elements.length"
          v-bind="plainQuantity('', 1, 0)"
          @change="arrange($event, spacing)"
        />
        <NumberField
          v-if="source.elements.length > 1"
          :label="phrase('site.spacing')"
          :value="spacing"
          v-bind="length.field.value"
          @change="arrange(source.elements.length, $event)"
        />
      </div>
      <ActionButton
        size="small"
        severity="secondary"
        :label="phrase('site.removeSource')"
        @click="remove"
      />
    </div>
    <div class="section">
      <h2>{{ phrase('site.nearSurfaces') }}</h2>
      <p
        v-for="(s, k) in near"
        :key="s.name"
        class="small"
      >
        {{ s.name }} {{ length.show(s.distance)
        }}<template v-if="dips[k]">
          {{ phrase('site.firstDip', { dips: dips[k] }) }}
        </template>
      </p>
      <svg
        v-if="near.length"
        viewBox="-30 0 330 140"
        role="img"
        :aria-label="phrase('site.whatTheNearSurfaces')"
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
          v-if="axis"
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
        {{ phrase('site.dbOverHzStrong') }}<template v-if="heardAt">
          {{ phrase('site.thinLineAtWorst', { name: heardAt.name }) }}
        </template>
      </p>
      <p
        class="sentence"
        data-testid="boundary"
      >
        {{
          shelf
            ? phrase('site.theSurfacesLiftThe', { gain: showLevel(shelf.gain), frequency: shelf.frequency })
            : phrase('site.noSurfaceNearEnough')
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
