<script setup lang="ts">
import { useElementSize } from '@vueuse/core'
import Konva from 'konva'
import { direction, rectangle, speedOfSound, type Corner, type Place } from '~~/core/acoustics'
import type { Area, Plan, Position, Source } from '~~/core/documents'
import { showNumber } from '~~/core/units'
import {
  areaShape,
  createLabels,
  drawMap,
  drawRoom,
  ink,
  toX,
  toY,
  type LevelMap,
  type PlanFrame,
} from './planDrawing'
import { useLength } from '~/document/useLength'
import { useView } from '~/document/view'
import { phrase } from '~/parts/phrase'

/**
 * The plan to scale, from above (x, y) or from the side (x, z). What can be moved is dragged; `snap` says where it may
 * come to rest.
 */
const props = defineProps<{
  side: 'above' | 'beside'
  plan: Plan
  areas: readonly Area[]
  sources: Source[]
  positions: Position[]
  picked: string | null
  map: LevelMap | null
  measuring: boolean
  snap: (what: 'source' | 'position' | 'corner', place: Place) => Place
}>()
const emit = defineEmits<{
  pick: [key: string | null]
  move: [what: 'source' | 'position', id: string, element: number, place: Place]
  /** New corners of the room ('room') or of an area. */
  reshape: [key: string, outline: Corner[]]
  measured: [text: string]
}>()

const view = useView()
const length = useLength()
const host = useTemplateRef('host')
const { width, height } = useElementSize(host)
let stage: Konva.Stage | null = null
/** Where the stage wall's corner lies on the picture that is drawn, in px, and px of a metre. */
const drawn = ref('')
const margin = { left: 38, right: 16, top: 26, bottom: 26 }
const frame = computed<PlanFrame>(() => {
  const { size } = props.plan.room
  const across = props.side === 'above' ? size.y : size.z
  return {
    side: props.side,
    room: props.plan.room,
    left: margin.left,
    top: margin.top,
    scale: Math.max(
      1,
      Math.min(
        (width.value - margin.left - margin.right) / size.x,
        (height.value - margin.top - margin.bottom) / across,
      ),
    ),
  }
})

/** Where a point of the canvas lies in the room; what this view does not show stays as it `was`. */
function placeAt(point: { x: number, y: number }, was: Place): Place {
  const f = frame.value
  const along = (point.x - f.left) / f.scale
  const other = (point.y - f.top) / f.scale
  return f.side === 'above' ? { ...was, x: along, y: other } : { ...was, x: along, z: f.room.size.z - other }
}

function makeDraggable(
  node: Konva.Node,
  key: string,
  was: Place,
  what: 'source' | 'position' | 'corner',
  done: (place: Place) => void,
) {
  const at = () => props.snap(what, placeAt(node.position(), was))
  node.draggable(!props.measuring)
  node.on('dragstart', (event) => {
    event.cancelBubble = true
  })
  node.on('dragmove', (event) => {
    event.cancelBubble = true
    const place = at()
    node.position({ x: toX(frame.value, place.x), y: toY(frame.value, place) })
  })
  node.on('dragend', (event) => {
    // picked only now: drawing anew in the middle of a drag would end it
    event.cancelBubble = true
    emit('pick', key)
    done(at())
  })
  pickable(node, key)
}
const nameOf = (key: string) =>
  [...props.sources, ...props.positions, ...props.areas].find(t => t.id === key)?.name ?? ''
function pickable(node: Konva.Node, key: string) {
  node.on('click tap', (event) => {
    if (!props.measuring) {
      event.cancelBubble = true
      emit('pick', key)
    }
  })
  node.on('mouseenter', () => {
    stage!.container().title = nameOf(key)
    if (!props.measuring) stage!.container().style.cursor = node.draggable() ? 'grab' : 'pointer'
  })
  node.on('mouseleave', () => {
    stage!.container().title = ''
    stage!.container().style.cursor = props.measuring ? 'crosshair' : ''
  })
}

function handles(layer: Konva.Layer, key: string, outline: readonly Corner[]) {
  outline.forEach((c, n) => {
    const handle = new Konva.Circle({
      x: toX(frame.value, c.x),
      y: toY(frame.value, { y: c.y, z: 0 }),
      radius: 7,
      fill: ink('--accent'),
      stroke: ink('--paper'),
      strokeWidth: 2,
      hitStrokeWidth: 22,
      name: phrase('site.corner2'),
    })
    makeDraggable(handle, key, { ...c, z: 0 }, 'corner', place =>
      emit(
        'reshape',
        key,
        outline.map((old, k) => (k === n ? { x: place.x, y: place.y } : old)),
      ),
    )
    layer.add(handle)
  })
}

