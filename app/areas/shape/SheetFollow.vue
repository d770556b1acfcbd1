<script setup lang="ts">
import { departures, followed, groupsOf, heardThrough, leftAside } from '~~/core/documents'
import { useView, type PickedStrip } from '~/document/view'
import { useSheets } from '~/document/useSheets'
import { steady } from '~/document/steady'
import { useSite } from '~/document/site'

/** Which loudspeaker sheet the output follows, and whether it still is as the sheet says. */
const props = defineProps<{ strip: PickedStrip }>()
const site = useSite()
const view = useView()
const sheets = useSheets()
const output = computed(() => {
  const outputs = site.deviceOf(props.strip.device)?.capability.outputs ?? []
  const channel = outputs.findIndex(o => o.strip === props.strip.strip)
  return channel < 0 ? null : { device: props.strip.device, channel }
})
const follower = computed(() => output.value && followed(site.documents, output.value))
const sheet = computed(() => (follower.value ? site.sheetOf(follower.value.sheet) : undefined))
const band = computed(() => sheet.value?.bands.find(b => b.id === follower.value?.band))
const apart = computed(() => (output.value && over.value ? departures(site.documents, output.value) : []))
const groups = computed(() => (output.value ? groupsOf(site.documents, output.value) : []))
const over = computed(() => follower.value !== null || groups.value.length > 0)
const aside = computed(() => (output.value && band.value?.needs
  ? leftAside(site.documents, output.value, band.value.needs)
  : []))
const driven = computed(() => (output.value ? heardThrough(site.documents, output.value) : []))
/** What it drives stands first. */
const choices = steady(() => {
  const first = (id: string) => driven.value.some(d => d.sheet.id === id)
  const all = [...site.sheets].sort((a, b) => Number(first(b.id)) - Number(first(a.id)))
  const named = all.flatMap(s => s.bands.map(b => ({
    value: `${s.id} ${b.id}`,
    label: `${s.bands.length > 1 ? `${b.name}: ` : ''}${s.name}${b.needs ? '' : ' (nothing set)'}`,
  })))
  return [{ value: '', label: 'none: own settings' }, ...named]
})
function choose(value: string) {
  if (!output.value) return
  if (!value) return void sheets.detach(output.value)
  const [id, key] = value.split(' ') as [string, string]
  void sheets.attach(output.value, { sheet: id, band: key })
}
</script>

<template>
  <div
    v-if="output"
    class="follow"
    data-testid="follow"
  >
    <ChoiceField
      label="Loudspeaker sheet"
      :value="follower ? `${follower.sheet} ${follower.band}` : ''"
      :options="choices"
      @change="choose"
    />
    <p
      v-if="over"
      class="small"
      :class="apart.length ? 'warn' : 'soft'"
      data-testid="departures"
    >
      {{
        apart.length
          ? `Not as the sheet${groups.length ? ' or its groups say' : ' says'}: ${apart.join(', ')}.`
          : `As the ${follower ? 'sheet says' : 'groups say'}; gain, delay and polarity of its own are added.`
      }}
      <template v-if="groups.length">
        In {{ groups.map(g => g.name).join(', ') }}.
      </template>
    </p>
    <p
      v-for="a in aside"
      :key="a"
      class="small warn"
    >
      {{ a }}
    </p>
    <div class="row">
      <ActionButton
        v-if="apart.length"
        size="small"
        severity="secondary"
        label="Restore from sheet"
        @click="sheets.putBack(output)"
      />
      <ActionButton
        v-if="follower"
        size="small"
        severity="secondary"
        label="Detach"
        title="Its settings stay; edits of the sheet no longer reach this output"
        @click="sheets.detach(output)"
      />
      <ActionButton
        size="small"
        text
        :label="follower ? 'Open the sheet' : 'All sheets'"
        @click="view.openSheet(follower?.sheet ?? driven[0]?.sheet.id ?? site.sheets[0]?.id ?? '')"
      />
    </div>
  </div>
</template>

<style scoped>
.follow {
  display: grid;
  gap: 0.3rem;
}
p {
  margin: 0;
}
.warn {
  color: var(--warn);
}
</style>
