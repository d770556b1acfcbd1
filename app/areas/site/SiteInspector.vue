<script setup lang="ts">
import { message } from '~~/core/words'
import { heightAt, isInside, pressureAt, rectangle, roomiest, type Corner, type Surface } from '~~/core/acoustics'
import { nextOrder, sides, type Area, type Plan, type Position, type Source } from '~~/core/documents'
import { endpointKey, endpointOf } from '~~/core/rig'
import { usePlan } from '~/document/usePlan'
import { plainQuantity } from '~~/core/units'
import { useSite } from '~/document/site'
import { useLength } from '~/document/useLength'
import { useView } from '~/document/view'
import { choicesOfNames } from '~/parts/choices'
import { useKeys } from '~/parts/keys'
import { useNotices } from '~/parts/notices'
import AreaEditor from './AreaEditor.vue'
import CornerTable from './CornerTable.vue'
import PositionEditor from './PositionEditor.vue'
import SourceEditor from './SourceEditor.vue'
import SurfacePicker from './SurfacePicker.vue'
import { phrase } from '~/parts/phrase'

const site = useSite()
const view = useView()
const keys = useKeys()
const length = useLength()
const plan = computed(() => site.plan)
const source = computed(() => site.sources.find(s => s.id === view.thing))
const position = computed(() => site.positions.find(p => p.id === view.thing))
const area = computed(() => site.areas.find(a => a.id === view.thing))
const edits = usePlan()
const sideNames = {
  front: phrase('site.stageWall'),
  back: phrase('site.backWall'),
  left: phrase('site.leftWall'),
  right: phrase('site.rightWall'),
  floor: phrase('site.floor'),
  ceiling: phrase('site.ceiling'),
}

const wallKinds = choicesOfNames({ rectangle: phrase('site.rectangle'), corners: phrase('site.byTheirCorners') })
const setRoom = (change: Partial<Plan['room']>) => edits.setRoom(change)
/** A room drawn by its corners grows with its size. */
function setSize(axis: 'x' | 'y' | 'z', value: number) {
  const { size, outline } = plan.value.room
  const stretched
    = outline && axis !== 'z'
      ? outline.map(c => ({ ...c, [axis]: Math.round((c[axis] / size[axis]) * value * 1e4) / 1e4 }))
      : outline
  void setRoom({ size: { ...size, [axis]: value }, outline: stretched })
}
function setOutline(outline: Corner[] | null) {
  const far = (a: 'x' | 'y') => (outline ? Math.max(...outline.map(c => c[a])) : plan.value.room.size[a])
  void setRoom({ outline, size: { ...plan.value.room.size, x: far('x'), y: far('y') } })
  view.thing = outline ? 'room' : null
}
const setAir = (which: 'air' | 'airLater', change: Partial<Plan['air']>) => {
  for (const [field, value] of Object.entries(change)) void edits.set(`/${which}/${field}`, value)
}

const free = (list: { id: string }[], base: string) => {
  let n = list.length + 1
  while (list.some(x => x.id === `${base}-${n}`)) n++
  return n
}
/** Behind everything that is there. */
const tidy = (v: number) => Math.round(v * 10) / 10
/** `usual`, or where there is most room if that lies outside the walls. */
const middleOf = (usual: Corner): Corner =>
  !plan.value.room.outline || isInside(plan.value.room.outline, usual) ? usual : roomiest(plan.value.room.outline)
const notices = useNotices()
/** True while something new is on its way: nothing that is typed meanwhile may go to what was picked before. */
const adding = ref(false)
/** What was just added, and is to be named first. */
const fresh = ref<string | null>(null)
async function pickNew(id: string, add: Promise<boolean>) {
  adding.value = true
  const at = document.activeElement
  try {
    if (!(await add)) return
    const wentOn = document.activeElement !== at && document.activeElement !== document.body
    fresh.value = wentOn ? null : id
    view.thing = id
  }
  finally { adding.value = false }
}
async function addSource() {
  const n = free(site.sources, 'source')
  const { size } = plan.value.room
  const used = new Set(Object.values(site.wiring.drives).map(endpointKey))
  const amplified = Object.keys(site.wiring.cables).map(endpointOf)
    .filter(o => site.deviceOf(o.device)?.capability.kind === 'amplifier')
  const output = amplified.find(o => !used.has(endpointKey(o)))
  const made: Source = {
    id: `source-${n}`,
    name: phrase('site.source', { n }),
    order: nextOrder(site.sources),
    hue: site.sources.length % 8,
    elements: [
      {
        sheet: 'top-12',
        place: { ...middleOf({ x: Math.min(2, size.x / 4), y: size.y / 2 }), z: Math.min(3, size.z * 0.6) },
        aim: { turn: 0, tilt: 10 },
      },
    ],
  }
  await pickNew(made.id, edits.addSource(made, output))
  if (!output && site.devices.length) {
    notices.say('info', message('source.noOutput', { source: made.name }))
  }
}
async function addPosition() {
  const n = free(site.positions, 'position')
  const { size } = plan.value.room
  const made: Position = {
    id: `position-${n}`,
    name: phrase('site.position', { n }),
    place: { ...middleOf({ x: tidy(size.x * 0.6), y: size.y / 2 }), z: Math.min(1.2, size.z / 2) },
    order: nextOrder(site.positions),
    weight: 1,
    dash: site.positions.length % 5,
  }
  await pickNew(made.id, edits.addPosition(made))
}
async function addArea() {
  const n = free(site.areas, 'area')
  const { size } = plan.value.room
  const walls = plan.value.room.outline ?? rectangle(size.x, size.y)
  const middle = plan.value.room.outline ? roomiest(walls) : { x: size.x * 0.6, y: size.y / 2 }
  /** As large as fits between the walls. */
  const block = (part: number) =>
    [
      [-0.25, -0.35],
      [0.25, -0.35],
      [0.25, 0.35],
      [-0.25, 0.35],
    ].map(([x, y]) => ({ x: tidy(middle.x + x! * size.x * part), y: tidy(middle.y + y! * size.y * part) }))
  const outline = [1, 0.8, 0.6, 0.4, 0.2].map(block).find(o => o.every(c => isInside(walls, c))) ?? block(0.1)
  const made: Area = {
    id: `area-${n}`,
    name: phrase('site.area2', { n }),
    order: nextOrder(site.areas),
    kind: 'seating',
    outline,
    floor: 0,
    rear: 0,
    rows: 1,
    seats: 0.6,
    ear: 1.2,
  }
  await pickNew(made.id, edits.addArea(made))
}
</script>