function drawAreas(layer: Konva.Layer) {
  const f = frame.value
  for (const area of props.areas) {
    const isPicked = props.picked === area.id
    const shape = areaShape(f, area, isPicked)
    layer.add(shape)
    pickable(shape, area.id)
    if (isPicked && f.side === 'above' && !props.measuring) makeAreaDraggable(shape, area)
    if (f.side === 'above') {
      const corner = area.outline.reduce((a, b) => (b.x + b.y < a.x + a.y ? b : a))
      layer.add(
        new Konva.Text({
          text: area.name,
          x: toX(f, corner.x) + 6,
          y: toY(f, { y: corner.y, z: 0 }) + 5,
          fontSize: 11.5,
          fontFamily: 'Atkinson Hyperlegible Next Variable',
          fill: ink('--ink-soft'),
          listening: false,
        }),
      )
    }
  }
}
function makeAreaDraggable(shape: Konva.Line, area: Area) {
  const steps = (pixels: number) => Math.round((pixels / frame.value.scale) * 10) / 10
  shape.draggable(true)
  shape.on('dragend', () => {
    const moved = { x: steps(shape.x()), y: steps(shape.y()) }
    emit(
      'reshape',
      area.id,
      area.outline.map(c => ({
        x: Math.round((c.x + moved.x) * 1000) / 1000,
        y: Math.round((c.y + moved.y) * 1000) / 1000,
      })),
    )
    draw() // a refused move must not leave it standing there
  })
}

function drawThings(layer: Konva.Layer) {
  const f = frame.value
  const label = createLabels(
    f,
    width.value,
    [...props.sources.flatMap(s => s.elements), ...props.positions].map(t => t.place),
  )
  for (const source of props.sources) {
    source.elements.forEach((e, n) => {
      const picked = props.picked === source.id
      const colour = ink(`--hue-${source.hue % 8}`)
      const d = direction(e.aim)
      const group = new Konva.Group({ x: toX(f, e.place.x), y: toY(f, e.place) })
      group.add(
        new Konva.Line({
          points: [0, 0, d.x * 26, (f.side === 'above' ? d.y : -d.z) * 26],
          stroke: colour,
          strokeWidth: 1.5,
          listening: false,
        }),
      )
      group.add(
        new Konva.Rect({
          x: -7,
          y: -7,
          width: 14,
          height: 14,
          fill: colour,
          stroke: picked ? ink('--ink') : colour,
          strokeWidth: picked ? 3 : 1,
          hitStrokeWidth: 20,
        }),
      )
      const name = n === 0 && label(source.name, e.place, colour, picked)
      if (name) group.add(name)
      makeDraggable(group, source.id, e.place, 'source', place => emit('move', 'source', source.id, n, place))
      layer.add(group)
    })
  }
  for (const p of props.positions) {
    const picked = props.picked === p.id
    const group = new Konva.Group({ x: toX(f, p.place.x), y: toY(f, p.place) })
    group.add(
      new Konva.Circle({
        radius: 6,
        fill: ink('--paper'),
        stroke: ink('--ink'),
        strokeWidth: picked ? 3.5 : 1.5,
        hitStrokeWidth: 20,
      }),
    )
    const name = label(p.name, p.place, ink('--ink'), picked)
    if (name) group.add(name)
    makeDraggable(group, p.id, p.place, 'position', place => emit('move', 'position', p.id, 0, place))
    layer.add(group)
  }
}

