<script setup lang="ts">
import type { Command } from '~/frame/useCommands'
import { useView } from '~/document/view'
import { useKeys } from '~/parts/keys'
import { phrase } from '~/parts/phrase'

/** Every key there is, on one sheet; each can be another. */
const props = defineProps<{ commands: Command[] }>()
const view = useView()
const keys = useKeys()
const waiting = ref<string | null>(null)
const lost = ref<string | null>(null)
const rows = computed(() => props.commands.filter(c => c.keyed))
const nameOf = (id: string) => props.commands.find(c => c.id === id)?.name ?? id
function press(event: KeyboardEvent) {
  const id = waiting.value
  if (!id) return
  event.preventDefault()
  event.stopPropagation()
  const { key } = event
  if (key === 'Escape') waiting.value = null
  if (key.length !== 1 || key === ' ' || event.ctrlKey || event.metaKey || event.altKey) return
  const loser: string | null = keys.set(id, key.toLowerCase())
  lost.value = loser === null ? null : phrase('frame.hasNoKeyNow', { name: nameOf(loser) })
  waiting.value = null
}
</script>

<template>
  <ModalDialog
    :open="view.keySheet"
    :title="phrase('frame.keyboardShortcuts')"
    width="34rem"
    @close="view.keySheet = false"
  >
    <div
      class="sheet"
      @keydown.capture="press"
    >
      <ul>
        <li
          v-for="c in rows"
          :key="c.id"
        >
          <span>{{ c.name }}</span>
          <button
            class="plain"
            :aria-label="phrase(
              'frame.keyOfChangeIt',
              { name: c.name, key: keys.shown(c.id) || phrase('common.none') },
            )"
            @click="waiting = c.id"
          >
            <kbd>{{ waiting === c.id ? phrase('frame.pressAKey') : keys.shown(c.id) || phrase('common.none') }}</kbd>
          </button>
        </li>
        <li><span>{{ phrase('frame.searchCommands') }}</span><kbd>{{ phrase('frame.ctrlK') }}</kbd></li>
        <li><span>{{ phrase('frame.ledgerWalkPick') }}</span><kbd>{{ phrase('frame.arrowsEnter') }}</kbd></li>
        <li><span>{{ phrase('frame.numberOneStepTen') }}</span><kbd>{{ phrase('frame.shiftEsc') }}</kbd></li>
      </ul>
      <p
        v-if="lost"
        class="sentence warn"
        role="status"
      >
        {{ lost }}
      </p>
    </div>
    <template #footer>
      <ActionButton
        size="small"
        text
        :label="phrase('frame.resetShortcuts')"
        @click="keys.reset()"
      /><ActionButton
        size="small"
        :label="phrase('frame.done')"
        @click="view.keySheet = false"
      />
    </template>
  </ModalDialog>
</template>

<style scoped>
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  display: flex;
  justify-content: space-between;
  align-items: center;
  gap: 1rem;
  min-height: 30px;
  border-bottom: 1px solid var(--rule);
}
kbd {
  font:
    600 0.9rem 'Atkinson Hyperlegible Mono Variable',
    monospace;
  border: 1px solid var(--rule-strong);
  border-radius: 3px;
  padding: 0.1rem 0.45rem;
}
button {
  min-height: 28px;
}
</style>
