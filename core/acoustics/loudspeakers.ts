import type { Decibels } from '../units'
import type { PerOctave } from './materials'

/**
 * What a kind of loudspeaker is to the plan: its level on axis at 1 m, relative to the kinds beside it, and its
 * directivity factor per octave.
 */
export interface LoudspeakerKind {
  name: string
  level: Decibels
  q: PerOctave
}

/** Generic kinds (common practice for boxes of these sizes), not products. */
export const loudspeakerKinds = {
  'top-12': { name: 'Two-way top, 12 inch', level: 13, q: [1, 1.3, 2, 4, 7, 10, 12, 14] },
  'top-8': { name: 'Two-way top, 8 inch', level: 9, q: [1, 1.2, 1.6, 3, 6, 9, 11, 12] },
  'sub-18': { name: 'Subwoofer, 18 inch', level: 12, q: [1, 1, 1.2, 2, 3, 4, 5, 6] },
  'fill-6': { name: 'Small fill, 6 inch', level: 2, q: [1, 1, 1.4, 2.5, 5, 8, 10, 11] },
  'ceiling-6': { name: 'Ceiling loudspeaker, 6 inch', level: 0, q: [1, 1, 1.2, 2, 4, 6, 8, 9] },
} as const satisfies Record<string, LoudspeakerKind>
export type LoudspeakerId = keyof typeof loudspeakerKinds
export const loudspeakerIds = Object.keys(loudspeakerKinds) as LoudspeakerId[]
