import type { Component } from 'vue'
import type { AreaId } from '~/document/view'
import { align } from './align/area'
import type { Area } from './area'
import { listen } from './listen/area'
import { rig } from './rig/area'
import { run } from './run/area'
import { shape } from './shape/area'
import { site } from './site/area'
import { watch } from './watch/area'
import { phrase } from '~/parts/phrase'

/** Every area that is built, by its place in the address. A new one is its folder and its line here. */
export const areas: Readonly<Record<AreaId, Area>> = { site, rig, listen, shape, align, run, watch }

/** The areas of the job in the order in which it is done; those without an area are not built yet. */
export const railAreas: readonly { id: string, name: string, area?: Area }[] = [
  ...[site, rig, listen, shape, align].map(area => ({ id: area.id, name: area.name, area })),
  { id: 'prove', name: phrase('frame.prove') },
  { id: watch.id, name: watch.name, area: watch },
]

/** The inspector of an area: its own, or that of the area that it shares one with; null where it has none. */
export function inspectorOf({ inspector }: Area): Component | null {
  return typeof inspector === 'string' ? inspectorOf(areas[inspector]) : (inspector ?? null)
}
