<script setup lang="ts">
import { freeNames, readKindFile, type Capability } from '~~/core/rig'
import { deviceKinds, type DeviceKindId } from '~~/core/rig/catalogue'
import type { FoundDevice } from '~~/core/contract'
import { useRig, type NewDevices } from '~/document/useRig'
import { useSite } from '~/document/site'
import { plainQuantity } from '~~/core/units'
import { toldOf, wordsOf } from '~~/core/words'
import { choicesOf } from '~/parts/choices'
import { phrase } from '~/parts/phrase'
import SearchDevices from './SearchDevices.vue'

/** Devices into the rack: so many of a kind, with nothing connected yet or at an address. */
const props = defineProps<{ open: boolean }>()
const emit = defineEmits<{ close: [] }>()
const site = useSite()
const rig = useRig()
const kind = ref<DeviceKindId>('processor-8x16')
const kinds = choicesOf(Object.keys(deviceKinds) as DeviceKindId[], id => phrase(deviceKinds[id].name))
/** A kind that was read from a file; it is meant until another one is chosen. */
const fromFile = shallowRef<Capability | null>(null)
const wrong = ref<string | null>(null)
async function readKind([file]: File[]) {
  wrong.value = null
  try {
    fromFile.value = readKindFile(await file!.text())
  }
  catch (error) { wrong.value = wordsOf(toldOf(error as Error)) }
}
const meant = computed(() => fromFile.value ?? deviceKinds[kind.value].capability)
const count = ref(1)
const name = ref('')
const address = ref('')
const adding = ref(false)
const usual = computed(() => fromFile.value?.model ?? phrase(deviceKinds[kind.value].name).split(',')[0]!)
watch(() => props.open, (open) => {
  if (!open) return
  name.value = address.value = ''
  count.value = 1
  fromFile.value = wrong.value = null
})
const names = computed(() =>
  freeNames(name.value.trim() || usual.value, count.value, site.devices.map(d => d.name)))
async function put(wish: NewDevices) {
  adding.value = true
  try {
    if (await rig.add(wish)) emit('close')
  }
  finally { adding.value = false }
}
const add = () =>
  put({ capability: meant.value, names: names.value, address: address.value.trim() })
/** One that answered is as it tells; who takes it has said by that that it may be connected to. */
async function take(found: FoundDevice) {
  const [own] = freeNames(found.name ?? found.model, 1, site.devices.map(d => d.name))
  await put({ capability: deviceKinds.other.capability, names: [own!], address: found.address })
  const made = site.devices.find(d => d.address === found.address)
  if (made) await site.confirmAddress(made.id)
}
</script>

<template>
  <ModalDialog
    :open="open"
    :title="phrase('rig.addDevices')"
    @close="emit('close')"
  >
    <div class="fields">
      <ChoiceField
        v-model:value="kind"
        :label="phrase('common.kind')"
        :options="kinds"
        @change="fromFile = null"
      />
      <div class="row">
        <FileField
          :label="phrase('rig.kindFromFile')"
          accept=".json,application/json"
          @pick="readKind"
        />
        <span v-if="fromFile">{{ phrase('rig.kindIs', {
          model: fromFile.model, inputs: fromFile.inputs.length, outputs: fromFile.outputs.length,
        }) }}</span>
      </div>
      <p
        v-if="wrong"
        class="sentence error"
        role="alert"
      >
        {{ wrong }}
      </p>
      <NumberField
        :label="phrase('rig.howMany')"
        :value="count"
        v-bind="plainQuantity('', 1, 0)"
        @change="count = Math.max(1, Math.min(64, Math.round($event)))"
      />
      <TextField
        v-model:value="name"
        :label="phrase('common.name')"
        :placeholder="usual"
        :maxlength="70"
      />
      <TextField
        v-model:value="address"
        :label="phrase('rig.address')"
        :placeholder="phrase('rig.notConnectedYet')"
        :maxlength="200"
      />
      <p class="soft small">
        {{ phrase('rig.willBe', { names: names.join(', ') }) }}
      </p>
      <SearchDevices @take="take" />
    </div>
    <div class="row end">
      <ActionButton
        :label="phrase('common.cancel')"
        severity="secondary"
        @click="emit('close')"
      />
      <ActionButton
        :label="phrase('rig.add')"
        :disabled="adding"
        @click="add"
      />
    </div>
  </ModalDialog>
</template>

<style scoped>
.fields {
  display: grid;
  gap: 0.6rem;
}
.end {
  justify-content: flex-end;
  margin-top: 0.8rem;
}
p {
  margin: 0;
}
</style>
