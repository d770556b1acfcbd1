<script setup lang="ts">
import type { PresetAnswer } from '~~/core/contract'
import {
  compareSettings, parameterName, showParameter, type ComparedSetting, type Housekeeping, type PresetSlot,
} from '~~/core/rig'
import type { Device } from '~~/core/documents'
import { ask } from '~/document/api'
import { useSite } from '~/document/site'
import { useNotices } from '~/parts/notices'
import { phrase } from '~/parts/phrase'

/** Presets that a device keeps: what is in its places, and what a recall would change. */
const props = defineProps<{ device: Device, state: Housekeeping, connected: boolean }>()
const site = useSite()
const notices = useNotices()
const used = computed(() => props.state.presets.filter(p => !p.isEmpty))
const free = computed(() => props.state.presets.filter(p => p.isEmpty && !p.isProtected))
const places = computed(() => props.state.presets.filter(p => !p.isProtected).map(p => ({
  value: p.slot,
  label: p.isEmpty ? String(p.slot) : phrase('rig.placeOf', { slot: p.slot, name: p.name }),
})))
const place = ref<number | null>(null)
const at = computed(() => place.value ?? free.value[0]?.slot ?? places.value[0]?.value ?? 0)
const name = ref('')
const asked = shallowRef<{ act: 'store' | 'clear', preset: PresetSlot } | null>(null)
async function store() {
  const act = { act: 'store', slot: at.value, name: name.value.trim() } as const
  asked.value = null
  if (await site.act(props.device.id, act)) [name.value, place.value] = ['', null]
}
function storeOrAsk() {
  const preset = used.value.find(p => p.slot === at.value)
  if (preset) asked.value = { act: 'store', preset }
  else void store()
}
async function clear({ slot }: PresetSlot) {
  asked.value = null
  await site.act(props.device.id, { act: 'clear', slot })
}

/** What the recall of a preset would change; null: the device does not tell it. */
const recall = shallowRef<{ preset: PresetSlot, changes: ComparedSetting[] | null } | null>(null)
async function look(preset: PresetSlot) {
  const { id, capability } = props.device
  try {
    const { settings } = await ask<PresetAnswer>(site.path(`/devices/${id}/presets/${preset.slot}`))
    const changes = settings
      && compareSettings(capability, site.held(id) ?? {}, settings).flatMap(c => c.settings)
    recall.value = { preset, changes }
  }
  catch (error) { notices.fail(error) }
}
async function recallIt() {
  const { preset: { slot }, changes } = recall.value!
  recall.value = null
  await site.act(props.device.id, { act: 'recall', slot }, changes === null)
}
const shown = (path: string, value: unknown) => showParameter(props.device.capability, path, value)
const columns = [
  { id: 'place', name: phrase('rig.place'), width: '64px' },
  { id: 'name', name: phrase('common.name') },
  { id: 'acts', name: phrase('rig.recall'), silent: true, width: '200px' },
]
const changeColumns = [
  {
    id: 'setting', name: phrase('rig.settingColumn'),
    text: (c: ComparedSetting) => parameterName(props.device.capability, c.path),
  },
  { id: 'now', name: phrase('rig.now'), text: (c: ComparedSetting) => shown(c.path, c.from) },
  { id: 'then', name: phrase('rig.then') },
]
</script>

<template>
  <section data-testid="presets">
    <h2>{{ phrase('rig.presetsInIt') }}</h2>
    <FigureTable
      :label="phrase('rig.presetsInIt')"
      :rows="used"
      :columns="columns"
      :row-key="p => p.slot"
      :row-attributes="p => ({ 'data-preset': p.slot })"
    >
      <template #place="{ row: p }">
        {{ p.slot }}
      </template>
      <template #name="{ row: p }">
        <span v-if="p.isProtected || !connected">{{ p.name }}</span>
        <TextField
          v-else
          layout="bare"
          :label="phrase('rig.nameOfPreset', { slot: p.slot })"
          :value="p.name"
          :maxlength="40"
          @change="site.act(device.id, { act: 'rename', slot: p.slot, name: $event })"
        />
        <span
          v-if="p.slot === state.recalled"
          class="soft small mark"
        >{{ phrase('rig.recalledLast') }}</span>
        <span
          v-if="p.isProtected"
          class="soft small mark"
        >{{ phrase('rig.makersOwn') }}</span>
      </template>
      <template #acts="{ row: p }">
        <ActionButton
          size="small"
          severity="secondary"
          :label="phrase('rig.recallAsk')"
          :aria-label="phrase('rig.recallOf', { name: p.name })"
          :disabled="!connected"
          @click="look(p)"
        />
        <ActionButton
          v-if="!p.isProtected"
          size="small"
          text
          severity="secondary"
          :label="phrase('common.remove')"
          :aria-label="phrase('rig.removePreset', { name: p.name })"
          :disabled="!connected"
          @click="asked = { act: 'clear', preset: p }"
        />
      </template>
    </FigureTable>
    <div class="row keep">
      <TextField
        v-model:value="name"
        :label="phrase('rig.keepAs')"
        :maxlength="40"
      />
      <ChoiceField
        :label="phrase('rig.place')"
        :value="at"
        :options="places"
        @change="place = $event"
      />
      <ActionButton
        :label="phrase('rig.keepPreset')"
        :disabled="!connected || !name.trim() || !at"
        @click="storeOrAsk"
      />
    </div>
    <AskDialog
      :open="asked !== null"
      :title="asked?.act === 'clear'
        ? phrase('rig.removeIt', { device: asked.preset.name })
        : phrase('rig.overwrite', { name: asked?.preset.name ?? '' })"
      :yes="asked?.act === 'clear' ? phrase('common.remove') : phrase('rig.keepPreset')"
      @yes="asked?.act === 'clear' ? clear(asked.preset) : store()"
      @close="asked = null"
    >
      <p>{{ phrase('rig.goesForGood') }}</p>
    </AskDialog>
    <ModalDialog
      :open="recall !== null"
      :title="phrase('rig.recallIn', { name: recall?.preset.name ?? '', device: device.name })"
      width="44rem"
      @close="recall = null"
    >
      <p v-if="recall?.changes === null">
        {{ phrase('rig.recallUnknown') }}
      </p>
      <p v-else-if="!recall?.changes.length">
        {{ phrase('rig.recallNothing') }}
      </p>
      <FigureTable
        v-else
        :label="phrase('rig.recallChanges', { count: recall.changes.length })"
        :caption="phrase('rig.recallChanges', { count: recall.changes.length })"
        :rows="recall.changes"
        :columns="changeColumns"
        :row-key="c => c.path"
      >
        <template #then="{ row: c }">
          <b>{{ shown(c.path, c.to) }}</b>
          <span
            v-if="c.isLouder"
            class="louder"
          >{{ phrase('rig.louder') }}</span>
        </template>
      </FigureTable>
      <template #footer>
        <ActionButton
          severity="secondary"
          :label="phrase('common.cancel')"
          autofocus
          @click="recall = null"
        />
        <ActionButton
          :label="phrase('rig.recall')"
          @click="recallIt"
        />
      </template>
    </ModalDialog>
  </section>
</template>

<style scoped>
.mark {
  margin-left: 0.6rem;
}
.keep {
  align-items: end;
  margin-top: 0.5rem;
}
.keep > * {
  width: 200px;
}
.keep > :last-child {
  width: auto;
}
.louder {
  color: var(--warn);
  margin-left: 0.5rem;
  font-size: 0.86rem;
}
</style>
