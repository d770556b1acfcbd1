import type { Decibels, Hertz, Seconds } from '../units'

/** How far a decay can be followed. */
export interface Extent {
  /** Sample at which it meets the noise, or ends. */
  end: number
  /** Mean square of the noise behind it; 0 where there is none, or where the response is cut before it. */
  noise: number
  /** Energy (sum of squares) behind `end`, if the decay went on as it did before. */
  missing: number
  /** Samples in which the energy falls to 1/e there; 0 where nothing decays. */
  constant: number
  /** Start of the decay over the noise, or over the response's end. */
  range: Decibels
  cut: boolean
}

interface Means {
  levels: Float64Array
  step: number
}
interface Line {
  /** Level at sample 0 and slope a sample. */
  start: Decibels
  slope: Decibels
}

function meansOf(squares: Float64Array, step: number): Means {
  const levels = Float64Array.from({ length: Math.floor(squares.length / step) }, (_, k) => {
    let sum = 0
    for (let n = k * step; n < (k + 1) * step; n++) sum += squares[n]!
    return 10 * Math.log10(Math.max(1e-40, sum / step))
  })
  return { levels, step }
}

/** Straight line through the means from `from` to before `to`; null with fewer than three, or when it does not fall. */
function lineThrough({ levels, step }: Means, from: number, to: number): Line | null {
  const count = to - from
  if (count < 3) return null
  let sx = 0
  let sy = 0
  let sxx = 0
  let sxy = 0
  for (let k = from; k < to; k++) {
    const x = (k + 0.5) * step
    sx += x
    sy += levels[k]!
    sxx += x * x
    sxy += x * levels[k]!
  }
  const slope = (sxy - (sx * sy) / count) / (sxx - (sx * sx) / count)
  return slope < 0 ? { start: (sy - slope * sx) / count, slope } : null
}

const meanLevelOf = (squares: Float64Array, from: number, to: number): number => {
  let sum = 0
  for (let n = from; n < to; n++) sum += squares[n]!
  return sum / Math.max(1, to - from)
}

/** First mean behind the loudest that lies under a level. */
function firstUnder({ levels }: Means, top: number, level: Decibels): number {
  for (let k = top; k < levels.length; k++) if (levels[k]! < level) return k
  return levels.length
}
const loudest = ({ levels }: Means) => levels.indexOf(levels.reduce((a, b) => Math.max(a, b), -Infinity))

/** Samples in which a line falls to 1/e. */
const constantOf = ({ slope }: Line) => 10 / (-slope * Math.LN10)
/** Energy behind a sample, in sums of squares, of a line that goes on. */
const behind = (line: Line, at: number) => 10 ** ((line.start + line.slope * at) / 10) * constantOf(line)

/** Mean intervals that a decay by 10 dB is seen by. */
const perTen = 4
const rounds = 8
/** Independent values (bandwidth times time) that a decay, and the noise behind it, must be told by. */
const leastValues = 8
const leastNoise = 3
/** Intervals of the first look: the longest that shows a decay. */
const firstIntervals: readonly Seconds[] = [0.03, 0.005, 0.001, 0]

/** Samples up to where nothing but digital silence follows. */
export function heardLength(squares: Float64Array): number {
  let most = 0
  for (let n = 0; n < squares.length; n++) most = Math.max(most, squares[n]!)
  let end = squares.length
  while (end > 0 && squares[end - 1]! <= 1e-20 * most) end--
  return end
}

/** Where the last tenth is not lower than the tenth before, by more than chance: what is there is noise. */
function stillFalls(squares: Float64Array, sampleRate: Hertz, width: Hertz, usable: number): boolean {
  const tenth = Math.floor(usable / 10)
  const [before, last] = [2, 1].map(k => meanLevelOf(squares, usable - k * tenth, usable - (k - 1) * tenth))
  if (!(last! > 0)) return false
  // a mean of noise over time t and bandwidth B scatters by 4.34/√(B·t) dB
  const chance = (4.34 * Math.SQRT2) / Math.sqrt(Math.max(1, (width * tenth) / sampleRate))
  return 10 * Math.log10(before! / last!) > Math.max(1, 3 * chance)
}

