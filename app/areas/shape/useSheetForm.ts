import { defineStore } from 'pinia'
import { magnitude, standardGrid } from '~~/core/dsp'
import {
  emptySheet,
  followersOf,
  readSheetJson,
  readSheetTable,
  sheetChecks,
  sheetResponse,
  sheetRows,
  withCell,
  withCoverage,
  writeSheetTable,
  type Sheet,
  type SheetRow,
  type WidthUnit,
} from '~~/core/documents'
import { useSheets } from '~/document/useSheets'
import { download } from '~/parts/download'
import { equal } from '~~/core/units'
import type { Trace } from '~/charts/traces'
import { useSite } from '~/document/site'
import { useView } from '~/document/view'
import { useNotices } from '~/parts/notices'
import { message } from '~~/core/words'
import { phrase } from '~/parts/phrase'

/** Filters shown beyond the last that is set: there is always room for one more. */
const spare = 1
const rate = 96_000

/** Sheets that were typed and not kept yet, by their site and their key: they outlast a look elsewhere. */
const useSheetDrafts = defineStore('sheet-drafts', () => ({ drafts: shallowRef<Record<string, Sheet>>({}) }))

/** A sheet while it is being typed: nothing of it counts until it is kept. */
export function useSheetForm() {
  const site = useSite()
  const view = useView()
  const notices = useNotices()
  const sheets = useSheets()
  const { drafts } = storeToRefs(useSheetDrafts())
  const width = ref<WidthUnit>('q')
  const keyOf = (id: string) => `${site.id} ${id}`
  const stored = computed(() => site.sheetOf(view.sheet))
  const sheet = computed<Sheet | null>(() => drafts.value[keyOf(view.sheet)] ?? stored.value ?? null)
  const put = (next: Sheet) => {
    drafts.value = { ...drafts.value, [keyOf(next.id)]: next }
  }
  const forget = (id: string) => {
    const { [keyOf(id)]: _, ...rest } = drafts.value
    drafts.value = rest
  }
  const isNew = computed(() => sheet.value !== null && !stored.value)
  const changed = computed(() => sheet.value !== null && !equal(sheet.value, stored.value))
  /** Sheets of the site, and those that were typed and not kept yet. */
  const choices = computed(() => [
    ...site.sheets.map(s => ({ value: s.id, label: s.name })),
    ...Object.entries(drafts.value)
      .filter(([key, d]) => key === keyOf(d.id) && !site.sheetOf(d.id))
      .map(([, d]) => ({ value: d.id, label: phrase('shape.notSavedYet', { name: d.name }) })),
  ])
  const rows = computed<readonly SheetRow[]>(() => {
    const most = Math.max(0, ...(sheet.value?.bands ?? []).map(b => b.needs?.eq.length ?? 0)) + spare
    return sheetRows.filter(r => !r.id.startsWith('eq-') || Number(r.id.slice(3)) <= most)
  })
  const reached = computed(() =>
    sheet.value ? followersOf(site.documents, sheet.value.id).map(f => sheets.outputName(f.output)) : [])
  const checks = computed(() => (sheet.value ? sheetChecks(sheet.value) : []))

  /** Why a cell cannot be what was typed; null: it can. */
  function check(row: SheetRow, band: number, text: string): string | null {
    try {
      withCell(sheet.value!, row, band, text, width.value)
      return null
    }
    catch (error) { return (error as Error).message }
  }
  const set = (row: SheetRow, band: number, text: string) => {
    put(withCell(sheet.value!, row, band, text, width.value))
  }
  const traces = computed<Trace[]>(() => {
    if (!sheet.value) return []
    const { bands, sum } = sheetResponse(sheet.value, standardGrid, rate)
    const line = (id: string, name: string, curve: typeof sum, look: Partial<Trace>): Trace => ({
      id, name, hue: 0, dash: 0, predicted: false, strong: false, trusted: standardGridTrust,
      values: magnitude(curve).map(x => (x < -150 ? Number.NaN : x)), ...look,
    })
    return [
      ...bands.map((curve, n) => line(`${n}`, sheet.value!.bands[n]!.name, curve, { hue: n + 1 })),
      ...(bands.length > 1 ? [line('sum', 'together', sum, { hue: 0, strong: true })] : []),
    ]
  })
  const freeId = () => {
    let n = 1
    while (sheets.isThere(`own-${n}`) || drafts.value[keyOf(`own-${n}`)]) n++
    return `own-${n}`
  }
  function open(next: Sheet) {
    put(next)
    view.sheet = next.id
  }
  async function read(file: File) {
    try {
      const text = await file.text()
      const id = freeId()
      open(text.trimStart().startsWith('{') ? readSheetJson(text, id) : readSheetTable(text, id))
    }
    catch (error) { notices.fail(error) }
  }
  async function keep() {
    const kept = sheet.value
    if (!kept || !(await sheets.save(kept))) return
    forget(kept.id)
    const count = reached.value.length
    const { name } = kept
    notices.say('info', count
      ? message('sheet.savedAndSet', { name, outputs: count })
      : message('sheet.saved', { name }))
  }
  return {
    sheet, width, choices, rows, isNew, changed, reached, checks, traces, check, set, keep, read, open,
    rename: (name: string) => put({ ...sheet.value!, name }),
    cover: (across: number, up: number) => {
      try {
        put(withCoverage(sheet.value!, across, up))
      }
      catch (error) { notices.fail(error) }
    },
    start: (bands: number) => open(emptySheet(freeId(), phrase('shape.newLoudspeaker'), bands)),
    copy: () => open({ ...sheet.value!, id: freeId(), name: phrase('shape.copy', { name: sheet.value!.name }) }),
    undo() {
      forget(sheet.value!.id)
      view.sheet = (stored.value ?? site.sheets[0])?.id ?? ''
    },
    async remove() {
      const { id } = sheet.value!
      if (!(await sheets.remove(id))) return
      forget(id)
      view.sheet = site.sheets.find(s => s.id !== id)?.id ?? ''
    },
    saveAs(kind: 'json' | 'txt') {
      const { id: _, ...content } = sheet.value!
      const text = kind === 'json' ? `${JSON.stringify(content, null, 2)}\n` : writeSheetTable(sheet.value!)
      download(`${sheet.value!.name}.${kind}`, text, kind === 'json' ? 'application/json' : 'text/plain')
    },
  }
}
const standardGridTrust = Array.from(standardGrid, () => true)
