import type { Trace } from '~/charts/traces'
import { phrase } from '~/parts/phrase'

/** What a chart shows, to be drawn once more as a picture of its own. */
export interface ChartPicture {
  title: string
  unit: string
  traces: Trace[]
  xs: Float64Array
  x: { kind: 'frequency' | 'time', min: number, max: number }
  min: number
  max: number
  step: number
}

const width = 1200
const height = 640
const left = 70
const top = 56
/** Pixels of a letter of a name, in the middle: names get the room that they need, up to a third of the picture. */
const letter = 8
const bottom = 48
const dashes = ['', '9 4', '3 4', '11 4 3 4', '5 5']
const safe = (text: string) =>
  text.replace(/[&<>"]/g, c => ({ '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' })[c]!)

/** A colour of the theme. */
const ink = (name: string) => getComputedStyle(document.documentElement).getPropertyValue(name).trim()
/** Beginning of a drawing, on paper. */
const head = (width: number, height: number) =>
  `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 ${width} ${height}" width="${width}" height="${height}"
 font-family="Atkinson Hyperlegible Next Variable, sans-serif" font-size="15">
<rect width="${width}" height="${height}" fill="${ink('--paper')}"/>`
/** Title on the left, unit on the right. */
const heading = (left: number, right: number, title: string, unit: string) =>
  `<text x="${left}" y="32" fill="${ink('--ink')}" font-size="21" font-weight="650">${safe(title)}</text>
<text x="${right}" y="32" fill="${ink('--ink-soft')}" text-anchor="end">${safe(unit)}</text>`

/** The chart as SVG in the theme's colours: axes with units, lines with their names at their ends. */
export function chartSvg({ title, unit, traces, xs, x, min, max, step }: ChartPicture): string {
  const longest = Math.max(0, ...traces.map(t => t.name.length))
  const right = Math.min(width / 3, 24 + letter * longest)
  const part = (v: number) =>
    x.kind === 'frequency' ? Math.log(v / x.min) / Math.log(x.max / x.min) : (v - x.min) / (x.max - x.min)
  const px = (v: number) => left + part(v) * (width - left - right)
  const py = (v: number) => top + ((max - v) / (max - min)) * (height - top - bottom)
  const ticksX
    = x.kind === 'frequency'
      ? [20, 50, 100, 200, 500, 1000, 2000, 5000, 10_000, 20_000].filter(f => f >= x.min && f <= x.max)
      : Array.from({ length: 7 }, (_, k) => x.min + (k * (x.max - x.min)) / 6)
  const ticksY = Array.from({ length: Math.floor((max - min) / step + 1e-9) + 1 }, (_, k) => max - k * step)
  const nice = (v: number) => `${Number(v.toPrecision(3))}`.replace('-', '−')
  const path = (values: Float64Array, ok: (k: number) => boolean) => {
    let d = ''
    let pen = false
    for (let k = 0; k < values.length; k++) {
      if (xs[k]! < x.min || xs[k]! > x.max || !Number.isFinite(values[k]!) || !ok(k)) {
        pen = false
        continue
      }
      d
        += `${pen ? 'L' : 'M'}${px(xs[k]!).toFixed(1)} `
          + `${py(Math.max(min - 5, Math.min(max + 5, values[k]!))).toFixed(1)}`
      pen = true
    }
    return d
  }
  const ends = traces
    .map(t => ({
      t,
      y: py(
        Math.max(
          min,
          Math.min(
            max,
            t.values[t.values.findLastIndex((v, k) => Number.isFinite(v) && xs[k]! <= x.max * 0.98)] ?? min,
          ),
        ),
      ),
    }))
    .sort((a, b) => a.y - b.y)
  ends.forEach((e, k) => {
    if (k) e.y = Math.max(e.y, ends[k - 1]!.y + 18)
  })
  const over = Math.max(0, (ends.at(-1)?.y ?? 0) - (height - bottom))
  const lettersMost = Math.floor((right - 12) / letter)
  const fitted = (name: string) => (name.length > lettersMost ? `${name.slice(0, lettersMost - 1)}…` : name)
  return `${head(width, height)}
<clipPath id="area"><rect x="${left}" y="${top}"
 width="${width - left - right}" height="${height - top - bottom}"/></clipPath>
${heading(left, width - right, title, unit)}
${ticksX
  .map(
    v =>
      `<path d="M${px(v).toFixed(1)} ${top}V${height - bottom}" stroke="${ink('--rule')}"/><text `
      + `x="${px(v).toFixed(1)}" y="${height - bottom + 22}" fill="${ink('--ink-soft')}" `
      + `text-anchor="middle">${v >= 1000 && x.kind === 'frequency' ? `${v / 1000}k` : nice(v)}</text>`,
  )
  .join('')}
${ticksY
  .map(
    v =>
      `<path d="M${left} ${py(v).toFixed(1)}H${width - right}" stroke="${ink('--rule')}"/><text `
      + `x="${left - 10}" y="${(py(v) + 5).toFixed(1)}" fill="${ink('--ink-soft')}" `
      + `text-anchor="end">${nice(v)}</text>`,
  )
  .join('')}
<text x="${width - right}" y="${height - 6}" fill="${ink('--ink-soft')}"
 text-anchor="end">${x.kind === 'frequency' ? 'Hz' : 'ms'}</text>
<g clip-path="url(#area)" fill="none">${traces
  .map((t) => {
    const c = ink(`--hue-${t.hue}`)
    const dash = t.predicted ? '4 4' : dashes[t.dash % 5]
    return (
      `<path d="${path(t.values, () => true)}" stroke="${c}" stroke-opacity="0.35" `
      + `stroke-dasharray="${dash}"/><path d="${path(t.values, k => t.trusted[k]!)}" stroke="${c}" `
      + `stroke-width="${t.strong ? 2.2 : 1.4}" stroke-dasharray="${dash}"/>`
    )
  })
  .join('')}</g>
${ends
  .map(
    ({ t, y }) =>
      `<text x="${width - right + 10}" y="${(y - over + 5).toFixed(1)}" fill="${ink(`--hue-${t.hue}`)}" `
      + `font-weight="${t.strong ? 650 : 450}">${safe(fitted(t.name))}</text>`,
  )
  .join('')}
</svg>`
}

/** A map of depths with its axes, as it stands on the plate, under its title in the same frame as the other charts. */
export function svgOfCanvas(canvas: HTMLCanvasElement, title: string, unit: string): string {
  const copy = document.createElement('canvas')
  const room = 100 * devicePixelRatio // kept free for names, of which a map has none
  copy.width = canvas.width - room
  copy.height = canvas.height
  copy.getContext('2d')!.drawImage(canvas, 0, 0)
  const w = width - 40
  const h = (w * copy.height) / copy.width
  const height = Math.round(top + h + 16)
  return `${head(width, height)}
${heading(left, width - 20, title, unit)}
<image x="20" y="${top}" width="${w}" height="${h.toFixed(1)}" href="${copy.toDataURL('image/png')}"/>
</svg>`
}

/** An SVG as PNG at twice its size. */
export async function pngOf(svg: string): Promise<Blob> {
  const image = new Image()
  const url = URL.createObjectURL(new Blob([svg], { type: 'image/svg+xml' }))
  try {
    await new Promise((resolve, reject) => {
      image.onload = resolve
      image.onerror = () => reject(new Error(phrase('charts.pictureNotDrawn')))
      image.src = url
    })
    const canvas = document.createElement('canvas')
    canvas.width = 2 * image.naturalWidth
    canvas.height = 2 * image.naturalHeight
    canvas.getContext('2d')!.drawImage(image, 0, 0, canvas.width, canvas.height)
    return await new Promise((resolve, reject) =>
      canvas.toBlob(b => (b ? resolve(b) : reject(new Error(phrase('charts.pictureNotMade')))), 'image/png'),
    )
  }
  finally {
    URL.revokeObjectURL(url)
  }
}
