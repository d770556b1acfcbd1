<script setup lang="ts">
import type { MenuAction } from '~/parts/menus'
import { useLedger, type CellState, type LedgerCell, type LedgerRow } from './useLedger'
import { useSite } from '~/document/site'
import { useView } from '~/document/view'
import { useFeed } from '~/sound/feed'
import { useListen } from '~/sound/listen'
import { useSweep } from '~/sound/sweepStore'
import { phrase } from '~/parts/phrase'

/** The ledger's grid: one tab stop, arrow keys inside; its headings stay while it scrolls. Large, it says when. */
defineProps<{ large?: boolean }>()
const view = useView()
const site = useSite()
const listen = useListen()
const sweep = useSweep()
const feed = useFeed()
const rows = useLedger()
const words: Record<CellState, string> = {
  empty: phrase('frame.notMeasuredYet'),
  fresh: phrase('frame.measuredSettingsUnchanged'),
  stale: phrase('frame.staleASettingOn'),
}
const idOf = (r: LedgerRow, c: LedgerCell) => `${r.source.id}/${c.position.id}`
const said = (r: LedgerRow, c: LedgerCell) => {
  const count = c.count ? `${c.state === 'stale' ? '~' : ''}${c.count}: ` : ''
  const kept = phrase('frame.curvesAreKeptHere')
  const state = c.state === 'empty' && c.count ? kept : words[c.state]
  return `${count}${phrase('common.cellAt', { source: r.source.name, position: c.position.name })}: ${state}`
}

/** A plain click picks the cell; with Shift, Ctrl or Cmd, or while laying over, its newest take is laid over. */
function pick(event: MouseEvent, r: LedgerRow, c: LedgerCell) {
  if (event.shiftKey || event.ctrlKey || event.metaKey || view.layingOver) return view.toggleOverlay(idOf(r, c))
  view.cell = { source: r.source.id, position: c.position.id }
  view.strip = null
  view.drawer = null
}

function choose(id: string) {
  const [source, position] = id.split('/') as [string, string]
  view.cell = { source, position }
  view.strip = null
}
/** What can be done with a cell where it is. */
function actionsOf(pressed: Element): MenuAction[] {
  const id = pressed.closest<HTMLElement>('[data-cell]')?.dataset.cell
  if (!id) return []
  const after = (run: () => void) => () => {
    choose(id)
    void nextTick(run)
  }
  return [
    { name: phrase('frame.measureIt'), run: after(() => void listen.turnNoise(true)) },
    { name: phrase('frame.sweepIt'), run: after(() => void sweep.one()) },
    { name: phrase('frame.feedOnlyThisSource'), run: after(() => void feed.only()) },
    {
      name: view.overlaid.includes(id) ? phrase('frame.removeFromCharts') : phrase('frame.overlayOnCharts'),
      run: () => view.toggleOverlay(id),
    },
  ]
}

/** The cell that Tab comes to: the one that was walked to last, else the picked one, else the first. */
const walked = ref<string | null>(null)
const stop = computed(() => {
  const all = rows.value.flatMap(r => r.cells.map(c => ({ id: idOf(r, c), picked: c.picked })))
  return (all.find(c => c.id === walked.value) ?? all.find(c => c.picked) ?? all[0])?.id
})
const steps: Record<string, [number, number]> = {
  ArrowUp: [-1, 0],
  ArrowDown: [1, 0],
  ArrowLeft: [0, -1],
  ArrowRight: [0, 1],
  Home: [0, -Infinity],
  End: [0, Infinity],
}
const clamp = (v: number, length: number) => Math.max(0, Math.min(length - 1, v))
async function walk(event: KeyboardEvent, row: number, column: number) {
  const step = steps[event.key]
  if (!step) return
  event.preventDefault()
  const grid = (event.currentTarget as HTMLElement).closest('[role="grid"]')!
  const r = rows.value[clamp(row + step[0], rows.value.length)]!
  walked.value = idOf(r, r.cells[clamp(column + step[1], r.cells.length)]!)
  await nextTick()
  grid.querySelector<HTMLElement>(`[data-cell="${walked.value}"]`)?.focus()
}
</script>

