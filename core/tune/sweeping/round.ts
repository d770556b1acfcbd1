import type { Endpoint } from '../../rig'
import type { Decibels, Seconds } from '../../units'
import type { Message } from '../../words'
import { isTooLoud } from './level'

/** What one sweep is of: a source at a position, or one output of it alone. */
export interface SweepCell {
  source: string
  position: string
  only: Endpoint | null
}

/** dB by which a sweep that clips in the microphone is played softer, and how often; nothing is ever made louder. */
const [softer, mostSofter]: [Decibels, number] = [12, 2]

/**
 * A round of sweeps over some cells, one after the other: `preparing` (the other loudspeakers are muted), `checking`
 * (a short noise), `settling` (it dies away), `recording`, `keeping`, and so on with the next cell; `over` after the
 * last, `ended` when somebody stopped it.
 */
export interface SweepRound {
  status: 'preparing' | 'checking' | 'settling' | 'recording' | 'keeping' | 'over' | 'ended'
  cells: readonly SweepCell[]
  /** The cell that is swept. */
  at: number
  /** Level of this try, and of the first one of every cell, dBFS. */
  level: Decibels
  first: Decibels
  tries: number
  /** Whether a sweep that clips is tried again softer. */
  softens: boolean
  /** How much of the sweep is recorded, 0 to 1. */
  part: number
  failed: readonly { cell: SweepCell, told: Message }[]
}
export type SweepEvent
  /** What the status says is done. */
  = | { type: 'done' }
  /** The cell has a fresh sweep already: another microphone heard it. */
    | { type: 'skip' }
    | { type: 'recorded', part: number }
    | { type: 'refused', told: Message }
    | { type: 'end' }

/** A round over these cells; `softens`: a sweep that clips is tried again softer. */
export const sweepRound = (cells: readonly SweepCell[], level: Decibels, softens: boolean): SweepRound => ({
  status: cells.length ? 'preparing' : 'over',
  cells,
  at: 0,
  level,
  first: level,
  tries: 0,
  softens,
  part: 0,
  failed: [],
})

const after = {
  preparing: 'checking', checking: 'settling', settling: 'recording', recording: 'keeping',
} as const

function nextCell(round: SweepRound): SweepRound {
  const at = round.at + 1
  const status = at < round.cells.length ? 'preparing' : 'over'
  return { ...round, status, at, level: round.first, tries: 0, part: 0 }
}

function refused(round: SweepRound, told: Message): SweepRound {
  if (round.softens && isTooLoud(told) && round.tries < mostSofter)
    return { ...round, status: 'checking', level: round.level - softer, tries: round.tries + 1, part: 0 }
  return nextCell({ ...round, failed: [...round.failed, { cell: round.cells[round.at]!, told }] })
}

/** A round after one event; what comes after its end changes nothing. */
export function sweepAfter(round: SweepRound, event: SweepEvent): SweepRound {
  if (round.status === 'over' || round.status === 'ended') return round
  switch (event.type) {
    case 'end': return { ...round, status: 'ended' }
    case 'skip': return nextCell(round)
    case 'refused': return refused(round, event.told)
    case 'recorded': return round.status === 'recording' ? { ...round, part: event.part } : round
    case 'done':
      return round.status === 'keeping' ? nextCell(round) : { ...round, status: after[round.status], part: 0 }
  }
}

/** Seconds that a sweep takes besides its sound: the level check, and what it waits for. */
const aroundEach: Seconds = 3
/** Seconds that a round still takes; `each`: those of one sweep with its tail. */
export const sweepLeft = ({ cells, at, part }: SweepRound, each: Seconds): Seconds =>
  Math.max(0, cells.length - at - part) * (each + aroundEach)

/**
 * Cells still to be swept, position after position: every source in all its ways (whole, and where `outputs` has
 * several and `alone` is set each of them by itself) that `isDone` does not know a fresh sweep of.
 */
export function cellsToSweep(
  sources: readonly { id: string, outputs: readonly Endpoint[] }[],
  positions: readonly string[],
  alone: boolean,
  isDone: (cell: SweepCell) => boolean,
): SweepCell[] {
  return positions.flatMap(position => sources.flatMap(({ id, outputs }) =>
    [null, ...(alone && outputs.length > 1 ? outputs : [])].map(only => ({ source: id, position, only })),
  )).filter(cell => !isDone(cell))
}
