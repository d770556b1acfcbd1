import type { Place } from '../acoustics'
import type { Area, Source } from './plan'
import { sheetAt, type Sheet } from './sheet'

/** What a source is for: what carries the hall, what goes below it, what helps where that does not reach. */
export const roles = { main: 'role.main', sub: 'role.sub', fill: 'role.fill' } as const
export type SourceRole = keyof typeof roles

/** A source that plays no higher is a sub. */
const subTo = 300
/** Sources within so many dB of the loudest kind, and so many metres of the one nearest to the stage, are mains. */
const [asLoud, asNear] = [3, 4]
const heardAt = 1000

const middleOf = (places: readonly Place[]) => ({
  x: places.reduce((s, p) => s + p.x, 0) / places.length,
  y: places.reduce((s, p) => s + p.y, 0) / places.length,
})

/** The part of every source, by its key: as it is told, else by its kind and where it stands to the stage. */
export function rolesOf(
  sources: readonly Source[],
  sheets: readonly Sheet[],
  areas: readonly Area[],
): Record<string, SourceRole> {
  const sheetOf = (s: Source) => sheets.find(x => x.id === s.elements[0]!.sheet)
  const isSub = (s: Source) => {
    const sheet = sheetOf(s)
    return sheet !== undefined && Math.max(...sheet.bands.map(b => b.high)) <= subTo
  }
  const stage = areas.find(a => a.kind === 'stage')
  const corners = stage?.outline.map(c => ({ ...c, z: 0 }))
  const from = corners ? middleOf(corners) : null
  const away = (s: Source) => {
    const { x, y } = middleOf(s.elements.map(e => e.place))
    return from ? Math.hypot(x - from.x, y - from.y) : x
  }
  const others = sources.filter(s => !isSub(s))
  const loudness = (s: Source) => {
    const sheet = sheetOf(s)
    return sheet ? sheetAt(sheet, heardAt).level : -Infinity
  }
  const most = Math.max(...others.map(loudness))
  const loud = others.filter(s => loudness(s) >= most - asLoud)
  const nearest = Math.min(...loud.map(away))
  const found = (s: Source): SourceRole => {
    if (isSub(s)) return 'sub'
    return loud.includes(s) && away(s) <= nearest + asNear ? 'main' : 'fill'
  }
  return Object.fromEntries(sources.map(s => [s.id, s.role ?? found(s)]))
}
