<script setup lang="ts">
import { message } from '~~/core/words'
import {
  heardThrough, nextOrder, noLayer, noNeeds, sheetRows, type Group, type Layer, type SheetBand,
} from '~~/core/documents'
import { endpointKey, sameEndpoint, type Endpoint } from '~~/core/rig'
import { quantities } from '~~/core/units'
import { useSheets } from '~/document/useSheets'
import { useSite } from '~/document/site'
import { useNotices } from '~/parts/notices'
import { phrase } from '~/parts/phrase'

/** Groups of outputs: what is added to all of them alike, besides what each has of its own. */
const site = useSite()
const sheets = useSheets()
const notices = useNotices()
/** The group whose outputs are being picked. */
const open = ref<string | null>(null)
/** Outputs by which something is heard. */
const outputs = computed<Endpoint[]>(() => site.devices.flatMap(d =>
  d.capability.outputs
    .map((_, channel) => ({ device: d.id, channel }))
    .filter(o => heardThrough(site.documents, o).length)))
const set = (group: Group, layer: Partial<Layer>) =>
  void sheets.saveGroup({ ...group, layer: { ...group.layer, ...layer } })
const has = (group: Group, output: Endpoint) => group.members.some(m => sameEndpoint(m, output))
function turn(group: Group, output: Endpoint) {
  const members = has(group, output)
    ? group.members.filter(m => !sameEndpoint(m, output))
    : [...group.members, output]
  void sheets.saveGroup({ ...group, members })
}
async function add() {
  let n = site.groups.length + 1
  while (site.groups.some(g => g.id === `group-${n}`)) n++
  const made: Group
    = { id: `group-${n}`, name: phrase('shape.group', {
      n,
    }), order: nextOrder(site.groups), members: [], layer: noLayer }
  if (await sheets.saveGroup(made)) open.value = made.id
}
// filters are typed as in a sheet: its rows read and show them
const rowAt = (n: number) => sheetRows.find(r => r.id === `eq-${n + 1}`)!
const asBand = (layer: Layer) => ({ needs: { ...noNeeds, ...layer } }) as SheetBand
const shown = (group: Group, n: number) => rowAt(n).show(asBand(group.layer))
const read = (group: Group, n: number, text: string) => rowAt(n).read(asBand(group.layer), text, 'q').needs!.eq
function check(group: Group, n: number, text: string): string | null {
  try {
    read(group, n, text)
    return null
  }
  catch (error) { return (error as Error).message }
}
async function remove(group: Group) {
  if (!(await sheets.removeGroup(group.id))) return
  const act = { name: phrase('common.undo'), run: () => void site.undo() }
  const from = phrase('shape.output', { members: group.members.length })
  notices.say('info', message('group.gone', { group: group.name, outputs: from }), { act })
}
</script>

<template>
  <div
    class="groups"
    data-testid="groups"
  >
    <p class="small soft">
      {{ phrase('shape.aGroupAddsTo') }}
    </p>
    <fieldset
      v-for="g in site.groups"
      :key="g.id"
    >
      <TextField
        :label="phrase('shape.group2')"
        :value="g.name"
        :maxlength="80"
        @change="sheets.saveGroup({ ...g, name: $event })"
      />
      <div class="two">
        <NumberField
          :label="phrase('shape.gain2', { name: g.name })"
          :value="g.layer.gain"
          v-bind="quantities.level"
          @change="set(g, { gain: $event })"
        />
        <NumberField
          :label="phrase('shape.delay', { name: g.name })"
          :value="g.layer.delay"
          v-bind="quantities.delay"
          @change="set(g, { delay: $event })"
        />
      </div>
      <CheckField
        :label="phrase('common.polarityInverted')"
        :value="g.layer.polarity === 'inverted'"
        @change="set(g, { polarity: $event ? 'inverted' : 'normal' })"
      />
      <TextField
        v-for="n in g.layer.eq.length + 1"
        :key="n"
        layout="beside"
        :label="phrase('shape.filter', { n })"
        :name="phrase('shape.filter2', { name: g.name, n })"
        placeholder="160 -3 1.4"
        :value="shown(g, n - 1)"
        :check="text => check(g, n - 1, text)"
        @change="set(g, { eq: read(g, n - 1, $event) })"
      />
      <div class="row apart">
        <ActionButton
          size="small"
          text
          :label="`${g.members.length} ${g.members.length === 1 ? phrase('shape.output2') : phrase('shape.outputs')}`"
          :aria-expanded="open === g.id"
          @click="open = open === g.id ? null : g.id"
        />
        <ActionButton
          size="small"
          text
          :label="phrase('shape.removeTheGroup')"
          @click="remove(g)"
        />
      </div>
      <template v-if="open === g.id">
        <CheckField
          v-for="o in outputs"
          :key="endpointKey(o)"
          :label="sheets.outputName(o)"
          :value="has(g, o)"
          @change="turn(g, o)"
        />
      </template>
    </fieldset>
    <ActionButton
      size="small"
      severity="secondary"
      :label="phrase('shape.newGroup')"
      @click="add"
    />
  </div>
</template>

<style scoped>
.groups {
  display: grid;
  gap: 0.5rem;
}
fieldset {
  border: 1px solid var(--rule);
  border-radius: 3px;
  padding: 0.5rem;
  margin: 0;
  display: grid;
  gap: 0.4rem;
  min-width: 0;
}
.two {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 0.5rem;
}
p {
  margin: 0;
}
</style>
