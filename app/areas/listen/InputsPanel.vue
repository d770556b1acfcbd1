<script setup lang="ts">
import { generatorTap, tapOf } from '~~/core/measure'
import { quantities } from '~~/core/units'
import type { ListedDevice } from '~/sound/inputs'

/** Every sound input and output in one place: named, labelled, hidden, metered. */
const inputs = useInputs()
const sets = useSets()
const computer = useComputerInputs()
const view = useView()
const listen = useListen()
const notices = useNotices()
onMounted(() => void computer.list().catch(() => {}))
const showHidden = ref(false)
const shown = (list: ListedDevice[]) => list.filter(i => showHidden.value || !i.device.hidden)
const hidden = computed(() => [...inputs.inputs, ...inputs.outputs].filter(i => i.device.hidden).length)
const used = computed(
  () =>
    new Map(
      sets.rows.flatMap(
        m =>
          [
            [m.reference, 'reference'],
            [m.microphone, 'microphone'],
          ] as const,
      ),
    ),
)
const text = (event: Event) => (event.target as HTMLInputElement).value.trim().slice(0, 60)
function state(i: ListedDevice) {
  if (i.simulated) return 'simulated, always there'
  return i.present ? 'plugged in' : 'not plugged in'
}
function clean() {
  const undoInputs = inputs.clean()
  const undoSets = sets.clean()
  void computer.list().catch(() => {})
  notices.say(
    'warn',
    'Inputs and sets are as on the first day: names, labels, corrections and calibrations are gone.',
    {
      name: 'Bring them back',
      run: () => {
        undoInputs()
        undoSets()
      },
    },
  )
}
</script>

<template>
  <section
    class="plate sheet"
    aria-label="Inputs and outputs"
  >
    <header class="row apart">
      <h2>Inputs and outputs</h2>
      <div class="row">
        <Button
          v-if="hidden"
          size="small"
          text
          :label="showHidden ? 'Leave out the hidden' : `Show the hidden (${hidden})`"
          @click="showHidden = !showHidden"
        />
        <Button
          size="small"
          text
          label="Start clean"
          title="Forget every name, label, correction and set"
          @click="clean"
        />
        <Button
          size="small"
          severity="secondary"
          label="Back to the charts"
          @click="view.inputs = false"
        />
      </div>
    </header>
    <p class="soft">
      Devices come and go while Kovrin runs and are known again. Name what you know by another name, label the
      channels, hide what you never use.
      {{ listen.running ? '' : 'Levels show on the picked channels while something is measured.' }}
    </p>
    <article
      v-for="i in shown(inputs.inputs)"
      :key="i.device.key"
      class="panel"
      :class="{ away: !i.present, hidden: i.device.hidden }"
      :data-input="i.device.key"
    >
      <div class="row head">
        <input
          class="text name"
          :value="i.device.name"
          :placeholder="i.device.label"
          :aria-label="`Name of ${i.device.label}`"
          @change="inputs.changeInput(i.device.key, { name: text($event) })"
        >
        <span class="soft small">{{
          state(i)
        }}{{ i.device.name ? `; the machine calls it ${i.device.label}` : '' }}</span>
        <Button
          size="small"
          text
          :label="i.device.hidden ? 'Show again' : 'Hide'"
          :aria-label="`${i.device.hidden ? 'Show again' : 'Hide'} ${inputs.nameOf(i.device)}`"
          @click="inputs.changeInput(i.device.key, { hidden: !i.device.hidden })"
        />
      </div>
      <table
        v-if="!i.device.hidden"
        class="plain"
      >
        <thead>
          <tr>
            <th>Channel</th>
            <th>Label</th>
            <th v-if="i.simulated">
              Gain
            </th>
            <th>Used as</th>
            <th>Level</th>
          </tr>
        </thead>
        <tbody>
          <tr
            v-for="(c, n) in i.device.channels"
            :key="n"
          >
            <td class="num">
              {{ n + 1 }}
            </td>
            <td>
              <TextField
                :value="c.name"
                placeholder="no label"
                :label="`Label of channel ${n + 1} of ${i.device.label}`"
                :maxlength="60"
                @change="inputs.changeChannel(tapOf(i.device.key, n), { name: $event.trim() })"
              />
            </td>
            <td
              v-if="i.simulated"
              class="gain"
            >
              <NumberField
                :label="`Gain of channel ${n + 1} of ${i.device.label}`"
                compact
                :value="c.gain"
                v-bind="quantities.level"
                @change="
                  inputs.changeChannel(tapOf(i.device.key, n), { gain: Math.max(-60, Math.min(60, $event)) })
                "
              />
            </td>
            <td>
              {{ used.get(tapOf(i.device.key, n)) ?? '' }}{{ c.correction ? ', corrected' : ''
              }}{{ c.calibration ? ', calibrated' : '' }}
            </td>
            <td class="level">
              <LevelMeter
                v-if="used.has(tapOf(i.device.key, n))"
                bare
                :name="`${inputs.labelOf(tapOf(i.device.key, n), true)}, as listed,`"
                :tap="tapOf(i.device.key, n)"
              /><span
                v-else
                class="soft small"
              >not picked</span>
            </td>
          </tr>
        </tbody>
      </table>
    </article>
    <article class="panel">
      <div class="row head">
        <b>{{ inputs.labelOf(generatorTap) }}</b>
        <span class="soft small">a reference inside the machine, for inputs without a loopback</span>
      </div>
    </article>
    <h2>Outputs</h2>
    <p
      v-if="!inputs.outputs.length"
      class="soft"
    >
      The browser names this computer’s outputs once it may use a microphone: press Listen on the computer’s inputs.
    </p>
    <article
      v-for="o in shown(inputs.outputs)"
      :key="o.device.key"
      class="panel"
      :class="{ away: !o.present, hidden: o.device.hidden }"
    >
      <div class="row head">
        <input
          class="text name"
          :value="o.device.name"
          :placeholder="o.device.label"
          :aria-label="`Name of output ${o.device.label}`"
          @change="inputs.changeOutput(o.device.key, { name: text($event) })"
        >
        <span class="soft small">{{
          state(o)
        }}{{ computer.output === o.device.key ? ', the noise plays here' : '' }}</span>
        <Button
          size="small"
          text
          :label="o.device.hidden ? 'Show again' : 'Hide'"
          :aria-label="`${o.device.hidden ? 'Show again' : 'Hide'} output ${inputs.nameOf(o.device)}`"
          @click="inputs.changeOutput(o.device.key, { hidden: !o.device.hidden })"
        />
      </div>
    </article>
  </section>
</template>

<style scoped>
article {
  padding: 0.5rem 0.8rem;
  display: grid;
  gap: 0.4rem;
}
article.away,
article.hidden {
  opacity: 0.75;
}
.head {
  min-height: 34px;
}
.head > .soft {
  flex: 1;
}
.name {
  width: 260px;
  font-weight: 650;
}
.gain {
  width: 124px;
}
.level {
  width: 190px;
}
th {
  white-space: nowrap;
}
table.plain td {
  vertical-align: middle;
  padding-block: 0.2rem;
}
table.plain .text {
  min-width: 150px;
}
p {
  margin: 0;
  max-width: 70ch;
}
</style>
