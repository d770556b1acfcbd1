<script setup lang="ts">
import Konva from 'konva'
import { direction } from '~~/core/acoustics'
import type { Place, Position, Source } from '~~/core/rig'
import type { CoverageAnswer } from '~/workers/coverage.worker'

/** The plan to scale, from above (x, y) or from the side (x, z). Things are dragged in steps of 0.1 m. */
const props = defineProps<{ side: 'above' | 'beside', size: Place, sources: Source[], positions: Position[], picked: string | null, map: CoverageAnswer | null, mapRange: [number, number] }>()
const emit = defineEmits<{ pick: [key: string | null], move: [what: 'source' | 'position', id: string, element: number, place: Place] }>()

const view = useView()
const host = useTemplateRef('host')
const { width, height } = useElementSize(host)
let stage: Konva.Stage | null = null
const margin = { left: 38, right: 16, top: 26, bottom: 26 }
const ink = (name: string) => getComputedStyle(document.documentElement).getPropertyValue(name).trim()
const across = computed(() => props.side === 'above' ? props.size.y : props.size.z)
const scale = computed(() => Math.max(2, Math.min((width.value - margin.left - margin.right) / props.size.x, (height.value - margin.top - margin.bottom) / across.value)))

const toX = (x: number) => margin.left + x * scale.value
const toY = (p: Place) => margin.top + (props.side === 'above' ? p.y : props.size.z - p.z) * scale.value
const snap = (v: number, most: number) => Math.round(Math.min(most, Math.max(0, v)) * 10) / 10

function placed(node: Konva.Node, was: Place): Place {
  const x = snap((node.x() - margin.left) / scale.value, props.size.x), other = (node.y() - margin.top) / scale.value
  return props.side === 'above' ? { ...was, x, y: snap(other, props.size.y) } : { ...was, x, z: snap(props.size.z - other, props.size.z) }
}

/** Level as lightness of the accent: five even steps, so that edges read as contour lines. */
function mapImage(map: CoverageAnswer): HTMLCanvasElement {
  const canvas = document.createElement('canvas')
  canvas.width = map.columns
  canvas.height = map.rows
  const context = canvas.getContext('2d')!, image = context.createImageData(map.columns, map.rows)
  const [low, high] = props.mapRange
  const colour = new Option().style
  colour.color = ink('--accent')
  const [r, g, b] = (/(\d+), (\d+), (\d+)/.exec(colour.color) ?? ['', '0', '0', '0']).slice(1).map(Number) as [number, number, number]
  map.levels.forEach((level, k) => {
    const t = Math.max(0, Math.min(1, (level - low) / (high - low)))
    image.data.set([r, g, b, Math.round(Math.floor(t * 6) / 6 * 150)], 4 * k)
  })
  context.putImageData(image, 0, 0)
  return canvas
}

function ruler(layer: Konva.Layer) {
  const { x } = props.size, right = toX(x), bottom = margin.top + across.value * scale.value
  const step = props.size.x > 60 ? 10 : 5
  const text = (t: string, at: { x: number, y: number, align?: string, width?: number }) => layer.add(new Konva.Text({ text: t, fontSize: 11.5, fontFamily: 'Atkinson Hyperlegible Mono Variable', fill: ink('--ink-soft'), ...at }))
  for (let m = 0; m <= x; m += step) {
    layer.add(new Konva.Line({ points: [toX(m), margin.top, toX(m), bottom], stroke: ink('--rule'), strokeWidth: 1 }))
    text(`${m} m`, { x: toX(m) - 20, y: bottom + 7, width: 40, align: 'center' })
  }
  for (let m = 0; m <= across.value; m += step) {
    const y = props.side === 'above' ? margin.top + m * scale.value : bottom - m * scale.value
    layer.add(new Konva.Line({ points: [margin.left, y, right, y], stroke: ink('--rule'), strokeWidth: 1 }))
    text(`${m}`, { x: 0, y: y - 6, width: margin.left - 8, align: 'right' })
  }
  layer.add(new Konva.Rect({ x: margin.left, y: margin.top, width: x * scale.value, height: across.value * scale.value, stroke: ink('--ink'), strokeWidth: 2 }))
}

