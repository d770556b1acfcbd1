import type { LinkState } from '../links/link'
import type { ParameterPath, ParameterValue, Position, Settings, SitePlan, Source } from '../../core/rig'
import type { TakeRecord } from '../db/sites'

/** What every open page of a site is told. */
export type SiteEvent
  = | { type: 'draft', device: string, path: ParameterPath, value: ParameterValue, who: string }
    | {
      type: 'held'
      device: string
      path: ParameterPath
      value: ParameterValue
      revision: number
      draft: Settings | null
    }
    | { type: 'device', device: string, draft: Settings, held: Settings, revision: number }
    | { type: 'link', device: string, link: LinkState }
    | { type: 'plan', name: string, plan: SitePlan, sources: Source[], positions: Position[] }
    | { type: 'take', take: TakeRecord }
    | { type: 'take-gone', id: string }

type Listener = (event: SiteEvent) => void
const listeners = new Map<string, Set<Listener>>()

/** Hears everything told about a site until the returned function is called. */
export function listen(siteId: string, listener: Listener): () => void {
  const set = listeners.get(siteId) ?? new Set()
  listeners.set(siteId, set.add(listener))
  return () => {
    set.delete(listener)
    if (!set.size) listeners.delete(siteId)
  }
}

export function tell(siteId: string, event: SiteEvent) {
  for (const listener of listeners.get(siteId) ?? []) listener(event)
}
