import type { Metres } from '../units'
import type { Place } from './schemas'

/** One value for each of the six surfaces of a rectangular room. */
export interface Surfaces<T> {
  front: T
  back: T
  left: T
  right: T
  floor: T
  ceiling: T
}

export const distance = (a: Place, b: Place): Metres => Math.hypot(a.x - b.x, a.y - b.y, a.z - b.z)

/**
 * One mirror image of a source: where it seems to be, how often its sound met each wall, and which axes are
 * mirrored.
 */
export interface Image {
  place: Place
  hits: Surfaces<number>
  order: number
  flipped: { x: boolean, y: boolean, z: boolean }
}

/**
 * Mirror images of `source` in a rectangular room with one corner at the origin, up to `order` reflections; the
 * source itself
 * first. Source: Allen & Berkley 1979, J. Acoust. Soc. Am. 65, 943.
 */
export function images(size: Place, source: Place, order: number): Image[] {
  // along one axis: image m = 2k or 2k-1 mirrored, with the hits it took on the near (at 0) and the far wall
  const axis = (length: Metres, at: Metres) => {
    const list: { at: Metres, near: number, far: number, flip: boolean }[] = []
    for (let k = -order; k <= order; k++) {
      for (const flip of [false, true]) {
        const near = Math.abs(k - Number(flip))
        const far = Math.abs(k)
        if (near + far <= order) list.push({ at: (flip ? -at : at) + 2 * k * length, near, far, flip })
      }
    }
    return list
  }
  const [xs, ys, zs] = [axis(size.x, source.x), axis(size.y, source.y), axis(size.z, source.z)]
  return xs
    .flatMap(x =>
      ys.flatMap(y =>
        zs.map((z): Image => ({
          place: { x: x.at, y: y.at, z: z.at },
          hits: { front: x.near, back: x.far, left: y.near, right: y.far, floor: z.near, ceiling: z.far },
          order: x.near + x.far + y.near + y.far + z.near + z.far,
          flipped: { x: x.flip, y: y.flip, z: z.flip },
        })),
      ),
    )
    .filter(i => i.order <= order)
    .sort((a, b) => a.order - b.order)
}
