<script setup lang="ts">
import { Chart, LineController, LineElement, LinearScale, LogarithmicScale, PointElement, type ChartDataset, type Plugin } from 'chart.js'
import type { Trace } from './traces'

Chart.register(LineController, LineElement, PointElement, LinearScale, LogarithmicScale)

const props = defineProps<{
  name: string
  unit: string
  min: number
  max: number
  step: number
  traces: Trace[]
  frequencies: Float64Array
  cursor: number | null
}>()
const emit = defineEmits<{ cursor: [index: number | null] }>()

const view = useView()
const canvas = useTemplateRef('canvas')
let chart: Chart<'line'> | null = null

const ticks = [20, 50, 100, 200, 500, 1000, 2000, 5000, 10_000, 20_000]
const labelRoom = 128
/** The theme's colours, read once a theme: asking the page's style at every frame costs more than drawing. */
let colours: Record<string, string> = {}
const ink = (name: string) => colours[name] ??= getComputedStyle(document.documentElement).getPropertyValue(name).trim()
const dashes = [[], [7, 3], [2, 3], [9, 3, 2, 3], [4, 4]]

/** Names at the right ends of their lines, moved apart where they would overlap. */
const endLabels: Plugin<'line'> = {
  id: 'endLabels',
  afterDatasetsDraw({ ctx, chartArea, scales }) {
    const scale = scales.y!
    const at = props.traces.map((t) => {
      const last = t.values.findLastIndex((v, k) => Number.isFinite(v) && props.frequencies[k]! <= 20_000)
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
    if (props.cursor === null) return
    const x = scales.x!.getPixelForValue(props.frequencies[props.cursor]!)
    ctx.save()
    ctx.strokeStyle = ink('--ink-soft')
    ctx.setLineDash([2, 3])
    ctx.beginPath()
    ctx.moveTo(x, chartArea.top)
    ctx.lineTo(x, chartArea.bottom)
    ctx.stroke()
    ctx.restore()
  },
}

interface Point { x: number, y: number }

/** Points of one line, made once and then only moved. */
const linePoints = (): Point[] => Array.from(props.frequencies, x => ({ x, y: Number.NaN }))
const shape = (t: Trace) => `${t.id} ${t.hue} ${t.dash} ${t.predicted} ${t.strong} ${view.theme}`

/** Every trace whole and pale, and over it, inked, the parts that can be trusted. New lines only when the set of traces changes. */
function fill(chart: Chart<'line'>) {
  const wanted = props.traces.map(shape).join('|')
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
  x: {
    type: 'logarithmic' as const, min: 18, max: 20_500,
    grid: { color: ink('--rule'), tickLength: 4 }, border: { color: ink('--rule-strong') },
    afterBuildTicks: (axis: { ticks: { value: number }[] }) => { axis.ticks = ticks.map(value => ({ value })) },
    ticks: { color: ink('--ink-soft'), font: { family: '"Atkinson Hyperlegible Mono Variable"', size: 11.5 }, maxRotation: 0, autoSkip: false, callback: (v: string | number) => Number(v) >= 1000 ? `${Number(v) / 1000}k` : `${v}` },
  },
  y: {
    min: props.min, max: props.max,
    grid: { color: ink('--rule'), tickLength: 4 }, border: { color: ink('--rule-strong') },
    afterFit: (axis: { width: number }) => { axis.width = 46 },
    ticks: { color: ink('--ink-soft'), stepSize: props.step, font: { family: '"Atkinson Hyperlegible Mono Variable"', size: 11.5 }, callback: (v: string | number) => `${v}`.replace('-', '−') },
  },
})

function draw() {
  if (!chart) return
  fill(chart)
  chart.update('none')
}
/** Axes and colours: only when they change. */
function rule() {
  if (!chart) return
  colours = {}
  chart.options.scales = scales()
  draw()
}

onMounted(async () => {
  await document.fonts.ready
  chart = new Chart<'line'>(canvas.value!, {
    type: 'line', data: { datasets: [] }, plugins: [endLabels, cursorLine],
    options: {
      animation: false, parsing: false, normalized: true, responsive: true, maintainAspectRatio: false, events: [],
      layout: { padding: { right: labelRoom, top: 4, left: 0, bottom: 0 } }, scales: scales(), plugins: { legend: { display: false }, tooltip: { enabled: false } },
    },
  })
  draw()
})
onBeforeUnmount(() => chart?.destroy())
watch(() => props.traces, draw, { flush: 'post' })
watch(() => [props.min, props.max, view.theme], rule, { flush: 'post' })
watch(() => props.cursor, () => chart?.draw())

function move(event: PointerEvent) {
  if (!chart) return
  const { left } = canvas.value!.getBoundingClientRect()
  const { chartArea, scales: s } = chart
  const x = event.clientX - left
  if (x < chartArea.left || x > chartArea.right) return emit('cursor', null)
  const f = s.x!.getValueForPixel(x)!
  emit('cursor', props.frequencies.reduce((best, g, k) => Math.abs(Math.log(g / f)) < Math.abs(Math.log(props.frequencies[best]! / f)) ? k : best, 0))
}
</script>

<template>
  <figure class="chart" :data-chart="name">
    <figcaption><b>{{ name }}</b> <span class="soft">{{ unit }}</span></figcaption>
    <div class="area" @pointermove="move" @pointerleave="emit('cursor', null)">
      <canvas ref="canvas" role="img" :aria-label="`${name} in ${unit} over frequency in Hz`" />
    </div>
  </figure>
</template>

<style scoped>
.chart { margin: 0; display: grid; grid-template-rows: auto 1fr; min-height: 0; position: relative; }
figcaption { position: absolute; left: 56px; top: 4px; font-size: 0.9rem; z-index: 1; background: color-mix(in srgb, var(--paper) 80%, transparent); padding: 0 0.35rem; }
.area { min-height: 0; min-width: 0; position: relative; grid-row: 1 / 3; }
canvas { position: absolute; inset: 0; }
</style>