<template>
  <div data-testid="site-inspector">
    <div class="section">
      <div class="three">
        <ActionButton
          size="small"
          severity="secondary"
          :label="phrase('site.addSource')"
          @click="addSource"
        />
        <ActionButton
          size="small"
          severity="secondary"
          :label="phrase('site.addPosition')"
          @click="addPosition"
        />
        <ActionButton
          size="small"
          severity="secondary"
          :label="phrase('site.addArea')"
          @click="addArea"
        />
      </div>
      <div class="row apart">
        <ActionButton
          size="small"
          text
          :label="phrase('common.undo')"
          :title="phrase('site.undo', { sign: keys.sign('undo') })"
          @click="site.undo()"
        /><ActionButton
          size="small"
          text
          :label="phrase('common.redo')"
          :title="phrase('site.redo', { sign: keys.sign('redo') })"
          @click="site.redo()"
        />
      </div>
    </div>
    <p
      v-if="adding"
      class="section soft"
    >
      {{ phrase('site.adding') }}
    </p>
    <SourceEditor
      v-else-if="source"
      :key="source.id"
      :source="source"
      :fresh="fresh === source.id"
    />
    <PositionEditor
      v-else-if="position"
      :key="position.id"
      :position="position"
      :fresh="fresh === position.id"
    />
    <AreaEditor
      v-else-if="area"
      :key="area.id"
      :area="area"
      :fresh="fresh === area.id"
    />
    <template v-else>
      <div class="section">
        <h2>{{ phrase('site.room') }}</h2>
        <div class="three">
          <NumberField
            :label="phrase('common.length')"
            :value="plan.room.size.x"
            v-bind="length.field.value"
            @change="setSize('x', $event)"
          />
          <NumberField
            :label="phrase('common.width')"
            :value="plan.room.size.y"
            v-bind="length.field.value"
            @change="setSize('y', $event)"
          />
          <NumberField
            :label="phrase('site.height')"
            :value="plan.room.size.z"
            v-bind="length.field.value"
            @change="setSize('z', $event)"
          />
        </div>
        <ChoiceField
          :label="phrase('site.walls')"
          layout="beside"
          :value="plan.room.outline ? 'corners' : 'rectangle'"
          :options="wallKinds"
          @change="setOutline($event === 'corners' ? rectangle(plan.room.size.x, plan.room.size.y) : null)"
        />
        <template v-if="plan.room.outline">
          <CornerTable
            :outline="plan.room.outline"
            :what="phrase('site.theRoom')"
            @change="setOutline"
          />
          <p
            v-if="view.thing !== 'room'"
            class="small"
          >
            <button
              class="plain"
              @click="view.thing = 'room'"
            >
              <u>{{ phrase('site.dragTheCornersIn') }}</u>
            </button>
          </p>
        </template>
        <SurfacePicker
          v-for="s in sides"
          :key="s"
          :label="sideNames[s]"
          :surface="plan.room.surfaces[s]"
          @change="(surface: Surface) => edits.set(`/room/surfaces/${s}`, surface)"
        />
        <p
          v-if="plan.room.outline"
          class="small soft"
        >
          {{ phrase('site.angledWallsUseThe') }}
        </p>
      </div>
      <div
        v-for="which in ['air', 'airLater'] as const"
        :key="which"
        class="section"
      >
        <h2>{{ which === 'air' ? phrase('site.airNow') : phrase('site.airAtShowTime') }}</h2>
        <div class="three">
          <NumberField
            :label="phrase('site.temperature')"
            :value="plan[which].temperature"
            v-bind="plainQuantity('°C', 0.5, 1)"
            @change="setAir(which, { temperature: $event })"
          />
          <NumberField
            :label="phrase('site.humidity')"
            :value="plan[which].humidity"
            v-bind="plainQuantity('%', 1, 0)"
            @change="setAir(which, { humidity: $event })"
          />
          <NumberField
            :label="phrase('site.pressure')"
            :value="plan[which].pressure"
            v-bind="plainQuantity('kPa', 0.1, 1)"
            @change="setAir(which, { pressure: $event })"
          />
          <NumberField
            :label="phrase('site.orAltitude')"
            :value="Math.round(heightAt(plan[which].pressure))"
            v-bind="length.field.value"
            @change="setAir(which, { pressure: Math.round(pressureAt($event) * 100) / 100 })"
          />
        </div>
      </div>
      <p class="section soft small">
        {{ phrase('site.clickAnythingInThe') }}
      </p>
    </template>
  </div>
</template>

<style scoped>
.three {
  display: grid;
  grid-template-columns: 1fr 1fr 1fr;
  gap: 0.5rem;
}
.three :deep(button) {
  padding-inline: 0.3rem;
  white-space: nowrap;
}
.labelled {
  display: grid;
  grid-template-columns: 84px 1fr;
  align-items: center;
}
p {
  margin: 0;
}
</style>
