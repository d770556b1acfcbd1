<script setup lang="ts">
import type { PointLevel } from '~~/core/rig'
import { showNumber } from '~~/core/units'
import type { RibbonBlock } from './useRibbon'
import { useView } from '~/document/view'
import BlockActs from './BlockActs.vue'
import { phrase } from '~/parts/phrase'

/** One block of the path: what it adds, the level behind it, and what is done most with it. */
const props = defineProps<{
  block: RibbonBlock
  picked: boolean
  /** The feeds of the rig, and the one that is looked along. */
  feeds: readonly { id: string, name: string }[]
  along: string
}>()
const view = useView()

function edit() {
  if (!props.block.edits) return
  view.strip = props.block.edits
  view.go('shape')
}
const showHop = ({ value, unit }: PointLevel) =>
  `${showNumber(value, unit === 'V' && value < 10 ? 2 : 1)} ${unit}`
function levelTitle({ level, key }: RibbonBlock): string {
  if (level?.unit === 'dB') return phrase('frame.levelBehindThisBlock')
  if (key === 'source') return phrase('frame.levelOfOneCabinet')
  if (key === 'air') return phrase('frame.directSoundOfOne')
  return phrase('frame.levelBehindThisBlockFilters')
}
</script>

<template>
  <li
    :class="{ muted: block.muted, unsent: block.unsent, picked }"
  >
    <component
      :is="block.edits ? 'button' : 'div'"
      class="block"
      :title="block.edits ? phrase('frame.editThisBlock', { adds: block.adds.join(', ') }) : undefined"
      :data-block="block.key"
      @click="edit"
    >
      <b>{{ block.title }}</b>
      <span class="small">{{ block.adds.join(' · ') }}</span>
      <span
        v-if="block.key !== 'mic' && block.key !== 'feed' && !block.isUndriven"
        class="level num"
        :title="levelTitle(block)"
      >{{ block.level ? showHop(block.level) : phrase('frame.silent') }}</span>
    </component>
    <span
      v-if="block.key === 'feed' && feeds.length > 1"
      class="act"
    >
      <PopButton
        icon="pi pi-ellipsis-v"
        label=""
        :name="phrase('frame.lookAlongAnotherFeed')"
        :title="phrase('frame.traceAnotherFeedWhat')"
      >
        <div
          class="along"
          role="group"
          :aria-label="phrase('frame.feedTraced')"
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
      v-if="block.edits || block.point"
      class="act"
    >
      <PopButton
        icon="pi pi-ellipsis-v"
        label=""
        :name="phrase('frame.actOn', { title: block.title })"
        :title="phrase('frame.muteGainDelayOr')"
      >
        <BlockActs
          :block="block"
          @more="edit"
        />
      </PopButton>
    </span>
  </li>
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
