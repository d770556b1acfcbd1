<script setup lang="ts">
import { Chart, LineController, LinearScale, LogarithmicScale, type Plugin } from 'chart.js'
import { showNumber } from '~~/core/units'
import { createStillLayer, drawTraces, type Ground } from './traceLayer'
import type { Trace } from './traces'
import { inTurn } from '~/document/turns'
import { endLabelsOf } from './endLabels'
import { useChartInk } from './useChartInk'
import { useZoom } from './useZoom'
import { useView } from '~/document/view'
import { phrase } from '~/parts/phrase'

Chart.register(LineController, LinearScale, LogarithmicScale)

const props = defineProps<{
  name: string
  unit: string
  min: number
  max: number
  step: number | undefined
  traces: Trace[]
  /** Where the traces' values lie: frequencies in Hz, or times in ms. */
  xs: Float64Array
  x: { kind: 'frequency' | 'time', min: number, max: number }
  cursor: number | null
  /** A second cursor that stays. */
  pinned?: number | null
  /** A movable line at a level. */
  line?: number | null
  /** Width of the names at the right. */
  strip: number
}>()
const emit = defineEmits<{
  cursor: [index: number | null]
  pin: [index: number | null]
  zoom: [range: [number, number]]
}>()

const view = useView()
const canvas = useTemplateRef('canvas')
let chart: Chart<'line'> | null = null

const { ink, fresh, frequency, straight } = useChartInk()

const endLabels = endLabelsOf(() => props, ink)

/** What the strongest lines say at the cursor, written beside it. */
function valuesAt(
  ctx: CanvasRenderingContext2D,
  area: { left: number, right: number, top: number },
  scale: { getPixelForValue: (v: number) => number },
) {
  const k = props.cursor
  if (k === null || k >= props.xs.length) return
  const told = props.traces
    .filter(t => Number.isFinite(t.values[k]!))
    .toSorted((a, b) => Number(b.strong) - Number(a.strong))
    .slice(0, 4)
  if (!told.length) return
  const places = props.max - props.min <= 3 ? 2 : 1
  const texts = told.map(t => showNumber(t.values[k]!, places))
  ctx.font = '600 12px "Atkinson Hyperlegible Mono Variable"'
  const width = Math.max(...texts.map(t => ctx.measureText(t).width)) + 10
  const x = scale.getPixelForValue(props.xs[k]!)
  const left = x + 6 + width > area.right ? x - 6 - width : x + 6
  ctx.globalAlpha = 0.88
  ctx.fillStyle = ink('--paper')
  ctx.fillRect(left, area.top + 2, width, 15 * texts.length + 3)
  ctx.globalAlpha = 1
  ctx.textBaseline = 'top'
  texts.forEach((text, n) => {
    ctx.fillStyle = ink(`--hue-${told[n]!.hue}`)
    ctx.fillText(text, left + 5, area.top + 4 + 15 * n)
  })
}

const cursorLine: Plugin<'line'> = {
  id: 'cursorLine',
  afterDraw({ ctx, chartArea, scales }) {
    ctx.save()
    ctx.strokeStyle = ink('--ink-soft')
    const stroke = (a: [number, number], b: [number, number], dash: number[]) => {
      ctx.setLineDash(dash)
      ctx.beginPath()
      ctx.moveTo(...a)
      ctx.lineTo(...b)
      ctx.stroke()
    }
    for (const [at, dash] of [
      [props.cursor, [2, 3]],
      [props.pinned ?? null, [6, 3]],
    ] as const) {
      if (at === null || at >= props.xs.length) continue
      const x = scales.x!.getPixelForValue(props.xs[at]!)
      if (x >= chartArea.left && x <= chartArea.right) stroke([x, chartArea.top], [x, chartArea.bottom], [...dash])
    }
    if (dragging.value) {
      const [a, b] = dragging.value.map(v => Math.max(chartArea.left, Math.min(chartArea.right, v))) as [number, number]
      ctx.fillStyle = `${ink('--accent')}33`
      ctx.fillRect(Math.min(a, b), chartArea.top, Math.abs(b - a), chartArea.height)
    }
    valuesAt(ctx, chartArea, scales.x!)
    if (props.line !== null && props.line !== undefined) {
      const y = scales.y!.getPixelForValue(props.line)
      ctx.strokeStyle = ink('--accent')
      if (y >= chartArea.top && y <= chartArea.bottom) stroke([chartArea.left, y], [chartArea.right, y], [])
    }
    ctx.restore()
  },
}

/** Pixels of `xs`, found anew only when the axis or the area changes. */
let pixels = new Float32Array(0)
let pixelsFor = ''
function ground({ chartArea, scales }: Chart<'line'>): Ground {
  const { left, top, width, height } = chartArea
  const { kind, min, max } = props.x
  const key = [left, width, kind, min, max, props.xs.length, props.xs[0], props.xs[1]].join(' ')
  if (key !== pixelsFor) {
    pixelsFor = key
    const [from, to]
      = props.x.kind === 'frequency'
        ? [props.x.min / 1.02, props.x.max * 1.02]
        : [props.x.min - 0.5, props.x.max + 0.5] // a point beyond each edge, so that lines run into it
    pixels = Float32Array.from(props.xs, x => (x < from || x > to ? Number.NaN : scales.x!.getPixelForValue(x)))
  }
  return { left, top, width, height, min: props.min, max: props.max, xs: pixels }
}

