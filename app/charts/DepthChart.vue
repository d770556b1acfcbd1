<script setup lang="ts">
import { Chart, LineController, LinearScale, LogarithmicScale, type Plugin } from 'chart.js'
import { useChartInk } from './useChartInk'
import { useView } from '~/document/view'
import { phrase } from '~/parts/phrase'

Chart.register(LineController, LinearScale, LogarithmicScale)

/** Level as depth of ink over frequency (a logarithmic grid, evenly spaced) and time; rows run from `from` to `to`. */
const props = defineProps<{
  name: string
  unit: string
  columns: number
  levels: Float32Array
  floor: number
  low: number
  high: number
  from: number
  to: number
  /** A line across at this time. */ mark?: number | null
}>()
const view = useView()
const canvas = useTemplateRef('canvas')
const { ink, fresh, frequency, straight } = useChartInk()
let chart: Chart<'line'> | null = null

function picture(): HTMLCanvasElement {
  const rows = props.levels.length / props.columns
  const image = document.createElement('canvas')
  image.width = props.columns
  image.height = Math.max(1, rows)
  const context = image.getContext('2d')!
  const data = context.createImageData(image.width, image.height)
  context.fillStyle = ink('--accent')
  context.fillRect(0, 0, 1, 1)
  const [r, g, b] = context.getImageData(0, 0, 1, 1).data
  props.levels.forEach((level, k) =>
    data.data.set([r!, g!, b!, Math.round(255 * Math.max(0, Math.min(1, 1 - level / props.floor)) ** 1.2)], 4 * k),
  )
  context.putImageData(data, 0, 0)
  return image
}
const depth: Plugin<'line'> = {
  id: 'depth',
  beforeDatasetsDraw({ ctx, chartArea, scales }) {
    if (!props.levels.length) return
    const x0 = scales.x!.getPixelForValue(props.low)
    const x1 = scales.x!.getPixelForValue(props.high)
    ctx.save()
    ctx.beginPath()
    ctx.rect(chartArea.left, chartArea.top, chartArea.width, chartArea.height)
    ctx.clip()
    ctx.drawImage(picture(), x0, chartArea.top, x1 - x0, chartArea.height)
    if (props.mark !== null && props.mark !== undefined) {
      const y = scales.y!.getPixelForValue(props.mark)
      ctx.strokeStyle = ink('--ink')
      ctx.setLineDash([6, 4])
      ctx.beginPath()
      ctx.moveTo(chartArea.left, y)
      ctx.lineTo(chartArea.right, y)
      ctx.stroke()
    }
    ctx.restore()
  },
}
const scales = () => ({
  x: frequency(Math.max(18, props.low), Math.min(20_500, props.high)),
  y: straight(
    Math.min(props.from, props.to),
    Math.max(props.from, props.to),
    undefined,
    true,
    props.from < props.to,
  ),
})
onMounted(async () => {
  await document.fonts.ready
  chart = new Chart<'line'>(canvas.value!, {
    type: 'line',
    data: { datasets: [] },
    plugins: [depth],
    options: {
      animation: false,
      responsive: true,
      maintainAspectRatio: false,
      events: [],
      layout: { padding: { right: 12, top: 4 } },
      scales: scales(),
    },
  })
})
onBeforeUnmount(() => chart?.destroy())
watch(
  () => props.levels,
  () => chart?.draw(),
)
watch(
  [() => props.low, () => props.high, () => props.from, () => props.to, () => props.mark, () => view.theme],
  () => {
    if (!chart) return
    fresh()
    chart.options.scales = scales()
    chart.update('none')
  },
)
</script>

<template>
  <div
    class="area"
    :data-chart="name"
  >
    <canvas
      ref="canvas"
      role="img"
      :aria-label="phrase('charts.inOverFrequencyIn', { name, unit })"
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