/** The measured line: from where the pointer went down to where it is. */
let rule: { from: Place, to: Place } | null = null
function drawRule(layer: Konva.Layer) {
  layer.destroyChildren()
  if (!rule || !props.measuring) return
  const f = frame.value
  const a = [toX(f, rule.from.x), toY(f, rule.from)] as const
  const b = [toX(f, rule.to.x), toY(f, rule.to)] as const
  const metres = Math.hypot(rule.to.x - rule.from.x, rule.to.y - rule.from.y, rule.to.z - rule.from.z)
  const time = (metres / speedOfSound(props.plan.air)) * 1000
  const words = `${length.show(metres)} · ${showNumber(time, 2)} ms`
  emit('measured', words)
  const text = new Konva.Label({ x: (a[0] + b[0]) / 2, y: (a[1] + b[1]) / 2 - 12, listening: false })
  text.add(
    new Konva.Tag({
      fill: ink('--panel'),
      stroke: ink('--accent'),
      pointerDirection: 'down',
      pointerWidth: 8,
      pointerHeight: 5,
    }),
  )
  text.add(
    new Konva.Text({
      text: words,
      padding: 5,
      fontSize: 15,
      fontFamily: 'Atkinson Hyperlegible Mono Variable',
      fill: ink('--ink'),
    }),
  )
  layer.add(new Konva.Line({ points: [...a, ...b], stroke: ink('--accent'), strokeWidth: 2, dash: [6, 4] }), text)
}
function measureOn(layer: Konva.Layer) {
  let drawing = false
  const point = () => {
    const at = placeAt(stage!.getPointerPosition()!, { x: 0, y: 0, z: 0 })
    return { x: Math.round(at.x * 100) / 100, y: Math.round(at.y * 100) / 100, z: Math.round(at.z * 100) / 100 }
  }
  stage!.on('mousedown touchstart', () => {
    if (!props.measuring) return
    drawing = true
    rule = { from: point(), to: point() }
    drawRule(layer)
  })
  stage!.on('mousemove touchmove', () => {
    if (!drawing || !rule) return
    rule = { ...rule, to: point() }
    drawRule(layer)
  })
  stage!.on('mouseup touchend', () => {
    drawing = false
  })
}

function draw() {
  if (!stage || width.value < 50 || height.value < 50) return
  stage.off('click tap mousedown touchstart mousemove touchmove mouseup touchend')
  stage.size({ width: width.value, height: height.value })
  stage.destroyChildren()
  const ground = new Konva.Layer({ listening: false })
  const things = new Konva.Layer()
  const rules = new Konva.Layer({ listening: false })
  stage.add(ground, things, rules)
  drawRoom(ground, frame.value, length.unit.value)
  drawAreas(things)
  if (props.map && props.side === 'above') {
    const image = drawMap(frame.value, props.map)
    image.listening(false)
    things.add(image)
  }
  if (props.side === 'above' && !props.measuring) {
    const { room } = props.plan
    const area = props.areas.find(a => a.id === props.picked)
    if (props.picked === 'room') handles(things, 'room', room.outline ?? rectangle(room.size.x, room.size.y))
    else if (area) handles(things, area.id, area.outline)
  }
  drawThings(things)
  drawRule(rules)
  measureOn(rules)
  stage.container().style.cursor = props.measuring ? 'crosshair' : ''
  stage.on('click tap', (event) => {
    if (event.target === stage && !props.measuring) emit('pick', null)
  })
  drawn.value = `${frame.value.left} ${frame.value.top} ${frame.value.scale}`
}

/** While a thing is held, drawing anew would end its drag where it is: that waits until it is let go. */
let waits = false
function redraw() {
  if (waits) return
  if (!Konva.isDragging() && !Konva.isDragReady()) return draw()
  waits = true
  requestAnimationFrame(() => {
    waits = false
    redraw()
  })
}

onMounted(async () => {
  await document.fonts.ready
  stage = new Konva.Stage({ container: host.value!, width: 10, height: 10 })
  draw()
})
onBeforeUnmount(() => {
  stage?.destroy()
  stage = null
})
watch(
  [
    width,
    height,
    () => props.plan,
    () => props.areas,
    () => props.sources,
    () => props.positions,
    () => props.picked,
    () => props.map,
    () => props.measuring,
    () => view.theme,
    () => view.lengths,
  ],
  redraw,
  { flush: 'post' },
)
</script>

<template>
  <figure
    class="plan"
    :data-plan="side"
    :data-plot="drawn"
  >
    <figcaption class="small">
      <b>{{ side === 'above' ? phrase('site.fromAbove') : phrase('site.fromTheSide') }}</b>
      <span class="soft">{{
        phrase('site.stageWallAt', {
          view: length.unit.value === 'm' ? phrase('site.metres') : phrase('site.feet'),
        })
      }}</span>
    </figcaption>
    <div
      ref="host"
      class="host"
      role="img"
      :aria-label="
        side === 'above' ? phrase('site.planFromAboveLoudspeakers') : phrase('site.planFromTheSide')
      "
    />
  </figure>
</template>

<style scoped>
.plan {
  margin: 0;
  position: relative;
  min-height: 0;
  min-width: 0;
}
figcaption {
  display: flex;
  gap: 0.5rem;
  position: absolute;
  top: 2px;
  left: 38px;
}
.host {
  position: absolute;
  inset: 0;
  overflow: hidden;
}
</style>
