import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { createStillLayer, drawTraces, type Ground } from './traceLayer'
import type { Trace } from './traces'

/** Stands in for the browser's path: keeps what was asked of it. */
class Path {
  steps: ['M' | 'L', number, number][] = []
  moveTo(x: number, y: number) {
    this.steps.push(['M', x, y])
  }

  lineTo(x: number, y: number) {
    this.steps.push(['L', x, y])
  }
}
function paper() {
  const strokes: { colour: string, dash: number[], width: number, path: Path }[] = []
  const fills: Path[] = []
  const ctx = {
    strokeStyle: '',
    fillStyle: '',
    lineWidth: 0,
    lineJoin: '',
    dash: [] as number[],
    images: 0,
    canvas: { width: 600, height: 300 },
    setLineDash(d: number[]) {
      this.dash = d
    },
    stroke(path: Path) {
      strokes.push({ colour: this.strokeStyle, dash: this.dash, width: this.lineWidth, path })
    },
    fill(path: Path) {
      fills.push(path)
    },
    getTransform: () => ({ a: 2 }),
    scale() {},
    drawImage() {
      this.images++
    },
  }
  return { ctx, strokes, fills, context: ctx as unknown as CanvasRenderingContext2D }
}
const ground: Ground = {
  left: 40,
  top: 10,
  width: 200,
  height: 100,
  min: -50,
  max: 50,
  xs: Float32Array.from({ length: 6 }, (_, k) => (k ? 40 + 40 * (k - 1) : Number.NaN)),
}
const trace = (change: Partial<Trace> = {}): Trace => ({
  id: 't',
  name: 'Trace',
  hue: 2,
  dash: 1,
  predicted: false,
  strong: true,
  values: Float64Array.from([0, 0, 10, 20, -50, 50]),
  trusted: [true, true, true, false, true, true],
  ...change,
})
const ink = (name: string) => name
const drawnLines = (p: Path) => p.steps.filter(s => s[0] === 'L').length

beforeEach(() => {
  vi.stubGlobal('Path2D', Path)
})
afterEach(() => {
  vi.unstubAllGlobals()
})

describe('lines on the canvas', () => {
  it('draw each step once: in full ink where both ends are trusted, pale where one is not, and none outside '
    + 'the axis', () => {
    const { context, strokes } = paper()
    drawTraces(context, [trace()], ground, ink)
    const [pale, full] = strokes
    expect([pale!.colour, full!.colour]).toEqual(['--hue-266', '--hue-2'])
    expect([drawnLines(pale!.path), drawnLines(full!.path)]).toEqual([2, 2]) // four steps between five visible points
    expect(full!.path.steps[0]).toEqual(['M', 40, 60]) // 0 dB in the middle; the first value lies left of the axis
    expect(full!.path.steps.at(-1)).toEqual(['L', 200, 10]) // 50 dB at the top
  })
  it('are lifted where there is no value, and go on behind it', () => {
    const { context, strokes } = paper()
    drawTraces(
      context,
      [trace({ values: Float64Array.from([0, 0, Number.NaN, 20, 30, 40]), trusted: Array<boolean>(6).fill(true) })],
      ground,
      ink,
    )
    expect(strokes[1]!.path.steps.map(s => s[0]).join('')).toBe('MMLL')
  })
  it('tell source, position, prediction and weight by ink, dash and width; a spread is a band behind the line', () => {
    const { context, strokes, fills } = paper()
    const low = Float64Array.from(trace().values, v => v - 3)
    const high = Float64Array.from(trace().values, v => v + 3)
    drawTraces(context, [trace({ strong: false, band: [low, high] }), trace({ predicted: true })], ground, ink)
    expect(strokes[1]).toMatchObject({ dash: [7, 3], width: 1 })
    expect(strokes[3]).toMatchObject({ dash: [3, 3], width: 1.8 })
    expect(fills).toHaveLength(1)
    expect(fills[0]!.steps).toHaveLength(10) // there along the top, back along the bottom
  })
})

describe('lines that stand still', () => {
  it('are drawn once, and again only when one of them, the axis or the theme changes', () => {
    const inner = paper()
    vi.stubGlobal('document', { createElement: () => ({ width: 0, height: 0, getContext: () => inner.context }) })
    const { context, ctx } = paper()
    const layer = createStillLayer()
    const kept = trace()
    const draws = (traces: Trace[], at = ground, theme = 'night') => {
      const before = inner.strokes.length
      layer(context, traces, at, theme, ink)
      return inner.strokes.length - before
    }
    expect(draws([kept])).toBe(2)
    expect(draws([{ ...kept }])).toBe(0) // the same values in a new list
    expect(draws([kept, trace()])).toBe(4)
    expect(draws([kept], { ...ground, max: 60 })).toBe(2)
    expect(draws([kept], { ...ground, max: 60 }, 'day')).toBe(2)
    expect(draws([])).toBe(0)
    expect(draws([kept], { ...ground, max: 60 }, 'day')).toBe(2) // none in between: begun anew
    expect(ctx.images).toBe(6) // its picture was laid down every time but the empty one
  })
})
