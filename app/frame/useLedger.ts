import { tellsCell, type Position, type Source, type Take } from '~~/core/documents'
import { clockOf } from '~/parts/clock'
import { useSite } from '~/document/site'
import { useTakes } from '~/document/takes'
import { useView } from '~/document/view'
import { phrase } from '~/parts/phrase'

export type CellState = 'empty' | 'fresh' | 'stale'
export interface LedgerCell {
  position: Position
  state: CellState
  count: number
  /** When its newest take was made, as a clock shows it; null while there is none. */
  at: string | null
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
    const at = list.length ? clockOf(list.at(-1)!.at) : null
    return { position, state: stateOf(newest), count: list.length, at, picked }
  }
  return computed<LedgerRow[]>(() =>
    site.sources.map(source => ({ source, cells: site.positions.map(p => cellOf(source, p)) })))
}

/** How much of the ledger is done, in words. */
export function useLedgerSummary() {
  const ledger = useLedger()
  return computed(() => {
    const all = ledger.value.flatMap(r => r.cells)
    const count = (s: CellState) => all.filter(c => c.state === s).length
    return phrase('frame.freshStaleToDo', { fresh: count('fresh'), stale: count('stale'), left: count('empty') })
  })
}
