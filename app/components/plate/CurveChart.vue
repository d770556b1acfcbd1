<script setup lang="ts">
import { Chart, LineController, LineElement, LinearScale, LogarithmicScale, PointElement, type ChartDataset, type Plugin } from 'chart.js'
import type { Trace } from './traces'

Chart.register(LineController, LineElement, PointElement, LinearScale, LogarithmicScale)

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
const dashes = [[], [7, 3], [2, 3], [9, 3, 2, 3], [4, 4]]

/** Names at the right ends of their lines, moved apart where they would overlap. */
const endLabels: Plugin<'line'> = {
  id: 'endLabels',
  afterDatasetsDraw({ ctx, chartArea, scales }) {
    const scale = scales.y!
    const at = props.traces.map((t) => {
      const last = t.values.findLastIndex((v, k) => Number.isFinite(v) && props.xs[k]! <= props.x.max * 0.98)
      return { t, y: last < 0 ? Number.NaN : Math.min(chartArea.bottom - 6, Math.max(chartArea.top + 6, scale.getPixelForValue(t.values[last]!))) }
    }).filter(l => Number.isFinite(l.y)).sort((a, b) => a.y - b.y)
    at.forEach((l, k) => { if (k) l.y = Math.max(l.y, at[k - 1]!.y + 15) })
    const over = at.length ? at[at.length - 1]!.y - (chartArea.bottom - 4) : 0
    if (over > 0) at.forEach((l) => { l.y -= over })
    ctx.save()
    ctx.textBaseline = 'middle'
    for (const { t, y } of at) {
      ctx.font = `${t.strong ? 650 : 450} 12.5px "Atkinson Hyperlegible Next Variable"`
      ctx.fillStyle = ink(`--hue-${t.hue}`)
      ctx.fillText(t.name, chartArea.right + 8, y, labelRoom - 12)
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
    for (const [at, dash] of [[props.cursor, [2, 3]], [props.pinned ?? null, [6, 3]]] as const) {
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

/** The spread between positions, as a band behind the lines. */
const bands: Plugin<'line'> = {
  id: 'bands',
  beforeDatasetsDraw({ ctx, chartArea, scales }) {
    for (const t of props.traces) {
      if (!t.band) continue
      const [low, high] = t.band, points = Array.from(props.xs, (_, k) => k).filter(k => Number.isFinite(low[k]!) && props.xs[k]! >= props.x.min && props.xs[k]! <= props.x.max)
      ctx.save()
      ctx.beginPath()
      ctx.rect(chartArea.left, chartArea.top, chartArea.width, chartArea.height)
      ctx.clip()
      ctx.beginPath()
      points.forEach((k, n) => ctx[n ? 'lineTo' : 'moveTo'](scales.x!.getPixelForValue(props.xs[k]!), scales.y!.getPixelForValue(high[k]!)))
      points.reverse().forEach(k => ctx.lineTo(scales.x!.getPixelForValue(props.xs[k]!), scales.y!.getPixelForValue(low[k]!)))
      ctx.fillStyle = `${ink(`--hue-${t.hue}`)}33`
      ctx.fill()
      ctx.restore()
    }
  },
}

interface Point { x: number, y: number }

/** Points of one line, made once and then only moved. */
const linePoints = (): Point[] => Array.from(props.xs, x => ({ x, y: Number.NaN }))
const shape = (t: Trace) => `${t.id} ${t.hue} ${t.dash} ${t.predicted} ${t.strong} ${view.theme}`

/** Every trace whole and pale, and over it, inked, the parts that can be trusted. New lines only when the set of traces changes. */
function fill(chart: Chart<'line'>) {
  const wanted = `${props.xs.length} ${props.xs[0]} ${props.xs[1]} ${props.traces.map(shape).join('|')}`
  if (wanted !== filled) {
    filled = wanted
    chart.data.datasets = props.traces.flatMap((t) => {
      const colour = ink(`--hue-${t.hue}`)
      const base = { borderDash: t.predicted ? [3, 3] : dashes[t.dash % dashes.length]!, pointRadius: 0, tension: 0, spanGaps: false, borderWidth: t.strong ? 1.8 : 1 }
      return [{ ...base, borderColor: `${colour}55`, data: linePoints() }, { ...base, borderColor: colour, data: linePoints() }] as ChartDataset<'line'>[]
    })
  }
  props.traces.forEach((t, k) => {
    const pale = chart.data.datasets[2 * k]!.data as Point[], inked = chart.data.datasets[2 * k + 1]!.data as Point[]
    for (let n = 0; n < t.values.length; n++) {
      pale[n]!.y = t.values[n]!
      inked[n]!.y = t.trusted[n] ? t.values[n]! : Number.NaN
    }
  })
}
let filled = ''

const scales = () => ({
  x: props.x.kind === 'frequency' ? frequency(props.x.min, props.x.max) : straight(props.x.min, props.x.max, undefined, false),
  y: straight(props.min, props.max, props.step, true),
})

function draw() {
  if (!chart) return
  fill(chart)
  chart.update('none')
}
/** Axes and colours: only when they change. */
function rule() {
  if (!chart) return
  fresh()
  chart.options.scales = scales()
  draw()
}

onMounted(async () => {
  await document.fonts.ready
  chart = new Chart<'line'>(canvas.value!, {
    type: 'line', data: { datasets: [] }, plugins: [bands, endLabels, cursorLine],
    options: {
      animation: false, parsing: false, normalized: true, responsive: true, maintainAspectRatio: false, events: [],
      layout: { padding: { right: labelRoom, top: 4, left: 0, bottom: 0 } }, scales: scales(), plugins: { legend: { display: false }, tooltip: { enabled: false } },
    },
  })
  draw()
})
onBeforeUnmount(() => chart?.destroy())
watch(() => props.traces, draw, { flush: 'post' })
watch(() => [props.min, props.max, props.x.min, props.x.max, view.theme], rule, { flush: 'post' })
watch(() => [props.cursor, props.pinned, props.line], () => chart?.draw())

/** The point of `xs` under the pointer. */
function pointAt(event: PointerEvent): number | null {
  if (!chart) return null
  const { left } = canvas.value!.getBoundingClientRect(), { chartArea, scales: s } = chart, x = event.clientX - left
  if (x < chartArea.left || x > chartArea.right) return null
  const value = s.x!.getValueForPixel(x)!, away = (g: number) => props.x.kind === 'frequency' ? Math.abs(Math.log(g / value)) : Math.abs(g - value)
  return props.xs.reduce((best, g, k) => away(g) < away(props.xs[best]!) ? k : best, 0)
}
</script>

<template>
  <div class="area" :data-chart="name" @pointermove="emit('cursor', pointAt($event))" @pointerleave="emit('cursor', null)" @click="emit('pin', pointAt($event as PointerEvent))">
    <canvas ref="canvas" role="img" :aria-label="`${name} in ${unit} over ${x.kind === 'frequency' ? 'frequency in Hz' : 'time in ms'}`" />
  </div>
</template>

<style scoped>
.area { min-height: 0; min-width: 0; position: relative; }
canvas { position: absolute; inset: 0; }
</style>