/** Where a decay starts: by its line, but not far over what was heard. */
const topOf = (means: Means, { start }: Line): Decibels => Math.min(start, means.levels[loudest(means)]! + 2)

function cutExtent(squares: Float64Array, sampleRate: Hertz, width: Hertz, usable: number): Extent {
  const step = Math.max(sampleRate / width, Math.min(0.005 * sampleRate, usable / 30), 8)
  const means = meansOf(squares.subarray(0, usable), Math.round(step))
  const top = loudest(means)
  const count = means.levels.length
  const line = lineThrough(means, Math.max(top, Math.floor(count * 0.5)), count) ?? lineThrough(means, top, count)
  if (!line) return { end: usable, noise: 0, missing: 0, constant: 0, range: 0, cut: true }
  const whole = lineThrough(means, top, count) ?? line
  return {
    end: usable,
    noise: 0,
    missing: behind(line, usable),
    constant: constantOf(line),
    range: topOf(means, whole) - (line.start + line.slope * usable),
    cut: true,
  }
}

/**
 * How far the squares of a response, from its onset on, can be followed into their noise: decay line, noise and
 * their crossing found in turns. Source: Lundeby, Vigran, Bietz & Vorländer 1995, Acustica 81, 344. `width` is the
 * width in Hz of what was filtered out (its last 2/width seconds are the filter's own).
 */
export function extentOf(squares: Float64Array, sampleRate: Hertz, width: Hertz): Extent {
  const heard = heardLength(squares)
  const usable = Math.max(Math.floor(heard / 2), heard - Math.round((2 / width) * sampleRate))
  /** Independent values within so many samples. */
  const values = (samples: number) => (width * samples) / sampleRate
  const nothing: Extent = { end: squares.length, noise: 0, missing: 0, constant: 0, range: 0, cut: false }
  if (heard === 0) return nothing
  if (usable < 24 || values(usable) < leastValues) return { ...nothing, cut: true }
  if (stillFalls(squares, sampleRate, width, usable)) return cutExtent(squares, sampleRate, width, usable)
  let noise = meanLevelOf(squares, Math.floor(0.9 * usable), usable)
  let floor = 10 * Math.log10(Math.max(1e-38, noise))
  let means!: Means
  let line: Line | null = null
  for (const interval of firstIntervals) {
    means = meansOf(squares.subarray(0, usable), Math.max(8, Math.round(interval * sampleRate)))
    line = lineThrough(means, loudest(means), firstUnder(means, loudest(means), floor + 8))
    if (line) break
  }
  if (!line) return { ...nothing, noise }
  let crossing = Math.min(usable, (floor - line.start) / line.slope)
  for (let round = 0; round < rounds; round++) {
    const step: number = Math.max(8, Math.round(Math.min(0.05 * sampleRate, 10 / perTen / -line.slope)))
    means = meansOf(squares.subarray(0, usable), step)
    const quiet: number = Math.min(Math.floor(0.9 * usable), Math.round(crossing - 5 / line.slope))
    noise = meanLevelOf(squares, quiet, usable)
    floor = 10 * Math.log10(Math.max(1e-38, noise))
    const top = loudest(means)
    const to = firstUnder(means, top, floor + 6)
    const from = Math.max(top, firstUnder(means, top, floor + 26))
    const next = lineThrough(means, to - from >= 3 ? from : top, to)
    if (!next) break
    line = next
    const before = crossing
    crossing = Math.min(usable, Math.max(step, (floor - line.start) / line.slope))
    if (Math.abs(crossing - before) < 0.002 * sampleRate) break
  }
  const end = Math.max(8, Math.round(crossing))
  const first = lineThrough(means, loudest(means), firstUnder(means, loudest(means), floor + 6)) ?? line
  // too little behind the crossing to tell noise from a pause in the decay
  if (values(usable - end) < leastNoise) return cutExtent(squares, sampleRate, width, usable)
  return {
    end,
    noise,
    missing: behind(line, end),
    constant: constantOf(line),
    range: topOf(means, first) - floor,
    cut: false,
  }
}
