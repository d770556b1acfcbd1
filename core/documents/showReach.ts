import { logGrid, magnitude } from '../dsp'
import { outputsOf, pathResponse, testFeed } from '../rig'
import { decibelsOf, ratioOf, type Decibels } from '../units'
import { bandDriven } from './follow'
import type { Documents } from './kinds'
import { allOf, contentOf, rigOf } from './site'

/** Below that a feed does not reach a source, dB from the feed to the output. */
const reaches: Decibels = -60

/** A source with the console's feeds that reach it: mean level over its band, dB from the feed to its outputs. */
export interface Reached {
  source: string
  name: string
  feeds: { name: string, level: Decibels }[]
}

/**
 * Which of the console's own feeds reach which source by what the devices hold: what none reaches is silent in the
 * show, however well it was tuned with Kovrin's signal. Null for a site that has no feed but Kovrin's own.
 */
export function showReach(documents: Documents): Reached[] | null {
  const feeds = Object.entries(contentOf(documents, 'wiring')?.feeds ?? {}).filter(([id]) => id !== testFeed)
  if (!feeds.length) return null
  const rig = rigOf(documents, 'held')
  return allOf(documents, 'source').map(({ id, name }) => ({
    source: id,
    name,
    feeds: feeds.flatMap(([, feed]) => {
      const levels = outputsOf(rig.wiring, id).map((to) => {
        const band = bandDriven(documents, id, to)?.band
        const at = logGrid(3, band?.low ?? 50, band?.high ?? 15_000)
        const powers = magnitude(pathResponse(rig, feed.from, to, at)).map(l => ratioOf(l) ** 2)
        return decibelsOf(Math.sqrt(powers.reduce((sum, p) => sum + p, 0) / powers.length))
      })
      const level = Math.max(-Infinity, ...levels)
      return level > reaches ? [{ name: feed.name, level }] : []
    }),
  }))
}

/** Names of sources that no feed of the console reaches; null where the console has none. */
export const unreachedInShow = (documents: Documents): string[] | null =>
  showReach(documents)?.filter(r => !r.feeds.length).map(r => r.name) ?? null
