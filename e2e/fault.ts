import type { Person, World } from './faultWorld'

/** A number from 0 to below `most`, the same for the same seed. */
export type Chance = (most: number) => number

/** Mulberry32, so that a campaign can be repeated. */
export function chanceOf(seed: number): Chance {
  let a = seed >>> 0
  return (most) => {
    a = (a + 0x6D2B79F5) >>> 0
    let t = Math.imul(a ^ (a >>> 15), 1 | a)
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t
    return Math.floor(((t ^ (t >>> 14)) >>> 0) / 2 ** 32 * most)
  }
}

interface Doing {
  world: World
  people: readonly Person[]
  chance: Chance
}
export interface Fault {
  /** Whether this machine lets it be done. */
  can?: (world: World) => boolean
  run: (doing: Doing) => Promise<void>
}
