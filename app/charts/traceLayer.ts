import type { Trace } from './traces'

/**
 * Where traces are drawn: the chart's area in CSS pixels, and the level axis. `xs` are pixels, NaN outside the
 * axis.
 */
export interface Ground {
  left: number
  top: number
  width: number
  height: number
  min: number
  max: number
  xs: Float32Array
}

const dashes = [[], [7, 3], [2, 3], [9, 3, 2, 3], [4, 4]]

/**
 * Both inks of one line in one walk: pale where it cannot be trusted, full where it can. A step between the two
 * is pale.
 */
function strokes(t: Trace, { top, height, min, max, xs }: Ground): [pale: Path2D, full: Path2D] {
  const pale = new Path2D()
  const full = new Path2D()
  const scale = height / (max - min)
  let pen: Path2D | null = null
  let px = 0
  let py = 0
  for (let k = 0; k < t.values.length; k++) {
    const x = xs[k]!
    const v = t.values[k]!
    if (!(x === x && v === v) || !Number.isFinite(v)) {
      pen = null
      continue
    } // NaN is the only value that differs from itself
    const y = top + Math.max(-1e4, Math.min(1e4, (max - v) * scale))
    if (px !== px || !k || pen === null) {
      pen = t.trusted[k] ? full : pale
      pen.moveTo(x, y)
    }
    else {
      const next = t.trusted[k] && t.trusted[k - 1] ? full : pale
      if (next !== pen) {
        pen = next
        pen.moveTo(px, py)
      }
      pen.lineTo(x, y)
    }
    px = x
    py = y
  }
  return [pale, full]
}

/** The area between two limits, in a piece for each run of points that have both. */
function bandPath([low, high]: NonNullable<Trace['band']>, xs: ArrayLike<number>, y: (v: number) => number): Path2D {
  const path = new Path2D()
  const has = (k: number) => Number.isFinite(xs[k]!) && Number.isFinite(low[k]!) && Number.isFinite(high[k]!)
  for (let from = 0; from < xs.length; from++) {
    if (!has(from)) continue
    let to = from
    while (to + 1 < xs.length && has(to + 1)) to++
    for (let k = from; k <= to; k++) path[k === from ? 'moveTo' : 'lineTo'](xs[k]!, y(high[k]!))
    for (let k = to; k >= from; k--) path.lineTo(xs[k]!, y(low[k]!))
    from = to
  }
  return path
}

/** Draws lines in their colours (`ink` of a hue), dashes and weights, and their bands behind them. The caller clips. */
export function drawTraces(
  ctx: CanvasRenderingContext2D | OffscreenCanvasRenderingContext2D,
  traces: readonly Trace[],
  ground: Ground,
  ink: (name: string) => string,
) {
  const { top, height, min, max, xs } = ground
  const y = (v: number) => top + ((max - v) * height) / (max - min)
  ctx.lineJoin = 'round'
  for (const t of traces) {
    const colour = ink(`--hue-${t.hue}`)
    if (t.band) {
      ctx.fillStyle = `${colour}33`
      ctx.fill(bandPath(t.band, xs, y))
    }
    const [pale, full] = strokes(t, ground)
    ctx.setLineDash(t.predicted ? [3, 3] : dashes[t.dash % dashes.length]!)
    ctx.lineWidth = t.strong ? 1.8 : 1
    ctx.strokeStyle = `${colour}66`
    ctx.stroke(pale)
    ctx.strokeStyle = colour
    ctx.stroke(full)
  }
  ctx.setLineDash([])
}

/** Lines that stand still, drawn once and kept as a picture until one of them, the axes or the colours change. */
export function createStillLayer() {
  let canvas: HTMLCanvasElement | null = null
  let drawn: unknown[] = []
  return (
    ctx: CanvasRenderingContext2D,
    traces: readonly Trace[],
    ground: Ground,
    theme: string,
    ink: (name: string) => string,
  ) => {
    if (!traces.length) {
      drawn = []
      return
    }
    const {
      canvas: { width, height },
    } = ctx
    const ratio = ctx.getTransform().a
    const now = [
      theme,
      width,
      height,
      ground.left,
      ground.top,
      ground.width,
      ground.height,
      ground.min,
      ground.max,
      ground.xs,
      ...traces.flatMap(t => [t.values, t.trusted, t.hue, t.dash, t.predicted, t.strong, t.band?.[0]]),
    ]
    if (now.length !== drawn.length || now.some((v, k) => v !== drawn[k])) {
      drawn = now
      canvas ??= document.createElement('canvas')
      canvas.width = width
      canvas.height = height
      const own = canvas.getContext('2d')!
      own.scale(ratio, ratio)
      drawTraces(own, traces, ground, ink)
    }
    ctx.drawImage(canvas!, 0, 0, width / ratio, height / ratio)
  }
}
