<script setup lang="ts">
import { message } from '~~/core/words'
import { tapOf } from '~~/core/measure'
import { useSite } from '~/document/site'
import { useView } from '~/document/view'
import { useNotices } from '~/parts/notices'
import { useInputs } from '~/sound/inputs'
import { useListen } from '~/sound/listen'
import { useSets } from '~/sound/sets'
import LevelMeter from './LevelMeter.vue'
import MeasurementRow from './MeasurementRow.vue'
import { phrase } from '~/parts/phrase'

/** The measurements that run together: the set in use, each of its rows, and the references' levels. */
const sets = useSets()
const inputs = useInputs()
const listen = useListen()
const notices = useNotices()
const site = useSite()
const view = useView()
const opened = ref<string | null>(!sets.facts.walks ? (sets.front?.id ?? sets.rows[0]?.id ?? null) : null)
watch(
  () => sets.input,
  () => {
    opened.value = sets.facts.walks ? null : (sets.rows[0]?.id ?? null)
  },
)
const naming = ref<'new' | 'rename' | null>(null)
function named(text: string) {
  const given = text.trim().slice(0, 60)
  if (!given) return
  if (naming.value === 'new') sets.addSet(given)
  else sets.rename(given)
}
function removeSet() {
  const { name } = sets.current
  const bringBack = sets.removeSet()
  if (bringBack) notices.say('warn', message('set.deleted', { name }), {
    act: { name: phrase('common.restore'), run: bringBack },
  })
}
/** The next channel that is not measured yet, at the next position that has no microphone. */
function add() {
  const used = new Set(sets.rows.flatMap(m => [m.microphone, m.reference]))
  const first = sets.rows[0]
  const free = inputs.inputs
    .filter(i => i.present && !i.device.hidden && i.simulated === sets.facts.simulated)
    .flatMap(i => i.device.channels.map((_, n) => tapOf(i.device.key, n)))
    .find(t => !used.has(t))
  if (!free) return notices.say('warn', message('set.allMeasured'))
  const position = site.positions.find(p => !sets.rows.some(m => sets.placeOf(m)?.id === p.id))
  sets.add(free, first?.reference ?? 'generator', position?.id ?? null)
  opened.value = sets.rows.at(-1)!.id
}
const references = computed(() => [...new Set(sets.able.map(m => m.reference))])
const anyOn = computed(() => sets.able.some(m => m.state === 'on'))
</script>

<template>
  <div
    class="section"
    data-testid="measurements"
  >
    <div class="row apart">
      <h2>{{ phrase('listen.measurements') }}</h2>
      <button
        v-if="listen.running && sets.able.length > 1"
        class="plain all"
        @click="sets.all(anyOn ? 'paused' : 'on')"
      >
        {{ anyOn ? phrase('listen.pauseAll') : phrase('listen.resumeAll') }}
      </button>
    </div>
    <TextField
      v-if="naming"
      :label="phrase('common.name')"
      layout="bare"
      :value="naming === 'rename' ? sets.current.name : ''"
      :name="naming === 'new' ? phrase('listen.nameOfTheNew') : phrase('listen.nameOfThisSet')"
      :placeholder="naming === 'new' ? phrase('listen.stageLipForInstance') : ''"
      :maxlength="60"
      autofocus
      @change="named"
      @leave="naming = null"
    />
    <div
      v-else
      class="row"
    >
      <ChoiceField
        class="grow"
        :label="phrase('listen.setOfMeasurements')"
        layout="bare"
        :value="sets.current.id"
        :options="sets.kept.sets.map(s => ({ value: s.id, label: s.name }))"
        @change="sets.choose"
      />
      <button
        class="plain tool"
        :aria-label="phrase('listen.renameThisSet')"
        :title="phrase('listen.renameThisSet')"
        @click="naming = 'rename'"
      >
        <i class="pi pi-pencil" />
      </button>
      <button
        class="plain tool"
        :aria-label="phrase('listen.newSetFromThis')"
        :title="phrase('listen.newSetFromThis')"
        @click="naming = 'new'"
      >
        <i class="pi pi-clone" />
      </button>
      <button
        v-if="sets.kept.sets.length > 1"
        class="plain tool"
        :aria-label="phrase('listen.deleteThisSet')"
        :title="phrase('listen.deleteThisSet')"
        @click="removeSet"
      >
        <i class="pi pi-trash" />
      </button>
    </div>
    <ul>
      <MeasurementRow
        v-for="m in sets.rows"
        :key="m.id"
        :row="m"
        :opened="opened === m.id"
        @open="opened = opened === m.id ? null : m.id"
      />
    </ul>
    <LevelMeter
      v-for="tap in references"
      :key="tap"
      :name="phrase('listen.reference', { label: inputs.labelOf(tap) })"
      :tap="tap"
    />
    <div class="row apart">
      <button
        class="plain link"
        @click="add"
      >
        {{ phrase('listen.measurement') }}
      </button><button
        class="plain link"
        data-testid="inputs"
        @click="view.plate = view.plate === 'inputs' ? null : 'inputs'"
      >
        {{ view.plate === 'inputs' ? phrase('common.charts') : phrase('listen.inputsAndOutputs2') }}
      </button>
    </div>
  </div>
</template>

<style scoped>
.grow {
  flex: 1;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 0.3rem;
}
.tool {
  min-width: 28px;
  min-height: 28px;
  text-align: center;
  color: var(--ink-soft);
}
.link,
.all {
  color: var(--accent);
  min-height: 26px;
}
@media (pointer: coarse) {
  .tool,
  .link,
  .all {
    min-width: 44px;
    min-height: 44px;
  }
}
</style>
