<script setup lang="ts">
import type { Take } from '~~/core/documents'
import { quantities } from '~~/core/units'
import type { MenuAction } from '~/parts/menus'
import { clockOf } from '~/parts/clock'
import { steady } from '~/document/steady'
import { useSite } from '~/document/site'
import { useTakeFiles } from '~/document/takeFiles'
import { useTakes } from '~/document/takes'
import { useView } from '~/document/view'
import { phrase } from '~/parts/phrase'

/** One take of the picked cell: shown or not, and everything that can be done with it. */
const props = defineProps<{ take: Take }>()
const view = useView()
const takes = useTakes()
const files = useTakeFiles()
const site = useSite()
const open = ref(false)
const opened = ref(false)
const stale = steady<readonly string[]>(() => takes.stale[props.take.id] ?? [])
const unforeseen = computed(() => takes.unforeseen[props.take.id])
const time = computed(() => clockOf(props.take.at))
const only = computed(() => {
  const { only } = props.take
  return only ? `, only ${site.deviceName(only.device)} output ${only.channel + 1}` : ''
})
const what = computed(() => {
  const { method, blocks, input } = props.take.info
  if (method === 'live') return `${phrase('common.block', { blocks })}, ${input}${only.value}`
  return method === 'sweep' ? `sweep, ${input}${only.value}` : input
})
const shown = computed(() => !view.hidden.includes(props.take.id))
/** What is done most with a take where it stands. */
const actions = (): MenuAction[] => [
  { name: shown.value ? phrase('frame.hideIt') : phrase('frame.showIt'), run: () => view.toggleTake(props.take.id) },
  { name: phrase('frame.invertIt'), run: () => view.toggleInverted(props.take.id) },
  { name: phrase('common.duplicate'), run: () => void takes.duplicate(props.take.id) },
  { name: phrase('frame.renameColourExport'), run: () => { open.value = true } },
  { name: phrase('common.delete'), run: () => void takes.remove(props.take) },
]
const exports = computed(() =>
  ([
    ['text', 'text: frequency, dB, phase, coherence'],
    ['csv', 'CSV'],
    ['float32', phrase('frame.wavImpulseResponseBit')],
    ['pcm24', phrase('frame.wavImpulseResponseBit2')],
  ] as const).map(([kind, name]) => ({ name, run: () => void files.exportTake(props.take, kind) })))
</script>

<template>
  <li :data-take="take.id">
    <PressMenu
      :name="phrase('frame.whatToDoWith2', { name: take.name })"
      class="row apart"
      :actions-of="actions"
    >
      <CheckField
        class="name"
        :label="take.name"
        :value="shown"
        @change="view.toggleTake(take.id)"
      >
        <b>{{ take.name }}</b>
      </CheckField>
      <button
        class="plain more"
        :aria-expanded="open"
        :aria-label="phrase('frame.moreOf', { name: take.name })"
        :title="phrase('frame.renameColourExportDelete')"
        @click="open = !open"
      >
        <i
          class="pi"
          :class="open ? 'pi-chevron-up' : 'pi-ellipsis-h'"
        />
      </button>
    </PressMenu>
    <p class="soft small">
      {{ time }}, {{ take.who }}, {{ what }}
    </p>
    <p
      v-if="take.note"
      class="small"
    >
      {{ take.note }}
    </p>
    <div
      v-if="stale.length"
      class="sentence warn"
      data-stale
    >
      <button
        v-if="stale.length > 1"
        class="plain"
        :aria-expanded="opened"
        @click="opened = !opened"
      >
        <u>{{ phrase('frame.thingChangedSince', { stale: stale.length }) }}</u>
      </button>
      <template v-if="stale.length === 1 || opened">
        <p
          v-for="why in stale"
          :key="why"
        >
          {{ why }}
        </p>
      </template>
    </div>
    <p
      v-if="unforeseen"
      class="small soft"
    >
      {{ unforeseen }}
    </p>
    <div
      v-if="open"
      class="tools"
    >
      <TextField
        :value="take.name"
        :label="phrase('common.name')"
        :name="phrase('frame.nameOfTheTake')"
        layout="beside"
        :maxlength="120"
        @change="takes.change(take.id, { name: $event })"
      />
      <TextField
        :value="take.note"
        :label="phrase('frame.note')"
        layout="beside"
        :maxlength="2000"
        @change="takes.change(take.id, { note: $event })"
      />
      <div
        class="row colours"
        role="group"
        :aria-label="phrase('frame.colour')"
      >
        <button
          v-for="n in 8"
          :key="n"
          class="plain"
          :class="{ on: take.hue === n - 1 }"
          :style="{ background: `var(--hue-${n - 1})` }"
          :aria-label="phrase('frame.colour2', { n })"
          @click="takes.change(take.id, { hue: take.hue === n - 1 ? null : n - 1 })"
        />
      </div>
      <div class="two">
        <NumberField
          :label="phrase('frame.levelOffset')"
          :value="take.offset"
          v-bind="quantities.level"
          @change="takes.change(take.id, { offset: $event })"
        />
        <NumberField
          :label="phrase('frame.timeShift')"
          :value="take.shift"
          v-bind="quantities.delay"
          :nudge="(v, n) => v + n * 0.0001"
          @change="takes.change(take.id, { shift: $event })"
        />
      </div>
      <CheckField
        :label="phrase('frame.invertedToOverlayOn')"
        :value="view.inverted.includes(take.id)"
        @change="view.toggleInverted(take.id)"
      />
      <div class="row">
        <ActionButton
          size="small"
          text
          icon="pi pi-arrow-up"
          :aria-label="phrase('frame.up')"
          :title="phrase('frame.upInThisList')"
          :disabled="takes.picked[0]?.id === take.id"
          @click="takes.move(take, -1)"
        /><ActionButton
          size="small"
          text
          icon="pi pi-arrow-down"
          :aria-label="phrase('frame.down')"
          :title="phrase('frame.downInThisList')"
          :disabled="takes.picked.at(-1)?.id === take.id"
          @click="takes.move(take, 1)"
        /><ActionMenu
          :label="phrase('common.export')"
          :actions="exports"
        /><ActionButton
          size="small"
          severity="secondary"
          :label="phrase('common.duplicate')"
          @click="takes.duplicate(take.id)"
        /><ActionButton
          size="small"
          severity="danger"
          text
          :label="phrase('common.delete')"
          @click="takes.remove(take)"
        />
      </div>
    </div>
  </li>
</template>

<style scoped>
p {
  margin: 0.15rem 0 0 1.5rem;
}
div.sentence {
  margin: 0.3rem 0 0 1.5rem;
}
.sentence p {
  margin: 0.1rem 0 0;
}
.name {
  min-width: 0;
  overflow-wrap: anywhere;
}
.more {
  min-width: 30px;
  min-height: 28px;
  text-align: center;
}
.tools {
  display: grid;
  gap: 0.4rem;
  margin: 0.4rem 0 0.3rem 1.5rem;
}
.two {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 0.5rem;
}
.colours {
  gap: 0.25rem;
}
.colours button {
  width: 24px;
  height: 24px;
  border: 1px solid var(--rule);
}
.colours button.on {
  outline: 2px solid var(--ink);
  outline-offset: 1px;
}
</style>
