import type { Metres } from '../units'
import { distance, images, type Surfaces } from './room'
import type { Place } from './schemas'
import { cross, sideOf, wallsOf, type Corner, type Outline, type Wall } from './outline'

/** A room: its walls' outline seen from above (null: the rectangle `size.x` × `size.y`) and its height `size.z`. */
export interface RoomShape {
  size: Place
  outline: Outline | null
}

/**
 * One way that sound takes from a source to a microphone. `seen` is where the microphone seems to be, looked at
 * from the source
 * through the mirrors on the way: its distance is the length of the way, its direction the one in which the sound left.
 */
export interface SoundPath {
  seen: Place
  length: Metres
  order: number
  hits: Surfaces<number>
}

/**
 * Direct sound and reflections up to `order`, the direct sound first. Rectangular rooms: Allen & Berkley 1979.
 * Rooms with another
 * outline: mirrored walls with a test of every way for being seen (Borish 1984, J. Acoust. Soc. Am. 75, 1827).
 */
export function soundPaths(room: RoomShape, source: Place, microphone: Place, order: number): SoundPath[] {
  const paths = room.outline
    ? prism(wallsOf(room.outline), room.size.z, source, microphone, order)
    : box(room.size, source, microphone, order)
  return paths.sort((a, b) => a.order - b.order || a.length - b.length)
}

const box = (size: Place, source: Place, microphone: Place, order: number): SoundPath[] =>
  images(size, source, order).map((image) => {
    const seen = { ...microphone }
    for (const axis of ['x', 'y', 'z'] as const) {
      const away = microphone[axis] - image.place[axis]
      seen[axis] = source[axis] + (image.flipped[axis] ? -away : away)
    }
    return { seen, length: distance(source, seen), order: image.order, hits: image.hits }
  })

const mirrored = ({ from, out }: Wall, p: Corner): Corner => {
  const away = 2 * ((p.x - from.x) * out.x + (p.y - from.y) * out.y)
  return { x: p.x - away * out.x, y: p.y - away * out.y }
}

/** Where the line from `a` to `b` meets a wall, or null. */
function meets({ from, to }: Wall, a: Corner, b: Corner): Corner | null {
  const dx = b.x - a.x
  const dy = b.y - a.y
  const ex = to.x - from.x
  const ey = to.y - from.y
  const d = dx * ey - dy * ex
  if (Math.abs(d) < 1e-12) return null
  const t = ((from.x - a.x) * ey - (from.y - a.y) * ex) / d
  const u = ((from.x - a.x) * dy - (from.y - a.y) * dx) / d
  return t > -1e-9 && t < 1 + 1e-9 && u > -1e-9 && u < 1 + 1e-9 ? { x: a.x + t * dx, y: a.y + t * dy } : null
}

/** Walls upright, floor and ceiling level: ways seen from above and ways seen from the side combine freely. */
function prism(walls: Wall[], height: Metres, source: Place, microphone: Place, order: number): SoundPath[] {
  const levels = images({ x: 1, y: 1, z: height }, { x: 0.5, y: 0.5, z: source.z }, order).filter(
    i => i.hits.front + i.hits.back + i.hits.left + i.hits.right === 0,
  )
  const paths: SoundPath[] = []
  const blocked = (a: Corner, b: Corner, touched: (Wall | undefined)[]) =>
    walls.some(w => !touched.includes(w) && cross(a, b, w.from, w.to))
  /**
   * Walks back from the microphone to the source: every reflection must lie on its wall, and nothing stand in
   * between.
   */
  const isSeen = (sequence: Wall[], mirrors: Corner[]) => {
    let at: Corner = microphone
    for (let k = sequence.length - 1; k >= 0; k--) {
      const point = meets(sequence[k]!, at, mirrors[k + 1]!)
      if (!point || blocked(at, point, [sequence[k], sequence[k + 1]])) return false
      at = point
    }
    return !blocked(at, source, [sequence[0]])
  }
  const walk = (sequence: Wall[], mirrors: Corner[]) => {
    if (isSeen(sequence, mirrors)) {
      const flat = [...sequence].reverse().reduce<Corner>((p, w) => mirrored(w, p), microphone)
      for (const level of levels) {
        if (level.order + sequence.length > order) continue
        const away = microphone.z - level.place.z
        const seen = { ...flat, z: source.z + (level.flipped.z ? -away : away) }
        const hits = { ...level.hits }
        for (const w of sequence) hits[sideOf(w)]++
        paths.push({ seen, length: distance(source, seen), order: level.order + sequence.length, hits })
      }
    }
    if (sequence.length === order) return
    for (const w of walls)
      if (w !== sequence.at(-1)) walk([...sequence, w], [...mirrors, mirrored(w, mirrors.at(-1)!)])
  }
  walk([], [source])
  return paths
}