function draw() {
  if (!stage || width.value < 50 || height.value < 50) return
  stage.size({ width: width.value, height: height.value })
  stage.destroyChildren()
  const ground = new Konva.Layer({ listening: false }), things = new Konva.Layer()
  stage.add(ground, things)
  if (props.map && props.side === 'above') ground.add(new Konva.Image({ image: mapImage(props.map), x: margin.left, y: margin.top, width: props.size.x * scale.value, height: props.size.y * scale.value }))
  ruler(ground)
  const taken: { x: number, y: number, w: number }[] = [...props.sources.flatMap(s => s.elements), ...props.positions].map(t => ({ x: toX(t.place.x) - 8, y: toY(t.place), w: 16 }))
  /** A name beside its thing: to the right, or where nothing else is written or stands. */
  const label = (text: string, at: Place, colour: string, strong: boolean) => {
    const node = new Konva.Text({ text, fontSize: 12.5, fontStyle: strong ? 'bold' : 'normal', fontFamily: 'Atkinson Hyperlegible Next Variable', fill: colour, listening: false })
    const w = node.width(), x0 = toX(at.x), y0 = toY(at)
    const places = [[11, 0], [-w - 11, 0], [-w / 2, -17], [-w / 2, 17], [11, -15], [11, 15], [-w - 11, -15], [-w - 11, 15]] as const
    const isFree = ([dx, dy]: readonly [number, number]) => x0 + dx > 2 && x0 + dx + w < width.value && taken.every(t => Math.abs(t.y - (y0 + dy)) > 13 || x0 + dx > t.x + t.w || x0 + dx + w < t.x)
    const [dx, dy] = places.find(isFree) ?? places[0]
    taken.push({ x: x0 + dx, y: y0 + dy, w })
    node.position({ x: dx, y: dy - 6 })
    return node
  }
  const draggable = (group: Konva.Group, key: string, was: Place, done: (place: Place) => void) => {
    group.on('click tap', (event) => { event.cancelBubble = true; emit('pick', key) })
    group.on('dragmove', () => {
      const at = placed(group, was)
      group.position({ x: toX(at.x), y: toY(at) })
    })
    group.on('dragend', () => { // picked only now: drawing anew in the middle of a drag would end it
      emit('pick', key)
      done(placed(group, was))
    })
    group.on('mouseenter', () => { stage!.container().style.cursor = 'grab' })
    group.on('mouseleave', () => { stage!.container().style.cursor = '' })
    things.add(group)
  }
  for (const source of props.sources) {
    source.elements.forEach((e, n) => {
      const picked = props.picked === source.id, colour = ink(`--hue-${source.hue % 8}`)
      const group = new Konva.Group({ x: toX(e.place.x), y: toY(e.place), draggable: true })
      const d = direction(e.aim), dy = props.side === 'above' ? d.y : -d.z
      group.add(new Konva.Line({ points: [0, 0, d.x * 26, dy * 26], stroke: colour, strokeWidth: 1.5, listening: false }))
      group.add(new Konva.Rect({ x: -7, y: -7, width: 14, height: 14, fill: colour, stroke: picked ? ink('--ink') : colour, strokeWidth: picked ? 3 : 1, hitStrokeWidth: 20 }))
      if (n === 0) group.add(label(source.name, e.place, colour, picked))
      draggable(group, source.id, e.place, place => emit('move', 'source', source.id, n, place))
    })
  }
  for (const p of props.positions) {
    const picked = props.picked === p.id
    const group = new Konva.Group({ x: toX(p.place.x), y: toY(p.place), draggable: true })
    group.add(new Konva.Circle({ radius: 6, fill: ink('--paper'), stroke: ink('--ink'), strokeWidth: picked ? 3.5 : 1.5, hitStrokeWidth: 20 }), label(p.name, p.place, ink('--ink'), picked))
    draggable(group, p.id, p.place, place => emit('move', 'position', p.id, 0, place))
  }
  stage.on('click tap', (event) => { if (event.target === stage) emit('pick', null) })
}

onMounted(async () => {
  await document.fonts.ready
  stage = new Konva.Stage({ container: host.value!, width: 10, height: 10 })
  draw()
})
onBeforeUnmount(() => stage?.destroy())
watch(() => [width.value, height.value, props.size, props.sources, props.positions, props.picked, props.map, view.theme], draw, { flush: 'post' })
</script>

<template>
  <figure class="plan" :data-plan="side">
    <figcaption class="small"><b>{{ side === 'above' ? 'From above' : 'From the side' }}</b> <span class="soft">metres; stage wall at 0</span></figcaption>
    <div ref="host" class="host" role="img" :aria-label="side === 'above' ? 'Plan from above: loudspeakers and microphone positions' : 'Plan from the side'" />
  </figure>
</template>

<style scoped>
.plan { margin: 0; position: relative; min-height: 0; min-width: 0; }
figcaption { position: absolute; top: 2px; left: 38px; }
.host { position: absolute; inset: 0; overflow: hidden; }
</style>
