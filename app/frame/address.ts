import type { LocationQuery } from 'vue-router'
import type { AreaId, PickedStrip, useView } from '~/document/view'

type View = ReturnType<typeof useView>

/** What is looked at, as it stands in the address behind the site: /listen/inputs?cell=main-l/mix. */
export interface Looking {
  area: AreaId
  /** What stands on the plate, and which one of several. */
  plate: string | null
  item: string | null
  /** Source and position of the picked cell. */
  cell: { source: string, position: string } | null
  strip: PickedStrip | null
  /** What is picked in the plan. */
  thing: string | null
}

const text = (value: LocationQuery[string] | undefined) => (typeof value === 'string' && value ? value : null)
/** Two names with a stroke between; the second may have strokes itself. */
function halves(value: string | null): [string, string] | null {
  const at = value?.indexOf('/') ?? -1
  return value && at > 0 && at < value.length - 1 ? [value.slice(0, at), value.slice(at + 1)] : null
}

/** What stands on the plate of each area besides what it has by itself. */
export type KnownPlates = Readonly<Record<AreaId, readonly string[]>>

/** Reads an address; what is not known, or cannot be, is left out: what is looked at then is Listen. */
export function readAddress(place: readonly string[], query: LocationQuery, plates: KnownPlates): Looking {
  const [first = '', second, item] = place
  const area = Object.hasOwn(plates, first) ? (first as AreaId) : 'listen'
  const known = second !== undefined && area === first && plates[area].includes(second)
  const cell = halves(text(query.cell))
  const strip = halves(text(query.strip))
  return {
    area,
    plate: known ? second : null,
    item: known && item ? item : null,
    cell: cell && { source: cell[0], position: cell[1] },
    strip: strip && { device: strip[0], strip: strip[1] },
    thing: text(query.pick),
  }
}

/** What stands behind the site in the address of what is looked at. */
export function writeAddress(at: Looking): { place: string[], query: Record<string, string> } {
  return {
    place: [at.area, ...(at.plate === null ? [] : [at.plate, ...(at.item ? [at.item] : [])])],
    query: {
      ...(at.cell ? { cell: `${at.cell.source}/${at.cell.position}` } : {}),
      ...(at.strip ? { strip: `${at.strip.device}/${at.strip.strip}` } : {}),
      ...(at.area === 'site' && at.thing ? { pick: at.thing } : {}),
    },
  }
}

/** Which of several the plate shows: the sheet or the device that is looked at. */
function itemOf({ plate, sheet, device }: View): string | null {
  if (plate === 'sheets') return sheet
  return plate === 'device' ? device : null
}

/** What is looked at now. */
export const lookingOf = (view: View): Looking => ({
  area: view.area,
  plate: view.plate,
  item: itemOf(view),
  cell: view.cell,
  strip: view.strip,
  thing: view.thing,
})

/** Looks at what an address says. What it says nothing of stays as it is. */
export function lookAt(view: View, at: Looking) {
  view.go(at.area, at.plate)
  if (at.plate === 'sheets' && at.item !== null) view.sheet = at.item
  if (at.plate === 'device' && at.item !== null) view.device = at.item
  if (at.cell) view.cell = at.cell
  view.strip = at.strip
  if (at.area === 'site') view.thing = at.thing
}
