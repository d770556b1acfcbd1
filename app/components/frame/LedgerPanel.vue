<script setup lang="ts">
const site = useSite(), view = useView(), listen = useListen(), takes = useTakes()

type CellState = 'empty' | 'fresh' | 'stale'
const words: Record<CellState, string> = { empty: 'not measured yet', fresh: 'measured, settings unchanged', stale: 'stale: a setting on its path changed' }

function cellOf(source: string, position: string) {
  const list = takes.inCell(source, position), newest = list[list.length - 1]
  const state: CellState = !newest ? 'empty' : takes.stale[newest.id]!.length ? 'stale' : 'fresh'
  return { state, count: list.length, picked: view.cell?.source === source && view.cell?.position === position }
}
const rows = computed(() => (site.site?.sources ?? []).map(source => ({ source, cells: site.site!.positions.map(position => ({ position, ...cellOf(source.id, position.id) })) })))
const summary = computed(() => {
  const all = rows.value.flatMap(r => r.cells)
  const count = (s: CellState) => all.filter(c => c.state === s).length
  return `${count('fresh')} fresh, ${count('stale')} stale, ${count('empty')} to do`
})

function pick(source: string, position: string) {
  view.cell = { source, position }
  view.block = null
  view.drawer = null
}
const time = (at: string) => new Date(at).toLocaleTimeString([], { hour: '2-digit', minute: '2-digit' })

/** Arrow keys walk the grid. */
function walk(event: KeyboardEvent) {
  const step = { ArrowUp: [-1, 0], ArrowDown: [1, 0], ArrowLeft: [0, -1], ArrowRight: [0, 1] }[event.key]
  if (!step) return
  event.preventDefault()
  const cells = [...(event.currentTarget as HTMLElement).querySelectorAll<HTMLElement>('button.cell')]
  const at = cells.indexOf(document.activeElement as HTMLElement), columns = site.site!.positions.length
  const row = Math.floor(at / columns) + step[0]!, column = at % columns + step[1]!
  if (row >= 0 && row < rows.value.length && column >= 0 && column < columns) cells[row * columns + column]?.focus()
}
</script>

<template>
  <aside class="ledger" :class="{ open: view.drawer === 'ledger' }" aria-label="Ledger">
    <div class="section">
      <div class="row apart"><h2>Ledger</h2><span class="soft small" data-testid="ledger-summary">{{ summary }}</span></div>
      <table @keydown="walk">
        <thead>
          <tr><td /><th v-for="p in site.site?.positions" :key="p.id" scope="col"><span>{{ p.name }}</span></th></tr>
        </thead>
        <tbody>
          <tr v-for="r in rows" :key="r.source.id">
            <th scope="row"><i class="dot" :style="{ background: `var(--hue-${r.source.hue})` }" />{{ r.source.name }}</th>
            <td v-for="c in r.cells" :key="c.position.id">
              <button
                class="cell" :class="[c.state, { picked: c.picked, live: c.picked && listen.curve }]" :style="{ '--hue': `var(--hue-${r.source.hue})` }" :data-cell="`${r.source.id}/${c.position.id}`" :data-state="c.state"
                :aria-label="`${r.source.name} at ${c.position.name}: ${words[c.state]}`" :title="`${r.source.name} at ${c.position.name}: ${words[c.state]}`" :aria-pressed="c.picked" @click="pick(r.source.id, c.position.id)"
              ><template v-if="c.count">{{ c.state === 'stale' ? '~' : '' }}{{ c.count }}</template></button>
            </td>
          </tr>
        </tbody>
      </table>
      <p class="soft small key"><i class="cell fresh mini" />fresh <i class="cell stale mini" />stale <i class="cell empty mini" />to do</p>
    </div>
    <div class="section takes">
      <h3>Takes in this cell</h3>
      <p v-if="!view.cell" class="soft small">Pick a cell above.</p>
      <p v-else-if="!takes.picked.length" class="soft small">None yet. Start the noise, let the trace stand still, then press Take.</p>
      <ul>
        <li v-for="t in takes.picked" :key="t.id" :data-take="t.id">
          <label class="row"><input type="checkbox" :checked="!view.hidden.includes(t.id)" @change="view.toggleTake(t.id)"> <b>{{ t.name }}</b></label>
          <p class="soft small">{{ time(t.at) }}, {{ t.who }}, {{ t.info.blocks }} blocks, {{ t.info.input }}</p>
          <p v-for="why in takes.stale[t.id]" :key="why" class="sentence warn">{{ why }}</p>
        </li>
      </ul>
    </div>
  </aside>
</template>

<style scoped>
.ledger { background: var(--panel); border-right: 1px solid var(--rule); overflow-y: auto; min-height: 0; }
table { border-collapse: collapse; }
thead th { height: 84px; vertical-align: bottom; padding: 0; width: 34px; position: relative; }
thead th span { position: absolute; left: 13px; bottom: 6px; transform: rotate(-52deg); transform-origin: 0 100%; white-space: nowrap; font-weight: 500; font-size: 0.88rem; color: var(--ink-soft); }
tbody th { text-align: left; font-weight: 500; padding-right: 0.5rem; white-space: nowrap; }
.dot { display: inline-block; width: 9px; height: 9px; border-radius: 50%; margin-right: 0.4rem; }
td { padding: 1px; }
.cell { width: 32px; height: 32px; border: 1px solid var(--rule-strong); background: transparent; color: var(--ink); font: 600 0.9rem "Atkinson Hyperlegible Mono Variable", monospace; cursor: pointer; padding: 0; }
.cell.empty { border-style: dotted; }
.cell.fresh { background: color-mix(in srgb, var(--hue, var(--accent)) 38%, var(--panel)); border-color: var(--hue, var(--accent)); }
.cell.stale { background: repeating-linear-gradient(135deg, color-mix(in srgb, var(--hue, var(--accent)) 30%, var(--panel)) 0 3px, var(--panel) 3px 7px); border-color: var(--hue, var(--accent)); }
.cell.picked { outline: 2px solid var(--ink); outline-offset: 0; border-style: solid; }
.cell.live { box-shadow: inset 0 -5px 0 var(--hue); }
.mini { display: inline-block; width: 12px; height: 12px; margin: 0 0.25rem -1px 0.5rem; cursor: default; }
.key { margin: 0; }
ul { list-style: none; margin: 0; padding: 0; display: grid; gap: 0.6rem; }
li p { margin: 0.15rem 0 0 1.5rem; }
.takes p { margin: 0; }
.takes li p.sentence { margin: 0.3rem 0 0 1.5rem; }
</style>
