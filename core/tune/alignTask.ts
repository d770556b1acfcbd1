import type { Decibels, Seconds } from '../units'

/** Values over frequency, complex. */
export interface Complex {
  re: ArrayLike<number>
  im: ArrayLike<number>
}

/** What two sources read at one position, complex, at the frequencies of the task. */
export interface Pair {
  reference: Complex
  move: Complex
  /** By how much later the moved source is heard there, for what warmer air does; 0 unless it is known. */
  apart?: Seconds | undefined
}

/** One source to be brought to another, as they are heard at all positions. */
export interface AlignTask {
  frequencies: ArrayLike<number>
  /** Bandwidth that each frequency stands for, relative to the others. */
  widths: ArrayLike<number>
  pairs: readonly Pair[]
  /** Seconds that may be added to the moved source, first and last, and their step. */
  delay: readonly [Seconds, Seconds]
  step: Seconds
  /** Whether its polarity may be turned. */
  polarity: boolean
  /** dB that may be added to it; its level stays unless given. */
  level?: readonly [Decibels, Decibels] | undefined
  /** Weight of each position. */
  weights: readonly number[]
  /** No position may read less than this under the ideal sum. */
  worst?: Decibels | undefined
  /** dB of the mean that 1 dB of standard deviation between the positions is worth; none unless given. */
  even?: number | undefined
  names?: readonly string[] | undefined
}
