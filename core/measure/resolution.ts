import type { Hertz } from '../units'

/** One block length and the part of a logarithmic grid that it answers for. */
export interface LevelRange {
  /** Samples a block. */
  length: number
  /** Grid points `first` … `end - 1`. */
  first: number
  end: number
  /**
   * Weight of each of them, to be divided by the sum over all levels: 1 inside, fading over a third of an
   * octave towards the neighbour.
   */
  weights: Float64Array
  /** Transform bins that are needed. */
  bins: [first: number, last: number]
  /**
   * 'main': followed for arrivals, all its bins are kept; 'impulse': long enough for impulse responses, all
   * bins too.
   */
  role: 'main' | 'impulse' | 'band'
}

/** Block lengths at 48 kHz, each for one octave, the last for all above: at least 42 bins an octave everywhere. */
const lengths = [2 ** 17, 2 ** 16, 2 ** 15, 2 ** 14, 2 ** 13, 2 ** 12]
/** Upper end of a level's octave, in bins of its own. */
const upper = 2 ** 8 / 3
const mainLength = 2 ** 14
const impulseLength = 2 ** 17

/**
 * The levels of a measurement on `grid`: one for a single length, or six for 'multi', from 2.7 s for the octave
 * below 31 Hz to
 * 85 ms above 500 Hz, so that a hall's early reflections count as its sound (at other sample rates the nearest
 * powers of two). Throws RangeError for a length that is no power of two.
 */
export function multiLevels(length: number | 'multi', sampleRate: Hertz, grid: Float64Array): LevelRange[] {
  const points = grid.length
  if (length !== 'multi')
    return [
      {
        length,
        first: 0,
        end: points,
        weights: new Float64Array(points).fill(1),
        bins: [0, length / 2],
        role: 'main',
      },
    ]
  const times = 2 ** Math.round(Math.log2(sampleRate / 48_000))
  const scaled = lengths.map(l => l * times)
  const borders = scaled.slice(0, -1).map(l => (upper * sampleRate) / l) // between a level and the next shorter one
  return scaled.map((size, n) => {
    const low = n === 0 ? 0 : borders[n - 1]!
    const high = borders[n] ?? Infinity
    /** Rises from 0 to 1 over a third of an octave around a border. */
    const fade = (f: number, border: number) => {
      const t = Math.log2(f / border) * 3 + 0.5
      return 0.5 - 0.5 * Math.cos(Math.PI * Math.max(0, Math.min(1, t)))
    }
    const weight = (f: number) => (low === 0 ? 1 : fade(f, low)) * (high === Infinity ? 1 : 1 - fade(f, high))
    const first = grid.findIndex(f => weight(f) > 0)
    const end = grid.findLastIndex(f => weight(f) > 0) + 1
    const roles = new Map([[impulseLength * times, 'impulse'], [mainLength * times, 'main']] as const)
    const role = roles.get(size) ?? 'band'
    const bin = sampleRate / size
    const bins: [number, number]
      = role === 'band'
        ? [
            Math.max(0, Math.floor((grid[first]! * 0.98) / bin) - 2),
            Math.min(size / 2, Math.ceil((grid[end - 1]! * 1.02) / bin) + 2),
          ]
        : [0, size / 2]
    return {
      length: size,
      first,
      end,
      weights: Float64Array.from({ length: end - first }, (_, k) => weight(grid[first + k]!)),
      bins,
      role,
    }
  })
}
