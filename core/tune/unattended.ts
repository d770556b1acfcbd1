import type { Tuning } from './proposals'
import { message, type Message } from '../words'

/**
 * Work that goes on by itself: `measuring` at one position after the other, `moving` (it waits for a person to move a
 * microphone, and for nothing else), `computing`, `proposals` (shown, nothing set). `idle` before and after.
 */
export interface Unattended {
  status: 'idle' | 'measuring' | 'moving' | 'computing' | 'proposals'
  /** Positions that are visited in this order, and which is now. */
  visits: readonly string[]
  at: number
  /** How much is computed, 0 to 1, and what is looked at. */
  part: number
  what: Message
  /** What could not be measured. */
  notes: readonly Message[]
  tuning: Tuning | null
  /** Proposals that are not picked. */
  left: readonly string[]
}
export const resting: Unattended = {
  status: 'idle', visits: [], at: 0, part: 0, what: message('tuning.theTakes'), notes: [], tuning: null, left: [],
}

export type UnattendedEvent
  /** `here`: where the microphone stands at first; null where nobody said. */
  = | { type: 'start', visits: readonly string[], here: string | null }
    | { type: 'moved' }
    | { type: 'measured', failed: readonly Message[] }
    | { type: 'progress', part: number, what: Message }
    | { type: 'proposed', tuning: Tuning }
  /** Ended by a person, or by what went wrong. */
    | { type: 'end' }
    | { type: 'toggle', proposal: string }
  /** The proposals are set, or thrown away. */
    | { type: 'settled' }

const computing = (now: Unattended): Unattended =>
  ({ ...now, status: 'computing', part: 0, what: message('tuning.theTakes') })

function start(visits: readonly string[], here: string | null): Unattended {
  const begun = { ...resting, visits }
  if (!visits.length) return computing(begun)
  // where it stands at first is where the person put it
  return { ...begun, status: here === null || here === visits[0] ? 'measuring' : 'moving' }
}

/** What comes after an event; one that does not belong to the status changes nothing. */
export function unattendedAfter(now: Unattended, event: UnattendedEvent): Unattended {
  const { status } = now
  const isResting = status === 'idle' || status === 'proposals'
  switch (event.type) {
    case 'start': return isResting ? start(event.visits, event.here) : now
    case 'moved': return status === 'moving' ? { ...now, status: 'measuring' } : now
    case 'measured': {
      if (status !== 'measuring') return now
      const next = { ...now, at: now.at + 1, notes: [...now.notes, ...event.failed] }
      return next.at < now.visits.length ? { ...next, status: 'moving' } : computing(next)
    }
    case 'progress': return status === 'computing' ? { ...now, part: event.part, what: event.what } : now
    case 'proposed': {
      if (status !== 'computing') return now
      const notes = [...event.tuning.notes, ...now.notes]
      return { ...now, status: 'proposals', tuning: { ...event.tuning, notes } }
    }
    case 'end': return isResting ? now : resting
    case 'toggle': {
      const { proposal } = event
      const isLeft = now.left.includes(proposal)
      return { ...now, left: isLeft ? now.left.filter(x => x !== proposal) : [...now.left, proposal] }
    }
    case 'settled': return status === 'proposals' ? resting : now
  }
}

/**
 * Where a microphone must be put in turn so that every position that counts is measured; those where one stands for
 * good (`fixed`) are heard from the first on. `walking`: a microphone can be moved. `here`: where it stands now.
 */
export function visitingOrder(
  positions: readonly { id: string, weight: number }[],
  { fixed, walking, here, isNeeded }: {
    fixed: readonly string[]
    walking: boolean
    here: string | undefined
    isNeeded: (position: string) => boolean
  },
): string[] {
  const counted = positions.filter(p => p.weight > 0).map(p => p.id)
  if (!walking) return fixed.filter(p => counted.includes(p)).slice(0, 1)
  const order = counted
    .filter(p => !fixed.includes(p) && isNeeded(p))
    .toSorted((a, b) => Number(b === here) - Number(a === here))
  const standing = fixed.find(isNeeded)
  return order.length || standing === undefined ? order : [standing]
}
