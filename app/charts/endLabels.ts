import type { Plugin, Scale } from 'chart.js'
import type { Trace } from './traces'

interface Labelled {
  traces: readonly Trace[]
  xs: Float64Array
  x: { min: number, max: number }
  min: number
  strip: number
}
interface Label {
  t: Trace
  name: string
  y: number
}
const lineHeight = 15

/** True for a line that runs under the chart nearly all the way, where nobody sees it. */
function isUnder({ values }: Trace, { xs, x, min }: Labelled): boolean {
  let under = 0
  let heard = 0
  for (let k = 0; k < values.length; k += 8)
    if (Number.isFinite(values[k]!) && xs[k]! >= x.min && xs[k]! <= x.max) {
      heard++
      if (values[k]! < min) under++
    }
  return heard > 0 && under > 0.9 * heard
}

/** Where a line ends, and what it is called there; none where it has no end in view. */
function labelOf(t: Trace, c: Labelled, scale: Scale, area: { top: number, bottom: number }): Label[] {
  if (!t.name) return []
  const last = t.values.findLastIndex((v, k) => Number.isFinite(v) && c.xs[k]! <= c.x.max * 0.98)
  if (last < 0) return []
  const y = Math.min(area.bottom - 6, Math.max(area.top + 6, scale.getPixelForValue(t.values[last]!)))
  return [{ t, name: isUnder(t, c) ? `${t.name} ↓ below` : t.name, y }]
}

/** Names at the right ends of their lines, moved apart where they would overlap. */
export const endLabelsOf = (props: () => Labelled, ink: (name: string) => string): Plugin<'line'> => ({
  id: 'endLabels',
  afterDatasetsDraw({ ctx, chartArea, scales }) {
    const c = props()
    const room = Math.max(1, Math.floor(chartArea.height / lineHeight))
    const all = c.traces.flatMap(t => labelOf(t, c, scales.y!, chartArea))
    // where they do not all fit, what runs now is named before what is kept
    const kept = (l: Label) => Number(l.t.still === 'kept')
    const ranked = all.toSorted((a, b) => Number(b.t.strong) - Number(a.t.strong) || kept(a) - kept(b))
    const at = (all.length <= room ? all : ranked.slice(0, room - 1)).toSorted((a, b) => a.y - b.y)
    at.forEach((l, k) => {
      if (k) l.y = Math.max(l.y, at[k - 1]!.y + lineHeight)
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
      ctx.fillText(name, chartArea.right + 8, y, c.strip - 10)
    }
    if (at.length < all.length) {
      ctx.fillStyle = ink('--ink-soft')
      ctx.fillText(`and ${all.length - at.length} more`, chartArea.right + 8, chartArea.bottom + 8, c.strip - 10)
    }
    ctx.restore()
  },
})
