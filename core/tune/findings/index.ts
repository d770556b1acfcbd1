import type { Finding, Observed } from './finding'
import { levelFindings } from './heard'
import { humFindings, trustFindings } from './noise'
import { pairFindings, planFindings, sourceFindings } from './pair'
import { combFindings, echoFindings, modeFindings } from './room'

export type { Evidence, Finding, Observed } from './finding'
export { hasMoved, isHeard, isKnown, levelAdvice } from './heard'
export * from './observe'

/** Of a source that gets no signal, level, noise and room say nothing yet: first its way must be whole. */
const waitsForRoute = new Set([
  'mic-quiet', 'low-noise', 'low-room', 'low-arrival', 'moved', 'polarity', 'echo', 'comb',
])

/**
 * Everything that a running measurement says of itself, most serious first. Every sentence has a rule and its
 * numbers.
 */
export function findingsOf(seen: Observed): Finding[] {
  const order = { wrong: 0, mind: 1, know: 2 }
  return [
    ...levelFindings(seen),
    ...sourceFindings(seen),
    ...pairFindings(seen),
    ...planFindings(seen),
    ...trustFindings(seen),
    ...humFindings(seen),
    ...combFindings(seen),
    ...echoFindings(seen),
    ...modeFindings(seen),
  ]
    .filter(f => seen.unfed === null || !waitsForRoute.has(f.id))
    .sort((a, b) => order[a.weight] - order[b.weight])
}
