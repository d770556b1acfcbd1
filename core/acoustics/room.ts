import type { Metres } from '../units'

/** A place in a room: x along it from the stage wall, y across it from house left, z up from the floor. */
export interface Place { x: Metres, y: Metres, z: Metres }

/** Energy absorption (0…1) of the six surfaces of a rectangular room. */
export interface Surfaces { front: number, back: number, left: number, right: number, floor: number, ceiling: number }

export const distance = (a: Place, b: Place): Metres => Math.hypot(a.x - b.x, a.y - b.y, a.z - b.z)

/** One mirror image of a source: where it seems to be and the pressure factor of the walls its sound met. */
export interface Image { place: Place, factor: number, order: number }

/**
 * Mirror images of `source` in a rectangular room with one corner at the origin, up to `order` reflections; the source itself
 * first. Source: Allen & Berkley 1979, J. Acoust. Soc. Am. 65, 943.
 */
export function images(size: Place, surfaces: Surfaces, source: Place, order: number): Image[] {
  const reflect = (absorption: number) => Math.sqrt(1 - absorption)
  // along one axis: image m = 2k or 2k-1 mirrored, with the hits it took on the near (at 0) and the far wall
  const axis = (length: Metres, at: Metres, near: number, far: number) => {
    const list: { at: Metres, factor: number, hits: number }[] = []
    for (let k = -order; k <= order; k++) {
      for (const flip of [0, 1]) {
        const nearHits = Math.abs(k - flip), farHits = Math.abs(k), hits = nearHits + farHits
        if (hits <= order) list.push({ at: (flip ? -at : at) + 2 * k * length, factor: reflect(near) ** nearHits * reflect(far) ** farHits, hits })
      }
    }
    return list
  }
  const xs = axis(size.x, source.x, surfaces.front, surfaces.back)
  const ys = axis(size.y, source.y, surfaces.left, surfaces.right)
  const zs = axis(size.z, source.z, surfaces.floor, surfaces.ceiling)
  return xs.flatMap(x => ys.flatMap(y => zs.map(z => ({
    place: { x: x.at, y: y.at, z: z.at }, factor: x.factor * y.factor * z.factor, order: x.hits + y.hits + z.hits,
  })))).filter(i => i.order <= order).sort((a, b) => a.order - b.order)
}
