<script setup lang="ts">
import { showNumber } from '~~/core/units'

const site = useSite()
const view = useView()
const listen = useListen()
const which = ref(0)
watch(
  () => view.cell?.source,
  () => {
    which.value = 0
  },
)
const outputs = computed(() => (view.cell ? site.outputsOf(view.cell.source) : []))
const blocks = useRibbon(which)

/** Other sources that get the feed in the devices too: their sound would spoil the measurement. */
const alsoFed = computed(() => {
  const s = site.site
  if (!s || !view.cell) return []
  return s.sources.filter(x => x.id !== view.cell!.source && site.fed(x.id))
})
const silentAt = computed(() => blocks.value.find(b => b.muted))

/** Routing is done in silence: the noise stops at once and rises again afterwards. */
async function feedThis() {
  const sounding = listen.noise
  listen.hush()
  const gesture = crypto.randomUUID()
  for (const e of feedOnly(site, view.cell!.source)) await site.edit(e.device, e.path, e.to, undefined, gesture)
  if (sounding) await listen.turnNoise(true)
}
function edit(block: (typeof blocks.value)[number]) {
  if (!block.edits) return
  view.block = block.edits
  view.area = 'shape'
}
const isPicked = (b: (typeof blocks.value)[number]) =>
  b.edits
  && view.area === 'shape'
  && view.block?.device === b.edits.device
  && view.block.side === b.edits.side
  && view.block.channel === b.edits.channel
</script>

<template>
  <footer
    class="ribbon"
    aria-label="Path ribbon"
  >
    <template v-if="blocks.length">
      <div class="lead">
        <span class="head"><b>Path</b><span
          v-if="outputs.length > 1"
          class="ways"
        ><button
          v-for="(o, k) in outputs"
          :key="k"
          class="plain way"
          :class="{ on: which === k }"
          :aria-pressed="which === k"
          :title="`Way through ${site.deviceOf(o.device)?.name}, output ${o.channel + 1}`"
          @click="which = k"
        >
          {{ k + 1 }}
        </button></span></span>
        <template v-if="silentAt || alsoFed.length">
          <span
            class="finding"
            data-testid="path-finding"
          >{{
            silentAt
              ? `Silent: ${silentAt.title} ${silentAt.adds[0]}.`
              : `${alsoFed.map(s => s.name).join(', ')} ${alsoFed.length > 1 ? 'sound' : 'sounds'} too.`
          }}</span>
          <Button
            size="small"
            severity="secondary"
            label="Feed only this"
            title="Connects the test signal to this source in the matrix and takes it from every other"
            @click="feedThis"
          />
        </template>
      </div>
      <ol>
        <li
          v-for="b in blocks"
          :key="b.key"
          :class="{ muted: b.muted, unsent: b.unsent, picked: isPicked(b) }"
        >
          <component
            :is="b.edits ? 'button' : 'div'"
            class="block"
            :title="b.edits ? 'Edit this block' : undefined"
            :data-block="b.key"
            @click="edit(b)"
          >
            <b>{{ b.title }}</b>
            <span class="small">{{ b.adds.join(' · ') }}</span>
            <span
              v-if="b.key !== 'mic' && b.key !== 'feed'"
              class="level num"
              title="Level behind this block, filters not counted"
            >{{ b.level === null ? 'silent' : `${showNumber(b.level, 1)} dB` }}</span>
          </component>
        </li>
      </ol>
    </template>
    <p
      v-else
      class="soft"
    >
      The path from the feed to the microphone appears here when a cell is picked.
    </p>
  </footer>
</template>

<style scoped>
.ribbon {
  background: var(--panel);
  border-top: 1px solid var(--rule);
  display: flex;
  align-items: stretch;
  gap: 0.75rem;
  padding: 0.5rem 0.75rem;
  min-width: 0;
  min-height: 0;
}
.lead {
  display: flex;
  flex-direction: column;
  gap: 0.2rem;
  width: 128px;
  flex: none;
  align-items: flex-start;
}
.head {
  display: flex;
  gap: 0.6rem;
  align-items: center;
}
.finding {
  color: var(--warn);
  font-size: 0.84rem;
  line-height: 1.2;
}
.ways {
  display: flex;
  gap: 2px;
}
.way {
  border: 1px solid var(--rule-strong);
  min-width: 28px;
  min-height: 24px;
  text-align: center;
}
.way.on {
  background: var(--accent);
  color: var(--accent-ink);
}
ol {
  list-style: none;
  display: flex;
  margin: 0;
  padding: 0;
  gap: 0;
  overflow-x: auto;
  flex: 1;
  align-items: stretch;
}
li {
  display: flex;
  align-items: center;
  flex: 1 1 0;
  min-width: 92px;
  max-width: 190px;
}
.block {
  border: 1px solid var(--rule-strong);
  background: var(--paper);
  color: inherit;
  font: inherit;
  text-align: left;
  padding: 0.3rem 0.5rem;
  min-height: 44px;
  flex: 1;
  min-width: 0;
  height: 100%;
  display: flex;
  flex-direction: column;
  align-items: flex-start;
  gap: 0.1rem;
}
button.block {
  cursor: pointer;
}
button.block:hover {
  border-color: var(--accent);
}
.block b {
  font-size: 0.86rem;
  line-height: 1.15;
}
.block .small {
  color: var(--ink-soft);
  line-height: 1.2;
  font-size: 0.82rem;
}
.level {
  margin-top: auto;
  color: var(--ink-soft);
  white-space: nowrap;
  font-size: 0.8rem;
}
li + li::before {
  content: '';
  flex: none;
  width: 12px;
  border-top: 1px solid var(--rule-strong);
}
.muted .block {
  border-style: dashed;
  border-color: var(--error);
}
.muted .block .small {
  color: var(--error);
}
.unsent .block {
  border-style: dashed;
  border-color: var(--warn);
}
.picked .block {
  outline: 2px solid var(--accent);
}
</style>
