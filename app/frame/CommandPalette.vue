<script setup lang="ts">
import type { Command } from '~/frame/useCommands'
import { useView } from '~/document/view'
import { phrase } from '~/parts/phrase'

const props = defineProps<{ commands: Command[] }>()
const view = useView()
const text = ref('')
const at = ref(0)
const found = computed(() =>
  props.commands
    .filter(c =>
      text.value
        .toLowerCase()
        .split(/\s+/)
        .every(w => c.name.toLowerCase().includes(w)),
    )
    .slice(0, 12),
)
watch(text, () => {
  at.value = 0
})
watch(
  () => view.palette,
  (open) => {
    if (open) {
      text.value = ''
      at.value = 0
    }
  },
)

function run(c: Command | undefined) {
  if (!c) return
  view.palette = false
  ;(document.activeElement as HTMLElement | null)?.blur() // the next key is a command again, not text
  c.run()
}
function key(event: KeyboardEvent) {
  if (event.key === 'ArrowDown') at.value = Math.min(found.value.length - 1, at.value + 1)
  else if (event.key === 'ArrowUp') at.value = Math.max(0, at.value - 1)
  else if (event.key === 'Enter') run(found.value[at.value])
  else return
  event.preventDefault()
}
</script>

<template>
  <ModalDialog
    :open="view.palette"
    :title="phrase('frame.commands')"
    bare
    width="520px"
    @close="view.palette = false"
  >
    <FindField
      v-model:value="text"
      :label="phrase('frame.findACommand')"
      :placeholder="phrase('frame.whatDoYouWant')"
      @keydown="key"
    />
    <ul
      role="listbox"
      :aria-label="phrase('frame.commands')"
    >
      <li
        v-for="(c, k) in found"
        :key="c.id"
        role="option"
        :aria-selected="k === at"
        :class="{ on: k === at }"
        @click="run(c)"
        @pointermove="at = k"
      >
        <span>{{ c.name }}</span><kbd v-if="c.key">{{ c.key }}</kbd>
      </li>
    </ul>
    <p
      v-if="!found.length"
      class="soft"
    >
      {{ phrase('frame.noCommandFound') }}
    </p>
  </ModalDialog>
</template>

<style scoped>
ul {
  list-style: none;
  padding: 0;
  margin: 0.5rem 0 0;
}
li {
  display: flex;
  justify-content: space-between;
  padding: 0.45rem 0.6rem;
  cursor: pointer;
}
li.on {
  background: var(--accent);
  color: var(--accent-ink);
}
kbd {
  font:
    600 0.9rem 'Atkinson Hyperlegible Mono Variable',
    monospace;
  border: 1px solid currentColor;
  border-radius: 3px;
  padding: 0 0.4rem;
}
</style>
