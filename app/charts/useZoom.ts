import type { Chart } from 'chart.js'

interface Zoomed {
  chart: () => Chart<'line'> | null
  /** Where the drawing begins on the page. */
  left: () => number
  /** What hears the pointer. */
  area: () => Element
  axis: () => { kind: 'frequency' | 'time', min: number, max: number }
  /** What lies under a place on the page; null outside. */
  valueAt: (clientX: number) => number | null
  zoom: (range: [number, number]) => void
}
interface Finger {
  from: number
  at: number
}
const leastOctaves = 0.4
/** Pixels that a drag is more than a click. */
const leastDrag = 12

/** Frequencies are zoomed by the wheel round the pointer, by a drag over a range, or by two fingers. */
export function useZoom({ chart, left, area, axis, valueAt, zoom }: Zoomed) {
  function toRange(low: number, high: number) {
    if (axis().kind === 'frequency' && Math.log2(high / low) >= leastOctaves) zoom([low, high])
  }
  function wheel(event: WheelEvent) {
    const at = valueAt(event.clientX)
    const { kind, min, max } = axis()
    if (at === null || kind !== 'frequency') return
    event.preventDefault()
    const by = 1.25 ** Math.sign(event.deltaY)
    toRange(at * (min / at) ** by, at * (max / at) ** by)
  }
  /** Where fingers or the mouse went down and are, in pixels of the drawing. */
  const fingers = new Map<number, Finger>()
  /** The range that is being drawn. */
  const dragging = ref<[number, number] | null>(null)
  let pinched: { low: number, high: number } | null = null
  let moved = false
  const along = (event: PointerEvent) => event.clientX - left()
  function down(event: PointerEvent) {
    moved = false
    if (event.button !== 0) return
    fingers.set(event.pointerId, { from: along(event), at: along(event) })
    if (fingers.size !== 2) return
    for (const f of fingers.values()) f.from = f.at
    dragging.value = null
    pinched = { low: axis().min, high: axis().max }
  }
  function pinch({ low: lowest, high: highest }: { low: number, high: number }) {
    const [a, b] = [...fingers.values()] as [Finger, Finger]
    const { left: edge, width } = chart()!.chartArea
    const span = Math.log(highest / lowest)
    const part = (px: number) => (px - edge) / width
    const wide = Math.abs(part(b.at) - part(a.at))
    if (wide < 0.05) return
    // what was under each finger stays under it
    const scale = Math.abs(part(b.from) - part(a.from)) / wide
    const low = Math.log(lowest) + span * (part(a.from) - part(a.at) * scale)
    toRange(Math.exp(low), Math.exp(low + span * scale))
  }
  function move(event: PointerEvent) {
    const finger = fingers.get(event.pointerId)
    if (!finger) return
    finger.at = along(event)
    if (pinched) {
      moved = true
      return pinch(pinched)
    }
    if (Math.abs(finger.at - finger.from) < leastDrag || axis().kind !== 'frequency') return
    moved = true
    if (!dragging.value) area().setPointerCapture(event.pointerId)
    dragging.value = [finger.from, finger.at]
  }
  function up(event: PointerEvent) {
    fingers.delete(event.pointerId)
    if (!fingers.size) pinched = null
    const drawn = dragging.value
    dragging.value = null
    const now = chart()
    if (!drawn || event.type !== 'pointerup' || !now) return
    const { left: from, right: to } = now.chartArea
    const [a, b] = drawn
      .map(px => now.scales.x!.getValueForPixel(Math.max(from, Math.min(to, px)))!)
      .sort((p, q) => p - q) as [number, number]
    toRange(a, b)
  }
  return { dragging, down, move, up, wheel, wasDrag: () => moved }
}