<template>
  <PressMenu
    :name="phrase('frame.whatToDoWith')"
    class="scroll"
    :class="{ large }"
    :actions-of="actionsOf"
    role="grid"
    :aria-label="phrase('frame.sourcesByPositions')"
    :aria-colcount="site.positions.length + 1"
  >
    <div
      role="row"
      class="line"
    >
      <span
        role="columnheader"
        class="corner"
      ><span class="silent">{{ phrase('common.source') }}</span></span>
      <span
        v-for="p in site.positions"
        :key="p.id"
        role="columnheader"
        class="over"
        :title="p.name"
      ><span>{{ p.name }}</span></span>
    </div>
    <div
      v-for="(r, i) in rows"
      :key="r.source.id"
      role="row"
      class="line"
      :style="{ '--hue': `var(--hue-${r.source.hue})` }"
    >
      <span
        role="rowheader"
        class="source"
        :title="r.source.name"
      ><i class="dot" /><span>{{ r.source.name }}</span></span>
      <span
        v-for="(c, k) in r.cells"
        :key="c.position.id"
        role="gridcell"
        :aria-selected="c.picked"
      >
        <button
          class="ledger-cell cell"
          :class="[
            c.state,
            { picked: c.picked, live: c.picked && listen.curve, overlaid: view.overlaid.includes(idOf(r, c)) },
          ]"
          :data-cell="idOf(r, c)"
          :data-state="c.state"
          :aria-label="said(r, c)"
          :title="said(r, c)"
          :aria-pressed="c.picked"
          :tabindex="idOf(r, c) === stop ? 0 : -1"
          @click="pick($event, r, c)"
          @keydown="walk($event, i, k)"
          @focus="walked = idOf(r, c)"
        >
          <template v-if="c.count">
            {{ c.state === 'stale' ? '~' : '' }}{{ c.count }}<small v-if="large && c.at">{{ c.at }}</small>
          </template>
        </button>
      </span>
    </div>
  </PressMenu>
</template>

<style scoped>
.scroll {
  overflow: auto;
  max-height: 54vh;
  position: relative;
  padding: 0 2px 3px 0;
}
.line {
  display: flex;
  width: max-content;
}
.line:first-child {
  position: sticky;
  top: 0;
  z-index: 2;
  background: var(--ground, var(--panel));
}
.corner,
.source {
  position: sticky;
  left: 0;
  z-index: 1;
  width: 104px;
  flex: none;
  background: var(--ground, var(--panel));
}
.source {
  display: flex;
  align-items: center;
  gap: 0.35rem;
  padding-right: 0.35rem;
}
.source span {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.silent {
  position: absolute;
  clip-path: inset(50%);
}
.dot {
  flex: none;
  width: 9px;
  height: 9px;
  border-radius: 50%;
  background: var(--hue);
}
.over {
  width: 34px;
  flex: none;
  height: 92px;
  overflow: hidden;
  display: flex;
  align-items: flex-end;
  justify-content: center;
  padding-bottom: 4px;
}
.over span {
  writing-mode: vertical-rl;
  transform: rotate(180deg);
  max-height: 100%;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  font-size: 0.88rem;
  color: var(--ink-soft);
}
.cell {
  width: 32px;
  height: 32px;
  margin: 1px;
  color: var(--ink);
  font:
    600 0.9rem 'Atkinson Hyperlegible Mono Variable',
    monospace;
  cursor: pointer;
  padding: 0;
}
.cell.picked {
  outline: 2px solid var(--ink);
  outline-offset: -2px;
  border-style: solid;
}
.cell.live {
  box-shadow: inset 0 -6px 0 var(--hue);
}
.cell.overlaid {
  outline: 2px dashed var(--hue);
  outline-offset: -3px;
}
.cell:focus-visible {
  outline: 3px solid var(--accent);
  outline-offset: -2px;
}
.large {
  --ground: var(--paper);
  max-height: none;
}
.large .source,
.large .corner {
  width: 190px;
}
.large .over {
  width: 54px;
  height: 124px;
}
.large .cell {
  width: 52px;
  height: 44px;
}
.cell small {
  display: block;
  font-size: 0.72rem;
  font-weight: 400;
}
@media (pointer: coarse) {
  .cell {
    width: 44px;
    height: 44px;
  }
  .over {
    width: 46px;
  }
}
</style>
