<script setup lang="ts">
import { ribbonFeed, type RibbonBlock } from '~/frame/useRibbon'
import { bandDriven } from '~~/core/documents'
import { testFeed, type HopLevel } from '~~/core/rig'
import { showNumber } from '~~/core/units'

const site = useSite()
const view = useView()
const feed = useFeed()
const listen = useListen()
const which = toRef(view, 'way')
watch(
  () => view.cell?.source,
  () => { which.value = 0 },
)
/** Another way of the same source: the inspector follows it. */
function choose(way: number) {
  which.value = way
  view.strip = null
}
const outputs = computed(() => (view.cell ? site.outputs(view.cell.source) : []))
/** What each way is called: by the band that it drives, where a cabinet has several; else by its number. */
const ways = computed(() => outputs.value.map((output, k) => {
  const driven = bandDriven(site.documents, view.cell!.source, output)
  const band = driven && driven.sheet.bands.length > 1 ? driven.band : undefined
  const where = `Way through ${site.deviceName(output.device)}, output ${output.channel + 1}`
  return { name: band ? band.name : `${k + 1}`, where }
}))
const blocks = useRibbon(which)
/** The feeds of the rig, and the one that is looked along. */
const feeds = computed(() => Object.entries(site.wiring.feeds).map(([id, { name }]) => ({ id, name })))
const along = computed(() => ribbonFeed(view.feed, site.wiring.feeds))
const isOwn = computed(() => along.value === testFeed)

const silentAt = computed(() => blocks.value.find(b => b.muted))

const silence = ({ title, adds, forNow }: RibbonBlock): string =>
  (forNow
    ? `Silent for now: ${title} ${adds[0]} (${forNow.what}, ${forNow.who}).`
    : `Silent: ${title} ${adds[0]}.`)

/** Where a source is picked and its output chosen. */
function chooseOutput() {
  view.thing = listen.undriven!.id
  view.area = 'site'
}
function edit(block: (typeof blocks.value)[number]) {
  if (!block.edits) return
  view.strip = block.edits
  view.area = 'shape'
}
const showHop = ({ value, unit }: HopLevel) =>
  `${showNumber(value, unit === 'V' && value < 10 ? 2 : 1)} ${unit}`
function levelTitle({ level, key }: RibbonBlock): string {
  if (level?.unit === 'dB') return 'Level behind this block, from the feed on: a full scale on the way is not known'
  if (key === 'source') return 'Level of one cabinet at 1 m on axis, filters and compression not counted'
  if (key === 'air') return 'Direct sound of one cabinet there on axis, filters and compression not counted'
  return 'Level behind this block, filters not counted'
}
const isPicked = (b: (typeof blocks.value)[number]) =>
  b.edits && view.area === 'shape' && view.strip?.device === b.edits.device && view.strip.strip === b.edits.strip
</script>

<template>
  <footer
    class="ribbon"
    aria-label="Path ribbon"
  >
    <template v-if="blocks.length">
      <div
        class="lead"
        :class="{ wide: silentAt || listen.undriven || listen.others.length }"
      >
        <span class="head"><b>Path</b><span
          v-if="outputs.length > 1"
          class="ways"
          role="group"
          aria-label="Output"
        ><button
          v-for="(w, k) in ways"
          :key="k"
          class="plain way"
          :class="{ on: which === k }"
          :aria-pressed="which === k"
          :title="w.where"
          @click="choose(k)"
        >
          {{ w.name }}
        </button></span></span>
        <template v-if="listen.undriven">
          <span
            class="finding"
            data-testid="path-finding"
          >Nothing drives {{ listen.undriven.name }}.</span>
          <span class="feeds"><ActionButton
            size="small"
            severity="secondary"
            label="Choose its output"
            @click="chooseOutput"
          /></span>
        </template>
        <template v-else-if="silentAt || (isOwn && listen.others.length)">
          <span
            class="finding"
            data-testid="path-finding"
          >{{
            silentAt
              ? silence(silentAt)
              : `${listen.others.map(s => s.name).join(', ')} ${listen.others.length > 1 ? 'sound' : 'sounds'} too.`
          }}</span>
          <span
            v-if="isOwn"
            class="feeds"
          >
            <ActionButton
              size="small"
              severity="secondary"
              label="Feed only this"
              title="Connects the test signal to this source in the matrix and takes it from every other"
              @click="feed.only()"
            />
            <ActionButton
              v-if="listen.onlyOthers"
              size="small"
              text
              label="Feed this too"
              title="Connects the test signal to this source besides those that have it"
              @click="feed.too()"
            />
          </span>
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
            :title="b.edits ? `Edit this block: ${b.adds.join(', ')}` : undefined"
            :data-block="b.key"
            @click="edit(b)"
          >
            <b>{{ b.title }}</b>
            <span class="small">{{ b.adds.join(' · ') }}</span>
            <span
              v-if="b.key !== 'mic' && b.key !== 'feed' && !b.isUndriven"
              class="level num"
              :title="levelTitle(b)"
            >{{ b.level ? showHop(b.level) : 'silent' }}</span>
          </component>
          <span
            v-if="b.key === 'feed' && feeds.length > 1"
            class="act"
          >
            <PopButton
              icon="pi pi-ellipsis-v"
              label=""
              name="Look along another feed"
              title="Look along another feed: what the console sends, crosspoint by crosspoint"
            >
              <div
                class="along"
                role="group"
                aria-label="Feed looked along"
              >
                <button
                  v-for="f in feeds"
                  :key="f.id"
                  class="plain"
                  :class="{ on: f.id === along }"
                  :aria-pressed="f.id === along"
                  @click="view.feed = f.id"
                >
                  {{ f.name }}
                </button>
              </div>
            </PopButton>
          </span>
          <span
            v-if="b.edits || b.point"
            class="act"
          >
            <PopButton
              icon="pi pi-ellipsis-v"
              label=""
              :name="`Act on ${b.title}`"
              title="Mute, gain, delay; or the crosspoint"
            >
              <BlockActs
                :block="b"
                @more="edit(b)"
              />
            </PopButton>
          </span>
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
.along {
  display: grid;
  gap: 0.2rem;
}
.along button {
  min-height: 34px;
  padding: 0.2rem 0.6rem;
  text-align: left;
}
.along .on {
  font-weight: 650;
  color: var(--accent);
}
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
  flex-wrap: wrap;
  gap: 0.2rem 0.6rem;
  align-items: center;
}
.lead.wide {
  width: 196px;
}
.feeds {
  display: flex;
  gap: 0.3rem;
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
  padding: 0 5px;
  white-space: nowrap;
  font-size: 0.88rem;
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
  position: relative;
  display: flex;
  align-items: center;
  flex: 1 1 0;
  min-width: 104px;
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
  /* the level below stays in view; all of it is in the title and in Shape */
  display: -webkit-box;
  -webkit-box-orient: vertical;
  -webkit-line-clamp: 2;
  overflow: hidden;
}
.level {
  margin-top: auto;
  color: var(--ink-soft);
  white-space: nowrap;
  font-size: 0.8rem;
}
.act {
  position: absolute;
  right: 1px;
  bottom: 1px;
}
.act :deep(button) {
  width: 26px;
  height: 26px;
  padding: 0;
}
@media (pointer: coarse) {
  .act :deep(button) {
    width: 44px;
    height: 44px;
  }
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
