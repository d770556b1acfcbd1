let ruler: CanvasRenderingContext2D | null = null
const widest = 170

/** Width in pixels that names at the right of a chart need; next to nothing where there are none. */
export function stripOf(names: readonly string[]): number {
  if (!names.length) return 10
  ruler ??= document.createElement('canvas').getContext('2d')!
  ruler.font = '650 12.5px "Atkinson Hyperlegible Next Variable"'
  return Math.min(widest, Math.ceil(Math.max(...names.map(n => ruler!.measureText(n).width)) / 8) * 8 + 18)
}
