<script setup lang="ts">
import { departures, followed, groupsOf, heardThrough, leftAside } from '~~/core/documents'
import { useView, type PickedStrip } from '~/document/view'
import { useSheets } from '~/document/useSheets'
import { steady } from '~/document/steady'
import { useSite } from '~/document/site'
import { phrase } from '~/parts/phrase'

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
    label: `${s.bands.length > 1 ? `${b.name}: ` : ''}${s.name}${b.needs ? '' : phrase('shape.nothingSet')}`,
  })))
  return [{ value: '', label: phrase('shape.noneOwnSettings') }, ...named]
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
      :label="phrase('shape.loudspeakerSheet')"
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
          ? phrase('shape.notAsTheSheet', {
            groups: groups.length ? phrase('shape.orItsGroupsSay') : phrase('shape.says'),
            apart: apart.join(', '),
          })
          : phrase('shape.asTheGainDelay', { says: follower ? phrase('shape.sheetSays') : phrase('shape.groupsSay') })
      }}
      <template v-if="groups.length">
        {{ phrase('shape.in', { groups: groups.map(g => g.name).join(', ') }) }}
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
        :label="phrase('shape.restoreFromSheet')"
        @click="sheets.putBack(output)"
      />
      <ActionButton
        v-if="follower"
        size="small"
        severity="secondary"
        :label="phrase('shape.detach')"
        :title="phrase('shape.itsSettingsStayEdits')"
        @click="sheets.detach(output)"
      />
      <ActionButton
        size="small"
        text
        :label="follower ? phrase('shape.openTheSheet') : phrase('shape.allSheets')"
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
