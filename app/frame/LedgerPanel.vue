<script setup lang="ts">
import type { Take } from '~~/core/documents'
import { makings } from '~/document/takes'

const site = useSite()
const view = useView()
const listen = useListen()
const takes = useTakes()
const files = useTakeFiles()

type CellState = 'empty' | 'fresh' | 'stale'
const words: Record<CellState, string> = {
  empty: 'not measured yet',
  fresh: 'measured, settings unchanged',
  stale: 'stale: a setting on its path changed',
}

function stateOf(newest: Take | undefined): CellState {
  if (!newest) return 'empty'
  return takes.stale[newest.id]?.length ? 'stale' : 'fresh'
}
function cellOf(source: string, position: string) {
  const list = takes.inCell(source, position)
  const newest = takes.newestOf(source, position) ?? list.at(-1)
  const picked = view.cell?.source === source && view.cell.position === position
  return { state: stateOf(newest), count: list.length, picked }
}
const rows = computed(() =>
  site.sources.map(source => ({
    source,
    cells: site.positions.map(position => ({ position, ...cellOf(source.id, position.id) })),
  })),
)
const summary = computed(() => {
  const all = rows.value.flatMap(r => r.cells)
  const count = (s: CellState) => all.filter(c => c.state === s).length
  return `${count('fresh')} fresh, ${count('stale')} stale, ${count('empty')} to do`
})

/** A plain click picks the cell; with Shift, Ctrl or Cmd its newest take is laid over the picked one's. */
function pick(event: MouseEvent, source: string, position: string) {
  if (event.shiftKey || event.ctrlKey || event.metaKey) return view.toggleOverlay(`${source}/${position}`)
  view.cell = { source, position }
  view.strip = null
  view.drawer = null
}
/** Arrow keys walk the grid. */
function walk(event: KeyboardEvent) {
  const step = { ArrowUp: [-1, 0], ArrowDown: [1, 0], ArrowLeft: [0, -1], ArrowRight: [0, 1] }[event.key]
  if (!step) return
  event.preventDefault()
  const cells = [...(event.currentTarget as HTMLElement).querySelectorAll<HTMLElement>('button.cell')]
  const at = cells.indexOf(document.activeElement as HTMLElement)
  const columns = site.positions.length
  const row = Math.floor(at / columns) + step[0]!
  const column = (at % columns) + step[1]!
  if (row >= 0 && row < rows.value.length && column >= 0 && column < columns) cells[row * columns + column]?.focus()
}
function bring(event: Event) {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  if (file) void files.importFile(file)
  input.value = ''
}
</script>

<template>
  <aside
    class="ledger"
    :class="{ open: view.drawer === 'ledger' }"
    aria-label="Ledger"
  >
    <div class="section">
      <div class="row apart">
        <h2>Ledger</h2>
        <span
          class="soft small"
          data-testid="ledger-summary"
        >{{ summary }}</span>
      </div>
      <table @keydown="walk">
        <thead>
          <tr>
            <td />
            <th
              v-for="p in site.positions"
              :key="p.id"
              scope="col"
            >
              <span>{{ p.name }}</span>
            </th>
          </tr>
        </thead>
        <tbody>
          <tr
            v-for="r in rows"
            :key="r.source.id"
          >
            <th scope="row">
              <i
                class="dot"
                :style="{ background: `var(--hue-${r.source.hue})` }"
              />{{ r.source.name }}
            </th>
            <td
              v-for="c in r.cells"
              :key="c.position.id"
            >
              <button
                class="cell"
                :class="[
                  c.state,
                  {
                    picked: c.picked,
                    live: c.picked && listen.curve,
                    over: view.overlaid.includes(`${r.source.id}/${c.position.id}`),
                  },
                ]"
                :style="{ '--hue': `var(--hue-${r.source.hue})` }"
                :data-cell="`${r.source.id}/${c.position.id}`"
                :data-state="c.state"
                :aria-label="`${r.source.name} at ${c.position.name}: ${words[c.state]}`"
                :title="`${r.source.name} at ${c.position.name}: ${words[c.state]}`"
                :aria-pressed="c.picked"
                @click="pick($event, r.source.id, c.position.id)"
              >
                <template v-if="c.count">
                  {{ c.state === 'stale' ? '~' : '' }}{{ c.count }}
                </template>
              </button>
            </td>
          </tr>
        </tbody>
      </table>
      <p class="soft small key">
        <i class="cell fresh mini" />fresh <i class="cell stale mini" />stale <i class="cell empty mini" />to do
      </p>
    </div>
    <div class="section takes">
      <h3>Takes in this cell</h3>
      <p
        v-if="!view.cell"
        class="soft small"
      >
        Pick a cell above.
      </p>
      <p
        v-else-if="!takes.picked.length"
        class="soft small"
      >
        None yet. Start the noise, let the trace stand still, then press Take.
      </p>
      <ul>
        <TakeItem
          v-for="t in takes.picked"
          :key="t.id"
          :take="t"
        />
      </ul>
      <label class="import"><input
        type="file"
        accept=".txt,.csv,.frd,.wav,text/plain,text/csv,audio/wav"
        aria-label="Import a measurement"
        @change="bring"
      ><span>Import a curve or WAV …</span></label>
    </div>
    <div class="section">
      <h3>Compare</h3>
      <p class="soft small">
        Shift-click cells to lay their newest takes over this one.
        <template v-if="view.overlaid.length">
          {{ view.overlaid.length }} laid over.
          <button
            class="plain"
            @click="view.overlaid = []"
          >
            <u>Take them off</u>
          </button>
        </template>
      </p>
      <label class="two"><span class="small soft">Make of them</span><select
        v-model="takes.making"
        aria-label="Make of them"
      >
        <option
          v-for="(text, id) in makings"
          :key="id"
          :value="id"
        >{{ text }}</option>
      </select></label>
      <template v-if="takes.making !== 'none'">
        <label
          v-if="takes.making !== 'difference'"
          class="row small"
        ><input
          v-model="takes.byTrust"
          type="checkbox"
        > weigh by trust as well as by position</label>
        <p
          v-if="!takes.made.length"
          class="small warn"
          data-testid="making"
        >
          {{
            takes.making === 'difference'
              ? 'A difference needs two: a trace now and a take, or two takes in view.'
              : takes.shown.length < 2
                ? 'An average needs two takes in view.'
                : 'All positions in view have the weight 0.'
          }}
        </p>
        <Button
          v-else
          size="small"
          severity="secondary"
          :label="`Keep the ${takes.making === 'difference' ? 'difference' : 'average'} as a take`"
          @click="files.keepMade()"
        />
      </template>
    </div>
  </aside>
