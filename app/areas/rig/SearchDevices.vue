<script setup lang="ts">
import type { FoundDevice, SearchAnswer } from '~~/core/contract'
import { toldOf, wordsOf } from '~~/core/words'
import { ask } from '~/document/api'
import { useSite } from '~/document/site'
import { phrase } from '~/parts/phrase'

/** Devices that answer on the network or at addresses; one of them is taken into the rack. */
const emit = defineEmits<{ take: [found: FoundDevice] }>()
const site = useSite()
const range = ref('')
const searching = ref(false)
const found = shallowRef<FoundDevice[] | null>(null)
const wrong = ref<string | null>(null)
async function search() {
  searching.value = true
  wrong.value = null
  try {
    const body = { range: range.value.trim() || null }
    found.value = (await ask<SearchAnswer>('/api/devices/search', { method: 'POST', body })).found
  }
  catch (error) {
    found.value = null
    wrong.value = wordsOf(toldOf(error as Error))
  }
  finally { searching.value = false }
}
const isHere = ({ address }: FoundDevice) => site.devices.some(d => d.address === address)
/** 'Maker Model'; the maker once where the model begins with it. */
const modelOf = ({ maker, model }: FoundDevice) =>
  (model.startsWith(maker) ? model : `${maker} ${model}`)
const nameOf = ({ name, model }: FoundDevice) => name ?? model
const columns = [
  { id: 'name', name: phrase('common.name'), text: nameOf },
  { id: 'model', name: phrase('rig.model'), text: modelOf },
  { id: 'address', name: phrase('rig.address'), text: (d: FoundDevice) => d.address },
  { id: 'take', name: phrase('rig.add'), silent: true },
]
</script>

<template>
  <div class="search">
    <TextField
      v-model:value="range"
      :label="phrase('rig.searchWhere')"
      :placeholder="phrase('rig.searchHint')"
      :maxlength="100"
    />
    <ActionButton
      severity="secondary"
      icon="pi pi-search"
      :label="searching ? phrase('rig.searching') : phrase('rig.search')"
      :disabled="searching"
      @click="search"
    />
  </div>
  <p
    v-if="wrong"
    class="sentence warn"
    role="alert"
  >
    {{ wrong }}
  </p>
  <p
    v-else-if="found && !found.length"
    class="soft"
  >
    {{ phrase('rig.nobody') }}
  </p>
  <FigureTable
    v-else-if="found"
    :label="phrase('rig.answered')"
    :rows="found"
    :columns="columns"
    :row-key="d => d.address"
    :row-attributes="d => ({ 'data-found': d.address })"
  >
    <template #take="{ row: d }">
      <span
        v-if="isHere(d)"
        class="soft"
      >{{ phrase('rig.inRig') }}</span>
      <ActionButton
        v-else
        size="small"
        text
        :label="phrase('rig.add')"
        :aria-label="phrase('rig.take', { device: nameOf(d) })"
        @click="emit('take', d)"
      />
    </template>
  </FigureTable>
</template>

<style scoped>
.search {
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 0.6rem;
  align-items: end;
}
p {
  margin: 0;
}
</style>