/**
 * The lines themselves. Hand-drawn in Chart.js's area: 8 running and 24 kept traces as its own datasets gave 8 pictures
 * a second
 * in headless Chromium on two cores, drawn like this, with the kept ones as one picture, more than 20.
 */
/** Where the axis lies in the chart, for whoever points at a frequency: left and right in pixels. */
const plot = ref('')
const area = shallowRef<{ left: number, top: number, width: number, height: number } | null>(null)
const layers = { kept: createStillLayer(), slow: createStillLayer() }
const lines: Plugin<'line'> = {
  id: 'lines',
  beforeDatasetsDraw(chart) {
    const { ctx, chartArea } = chart
    const at = ground(chart)
    plot.value = `${Math.round(at.left)} ${Math.round(at.left + at.width)}`
    const { left, top, width, height } = at
    const was = area.value
    if (was?.left !== left || was.top !== top || was.width !== width || was.height !== height)
      area.value = { left, top, width, height }
    ctx.save()
    ctx.beginPath()
    ctx.rect(chartArea.left, chartArea.top, chartArea.width, chartArea.height)
    ctx.clip()
    for (const still of ['kept', 'slow'] as const)
      layers[still](
        ctx,
        props.traces.filter(t => t.still === still),
        at,
        view.theme,
        ink,
      )
    drawTraces(
      ctx,
      props.traces.filter(t => !t.still),
      at,
      ink,
    )
    ctx.restore()
  },
}

const scales = () => ({
  x:
    props.x.kind === 'frequency'
      ? frequency(props.x.min, props.x.max)
      : straight(props.x.min, props.x.max, undefined, false),
  y: straight(props.min, props.max, props.step, true),
})

const draw = () => chart?.draw()
/** Axes and colours: only when they change. */
function rule() {
  if (!chart) return
  fresh()
  chart.options.scales = scales()
  chart.options.layout = { padding: { right: props.strip, top: 4, left: 0, bottom: 0 } }
  chart.update('none')
}

onMounted(async () => {
  await document.fonts.ready
  chart = new Chart<'line'>(canvas.value!, {
    type: 'line',
    data: { datasets: [] },
    plugins: [lines, endLabels, cursorLine],
    options: {
      animation: false,
      responsive: true,
      maintainAspectRatio: false,
      events: [],
      layout: { padding: { right: props.strip, top: 4, left: 0, bottom: 0 } },
      scales: scales(),
      plugins: { legend: { display: false }, tooltip: { enabled: false } },
    },
  })
})
onBeforeUnmount(() => {
  chart?.destroy()
  chart = null
})
watch(() => props.traces, () => inTurn(draw), { flush: 'post' })
watch(
  [() => props.min, () => props.max, () => props.x.min, () => props.x.max, () => props.strip, () => view.theme],
  rule,
  { flush: 'post' },
)
watch(
  [() => props.cursor, () => props.pinned, () => props.line],
  () => chart?.draw(),
)

/** What lies under a place on the page, on the axis; null outside the chart's area. */
function valueAt(clientX: number): number | null {
  if (!chart) return null
  const x = clientX - canvas.value!.getBoundingClientRect().left
  const { chartArea, scales: s } = chart
  return x < chartArea.left || x > chartArea.right ? null : s.x!.getValueForPixel(x)!
}
/** The point of `xs` under the pointer. */
function pointAt(event: PointerEvent): number | null {
  const value = valueAt(event.clientX)
  if (value === null) return null
  const away = (g: number) => (props.x.kind === 'frequency' ? Math.abs(Math.log(g / value)) : Math.abs(g - value))
  return props.xs.reduce((best, g, k) => (away(g) < away(props.xs[best]!) ? k : best), 0)
}

const { dragging, down, move, up, wheel, wasDrag } = useZoom({
  chart: () => chart,
  left: () => canvas.value!.getBoundingClientRect().left,
  area: () => canvas.value!.parentElement!,
  axis: () => props.x,
  valueAt,
  zoom: range => emit('zoom', range),
})
function point(event: PointerEvent) {
  emit('cursor', pointAt(event))
  move(event)
}
function click(event: MouseEvent) {
  if (!wasDrag()) emit('pin', pointAt(event as PointerEvent))
}
watch(dragging, draw)
</script>

<template>
  <div
    class="area"
    :data-chart="name"
    :data-plot="plot"
    @pointerdown="down"
    @pointermove="point"
    @pointerup="up"
    @pointercancel="up"
    @pointerleave="emit('cursor', null)"
    @click="click"
    @wheel="wheel"
  >
    <canvas
      ref="canvas"
      role="img"
      :aria-label="phrase('charts.inOver', {
        name,
        unit,
        axis: x.kind === 'frequency' ? phrase('charts.frequencyInHz') : phrase('charts.timeInMs'),
      })"
    />
    <slot
      v-if="area"
      :area="area"
    />
  </div>
</template>

<style scoped>
.area {
  min-height: 0;
  min-width: 0;
  position: relative;
  touch-action: none;
}
canvas {
  position: absolute;
  inset: 0;
}
</style>