</template>

<style scoped>
.ledger {
  background: var(--panel);
  border-right: 1px solid var(--rule);
  overflow-y: auto;
  min-height: 0;
}
table {
  border-collapse: collapse;
}
thead th {
  height: 84px;
  vertical-align: bottom;
  padding: 0;
  width: 34px;
  position: relative;
}
thead th span {
  position: absolute;
  left: 13px;
  bottom: 6px;
  transform: rotate(-52deg);
  transform-origin: 0 100%;
  white-space: nowrap;
  font-weight: 500;
  font-size: 0.88rem;
  color: var(--ink-soft);
}
tbody th {
  text-align: left;
  font-weight: 500;
  padding-right: 0.5rem;
  white-space: nowrap;
}
.dot {
  display: inline-block;
  width: 9px;
  height: 9px;
  border-radius: 50%;
  margin-right: 0.4rem;
}
td {
  padding: 1px;
}
.cell {
  width: 32px;
  height: 32px;
  border: 1px solid var(--rule-strong);
  background: transparent;
  color: var(--ink);
  font:
    600 0.9rem 'Atkinson Hyperlegible Mono Variable',
    monospace;
  cursor: pointer;
  padding: 0;
}
.cell.empty {
  border-style: dotted;
}
.cell.fresh {
  background: color-mix(in srgb, var(--hue, var(--accent)) 38%, var(--panel));
  border-color: var(--hue, var(--accent));
}
.cell.stale {
  background: repeating-linear-gradient(
    135deg,
    color-mix(in srgb, var(--hue, var(--accent)) 30%, var(--panel)) 0 3px,
    var(--panel) 3px 7px
  );
  border-color: var(--hue, var(--accent));
}
.cell.picked {
  outline: 2px solid var(--ink);
  outline-offset: 0;
  border-style: solid;
}
.cell.live {
  box-shadow: inset 0 -5px 0 var(--hue);
}
.mini {
  display: inline-block;
  width: 12px;
  height: 12px;
  margin: 0 0.25rem -1px 0.5rem;
  cursor: default;
}
.key {
  margin: 0;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 0.6rem;
}
.takes p {
  margin: 0;
}
.cell.over {
  outline: 2px dashed var(--hue);
  outline-offset: -3px;
}
.import input {
  position: absolute;
  opacity: 0;
  width: 1px;
  height: 1px;
}
.import span {
  display: inline-block;
  border: 1px solid var(--rule-strong);
  padding: 0.35rem 0.7rem;
  cursor: pointer;
  font-size: 0.92rem;
}
.import input:focus-visible + span {
  outline: 2px solid var(--accent);
}
.two {
  display: grid;
  grid-template-columns: 92px 1fr;
  align-items: center;
}
.warn {
  color: var(--warn);
}
.section p {
  margin: 0;
}
</style>
