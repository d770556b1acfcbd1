<script setup lang="ts">
import { Chart, LineController, LinearScale, LogarithmicScale, type Plugin } from 'chart.js'
import { createStillLayer, drawTraces, type Ground } from './traceLayer'
import type { Trace } from './traces'

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
}>()
const emit = defineEmits<{ cursor: [index: number | null], pin: [index: number | null] }>()

const view = useView()
const canvas = useTemplateRef('canvas')
let chart: Chart<'line'> | null = null

const labelRoom = 128
const { ink, fresh, frequency, straight } = useChartInk()

/** Names at the right ends of their lines, moved apart where they would overlap. */
const endLabels: Plugin<'line'> = {
  id: 'endLabels',
  afterDatasetsDraw({ ctx, chartArea, scales }) {
    const scale = scales.y!
    const room = Math.max(1, Math.floor(chartArea.height / 15))
    /** The end of a line; and whether it runs under the chart nearly all the way, where nobody sees it. */
    const all = props.traces
      .map((t) => {
        const last = t.values.findLastIndex((v, k) => Number.isFinite(v) && props.xs[k]! <= props.x.max * 0.98)
        let under = 0
        let heard = 0
        for (let k = 0; k < t.values.length; k += 8)
          if (Number.isFinite(t.values[k]!) && props.xs[k]! >= props.x.min && props.xs[k]! <= props.x.max) {
            heard++
            if (t.values[k]! < props.min) under++
          }
        return {
          t,
          name: heard > 0 && under > 0.9 * heard ? `${t.name} ↓ below` : t.name,
          y:
            last < 0
              ? Number.NaN
              : Math.min(
                  chartArea.bottom - 6,
                  Math.max(chartArea.top + 6, scale.getPixelForValue(t.values[last]!)),
                ),
        }
      })
      .filter(l => Number.isFinite(l.y))
    // where they do not all fit, what runs now is named before what is kept
    const at = (
      all.length <= room
        ? all
        : [...all]
            .sort(
              (a, b) =>
                Number(b.t.strong) - Number(a.t.strong)
                || Number(a.t.still === 'kept') - Number(b.t.still === 'kept'),
            )
            .slice(0, room - 1)
    ).sort((a, b) => a.y - b.y)
    at.forEach((l, k) => {
      if (k) l.y = Math.max(l.y, at[k - 1]!.y + 15)
    })
    const over = at.length ? at[at.length - 1]!.y - (chartArea.bottom - 4) : 0
    if (over > 0)
      at.forEach((l) => {
        l.y -= over
      })
    ctx.save()
    ctx.textBaseline = 'middle'
    for (const { t, name, y } of at) {
      ctx.font = `${t.strong ? 650 : 450} 12.5px "Atkinson Hyperlegible Next Variable"`
      ctx.fillStyle = ink(`--hue-${t.hue}`)
      ctx.fillText(name, chartArea.right + 8, y, labelRoom - 12)
    }
    if (at.length < all.length) {
      ctx.fillStyle = ink('--ink-soft')
      ctx.fillText(`and ${all.length - at.length} more`, chartArea.right + 8, chartArea.bottom + 8, labelRoom - 12)
    }
    ctx.restore()
  },
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
const layers = { kept: createStillLayer(), slow: createStillLayer() }
const lines: Plugin<'line'> = {
  id: 'lines',
  beforeDatasetsDraw(chart) {
    const { ctx, chartArea } = chart
    const at = ground(chart)
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
      layout: { padding: { right: labelRoom, top: 4, left: 0, bottom: 0 } },
      scales: scales(),
      plugins: { legend: { display: false }, tooltip: { enabled: false } },
    },
  })
})
onBeforeUnmount(() => chart?.destroy())
watch(() => props.traces, draw, { flush: 'post' })
watch(() => [props.min, props.max, props.x.min, props.x.max, view.theme], rule, { flush: 'post' })
watch(
  () => [props.cursor, props.pinned, props.line],
  () => chart?.draw(),
)

/** The point of `xs` under the pointer. */
function pointAt(event: PointerEvent): number | null {
  if (!chart) return null
  const { left } = canvas.value!.getBoundingClientRect()
  const { chartArea, scales: s } = chart
  const x = event.clientX - left
  if (x < chartArea.left || x > chartArea.right) return null
  const value = s.x!.getValueForPixel(x)!
  const away = (g: number) => (props.x.kind === 'frequency' ? Math.abs(Math.log(g / value)) : Math.abs(g - value))
  return props.xs.reduce((best, g, k) => (away(g) < away(props.xs[best]!) ? k : best), 0)
}
</script>

<template>
  <div
    class="area"
    :data-chart="name"
    @pointermove="emit('cursor', pointAt($event))"
    @pointerleave="emit('cursor', null)"
    @click="emit('pin', pointAt($event as PointerEvent))"
  >
    <canvas
      ref="canvas"
      role="img"
      :aria-label="`${name} in ${unit} over ${x.kind === 'frequency' ? 'frequency in Hz' : 'time in ms'}`"
    />
  </div>
</template>

<style scoped>
.area {
  min-height: 0;
  min-width: 0;
  position: relative;
}
canvas {
  position: absolute;
  inset: 0;
}
</style>
