import { outputsOf, routeSounds, routeTo, sameEndpoint, type Endpoint, type Rig } from '../rig'

/**
 * Sources besides one that a feed lets sound with it: through outputs that are not that one's own. None where it does
 * not sound itself. `sources` are all of the site.
 */
export function soundingToo(rig: Rig, from: Endpoint, sources: readonly string[], source: string): string[] {
  const own = outputsOf(rig.wiring, source)
  const sounds = (to: Endpoint) => {
    const route = routeTo(rig, from, to)
    return route !== null && routeSounds(rig, route)
  }
  if (!own.some(sounds)) return []
  return sources.filter(id => id !== source
    && outputsOf(rig.wiring, id).some(to => !own.some(o => sameEndpoint(o, to)) && sounds(to)))
}
