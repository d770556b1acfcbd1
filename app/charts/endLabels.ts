import type { Chart, Plugin, Scale } from 'chart.js'
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
  /** Its name, in as many lines as it needs beside the chart. */
  lines: string[]
  /** Middle of the first line. */
  y: number
}
const lineHeight = 15
const mostLines = 4
const fontOf = ({ strong }: Trace) => `${strong ? 650 : 450} 12.5px "Atkinson Hyperlegible Next Variable"`

/** A name broken between words where it is wider than `width`; what would need still more lines is squeezed. */
export function brokenName(name: string, width: number, widthOf: (text: string) => number): string[] {
  const lines: string[] = []
  for (const word of name.split(' ')) {
    const last = lines[lines.length - 1]
    const longer = last === undefined ? word : `${last} ${word}`
    if (last !== undefined && (widthOf(longer) <= width || lines.length === mostLines)) lines[lines.length - 1] = longer
    else lines.push(word)
  }
  return lines
}

const broken = new Map<string, string[]>()
const mostBroken = 1000
// what was measured in another font is measured again
if (typeof document !== 'undefined') document.fonts.addEventListener('loadingdone', () => broken.clear())

/** The same, measured once for each name and width: every picture of every chart asks for it. */
function linesOf(name: string, width: number, ctx: CanvasRenderingContext2D): string[] {
  const key = `${ctx.font} ${width} ${name}`
  const known = broken.get(key)
  if (known) return known
  if (broken.size >= mostBroken) broken.clear()
  const lines = brokenName(name, width, text => ctx.measureText(text).width)
  broken.set(key, lines)
  return lines
}

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
function labelOf(t: Trace, c: Labelled, scale: Scale, chart: Pick<Chart, 'ctx' | 'chartArea'>): Label[] {
  const { ctx, chartArea: area } = chart
  if (!t.name) return []
  const last = t.values.findLastIndex((v, k) => Number.isFinite(v) && c.xs[k]! <= c.x.max * 0.98)
  if (last < 0) return []
  const y = Math.min(area.bottom - 6, Math.max(area.top + 6, scale.getPixelForValue(t.values[last]!)))
  ctx.font = fontOf(t)
  const name = isUnder(t, c) ? `${t.name} ↓ below` : t.name
  return [{ t, lines: linesOf(name, c.strip - 10, ctx), y }]
}

/** Those that have room: all of them, or the first of the ranked, with a line left to say how many more there are. */
function fitting(all: readonly Label[], ranked: readonly Label[], room: number): readonly Label[] {
  const tall = (list: readonly Label[]) => list.reduce((sum, l) => sum + l.lines.length, 0)
  if (tall(all) <= room) return all
  return ranked.filter((_, k) => k === 0 || tall(ranked.slice(0, k + 1)) < room)
}

/** Names at the right ends of their lines, moved apart where they would overlap. */
export const endLabelsOf = (props: () => Labelled, ink: (name: string) => string): Plugin<'line'> => ({
  id: 'endLabels',
  afterDatasetsDraw({ ctx, chartArea, scales }) {
    const c = props()
    const room = Math.max(1, Math.floor(chartArea.height / lineHeight))
    ctx.save()
    const all = c.traces.flatMap(t => labelOf(t, c, scales.y!, { ctx, chartArea }))
    // where they do not all fit, what runs now is named before what is kept
    const kept = (l: Label) => Number(l.t.still === 'kept')
    const ranked = all.toSorted((a, b) => Number(b.t.strong) - Number(a.t.strong) || kept(a) - kept(b))
    const at = fitting(all, ranked, room).toSorted((a, b) => a.y - b.y)
    const below = ({ y, lines }: Label) => y + lines.length * lineHeight
    at.forEach((l, k) => {
      if (k) l.y = Math.max(l.y, below(at[k - 1]!))
    })
    const over = at.length ? below(at[at.length - 1]!) - lineHeight - (chartArea.bottom - 4) : 0
    if (over > 0)
      at.forEach((l) => {
        l.y -= over
      })
    ctx.textBaseline = 'middle'
    for (const { t, lines, y } of at) {
      ctx.font = fontOf(t)
      ctx.fillStyle = ink(`--hue-${t.hue}`)
      lines.forEach((line, n) => ctx.fillText(line, chartArea.right + 8, y + n * lineHeight, c.strip - 10))
    }
    if (at.length < all.length) {
      ctx.fillStyle = ink('--ink-soft')
      ctx.fillText(`and ${all.length - at.length} more`, chartArea.right + 8, chartArea.bottom + 8, c.strip - 10)
    }
    ctx.restore()
  },
})
