import type { Metres } from '../units'
import { message, type Message } from '../words'

/** A corner of an outline, seen from above. */
export interface Corner {
  x: Metres
  y: Metres
}

/** Corners in order, the last joined to the first. */
export type Outline = readonly Corner[]

/** The four walls of a room that is `x` by `y`. */
export const rectangle = (x: Metres, y: Metres): Corner[] => [
  { x: 0, y: 0 },
  { x, y: 0 },
  { x, y },
  { x: 0, y },
]

/** One straight piece of an outline; `out` is its unit vector pointing outwards. */
export interface Wall {
  from: Corner
  to: Corner
  length: Metres
  out: Corner
}

const signedArea = (outline: Outline) =>
  outline.reduce((sum, a, k) => {
    const b = outline[(k + 1) % outline.length]!
    return sum + (a.x * b.y - b.x * a.y) / 2
  }, 0)

/** Area in m² within an outline. */
export const areaOf = (outline: Outline): number => Math.abs(signedArea(outline))

/** The walls of an outline, in the order of its corners. */
export function wallsOf(outline: Outline): Wall[] {
  const turn = Math.sign(signedArea(outline)) || 1
  return outline.map((from, k) => {
    const to = outline[(k + 1) % outline.length]!
    const length = Math.hypot(to.x - from.x, to.y - from.y)
    return {
      from,
      to,
      length,
      out: { x: (turn * (to.y - from.y)) / length, y: (-turn * (to.x - from.x)) / length },
    }
  })
}

/** The side of the room that a wall belongs to: where it looks most. */
export function sideOf({ out }: Wall): 'front' | 'back' | 'left' | 'right' {
  if (Math.abs(out.x) >= Math.abs(out.y)) return out.x < 0 ? 'front' : 'back'
  return out.y < 0 ? 'left' : 'right'
}

/** Distance of a place to a wall, its ends included. */
export function wallDistance({ from, to, length }: Wall, at: Corner): Metres {
  const t = Math.max(
    0,
    Math.min(1, ((at.x - from.x) * (to.x - from.x) + (at.y - from.y) * (to.y - from.y)) / length ** 2),
  )
  return Math.hypot(at.x - from.x - t * (to.x - from.x), at.y - from.y - t * (to.y - from.y))
}

/**
 * Whether a place lies within an outline; its edge belongs to it. Source: crossing number, Shimrat 1962, CACM
 * 5, 434.
 */
export function isInside(outline: Outline, at: Corner): boolean {
  if (wallsOf(outline).some(w => wallDistance(w, at) < 1e-6)) return true
  let inside = false
  outline.forEach((a, k) => {
    const b = outline[(k + 1) % outline.length]!
    if ((a.y > at.y) !== (b.y > at.y) && at.x < a.x + ((at.y - a.y) / (b.y - a.y)) * (b.x - a.x)) inside = !inside
  })
  return inside
}

const side = (a: Corner, b: Corner, p: Corner) => Math.sign((b.x - a.x) * (p.y - a.y) - (b.y - a.y) * (p.x - a.x))
/** Whether two pieces cross within both; touching ends do not count. */
export const cross = (a: Corner, b: Corner, c: Corner, d: Corner): boolean =>
  side(a, b, c) * side(a, b, d) < 0 && side(c, d, a) * side(c, d, b) < 0

/** Why an outline cannot be built; empty when it can. `what` names it: 'The room'. */
export function outlineFaults(outline: Outline, what: string): Message[] {
  if (outline.length < 3) return [message('outline.fewCorners', { what })]
  const short = outline.findIndex(
    (a, k) =>
      Math.hypot(outline[(k + 1) % outline.length]!.x - a.x, outline[(k + 1) % outline.length]!.y - a.y) < 0.01,
  )
  if (short >= 0)
    return [message('outline.noLength', { what, from: short + 1, to: ((short + 1) % outline.length) + 1 })]
  const pieces = wallsOf(outline)
  for (const [k, a] of pieces.entries()) {
    const hit = pieces.findIndex((b, m) => m > k && cross(a.from, a.to, b.from, b.to))
    if (hit >= 0) return [message('outline.crosses', { what, wall: k + 1, other: hit + 1 })]
  }
  return areaOf(outline) < 0.5 ? [message('outline.noFloor', { what })] : []
}

/** Smallest and largest x and y. */
export const boundsOf = (outline: Outline) => ({
  x: [Math.min(...outline.map(c => c.x)), Math.max(...outline.map(c => c.x))] as const,
  y: [Math.min(...outline.map(c => c.y)), Math.max(...outline.map(c => c.y))] as const,
})

/** The place within an outline that is farthest from its walls, to a fortieth of its size. */
export function roomiest(outline: Outline): Corner {
  const { x, y } = boundsOf(outline)
  const walls = wallsOf(outline)
  let best = { at: outline[0]!, room: -1 }
  for (let i = 1; i < 40; i++)
    for (let j = 1; j < 40; j++) {
      const at = { x: x[0] + ((x[1] - x[0]) * i) / 40, y: y[0] + ((y[1] - y[0]) * j) / 40 }
      const room = Math.min(...walls.map(w => wallDistance(w, at)))
      if (room > best.room + 1e-9 && isInside(outline, at)) best = { at, room }
    }
  return best.at
}
