import { tellsCell, type Position, type Source, type Take } from '~~/core/documents'

export type CellState = 'empty' | 'fresh' | 'stale'
export interface LedgerCell {
  position: Position
  state: CellState
  count: number
  picked: boolean
}
export interface LedgerRow {
  source: Source
  cells: LedgerCell[]
}

/** The grid of what has been measured: sources down, positions across. */
export function useLedger() {
  const site = useSite()
  const view = useView()
  const takes = useTakes()
  function stateOf(newest: Take | undefined): CellState {
    if (!newest) return 'empty'
    return takes.stale[newest.id]?.length ? 'stale' : 'fresh'
  }
  function cellOf(source: Source, position: Position): LedgerCell {
    const list = takes.inCell(source.id, position.id)
    const newest = list.findLast(tellsCell)
    const picked = view.cell?.source === source.id && view.cell.position === position.id
    return { position, state: stateOf(newest), count: list.length, picked }
  }
  return computed<LedgerRow[]>(() =>
    site.sources.map(source => ({ source, cells: site.positions.map(p => cellOf(source, p)) })))
}
